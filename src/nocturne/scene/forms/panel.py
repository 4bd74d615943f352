"""An upright panel: a card that reflects light, or holds it back."""

from typing import ClassVar, Literal

from nocturne.scene.forms.form import Form, length
from nocturne.scene.shapes import Mesh
from nocturne.scene.solids import rounded_box


class Panel(Form):
    """A thin upright board, as wide along x; it faces minus y."""

    title: ClassVar[str] = "Panel"
    own: ClassVar[tuple[str, ...]] = ("width", "height", "thickness")

    kind: Literal["panel"] = "panel"
    width: float = length(1.2, "Width", "Along x.")
    height: float = length(1.8, "Height", "Along z.")
    thickness: float = length(0.01, "Thickness", "Along y.")

    def build(self) -> Mesh:
        """Return a box with barely rounded edges."""
        least = min(self.width, self.height, self.thickness)
        return rounded_box((self.width, self.thickness, self.height), min(0.001, 0.2 * least), steps=2)

"""A cutaway: a box, a ball or a half-space in which chosen things are not there; their geometry stays as it is."""

from typing import Literal

from nocturne.scene.fields import Model, described


class Cutaway(Model):
    """What is cut, by which shape; the shape stands about the origin of the cutaway's own space."""

    of: tuple[str, ...] = ()
    kind: Literal["box", "ball", "plane"] = described(
        "box",
        "Cut by",
        "A box, a ball, or all above a plane.",
        kind="choice",
        choices=(("box", "A box"), ("ball", "A ball"), ("plane", "A plane")),
    )
    width: float = described(1.0, "Width", "Of the box.", unit="m", low=1e-6, high=1e6, soft_high=10, log=True)
    depth: float = described(1.0, "Depth", "Of the box.", unit="m", low=1e-6, high=1e6, soft_high=10, log=True)
    height: float = described(1.0, "Height", "Of the box.", unit="m", low=1e-6, high=1e6, soft_high=10, log=True)
    radius: float = described(0.5, "Radius", "Of the ball.", unit="m", low=1e-6, high=1e6, soft_high=10, log=True)
    closed: bool = described(
        True,
        "Cut faces",
        "On: solids show a face where they are cut. Off: one looks in between their sides.",
        kind="switch",
    )

    @property
    def half_size(self) -> tuple[float, float, float]:
        """Return half of the lengths of the box around the shape, metres; of a plane, how large it is drawn."""
        if self.kind == "box":
            return self.width / 2, self.depth / 2, self.height / 2
        return (self.radius,) * 3 if self.kind == "ball" else (self.width / 2, self.depth / 2, 0.0)

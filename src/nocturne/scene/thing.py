"""Things of the set."""

from typing import Literal

from nocturne.scene.cutaway import Cutaway
from nocturne.scene.fields import Model, Vector, described, rounding_angle_field, rounding_field
from nocturne.scene.forms import AnyForm
from nocturne.scene.scatter import Scatter


class FaceMaterial(Model):
    """What some faces of a thing are made of: a set that its mesh names, or runs of triangles chosen here.

    runs: first triangle and how many, one pair after another.
    """

    set: str = ""
    runs: tuple[int, ...] = ()
    material: str = ""


class Thing(Model):
    """A placed mesh, or a group of things if it has none; turned about x, then y, then z.

    mesh: the part of a model's file that is its shape; form: the shape that is made here instead; scatter: what
    copies it draws; cutaway: what it takes away of others.
    """

    id: str
    name: str = described("Thing", "Name", kind="text")
    parent: str = ""
    mesh: str = described("", "Mesh", kind="hidden", holds="model")
    form: AnyForm | None = None
    scatter: Scatter | None = None
    cutaway: Cutaway | None = None
    material: str = described("", "Material", "What it is made of.", kind="material")
    faces: tuple[FaceMaterial, ...] = ()
    place: Vector = described((0.0, 0.0, 0.0), "Place", "Of its pivot, in its group.", kind="lengths", unit="m")
    turn_deg: Vector = described((0.0, 0.0, 0.0), "Turn", "About x, then y, then z.", kind="angles", unit="°")
    pivot: Vector = described(
        (0.0, 0.0, 0.0), "Pivot", "What stands at its place; it turns and grows about it.", kind="lengths", unit="m"
    )
    size: Vector = described((1.0, 1.0, 1.0), "Size", "Factor along x, y and z.", kind="vector", unit="×")
    visible: bool = described(True, "Shown", "Hidden things are left out of the picture.", kind="switch")
    locked: bool = described(False, "Locked", "It cannot be chosen in the picture, moved or removed.", kind="switch")
    smoothing: Literal["own", "angle", "flat", "smooth"] = described(
        "own",
        "Smoothing",
        "As its model says, smooth up to an edge angle, flat, or smooth all over.",
        kind="choice",
        choices=(("own", "As it came"), ("angle", "By angle"), ("flat", "Flat"), ("smooth", "Smooth")),
    )
    turned_over: bool = described(
        False,
        "Turned over",
        "Its faces look to the other side: what shone or was outside is inside now.",
        kind="switch",
    )
    edge_deg: float = described(
        35.0, "Edge angle", "Edges that turn by more than this stay hard.", unit="°", low=0, high=180
    )
    rounding_mm: float = rounding_field(
        "Radius that its hard edges are shaded with, whatever its material says; 0: as the material says."
    )
    rounding_angle_deg: float = rounding_angle_field()
    uv_size: float = described(
        1.0,
        "Size",
        "How large pictures are on this thing, as a factor, whatever its material says.",
        unit="×",
        low=1e-4,
        high=1e4,
        soft_high=10,
        log=True,
    )
    uv_turn_deg: float = described(0.0, "Turn", "Turns the pictures on this thing.", unit="°", low=-360, high=360)
    uv_shift: tuple[float, float] = described((0.0, 0.0), "Move", "Moves the pictures on this thing.", kind="vector")
    weld_m: float = described(
        0.0,
        "Weld within",
        "Vertices this near each other count as one, so that a split surface shades as a whole.",
        unit="m",
        low=0,
        high=1,
        soft_high=0.01,
    )

    @property
    def uv_placing(self) -> tuple[float, float, tuple[float, float]]:
        """Return how pictures lie on it: size, turn in degrees, shift; see `scene.texturing`."""
        return self.uv_size, self.uv_turn_deg, self.uv_shift

    @property
    def has_shape(self) -> bool:
        """Return False for a group, a scatter or a cutaway."""
        return bool(self.mesh) or self.form is not None

    @property
    def is_group(self) -> bool:
        """Return True if it is nothing but a group."""
        return not self.has_shape and self.scatter is None and self.cutaway is None

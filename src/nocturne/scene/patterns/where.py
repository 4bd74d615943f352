"""Where and what: gradients, place, the way a surface faces, and random numbers of things and copies."""

from typing import Any, ClassVar, Literal

import numpy as np

from nocturne.scene.fields import Vector, described
from nocturne.scene.patterns.hashing import hashed
from nocturne.scene.patterns.noises import grey
from nocturne.scene.patterns.step import Step, Where, lies_by

PART = 7919  # between the seeds of a mesh's parts


class _Where(Step):
    family: ClassVar[str] = "Where and what"


def _share(low: Any, high: Any, x: np.ndarray) -> np.ndarray:
    """Return how far x is on the way from low to high, 0..1."""
    low, high = np.asarray(low, float), np.asarray(high, float)
    way = high - low
    return np.clip((x - low) / np.where(np.abs(way) < 1e-9, 1e-9, way), 0, 1)


class Gradient(_Where):
    """From dark to light along a way, around a middle, or out from it."""

    title: ClassVar[str] = "Gradient"
    about: ClassVar[str] = "From dark to light along a way, out from a middle, or around it."

    kind: Literal["ramplr"] = "ramplr"
    style: Literal["line", "there", "out", "around"] = described(
        "line",
        "Runs",
        "Along; along and back; out from the origin; around it.",
        kind="choice",
        choices=(("line", "Along"), ("there", "Along and back"), ("out", "Outwards"), ("around", "Around")),
    )
    length: float = described(
        1.0, "Length", "How long the way is.", unit="m", low=1e-6, high=1e6, soft_high=10, log=True
    )

    @property
    def extent(self) -> float:
        """Return the whole way."""
        return self.length

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) grey, 0..1."""
        p = q / np.maximum(np.asarray(f.length, float), 1e-9)[..., None]
        if f.style == 0:
            return grey(np.clip(p[..., 0], 0, 1))
        if f.style == 1:
            return grey(np.clip(1 - np.abs(2 * p[..., 0] - 1), 0, 1))
        if f.style == 2:
            return grey(np.clip(np.linalg.norm(p, axis=-1), 0, 1))
        return grey(np.mod(np.arctan2(p[..., 1], p[..., 0]) / (2 * np.pi), 1))


class Facing(_Where):
    """How a surface faces the viewer."""

    title: ClassVar[str] = "Facing"
    about: ClassVar[str] = "1 where it faces who looks, 0 at the rim."
    is_placed: ClassVar[bool] = False

    kind: Literal["facing"] = "facing"
    power: float = described(1.0, "Falloff", "Above 1 the middle narrows.", low=0.05, high=20, soft_high=5)

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) the cosine to the viewer, to a power."""
        c = np.clip((spot.normal * spot.viewer).sum(-1), 0, 1)
        return grey(c ** np.maximum(np.asarray(f.power, float), 1e-3))


class Position(_Where):
    """How far along an axis a place is: of the set, its height over the floor."""

    title: ClassVar[str] = "Height or place"
    about: ClassVar[str] = "The height over the floor, or the place along another axis."

    kind: Literal["position"] = "position"
    where: Where = lies_by("solid")
    anchor: Literal["thing", "set"] = described(
        "set",
        "Held by",
        "The thing: it goes along when the thing moves. The set: it stays, and runs on from thing to thing.",
        kind="choice",
        choices=(("thing", "The thing"), ("set", "The set")),
    )
    axis: Literal["x", "y", "z"] = described(
        "z", "Axis", "z is up.", kind="choice", choices=(("x", "x"), ("y", "y"), ("z", "z"))
    )
    low: float = described(0.0, "Dark at", "Where it is 0.", unit="m", low=-1e6, high=1e6)
    high: float = described(1.0, "Light at", "Where it is 1.", unit="m", low=-1e6, high=1e6)

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) grey, 0..1."""
        return grey(_share(f.low, f.high, q[..., int(f.axis)]))


class Distance(_Where):
    """How far from a point of space a place is."""

    title: ClassVar[str] = "Distance to a point"
    about: ClassVar[str] = "How far a place is from a point."

    kind: Literal["distance"] = "distance"
    where: Where = lies_by("solid")
    point: Vector = described((0.0, 0.0, 0.0), "Point", "From where it is measured.", kind="lengths", unit="m")
    low: float = described(0.0, "Dark at", "How far away it is 0.", unit="m", low=0, high=1e6)
    high: float = described(1.0, "Light at", "How far away it is 1.", unit="m", low=0, high=1e6)

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) grey, 0..1."""
        return grey(_share(f.low, f.high, np.linalg.norm(q - np.asarray(f.point, float), axis=-1)))


class Nearness(_Where):
    """How far from another thing's surface a place is."""

    title: ClassVar[str] = "Distance to a thing"
    about: ClassVar[str] = "How far a place is from another thing: where it stands in, lies on or drips."
    is_placed: ClassVar[bool] = False
    asks_shape: ClassVar[bool] = True
    baked: ClassVar[tuple[str, ...]] = ("thing",)

    kind: Literal["nearness"] = "nearness"
    thing: str = described("", "Thing", "From whose surface it is measured.", kind="thing")
    low: float = described(0.0, "Dark at", "How far away it is 0.", unit="m", low=0, high=1e6, soft_high=10)
    high: float = described(0.2, "Light at", "How far away it is 1.", unit="m", low=0, high=1e6, soft_high=10)

    @property
    def far_from_all(self) -> float:
        """Return what is put out as far as it is looked."""
        return float(_share(self.low, self.high, np.asarray(max(self.low, self.high))))

    @property
    def asked_thing(self) -> str:
        """Return the thing."""
        return self.thing

    @property
    def extent(self) -> float:
        """Return a piece from where it is nearest to where it is farthest."""
        return max(self.low, self.high, 1e-3)

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) grey as beside a thing that the patch begins at: for small pictures."""
        if spot.rim is None:
            return grey(np.full(under.shape[:-1], self.far_from_all))
        return grey(_share(f.low, f.high, spot.place[..., 0]))


class Normal(_Where):
    """How a surface faces a way of space: up, where dust lies."""

    title: ClassVar[str] = "Faces a way"
    about: ClassVar[str] = "Up, where dust lies; or any other way."

    kind: Literal["normal"] = "normal"
    is_placed: ClassVar[bool] = False
    way: Vector = described((0.0, 0.0, 1.0), "Way", "In the set; z is up.", kind="vector")
    near_deg: float = described(20.0, "Whole within", "Of that way.", unit="°", low=0, high=180)
    far_deg: float = described(60.0, "None beyond", "Of that way.", unit="°", low=0, high=180)

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) grey, 0..1."""
        way = np.asarray(f.way, float)
        c = (spot.normal * way).sum(-1) / np.maximum(np.linalg.norm(way, axis=-1), 1e-9)
        angle = np.degrees(np.arccos(np.clip(c, -1, 1)))
        return grey(_share(f.far_deg, f.near_deg, angle))


class Random(_Where):
    """A number, or a colour, of each thing's, each copy's or each connected part's own."""

    title: ClassVar[str] = "Random by thing"
    about: ClassVar[str] = "A number or colour of each thing's, each scattered copy's or each connected part's own."
    is_placed: ClassVar[bool] = False

    kind: Literal["random"] = "random"
    of: Literal["thing", "copy", "part"] = described(
        "copy",
        "Differs by",
        "Thing: all its copies alike. Copy: each its own. Part: what hangs together in a mesh has its own.",
        kind="choice",
        choices=(("thing", "Thing"), ("copy", "Copy"), ("part", "Part")),
    )
    in_colour: bool = described(False, "In colour", "Three numbers, not one.", kind="switch")
    seed: int = described(0, "Seed", "Another draw.", kind="whole", low=0, high=9999)

    @property
    def asks_parts(self) -> bool:
        """Return True if each connected part is to have its own."""
        return self.of == "part"

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) random numbers, 0..1."""
        thing, copy, part = spot.seeds
        seed = np.round(np.asarray(f.seed, float)) + (part * PART if f.of == 2 else 0)
        a, b, c = hashed(np.asarray(thing), np.asarray(copy if f.of >= 1 else 0), seed)
        return np.broadcast_to(np.stack([a, b, c] if f.in_colour else [a, a, a], axis=-1), under.shape)

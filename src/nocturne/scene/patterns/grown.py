"""Grown and worked stuff: wood, marble, weave, knurl, brushed metal and perforated sheet."""

from typing import Any, ClassVar, Literal

import numpy as np

from nocturne.scene.fields import described
from nocturne.scene.patterns.hashing import hashed, noise
from nocturne.scene.patterns.noises import fractal, grey
from nocturne.scene.patterns.step import Step, Where, lies_by


def _small(default: float, label: str, help: str) -> Any:
    return described(default, label, help, unit="m", low=1e-6, high=10, soft_high=20 * default, log=True)


class _Made(Step):
    family: ClassVar[str] = "Made surfaces"


class Wood(_Made):
    """Growth rings about the z axis, with grain along it; cut it by turning it."""

    title: ClassVar[str] = "Wood"
    about: ClassVar[str] = "Growth rings in the solid; tilt it to cut it."

    kind: Literal["wood"] = "wood"
    where: Where = lies_by("solid")
    output: Literal["grain", "id"] = described(
        "grain",
        "Puts out",
        "Early wood to late wood with its grain, or a number of each year's ring.",
        kind="choice",
        choices=(("grain", "Grain"), ("id", "A number each")),
    )
    ring: float = _small(0.006, "Ring", "How thick a year's ring is.")
    wobble: float = described(0.5, "Wobble", "How uneven the rings are.", low=0, high=4, soft_high=1)
    grain: float = described(0.3, "Grain", "How much fine grain lies over the rings.", kind="percent", low=0, high=1)

    @property
    def extent(self) -> float:
        """Return a piece of several rings."""
        return 12 * self.ring

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) 0 in early wood to 1 in late wood, or a number of the ring."""
        ring, wobble, grain = (np.asarray(v, float) for v in (f.ring, f.wobble, f.grain))
        p = q / np.maximum(ring, 1e-6)[..., None]
        low = noise(p * (0.09, 0.09, 0.009))
        r = np.hypot(p[..., 0], p[..., 1]) + wobble * (4 * low + noise(p * (0.4, 0.4, 0.04)))
        if f.output == 1:
            return grey(hashed(np.floor(r), 7, 13)[0])
        t = r - np.floor(r)
        late = np.clip(t / 0.85, 0, 1) ** 2 * np.clip((1 - t) / 0.15, 0, 1)
        fine = 0.5 + 0.5 * noise(p * (6.0, 6.0, 0.15))
        return grey(np.clip(late * (1 - grain) + fine * grain, 0, 1))


class Marble(_Made):
    """Veins of marble."""

    title: ClassVar[str] = "Marble"
    about: ClassVar[str] = "Veins through the solid."

    kind: Literal["marble"] = "marble"
    where: Where = lies_by("solid")
    output: Literal["vein", "id"] = described(
        "vein",
        "Puts out",
        "1 in a vein, or a number of what lies between two of them.",
        kind="choice",
        choices=(("vein", "Veins"), ("id", "A number each")),
    )
    scale: float = _small(0.15, "Size", "How far apart veins are.")
    sharpness: float = described(4.0, "Sharpness", "How thin veins are.", low=0.5, high=30)
    turbulence: float = described(1.2, "Turbulence", "How far they wander.", low=0, high=8, soft_high=3)

    @property
    def extent(self) -> float:
        """Return a piece with some veins."""
        return 3 * self.scale

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) 1 in a vein, or a number of what lies between."""
        scale, sharpness, turbulence = (np.asarray(v, float) for v in (f.scale, f.sharpness, f.turbulence))
        p = q / np.maximum(scale, 1e-6)[..., None]
        wander = 2 * fractal(p, 6, 2.1, 0.5) - 1
        t = p[..., 0] + 0.6 * p[..., 1] + 0.3 * p[..., 2] + turbulence * wander
        if f.output == 1:
            return grey(hashed(np.floor(t), 17, 13)[0])
        return grey((1 - np.abs(np.sin(np.pi * t))) ** np.maximum(sharpness, 0.01))


class Weave(_Made):
    """Threads over and under each other."""

    title: ClassVar[str] = "Weave"
    about: ClassVar[str] = "Cloth: threads over and under each other."

    kind: Literal["weave"] = "weave"
    where: Where = lies_by("uv")
    output: Literal["height", "id", "way", "gap"] = described(
        "height",
        "Puts out",
        "How high the thread is, a number of each thread, 1 where threads run across, or 1 where there is none.",
        kind="choice",
        choices=(("height", "Height"), ("id", "A number each"), ("way", "Which way"), ("gap", "Gaps")),
    )
    thread: float = _small(0.001, "Thread", "From one thread to the next.")
    fill: float = described(0.9, "Width", "Of a thread, in parts of that.", kind="percent", low=0.05, high=1)

    @property
    def extent(self) -> float:
        """Return a piece of several threads."""
        return 8 * self.thread

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) of the thread that lies on top."""
        p = q[..., :2] / np.maximum(np.asarray(f.thread, float), 1e-9)[..., None]
        fill = np.maximum(np.asarray(f.fill, float), 0.01)
        column, row = np.floor(p[..., 0]), np.floor(p[..., 1])
        is_even = np.mod(column + row, 2) == 0
        # Across a thread its round back, along it the way up and down.
        tops = []
        for across, along, even in ((p[..., 1] - row, p[..., 0], is_even), (p[..., 0] - column, p[..., 1], ~is_even)):
            side = (2 * across - 1) / fill
            back = np.sqrt(np.clip(1 - side**2, 0, None))
            rise = 0.5 + 0.5 * np.where(even, 1, -1) * np.abs(np.sin(np.pi * along))
            tops.append(np.where(np.abs(side) < 1, back * rise, 0))
        is_across = tops[0] >= tops[1]
        if f.output == 0:
            return grey(np.maximum(tops[0], tops[1]))
        if f.output == 1:
            return grey(np.where(is_across, hashed(row, 1, 3)[0], hashed(column, 2, 3)[0]))
        if f.output == 3:
            return grey(np.maximum(tops[0], tops[1]) <= 0)
        return grey(is_across)


class Knurl(_Made):
    """Pointed diamonds, as on a handle."""

    title: ClassVar[str] = "Knurl"
    about: ClassVar[str] = "The pointed diamonds of a handle or a dial."

    kind: Literal["knurl"] = "knurl"
    where: Where = lies_by("uv")
    output: Literal["height", "id", "gap"] = described(
        "height",
        "Puts out",
        "How high the diamonds are, a number of each, or 1 in the grooves between.",
        kind="choice",
        choices=(("height", "Height"), ("id", "A number each"), ("gap", "Grooves")),
    )
    pitch: float = _small(0.0012, "Pitch", "From one line to the next.")
    angle_deg: float = described(30.0, "Angle", "Of the lines to the upright.", unit="°", low=0, high=90)
    flat: float = described(0.1, "Flat", "How much of the points is taken off.", kind="percent", low=0, high=0.95)
    groove: float = _small(0.0001, "Groove", "How wide the grooves are that it puts out.")

    @property
    def extent(self) -> float:
        """Return a piece of several diamonds."""
        return 6 * self.pitch

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) height, 0..1, a number of the diamond, or 1 in a groove."""
        p = q[..., :2] / np.maximum(np.asarray(f.pitch, float), 1e-9)[..., None]
        a = np.radians(np.asarray(f.angle_deg, float))
        c, s = np.cos(a), np.sin(a)
        lines = [c * p[..., 0] + sign * s * p[..., 1] for sign in (1, -1)]
        if f.output == 1:
            return grey(hashed(np.floor(lines[0]), np.floor(lines[1]), 19)[0])
        low = np.minimum(*(1 - np.abs(2 * (t - np.floor(t)) - 1) for t in lines))
        if f.output == 2:
            return grey(low * np.asarray(f.pitch, float) < np.asarray(f.groove, float))
        top = low / np.maximum(1 - np.asarray(f.flat, float), 0.05)
        return grey(np.clip(top, 0, 1))


class Brushed(_Made):
    """Fine lines along one way."""

    title: ClassVar[str] = "Brushed"
    about: ClassVar[str] = "The fine lines of brushed metal."

    kind: Literal["brushed"] = "brushed"
    where: Where = lies_by("uv")
    length: float = _small(0.05, "Length", "Of a line.")
    width: float = _small(0.0004, "Width", "Of a line.")

    @property
    def extent(self) -> float:
        """Return a piece with many lines."""
        return 40 * self.width

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) grey lines, 0..1."""
        x = q[..., 0] / np.maximum(np.asarray(f.length, float), 1e-6)
        y = q[..., 1] / np.maximum(np.asarray(f.width, float), 1e-9)
        return grey(fractal(np.stack([x, y, np.zeros_like(x)], axis=-1), 3, 2.3, 0.6))


class Perforated(_Made):
    """Round holes in a sheet."""

    title: ClassVar[str] = "Perforated"
    about: ClassVar[str] = "Round holes in a sheet, in a grid or staggered."

    kind: Literal["perforated"] = "perforated"
    where: Where = lies_by("uv")
    output: Literal["hole", "id", "height"] = described(
        "hole",
        "Puts out",
        "1 in a hole, a number of each hole, or the height of the sheet with rounded rims.",
        kind="choice",
        choices=(("hole", "Hole or sheet"), ("id", "A number each"), ("height", "Height")),
    )
    pitch: float = _small(0.006, "Pitch", "From one hole to the next.")
    hole: float = _small(0.003, "Hole", "Its diameter.")
    rim: float = _small(0.0003, "Rim", "How far out it is rounded.")
    staggered: bool = described(True, "Staggered", "Each row is shifted by half a pitch.", kind="switch")

    @property
    def extent(self) -> float:
        """Return a piece of several holes."""
        return 5 * self.pitch

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) of the hole that is nearest."""
        pitch, hole, rim = (np.maximum(np.asarray(v, float), 1e-9) for v in (f.pitch, f.hole, f.rim))
        tall = pitch * (0.75**0.5 if f.staggered else 1.0)
        best, own = np.full(q.shape[:-1], 1e9), np.zeros(q.shape[:-1])
        middle = np.floor(q[..., 1] / tall)
        for up in (-1, 0, 1):
            row = middle + up
            shift = 0.5 * np.mod(row, 2) if f.staggered else np.zeros_like(row)
            column = np.floor(q[..., 0] / pitch - shift)
            way = np.hypot(q[..., 0] - (column + shift + 0.5) * pitch, q[..., 1] - (row + 0.5) * tall)
            own = np.where(way < best, hashed(column, row, 31)[0], own)
            best = np.minimum(best, way)
        if f.output == 0:
            return grey(best < hole / 2)
        if f.output == 1:
            return grey(own)
        t = np.clip((best - hole / 2) / rim, 0, 1)
        return grey(np.sqrt(1 - (1 - t) ** 2))

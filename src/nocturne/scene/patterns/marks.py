"""Marks on a surface: scratches, fibres and spots, each at a random place of its own cell."""

from typing import Any, ClassVar, Literal

import numpy as np

from nocturne.scene.fields import described
from nocturne.scene.patterns.hashing import hashed
from nocturne.scene.patterns.noises import grey
from nocturne.scene.patterns.step import Step, Where, lies_by

LAYERS = 3  # of strokes over each other
JOINTS = 4  # straight pieces of a bent stroke


class _Marks(Step):
    family: ClassVar[str] = "Marks"

    where: Where = lies_by("sides")


class _Strokes(_Marks):
    @property
    def extent(self) -> float:
        """Return a piece of several strokes."""
        return 3 * self.length

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) 1 on a stroke and 0 beside it."""
        length, width, density, turn, bend = (
            np.asarray(v, float) for v in (f.length, f.width, f.density, f.scatter_deg, f.bend)
        )
        p = q[..., :2] / np.maximum(length, 1e-6)[..., None]
        half = 0.5 * width / np.maximum(length, 1e-6)
        found = np.zeros(p.shape[:-1])
        for layer in range(LAYERS):
            moved = p + 0.37 * layer
            cell = np.floor(moved)
            for offset in np.ndindex(3, 3):
                at = cell + np.array(offset) - 1
                a, b, c = hashed(at[..., 0], at[..., 1], 7 + layer)
                d, e, _ = hashed(at[..., 0], at[..., 1], 71 + layer)
                angle = np.radians(turn) * (2 * c - 1)
                reach = 0.35 + 0.4 * d
                middle = at + np.stack([a, b], axis=-1)
                way = distance_to_arc(moved - middle, angle, reach, bend * (2 * e - 1))
                mark = np.clip(1.5 - way / np.maximum(half, 1e-9), 0, 1)
                found = np.maximum(found, np.where(d < density, mark * (0.4 + 0.6 * c), 0))
        return grey(found)


def distance_to_arc(p: np.ndarray, angle: np.ndarray, reach: np.ndarray, bend: np.ndarray) -> np.ndarray:
    """Return (...) distances from places (..., 2) to bent strokes about the origin, as straight pieces.

    A stroke is `reach` long to either side in the direction of an angle, and its ends are `bend` of that off to a side.
    """
    c, s = np.cos(angle), np.sin(angle)
    x, y = c * p[..., 0] + s * p[..., 1], c * p[..., 1] - s * p[..., 0]
    best = np.full(np.shape(x), 1e9)
    for k in range(JOINTS):
        t0, t1 = -1 + 2 * k / JOINTS, -1 + 2 * (k + 1) / JOINTS
        ax, ay = t0 * reach, bend * reach * t0 * t0
        bx, by = t1 * reach - ax, bend * reach * t1 * t1 - ay
        t = np.clip(((x - ax) * bx + (y - ay) * by) / np.maximum(bx * bx + by * by, 1e-12), 0, 1)
        best = np.minimum(best, np.hypot(x - ax - t * bx, y - ay - t * by))
    return best


class Scratches(_Strokes):
    """Fine straight scratches."""

    title: ClassVar[str] = "Scratches"
    about: ClassVar[str] = "Fine scratches, along one way or any."

    kind: Literal["scratches"] = "scratches"
    length: float = described(
        0.04, "Length", "How long they are.", unit="m", low=1e-4, high=10, soft_high=0.5, log=True
    )
    width: float = described(
        0.0003, "Width", "How broad they are.", unit="m", low=1e-6, high=0.1, soft_high=0.005, log=True
    )
    density: float = described(
        0.6, "How many", "Of the places for one, how many have one.", kind="percent", low=0, high=1
    )
    scatter_deg: float = described(180.0, "Ways", "How far they turn off one way.", unit="°", low=0, high=180)
    bend: float = described(0.1, "Bend", "How bent they are.", low=0, high=1)


class Fibres(_Strokes):
    """Bent hairs, lint and fibres."""

    title: ClassVar[str] = "Fibres"
    about: ClassVar[str] = "Hairs, lint, the fibres of paper and felt."

    kind: Literal["fibres"] = "fibres"
    length: float = described(
        0.01, "Length", "How long they are.", unit="m", low=1e-4, high=10, soft_high=0.5, log=True
    )
    width: float = described(
        0.0002, "Width", "How broad they are.", unit="m", low=1e-6, high=0.1, soft_high=0.005, log=True
    )
    density: float = described(
        0.9, "How many", "Of the places for one, how many have one.", kind="percent", low=0, high=1
    )
    scatter_deg: float = described(180.0, "Ways", "How far they turn off one way.", unit="°", low=0, high=180)
    bend: float = described(0.7, "Bend", "How bent they are.", low=0, high=1)


class Spots(_Marks):
    """Round spots of various sizes."""

    title: ClassVar[str] = "Spots"
    about: ClassVar[str] = "Drops, speckles, pores, flakes of rust."

    kind: Literal["spots"] = "spots"
    scale: float = described(
        0.02, "Size", "How far apart they are.", unit="m", low=1e-5, high=100, soft_high=1, log=True
    )
    radius: float = described(0.35, "Radius", "Of the largest, in parts of that.", low=0, high=0.5)
    variation: float = described(0.7, "Variety", "How much smaller others are.", kind="percent", low=0, high=1)
    density: float = described(
        0.8, "How many", "Of the places for one, how many have one.", kind="percent", low=0, high=1
    )
    softness: float = described(0.15, "Soft edge", "In parts of its radius.", kind="percent", low=0.001, high=1)

    @property
    def extent(self) -> float:
        """Return a piece with several spots."""
        return 6 * self.scale

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) 1 on a spot and 0 beside it."""
        scale, radius, variation, density, softness = (
            np.asarray(v, float) for v in (f.scale, f.radius, f.variation, f.density, f.softness)
        )
        p = q[..., :2] / np.maximum(scale, 1e-6)[..., None]
        cell = np.floor(p)
        found = np.zeros(p.shape[:-1])
        for offset in np.ndindex(3, 3):
            at = cell + np.array(offset) - 1
            a, b, c = hashed(at[..., 0], at[..., 1], 3)
            d, _, _ = hashed(at[..., 0], at[..., 1], 13)
            r = np.maximum(radius * (1 - variation * c), 1e-9)
            way = np.hypot(p[..., 0] - at[..., 0] - a, p[..., 1] - at[..., 1] - b)
            found = np.maximum(
                found, np.where(d < density, np.clip((1 - way / r) / np.maximum(softness, 1e-3), 0, 1), 0)
            )
        return grey(found)

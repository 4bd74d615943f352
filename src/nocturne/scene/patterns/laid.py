"""Surfaces laid of pieces: bricks, tiles and planks, with sizes as they are bought."""

from typing import Any, ClassVar, Literal

import numpy as np

from nocturne.scene.fields import described
from nocturne.scene.patterns.hashing import hashed
from nocturne.scene.patterns.noises import fractal, grey
from nocturne.scene.patterns.step import Step, Where, lies_by

OUTPUTS = (("face", "Piece or gap"), ("id", "A number each"), ("height", "Height"), ("grain", "Grain"))
FACE, ID, HEIGHT, GRAIN = range(4)


def _length(default: float, label: str, help: str) -> Any:
    return described(default, label, help, unit="m", low=1e-4, high=100, soft_high=max(4 * default, 0.05), log=True)


def _small(default: float, label: str, help: str) -> Any:
    return described(default, label, help, unit="m", low=0, high=10, soft_high=0.05)


def _output() -> Any:
    return described(
        "face",
        "Puts out",
        "1 on a piece and 0 in the gap; a number of each piece; how high it is, from 0 in the gap; grain along it.",
        kind="choice",
        choices=OUTPUTS,
    )


class _Laid(Step):
    family: ClassVar[str] = "Made surfaces"

    where: Where = lies_by("sides")

    @property
    def extent(self) -> float:
        """Return a piece of several rows."""
        return max(2.2 * self.length, 4 * self.height)

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) of the piece at coordinates, metres."""
        long, high, gap, edge = (np.asarray(v, float) for v in (f.length, f.height, f.gap, f.edge))
        wide, tall = np.maximum(long + gap, 1e-6), np.maximum(high + gap, 1e-6)
        row = np.floor(q[..., 1] / tall)
        shift = np.asarray(f.shift, float) * row + np.asarray(f.disorder, float) * hashed(row, 5, 9)[0]
        x = q[..., 0] / wide + shift
        column = np.floor(x)
        dx = (0.5 - np.abs(x - column - 0.5)) * wide - gap / 2
        dy = (0.5 - np.abs(q[..., 1] / tall - row - 0.5)) * tall - gap / 2
        inside = np.minimum(dx, dy)
        number = hashed(column, row, 21)
        if f.output == FACE:
            return grey(inside > 0)
        if f.output == ID:
            return grey(number[0])
        if f.output == HEIGHT:
            t = np.clip(inside / np.maximum(edge, 1e-6), 0, 1)
            return grey(np.sqrt(1 - (1 - t) ** 2))
        along = (x - column) * wide / np.maximum(long, 1e-6) * 2
        across = (q[..., 1] / tall - row) * tall / np.maximum(high, 1e-6) * 16
        p = np.stack([along + 40 * number[0], across + 40 * number[1], 40 * number[2]], axis=-1)
        return grey(fractal(p, 4, 2.0, 0.5))


class Brick(_Laid):
    """Bricks in rows, each shifted against the one below."""

    title: ClassVar[str] = "Bricks"
    about: ClassVar[str] = "Rows of bricks with joints."

    kind: Literal["brick"] = "brick"
    output: Literal["face", "id", "height", "grain"] = _output()
    length: float = _length(0.24, "Length", "Of a brick.")
    height: float = _length(0.071, "Height", "Of a brick.")
    gap: float = _small(0.010, "Joint", "Between bricks.")
    edge: float = _small(0.004, "Edge", "How far in it is rounded.")
    shift: float = described(0.5, "Bond", "How far each row is shifted, in bricks.", kind="percent", low=0, high=1)
    disorder: float = described(0.0, "Disorder", "How far rows are shifted by chance.", kind="percent", low=0, high=1)


class Tile(_Laid):
    """Tiles in a grid."""

    title: ClassVar[str] = "Tiles"
    about: ClassVar[str] = "Tiles in a grid."

    kind: Literal["tile"] = "tile"
    output: Literal["face", "id", "height", "grain"] = _output()
    length: float = _length(0.2, "Width", "Of a tile.")
    height: float = _length(0.2, "Height", "Of a tile.")
    gap: float = _small(0.003, "Joint", "Between tiles.")
    edge: float = _small(0.0015, "Edge", "How far in it is rounded.")
    shift: float = described(0.0, "Bond", "How far each row is shifted, in tiles.", kind="percent", low=0, high=1)
    disorder: float = described(0.0, "Disorder", "How far rows are shifted by chance.", kind="percent", low=0, high=1)


class Plank(_Laid):
    """Boards of one width, butted at random."""

    title: ClassVar[str] = "Planks"
    about: ClassVar[str] = "Floor boards with grain, butted at random."

    kind: Literal["plank"] = "plank"
    output: Literal["face", "id", "height", "grain"] = _output()
    length: float = _length(1.8, "Length", "Of a board.")
    height: float = _length(0.14, "Width", "Of a board.")
    gap: float = _small(0.001, "Gap", "Between boards.")
    edge: float = _small(0.002, "Edge", "How far in it is rounded.")
    shift: float = described(0.0, "Bond", "How far each row is shifted, in boards.", kind="percent", low=0, high=1)
    disorder: float = described(1.0, "Disorder", "How far rows are shifted by chance.", kind="percent", low=0, high=1)

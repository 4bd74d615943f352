"""What a kind of light hands to the engine: its row, its bounds for the tree, and its shape for rays."""

from dataclasses import dataclass

import numpy as np

from nocturne.engine.lighttree import Emitter

EVERYWHERE = np.array([0.0, 0.0, 1.0])


@dataclass(frozen=True, eq=False, repr=False)
class Near:
    """A light with a place.

    number: kind of its kernel; parts: of its row, by name, without the colour; strength: what the colour is multiplied
    with; shape, matrix: "rect", "disc", "sphere" or "tube" of unit size, and where it stands; None: rays never find it.
    """

    number: int
    parts: dict
    strength: float
    emitter: Emitter
    shape: str | None = None
    matrix: np.ndarray | None = None


@dataclass(frozen=True, eq=False, repr=False)
class Far:
    """A light at infinity: kind of its kernel, parts of its row, and its picture with sampling tables if it has one."""

    number: int
    parts: dict
    picture: tuple[np.ndarray, tuple] | None = None

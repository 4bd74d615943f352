"""What every pixel's middle sees, by one ray each: enough to bring a coarse picture up to the film's size."""

from dataclasses import dataclass

import numpy as np

from nocturne.film.layout import SIGHT, SIGHT_IDS


@dataclass(eq=False, repr=False)
class Sight:
    """Guides of pixels' middles, written by the engine; mirrors and clear glass are looked through.

    seen: (h, w, SIGHT) float32. ids: (h, w, SIGHT_IDS) uint32, all ones for nothing. step: every so many pixels of rows
    and columns are looked at, 0 for none yet.
    """

    seen: np.ndarray
    ids: np.ndarray
    step: int = 0

    @classmethod
    def blank(cls, width: int, height: int) -> "Sight":
        """Return one that has not looked yet."""
        return cls(
            np.zeros((height, width, SIGHT.width), np.float32), np.zeros((height, width, SIGHT_IDS.width), np.uint32)
        )

    def part(self, name: str, step: int = 1) -> np.ndarray:
        """Return (h, w, n) of one part, of every `step`th pixel."""
        return self.seen[::step, ::step, SIGHT.span(name)]

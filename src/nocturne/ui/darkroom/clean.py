"""A film's light without its noise: mixed as the desk stands, and each light group apart once that is wanted."""

from dataclasses import dataclass

import numpy as np

from nocturne.film.film import Film


@dataclass(frozen=True, eq=False, repr=False)
class Clean:
    """Denoised light of a film when it had so many samples in all.

    mix: (h, w, 3) radiance under `gains` (n, 3); None if the groups were handed in. groups: (n, h, w, 3), which add up
    to it, None as long as nobody wanted them. is_whole: whether they were denoised at the film's own size.
    """

    film: Film
    samples: int
    mix: np.ndarray | None
    gains: np.ndarray | None
    groups: np.ndarray | None = None
    is_whole: bool = False

    def is_mixed_with(self, gains: np.ndarray) -> bool:
        """Return True if `mix` is of these gains."""
        return self.mix is not None and np.array_equal(self.gains, gains)

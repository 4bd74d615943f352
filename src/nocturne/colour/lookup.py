"""Look-up tables: an even grid for the live picture, and the exact transform for what is put out."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True, eq=False, repr=False)
class LookUpTable:
    """What a table makes of red, green, blue in 0..1.

    grid: (n, n, n, 3) float32, the table at evenly spaced values. exact: the table itself, on (..., 3) values.
    """

    grid: np.ndarray
    exact: Callable[[np.ndarray], np.ndarray]

"""Squares of two colours."""

from typing import ClassVar, Literal

import numpy as np

from nocturne.scene.fields import Colour, described
from nocturne.scene.patterns.step import Step


class Checker(Step):
    """Squares of two colours in turn: one repeat is two squares wide and two high."""

    title: ClassVar[str] = "Checker"

    kind: Literal["checker"] = "checker"
    first: Colour = described((1.0, 1.0, 1.0), "First", "The square at the corner, and every other one.", kind="colour")
    second: Colour = described((0.0, 0.0, 0.0), "Second", "The squares between.", kind="colour")

    def values(self, u: np.ndarray, v: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) the colour of the square at coordinates."""
        is_second = (np.floor(2 * u).astype(int) + np.floor(2 * v).astype(int)) % 2 == 1
        return np.where(is_second[..., None], self.second, self.first)

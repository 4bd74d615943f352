"""Squares of two colours."""

from typing import Any, ClassVar, Literal

import numpy as np

from nocturne.scene.fields import Colour, described
from nocturne.scene.patterns.hashing import hashed
from nocturne.scene.patterns.noises import grey
from nocturne.scene.patterns.step import Step


class Checker(Step):
    """Squares of two colours in turn: one repeat is two squares wide and two high."""

    title: ClassVar[str] = "Checker"
    about: ClassVar[str] = "Squares of two colours in turn."
    family: ClassVar[str] = "Made surfaces"

    kind: Literal["checkerboard"] = "checkerboard"
    output: Literal["colours", "id"] = described(
        "colours",
        "Puts out",
        "Its two colours, or a number of each square.",
        kind="choice",
        choices=(("colours", "Colours"), ("id", "A number each")),
    )
    first: Colour = described((1.0, 1.0, 1.0), "First", "The square at the corner, and every other one.", kind="colour")
    second: Colour = described((0.0, 0.0, 0.0), "Second", "The squares between.", kind="colour")

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) the colour of the square at coordinates, or its number."""
        if f.output == 1:
            return grey(hashed(np.floor(2 * q[..., 0]), np.floor(2 * q[..., 1]), 23)[0])
        is_second = np.floor(2 * q[..., :2]).astype(int).sum(-1) % 2 == 1
        return np.where(is_second[..., None], f.second, f.first)

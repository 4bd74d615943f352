"""A picture that drives a parameter."""

from typing import ClassVar, Literal

import numpy as np

from nocturne.scene.fields import described
from nocturne.scene.patterns.step import Step


class Picture(Step):
    """A picture laid over the surface by its texture coordinates; it repeats."""

    title: ClassVar[str] = "Picture"

    kind: Literal["picture"] = "picture"
    path: str = described("", "Picture", "Relative to the project.", kind="file", holds="picture")
    space: Literal["colour", "data", "red", "green", "blue", "alpha"] = described(
        "colour",
        "Read as",
        "Colour: sRGB-encoded. Data: numbers as they are, for roughness, metalness and normals. One channel: of a "
        "picture that holds several things.",
        kind="choice",
        choices=(
            ("colour", "Colour"),
            ("data", "Data"),
            ("red", "Red as data"),
            ("green", "Green as data"),
            ("blue", "Blue as data"),
            ("alpha", "Alpha as data"),
        ),
    )

    @property
    def picture(self) -> tuple[str, str]:
        """Return (path, space) of the picture."""
        return self.path, self.space

    @property
    def is_colour(self) -> bool:
        """Return True if the picture is read as colour."""
        return self.space == "colour"

    def values(self, u: np.ndarray, v: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) bilinear values of the picture at coordinates whose v points up."""
        return looked_up(image, u, v)


def looked_up(image: np.ndarray, u: np.ndarray, v: np.ndarray) -> np.ndarray:
    """Return (..., 3) bilinear values of a repeating picture (h, w, 3) at coordinates whose v points up."""
    height, width = image.shape[:2]
    x = (u - np.floor(u)) * width - 0.5
    y = (1 - (v - np.floor(v))) * height - 0.5
    x0, y0 = np.floor(x).astype(int), np.floor(y).astype(int)
    fx, fy = (x - x0)[..., None], (y - y0)[..., None]
    a, b = image[y0 % height, x0 % width], image[y0 % height, (x0 + 1) % width]
    c, d = image[(y0 + 1) % height, x0 % width], image[(y0 + 1) % height, (x0 + 1) % width]
    return (a * (1 - fx) + b * fx) * (1 - fy) + (c * (1 - fx) + d * fx) * fy

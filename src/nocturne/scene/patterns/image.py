"""A picture that drives a parameter."""

from typing import Any, ClassVar, Literal

import numpy as np

from nocturne.scene.fields import described
from nocturne.scene.patterns.step import Step
from nocturne.scene.patterns.tiling import even_of, laid

WRAPS = (("periodic", "Repeats"), ("mirror", "Mirrored"), ("clamp", "Drawn out"), ("constant", "Once"))


class Picture(Step):
    """A picture laid over the surface."""

    title: ClassVar[str] = "Picture"
    about: ClassVar[str] = "A scanned or painted picture."
    family: ClassVar[str] = "Picture"

    kind: Literal["image"] = "image"
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
    wrap: Literal[tuple(name for name, _ in WRAPS)] = described(
        "periodic",
        "Beyond its edge",
        "Repeats, turns back as in a mirror, goes on as at the edge, or is black.",
        kind="choice",
        choices=WRAPS,
    )
    green_down: bool = described(
        False, "Green points down", "For normal maps of the other kind: their green is turned over.", kind="switch"
    )
    hide_repeats: bool = described(
        False,
        "Hide repeats",
        "Lays patches of the picture at random places and blends them, so that no repeat is seen over a whole wall.",
        kind="switch",
    )
    patch: float = described(0.3, "Patches", "How large they are, in pictures.", low=0.02, high=4, soft_high=1)
    patch_turn: float = described(
        0.0,
        "Turned",
        "How far patches are turned by chance, up to a half turn either way; for stuff without a way.",
        kind="percent",
        low=0,
        high=1,
    )

    @property
    def slot(self) -> tuple[str, ...]:
        """Return what its texels are kept by: the picture, and whether they are made ready to hide repeats."""
        return (*self.picture, "even") if self.hide_repeats else self.picture

    @property
    def picture(self) -> tuple[str, str]:
        """Return (path, space) of the picture."""
        return self.path, self.space

    @property
    def unseen(self) -> set[str]:
        """Return its own fields that count for nothing as it is set: only of normals green points somewhere."""
        return set() if self.parameter == "geometry_normal" else {"green_down"}

    @property
    def is_plain(self) -> bool:
        """Return True if it repeats, too."""
        return super().is_plain and self.wrap == "periodic" and not (self.hide_repeats or self.green_down)

    @property
    def is_colour(self) -> bool:
        """Return True if the picture is read as colour."""
        return self.space == "colour"

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) bilinear values of the picture at coordinates whose v points up."""
        if f.hide_repeats:
            turn = 0.0 if self.parameter == "geometry_normal" else f.patch_turn
            patch, turn = np.asarray(f.patch, float), np.asarray(turn, float)
            found = laid(even_of(image), looked_up, q[..., 0], q[..., 1], patch, turn)
        else:
            u, v, inside = wrapped(q[..., 0], q[..., 1], f.wrap)
            found = looked_up(image, u, v) * inside[..., None]
        if f.green_down:
            found = np.stack([found[..., 0], np.maximum(1 - found[..., 1], 0), found[..., 2]], axis=-1)
        return found


def wrapped(u: np.ndarray, v: np.ndarray, wrap: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return coordinates brought into one picture as a way of wrapping tells, and where there is any."""
    inside = np.ones(np.shape(u))
    if wrap == 1:
        u, v = (1 - np.abs(1 - np.mod(t, 2)) for t in (u, v))
    if wrap == 3:
        inside = ((u >= 0) & (u < 1) & (v >= 0) & (v < 1)).astype(float)
    if wrap:
        # Just short of the edge: beyond it the picture would begin anew.
        u, v = (np.clip(t, 1e-6, 1 - 1e-6) for t in (u, v))
    return u, v, inside


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

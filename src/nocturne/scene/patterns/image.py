"""A picture that drives a parameter."""

from typing import Any, ClassVar, Literal

import numpy as np

from nocturne.scene.fields import described
from nocturne.scene.numbered import at_frame, is_sequence, is_tiles
from nocturne.scene.patterns.step import Step
from nocturne.scene.patterns.tiles import spread, together
from nocturne.scene.patterns.tiling import even_of, laid

# Of OpenColorIO's own configuration for computer graphics; "" is by the file: EXR and HDR linear, all else as sRGB.
ENCODINGS = (
    "sRGB Encoded Rec.709 (sRGB)",
    "Linear Rec.709 (sRGB)",
    "ACEScg",
    "ACES2065-1",
    "ACEScct",
    "sRGB Encoded P3-D65",
    "Linear P3-D65",
    "Linear Rec.2020",
    "Gamma 2.2 Encoded Rec.709",
    "Gamma 2.4 Encoded Rec.709",
    "Gamma 2.2 Encoded AdobeRGB",
    "Linear AdobeRGB",
    "sRGB Encoded AP1",
)
WRAPS = (
    ("periodic", "Repeats"),
    ("mirror", "Mirrored"),
    ("clamp", "Drawn out"),
    ("constant", "Once"),
    ("under", "Once, over what is under it"),
)


class Picture(Step):
    """A picture laid over the surface."""

    title: ClassVar[str] = "Picture"
    about: ClassVar[str] = "A scanned or painted picture."
    family: ClassVar[str] = "Picture"
    baked: ClassVar[tuple[str, ...]] = ("encoding", "frame_number")

    kind: Literal["image"] = "image"
    path: str = described("", "Picture", "Relative to the project.", kind="file", holds="picture")
    space: Literal["colour", "data", "red", "green", "blue", "alpha"] = described(
        "colour",
        "Read as",
        "Colour, or data: numbers as they are, for roughness, metalness and normals. One channel: of a picture that "
        "holds several things.",
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
    encoding: str = described(
        "",
        "Colour space",
        "What its colours mean, by OpenColorIO's names. By the file: EXR and HDR are linear, all else is sRGB.",
        kind="choice",
        choices=(("", "By the file"), *((name, name) for name in ENCODINGS)),
    )
    frame_number: int = described(1, "Frame", "Which picture of the sequence.", kind="whole", low=0, high=999_999)
    wrap: Literal[tuple(name for name, _ in WRAPS)] = described(
        "periodic",
        "Beyond its edge",
        "Repeats, turns back as in a mirror, goes on as at the edge, is black, or shows what is under it.",
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
        """Return (path, space) of the picture: of the frame that is shown, and with the colour space's name, if any."""
        space = f"colour:{self.encoding}" if self.encoding and self.is_colour else self.space
        return at_frame(self.path, self.frame_number), space

    @property
    def unseen(self) -> set[str]:
        """Return its own fields that count for nothing as it is set: only of normals green points somewhere."""
        unseen = set() if self.parameter == "geometry_normal" else {"green_down"}
        unseen |= set() if self.is_colour else {"encoding"}
        return unseen if is_sequence(self.path) else unseen | {"frame_number"}

    def driving(self, parameter: str, *, is_colour: bool) -> dict[str, Any]:
        """Return how a picture is read for that parameter."""
        kept = self.space if self.space != "colour" else "data"
        return {"space": "colour" if is_colour else kept}

    @property
    def is_plain(self) -> bool:
        """Return True if it is one picture that repeats, too."""
        is_one = not (is_tiles(self.path) or is_sequence(self.path) or self.encoding)
        is_laid_plainly = self.wrap == "periodic" and not (self.hide_repeats or self.green_down)
        return super().is_plain and is_one and is_laid_plainly

    @property
    def is_colour(self) -> bool:
        """Return True if the picture is read as colour."""
        return self.space == "colour"

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) bilinear values of the picture at coordinates whose v points up."""
        if f.hide_repeats:
            turn = 0.0 if self.parameter == "geometry_normal" else f.patch_turn
            patch, turn = np.asarray(f.patch, float), np.asarray(turn, float)
            found = laid(even_of(together(image)), looked_up, q[..., 0], q[..., 1], patch, turn)
        else:
            across, up = spread(image)
            u, v, inside = wrapped(q[..., 0] / across, q[..., 1] / up, f.wrap)
            found = looked_up(together(image), u, v) * inside[..., None]
            if f.wrap == 4:
                found = found + under * (1 - inside[..., None])
        if f.green_down:
            found = np.stack([found[..., 0], np.maximum(1 - found[..., 1], 0), found[..., 2]], axis=-1)
        return found


def wrapped(u: np.ndarray, v: np.ndarray, wrap: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return coordinates brought into one picture as a way of wrapping tells, and where there is any."""
    inside = np.ones(np.shape(u))
    if wrap == 1:
        u, v = (1 - np.abs(1 - np.mod(t, 2)) for t in (u, v))
    if wrap >= 3:
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

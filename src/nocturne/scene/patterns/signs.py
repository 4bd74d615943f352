"""Sign artwork: lettering and simple shapes, with fills, outlines, a glow towards the edge, and relief."""

from functools import lru_cache
from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import field_validator

from nocturne.kept import kept
from nocturne.lettering import distance
from nocturne.lettering.distance import by_table
from nocturne.lettering.setting import MOST, Artwork, set_text
from nocturne.scene.fields import Colour, described
from nocturne.scene.patterns import emblems
from nocturne.scene.patterns.noises import grey
from nocturne.scene.patterns.step import Step, Where, lies_by

OUTLINES = 3
_NOTHING = (0.06, 0.06, 0.06)  # beside it in small pictures
_FINE = 1e-9  # the least width of an edge
_INK = ("color", "edge_color", "edge_width", "softness")
_OUTLINES = tuple(f"outline_{k}_{part}" for k in (1, 2, 3) for part in ("width", "gap", "color"))
_BESIDE = ("beside", "ground_color", "one_side")


def _width(label: str, help: str) -> Any:
    return described(0.0, label, help, unit="m", low=0, high=100, soft_high=0.1)


class _Sign(Step):
    """What lettering and shapes share: how they are inked. Kernels read these fields at the same place of each."""

    family: ClassVar[str] = "Signs"

    where: Where = lies_by("flat")
    output: Literal["colours", "letters", "all", "raised", "distance"] = described(
        "colours",
        "Puts out",
        "Its colours; a mask of the fill; a mask with the outlines; relief that rises from the edge; or how far the "
        "edge is, grey at the edge itself.",
        kind="choice",
        choices=(
            ("colours", "Colours"),
            ("letters", "Mask of the fill"),
            ("all", "Mask with outlines"),
            ("raised", "Relief"),
            ("distance", "Distance to the edge"),
        ),
    )
    color: Colour = described((0.85, 0.85, 0.85), "Fill", "Colour of the fill.", kind="colour")
    edge_color: Colour = described((0.1, 0.1, 0.1), "Glow's edge", "What the fill falls off to.", kind="colour")
    edge_width: float = _width("Glow falls over", "From the edge inwards, how far the fill falls off. 0: not at all.")
    softness: float = _width("Soft edge", "How broad each edge is.")
    outline_1_width: float = _width("Outline", "How broad the first outline is. 0: none.")
    outline_1_gap: float = _width("Gap", "Between the fill and the first outline.")
    outline_1_color: Colour = described((0.05, 0.05, 0.05), "Its colour", "Of the first outline.", kind="colour")
    outline_2_width: float = _width("Second outline", "How broad it is. 0: none.")
    outline_2_gap: float = _width("Gap", "Between the first outline and the second.")
    outline_2_color: Colour = described((0.6, 0.4, 0.1), "Its colour", "Of the second outline.", kind="colour")
    outline_3_width: float = _width("Third outline", "How broad it is. 0: none.")
    outline_3_gap: float = _width("Gap", "Between the second outline and the third.")
    outline_3_color: Colour = described((0.5, 0.05, 0.05), "Its colour", "Of the third outline.", kind="colour")
    beside: Literal["under", "own"] = described(
        "under",
        "Beside it",
        "What lies under it goes on, or a colour of its own.",
        kind="choice",
        choices=(("under", "What is under it"), ("own", "A colour")),
    )
    ground_color: Colour = described((0.0, 0.0, 0.0), "Ground", "The colour beside it.", kind="colour")
    bevel: float = described(
        0.005,
        "Rises over",
        "Of relief, from the edge inwards to its full height; of distance, how far it tells.",
        unit="m",
        low=1e-6,
        high=100,
        soft_high=0.1,
        log=True,
    )
    one_side: bool = described(
        True, "One side only", "Not on faces that look away from where it is laid on from.", kind="switch"
    )

    @property
    def unseen(self) -> set[str]:
        """Return the fields that count for nothing as it is set."""
        found = set()
        if self.output not in ("raised", "distance"):
            found.add("bevel")
        if self.output != "colours":
            found |= {"color", "edge_color", "edge_width", "beside", "ground_color"}
            found |= {f"outline_{k}_color" for k in (1, 2, 3)}
        if self.output not in ("colours", "all"):
            found |= set(_OUTLINES)
        if self.output in ("raised", "distance"):
            found.add("softness")
        if self.beside == "under":
            found.add("ground_color")
        if self.where not in ("flat", "solid"):
            found.add("one_side")
        if self.edge_width == 0:
            found.add("edge_color")
        for k in (1, 2, 3):
            if getattr(self, f"outline_{k}_width") == 0:
                found |= {f"outline_{k}_gap", f"outline_{k}_color"}
                found |= {f"outline_{n}_width" for n in range(k + 1, 4) if getattr(self, f"outline_{n}_width") == 0}
        return found

    @classmethod
    def made_for(cls, parameter: str, *, is_colour: bool, **values: Any) -> "_Sign":
        """Return a new one that drives a parameter: what glows does so in the letters only; masks for numbers."""
        if parameter.startswith("emission"):
            values = {"beside": "own", **values}
        elif parameter == "geometry_height":
            values = {"output": "raised", **values}
        elif not is_colour:
            values = {"output": "letters", **values}
        return cls(parameter=parameter, **values)

    def driving(self, parameter: str, *, is_colour: bool) -> dict[str, Any]:
        """Return what a new one would put out for that parameter, if this one put out what a new one did before."""
        before = type(self).made_for(self.parameter, is_colour=self.parameter.endswith("_color"))
        new = type(self).made_for(parameter, is_colour=is_colour)
        return {k: getattr(new, k) for k in ("output", "beside") if getattr(self, k) == getattr(before, k)}

    def for_picture(self) -> "Step":
        """Return it as a small picture shows it: flat, whatever it is laid on."""
        plain = {"where": "uv", "repeat": (1.0, 1.0), "offset": (0.0, 0.0), "turn_deg": 0.0}
        beside = {} if self.beside == "own" else {"beside": "own", "ground_color": _NOTHING}
        return self.model_copy(update={**plain, **beside})

    def _faces(self, spot: Any, shape: tuple[int, ...]) -> np.ndarray:
        """Return (...) 1 where a face looks to where it is laid on from, else 0."""
        if not self.one_side or self.where not in ("flat", "solid"):
            return np.ones(shape)
        n = spot.own_normal if self.anchor == "thing" else spot.normal
        return (n @ self.frame()[2, :3] > 0).astype(float)

    def _inked(self, f: Any, d: np.ndarray, spot: Any, under: np.ndarray) -> np.ndarray:
        """Return (..., 3) of what is put out at signed distances (...) to its edge."""
        wide = np.maximum(np.asarray(f.softness, float), _FINE)
        faces = self._faces(spot, d.shape)

        def cover(outer: Any) -> np.ndarray:
            return np.clip(0.5 - (d - outer) / wide, 0, 1) * faces

        fill = cover(0.0)
        if f.output == 1:
            return grey(fill)
        bevel = np.maximum(np.asarray(f.bevel, float), 1e-9)
        if f.output == 3:
            t = np.clip(-d / bevel, 0, 1) * faces
            return grey(t * t * (3 - 2 * t))
        if f.output == 4:
            return grey(np.clip(0.5 - 0.5 * d / bevel, 0, 1) * faces)
        own = np.asarray(f.ground_color, float) if f.beside == 1 else under
        ground = np.broadcast_to(own, (*d.shape, 3)) if f.output == 0 else np.zeros((*d.shape, 3))
        rims, at = [], np.zeros_like(d)
        for k in range(1, OUTLINES + 1):
            width = np.asarray(getattr(f, f"outline_{k}_width"), float)
            inner = at + np.where(width > 0, np.asarray(getattr(f, f"outline_{k}_gap"), float), 0.0)
            colour = np.asarray(getattr(f, f"outline_{k}_color"), float) if f.output == 0 else np.ones(3)
            rims.append((at, inner, inner + width, width, colour))
            at = inner + width
        out = ground
        for before, inner, outer, width, colour in reversed(rims):
            out = _over(out, colour, np.where(width > 0, cover(outer), 0.0))
            out = _over(out, ground, np.where((width > 0) & (inner > before), cover(inner), 0.0))
        if f.output == 2:
            return _over(out, np.ones(3), fill)
        depth = np.maximum(np.asarray(f.edge_width, float), _FINE)
        t = np.clip(-d / depth, 0, 1)
        t = np.where(np.asarray(f.edge_width, float) > 0, t * t * (3 - 2 * t), 1.0)
        edge = np.broadcast_to(np.asarray(f.edge_color, float), (*d.shape, 3))
        return _over(out, _over(edge, np.asarray(f.color, float), t), fill)


def _over(under: np.ndarray, over: np.ndarray, share: np.ndarray) -> np.ndarray:
    return under + (over - under) * share[..., None]


class Lettering(_Sign):
    """Text in any script."""

    title: ClassVar[str] = "Lettering"
    about: ClassVar[str] = "Text in any script, with outlines and fills, crisp however near."
    baked: ClassVar[tuple[str, ...]] = ("face", "align", "spacing", "leading", "direction")
    sections: ClassVar[dict[str, tuple[str, ...]]] = {
        "": ("words", "face", "height", "align", "spacing", "leading", "direction", "output", "bevel"),
        "Ink": _INK,
        "Outlines": _OUTLINES,
        "Beside it": _BESIDE,
    }

    kind: Literal["lettering"] = "lettering"
    height: float = described(
        0.1, "Letters' height", "Of a capital letter.", unit="m", low=1e-5, high=1000, soft_high=2, log=True
    )
    words: str = described("Nocturne", "Words", "What it says; line breaks part lines.", kind="lines")
    face: str = described(
        "sans", "Face", "Shipped, or installed on this machine. What it lacks, the sans has.", kind="face"
    )
    align: Literal["left", "centre", "right"] = described(
        "centre",
        "Lines stand",
        "How lines of various length stand under each other.",
        kind="choice",
        choices=(("left", "Left"), ("centre", "Centred"), ("right", "Right")),
    )
    spacing: float = described(
        0.0, "Spacing", "Between letters, in parts of their height.", kind="percent", low=-0.5, high=5, soft_high=1
    )
    leading: float = described(1.6, "Line to line", "In heights of a capital.", low=0.5, high=10, soft_high=4)
    direction: Literal["auto", "ltr", "rtl"] = described(
        "auto",
        "Runs",
        "As the first letter of each line does, or always one way.",
        kind="choice",
        choices=(("auto", "As its script"), ("ltr", "To the right"), ("rtl", "To the left")),
    )

    @field_validator("words")
    @classmethod
    def _words_are_few(cls, words):
        if len(words) > MOST:
            raise ValueError(f"lettering has at most {MOST} characters")
        return words

    @property
    def artwork(self) -> Artwork:
        """Return its outlines, in heights of a capital, about the middle of the block."""
        layout = {name: getattr(self, name) for name in ("align", "spacing", "leading", "direction")}
        return set_text(self.words, self.face, **layout)

    @property
    def table(self) -> np.ndarray:
        """Return (n, 4): its outlines with a grid over them, as `lettering.distance` has them."""
        return _table(self.artwork)

    @property
    def extent(self) -> float:
        """Return a square that all of it is in."""
        return float(self.artwork.block.max() * 1.15 + 0.4) * self.height

    @property
    def corner(self) -> tuple[float, float]:
        """Return the lower left corner of that square: it is about the middle."""
        return (-0.5 * self.extent, -0.5 * self.extent)

    @property
    def known_as(self) -> str:
        """Return what it says, in one line."""
        return " ".join(self.words.split()) or self.title

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) of the letters."""
        height = np.maximum(np.asarray(f.height, float), 1e-9)
        d = by_table(self.table, q[..., :2] / height[..., None]) * height
        return self._inked(f, d, spot, under)


@lru_cache(maxsize=64)
def _table(art: Artwork) -> np.ndarray:
    """Return the table of artwork; the last ones are kept."""
    (made,) = kept("letters", (art.pieces, art.low, art.high), (distance.__file__,), lambda: (distance.table(art),))
    made.flags.writeable = False
    return made


class Emblem(_Sign):
    """A simple shape, once or several in a row."""

    title: ClassVar[str] = "Simple shape"
    about: ClassVar[str] = "Dots, bars, frames, stars and arrows, with outlines and fills."
    sections: ClassVar[dict[str, tuple[str, ...]]] = {
        "": ("style", "width", "height", "corner_radius", "thickness", "points", "waist", "count", "gap")
        + ("output", "bevel"),
        "Ink": _INK,
        "Outlines": _OUTLINES,
        "Beside it": _BESIDE,
    }

    kind: Literal["emblem"] = "emblem"
    style: Literal["dot", "ring", "bar", "frame", "star", "polygon", "arrow"] = described(
        "frame",
        "Shape",
        "What it is.",
        kind="choice",
        choices=(
            *(("dot", "Dot"), ("ring", "Ring"), ("bar", "Bar"), ("frame", "Frame")),
            *(("star", "Star"), ("polygon", "Polygon"), ("arrow", "Arrow")),
        ),
    )
    width: float = described(0.6, "Width", "Across.", unit="m", low=1e-5, high=1000, soft_high=2, log=True)
    height: float = described(0.3, "Height", "Up.", unit="m", low=1e-5, high=1000, soft_high=2, log=True)
    corner_radius: float = described(0.03, "Round corners", "Their radius.", unit="m", low=0, high=500, soft_high=0.2)
    thickness: float = described(
        0.02, "Thickness", "Of a ring, a frame or an arrow's shaft.", unit="m", low=1e-6, high=500, soft_high=0.2
    )
    points: int = described(5, "Points", "Of a star or a polygon.", kind="whole", low=3, high=64, soft_high=16)
    waist: float = described(
        0.45,
        "Waist",
        "Of a star, its inner radius in parts of the outer; of an arrow, the length of its head in parts of its "
        "height.",
        kind="percent",
        low=0.05,
        high=1,
    )
    count: int = described(1, "How many", "In a row.", kind="whole", low=1, high=1000, soft_high=20)
    gap: float = described(0.05, "Between them", "From one to the next.", unit="m", low=0, high=1000, soft_high=1)

    @property
    def unseen(self) -> set[str]:
        """Return the fields that count for nothing as it is set."""
        of_styles = {
            "width": ("bar", "frame", "arrow"),
            "corner_radius": ("bar", "frame"),
            "thickness": ("ring", "frame", "arrow"),
            "points": ("star", "polygon"),
            "waist": ("star", "arrow"),
        }
        found = {name for name, styles in of_styles.items() if self.style not in styles}
        return super().unseen | found | ({"gap"} if self.count == 1 else set())

    @property
    def across(self) -> float:
        """Return how wide one is."""
        return self.width if self.style in ("bar", "frame", "arrow") else self.height

    @property
    def extent(self) -> float:
        """Return a square that all of it is in."""
        return 1.3 * max(self.height, self.count * (self.across + self.gap) - self.gap)

    @property
    def corner(self) -> tuple[float, float]:
        """Return the lower left corner of that square: it is about the middle."""
        return (-0.5 * self.extent, -0.5 * self.extent)

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) of the shapes."""
        return self._inked(f, emblems.distances(f, q[..., 0], q[..., 1]), spot, under)

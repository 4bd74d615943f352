"""Text in relief: letters with a depth."""

from functools import cache
from pathlib import Path
from typing import Any, ClassVar, Literal

import numpy as np

from nocturne.scene.fields import described
from nocturne.scene.forms.form import Form, length
from nocturne.scene.shapes import Mesh, joined
from nocturne.scene.smoothing import creased

_FONT = Path(__file__).resolve().parents[2] / "ui" / "theme" / "fonts" / "Commissioner_600SemiBold.ttf"
_STEPS = 6  # pieces of each curve of an outline


class Text(Form):
    """Upright letters that face minus y and stand on z = 0, centred; lines by line breaks."""

    title: ClassVar[str] = "Text"
    own: ClassVar[tuple[str, ...]] = ("words", "height", "depth", "spacing")

    kind: Literal["text"] = "text"
    words: str = described("Nocturne", "Words", "What it says.", kind="text")
    height: float = length(0.3, "Capital height", "Of a capital letter.")
    depth: float = length(0.04, "Relief", "How far it stands out.")
    spacing: float = described(0.0, "Spacing", "Between letters, in parts of their height.", low=-0.5, high=5)

    def build(self) -> Mesh:
        """Return the letters: faces, backs and sides."""
        parts = []
        lines = self.words.split("\n")[:64]
        for row, line in enumerate(lines):
            parts += self._line(line[:512], (len(lines) - 1 - row) * 1.6 * self.height)
        if not parts:
            return _nothing()
        return creased(joined(*parts), 30.0)

    def _line(self, line: str, z: float) -> list[Mesh]:
        font = _font()
        scale = self.height / font.capital
        x, placed = 0.0, []
        for character in line:
            rings, advance = font.glyph(character)
            placed.append((x, rings))
            x += advance * scale + self.spacing * self.height
        width = x - self.spacing * self.height
        return [
            mesh
            for at, rings in placed
            for mesh in _relief([ring * scale + (at - width / 2, z) for ring in rings], self.depth)
        ]


def _nothing() -> Mesh:
    none = np.zeros((0, 3))
    return Mesh(none, none, none, np.zeros((0, 2)))


def _relief(rings: list[np.ndarray], depth: float) -> list[Mesh]:
    """Return front, back and sides of one letter: rings (n, 2) of x and z, outer ones and holes turning oppositely."""
    import mapbox_earcut

    out = []
    areas = [_area(ring) for ring in rings]
    if not rings:
        return []
    outward = np.sign(max(areas, key=abs))
    for ring, area in zip(rings, areas):
        if np.sign(area) != outward:
            continue
        holes = [r for r, a in zip(rings, areas) if np.sign(a) == -outward and _is_inside(r[0], ring)]
        flat = np.concatenate([ring, *holes])
        ends = np.cumsum([len(ring), *map(len, holes)]).astype(np.uint32)
        triangles = mapbox_earcut.triangulate_float64(flat, ends).reshape(-1, 3).astype(np.int64)
        p = flat[triangles]
        turn = (p[:, 1, 0] - p[:, 0, 0]) * (p[:, 2, 1] - p[:, 0, 1]) - (p[:, 1, 1] - p[:, 0, 1]) * (
            p[:, 2, 0] - p[:, 0, 0]
        )
        triangles = np.where((turn < 0)[:, None], triangles[:, ::-1], triangles)
        for y, order, normal in ((0.0, slice(None), -1.0), (depth, slice(None, None, -1), 1.0)):
            v = np.stack([flat[:, 0], np.full(len(flat), y), flat[:, 1]], axis=1)
            out.append(Mesh(v, triangles[:, order], np.tile((0.0, normal, 0.0), (len(v), 1)), flat))
        for loop in (ring, *holes):
            out.append(_side(loop, depth, outward))
    return out


def _side(ring: np.ndarray, depth: float, outward: float) -> Mesh:
    n = len(ring)
    closed = np.concatenate([ring, ring[:1]])
    along = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(closed, axis=0), axis=1))])
    v = np.concatenate([np.stack([closed[:, 0], np.full(n + 1, y), closed[:, 1]], axis=1) for y in (0.0, depth)])
    uvs = np.concatenate([np.stack([along, np.full(n + 1, y)], axis=1) for y in (0.0, depth)])
    k = np.arange(n)
    a, b, c, d = k, k + 1, k + n + 2, k + n + 1
    triangles = np.concatenate([np.stack([a, c, b], 1), np.stack([a, d, c], 1)])
    if outward < 0:
        triangles = triangles[:, ::-1]
    return Mesh(v, triangles, np.zeros_like(v) + (0, 0, 1), uvs)


def _area(ring: np.ndarray) -> float:
    x, y = ring[:, 0], ring[:, 1]
    return float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum() / 2)


def _is_inside(point: np.ndarray, ring: np.ndarray) -> bool:
    (x, y), a, b = point, ring, np.roll(ring, -1, axis=0)
    crosses = (a[:, 1] > y) != (b[:, 1] > y)
    with np.errstate(all="ignore"):
        at = a[:, 0] + (y - a[:, 1]) / (b[:, 1] - a[:, 1]) * (b[:, 0] - a[:, 0])
    return bool((crosses & (x < at)).sum() % 2)


class _Font:
    """Outlines of one font, in its own units."""

    def __init__(self, path: Path) -> None:
        from fontTools.ttLib import TTFont

        self._font = TTFont(path)
        self._names, self._glyphs = self._font.getBestCmap(), self._font.getGlyphSet()
        self.capital = float(getattr(self._font["OS/2"], "sCapHeight", 0) or 0.7 * self._font["head"].unitsPerEm)
        self._made: dict[str, tuple[list[np.ndarray], float]] = {}

    def glyph(self, character: str) -> tuple[list[np.ndarray], float]:
        """Return the rings (n, 2) of a character and how far the next one stands; what it lacks is an empty box."""
        if character not in self._made:
            name = self._names.get(ord(character), ".notdef")
            glyph = self._glyphs[name]
            pen = _rings_pen(self._glyphs)
            glyph.draw(pen)
            self._made[character] = (pen.rings, float(glyph.width))
        return self._made[character]


def _rings_pen(glyphs: Any) -> Any:
    from fontTools.pens.basePen import BasePen

    class Rings(BasePen):
        """Gathers outlines as polygons."""

        def __init__(self) -> None:
            super().__init__(glyphs)
            self.rings: list[np.ndarray] = []
            self._points: list[tuple[float, float]] = []

        def _moveTo(self, pt) -> None:
            self._points = [pt]

        def _lineTo(self, pt) -> None:
            self._points.append(pt)

        def _curveToOne(self, a, b, c) -> None:
            p = np.array([self._points[-1], a, b, c], float)
            for t in np.linspace(0, 1, _STEPS + 1)[1:]:
                w = np.array([(1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t**2 * (1 - t), t**3])
                self._points.append(tuple(w @ p))

        def _closePath(self) -> None:
            points = np.array(self._points, float)
            apart = np.linalg.norm(points - np.roll(points, 1, axis=0), axis=1) > 1e-6
            if apart.sum() >= 3:
                self.rings.append(points[apart])

        _endPath = _closePath

    return Rings()


@cache
def _font() -> _Font:
    return _Font(_FONT)

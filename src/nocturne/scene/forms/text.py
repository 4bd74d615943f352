"""Text in relief: letters with a depth."""

from typing import ClassVar, Literal

import numpy as np

from nocturne.lettering.setting import set_text
from nocturne.scene.fields import described
from nocturne.scene.forms.form import Form, length
from nocturne.scene.shapes import Mesh, joined
from nocturne.scene.smoothing import creased

_STEPS = 6  # pieces of each curve of an outline


class Text(Form):
    """Upright letters that face minus y and stand on z = 0, centred; lines by line breaks."""

    title: ClassVar[str] = "Text"
    own: ClassVar[tuple[str, ...]] = ("words", "face", "height", "depth", "spacing")

    kind: Literal["text"] = "text"
    words: str = described("Nocturne", "Words", "What it says, in any script.", kind="lines")
    face: str = described("sans", "Face", "Shipped, or installed on this machine.", kind="face")
    height: float = length(0.3, "Capital height", "Of a capital letter.")
    depth: float = length(0.04, "Relief", "How far it stands out.")
    spacing: float = described(0.0, "Spacing", "Between letters, in parts of their height.", low=-0.5, high=5)

    def build(self) -> Mesh:
        """Return the letters: faces, backs and sides."""
        art = set_text(self.words, self.face, spacing=self.spacing)
        up = (0.0, 0.5 * float(art.block[1]))
        rings = [(ring + up) * self.height for ring in _rings(art.pieces)]
        parts = _relief(rings, self.depth)
        if not parts:
            return _nothing()
        return creased(joined(*parts), 30.0)


def _nothing() -> Mesh:
    none = np.zeros((0, 3))
    return Mesh(none, none, none, np.zeros((0, 2)))


def _rings(pieces: np.ndarray) -> list[np.ndarray]:
    """Return closed pieces (n, 3, 2) as polygons (m, 2): anticlockwise outside, clockwise around holes."""
    t = np.arange(_STEPS)[:, None] / _STEPS
    rings, at = [], []
    for a, b, c in pieces:
        is_straight = (b == 0.5 * (a + c)).all()
        at.append(a[None] if is_straight else (1 - t) ** 2 * a + 2 * t * (1 - t) * b + t * t * c)
        if (c == at[0][0]).all():
            rings.append(np.concatenate(at))
            at = []
    return [ring for ring in rings if len(ring) > 2]


def _relief(rings: list[np.ndarray], depth: float) -> list[Mesh]:
    """Return front, back and sides of letters: rings (n, 2) of x and z as `_rings` has them."""
    import mapbox_earcut

    out = []
    areas = np.array([_area(ring) for ring in rings])
    low, high = (np.array([way(ring, axis=0) for ring in rings]).reshape(-1, 2) for way in (np.min, np.max))
    holes_of: dict[int, list[np.ndarray]] = {k: [] for k in np.flatnonzero(areas > 0)}
    for k in np.flatnonzero(areas < 0):
        around = np.flatnonzero((areas > 0) & (low <= low[k]).all(1) & (high >= high[k]).all(1))
        around = [outer for outer in around if _is_inside(rings[k][0], rings[outer])]
        if around:
            holes_of[min(around, key=lambda outer: areas[outer])].append(rings[k])
    for outer, holes in holes_of.items():
        ring = rings[outer]
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
        out += [_side(loop, depth) for loop in (ring, *holes)]
    return out


def _side(ring: np.ndarray, depth: float) -> Mesh:
    n = len(ring)
    closed = np.concatenate([ring, ring[:1]])
    along = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(closed, axis=0), axis=1))])
    v = np.concatenate([np.stack([closed[:, 0], np.full(n + 1, y), closed[:, 1]], axis=1) for y in (0.0, depth)])
    uvs = np.concatenate([np.stack([along, np.full(n + 1, y)], axis=1) for y in (0.0, depth)])
    k = np.arange(n)
    a, b, c, d = k, k + 1, k + n + 2, k + n + 1
    triangles = np.concatenate([np.stack([a, c, b], 1), np.stack([a, d, c], 1)])
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

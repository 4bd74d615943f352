"""Outlines: of placed glyphs to one closed line without overlaps, as straight and quadratic pieces."""

import logging
from collections.abc import Iterable

import numpy as np

from nocturne.lettering.shaping import Glyph, hb_font

_LOG = logging.getLogger(__name__)
_UNITS = 1024.0  # of an em while outlines are joined: what that library takes for equal is fixed
_MOST_OFF = 0.05  # of those, that a quadratic may be off a cubic
_STRAIGHT = 1e-5  # how far off the middle, by its length, a straight piece's handle may be


def joined(glyphs: Iterable[Glyph]) -> np.ndarray:
    """Return (n, 3, 2) pieces in em, each begin, handle and end; what is inside lies to their left.

    Straight pieces have their handle in the middle.
    """
    pieces = [np.zeros((0, 3, 2))]
    for group in _touching([path for glyph in glyphs if len(path := _path(glyph))]):
        pieces.append(_pieces(group[0] if len(group) == 1 else _union(group)))
    return np.concatenate(pieces)


def _touching(paths: list) -> list[list]:
    """Return paths in groups that touch each other, by their boxes: to join all at once takes far longer."""
    from scipy.sparse.csgraph import connected_components

    boxes = np.array([path.bounds for path in paths]).reshape(-1, 4)
    low, high = boxes[:, :2], boxes[:, 2:]
    touch = (low[:, None] <= high[None]).all(-1) & (high[:, None] >= low[None]).all(-1)
    n, group = connected_components(touch, directed=False)
    groups: list[list] = [[] for _ in range(n)]
    for path, k in zip(paths, group):
        groups[k].append(path)
    return groups


def _union(paths: list):
    """Return paths as one without overlaps."""
    import pathops

    whole = pathops.Path()
    for path in paths:
        whole.addPath(path)
    try:
        return pathops.simplify(whole, fix_winding=True)
    except pathops.PathOpsError:
        # Where two outlines lie on each other it can fail: letters apart are better than none.
        _LOG.info("outlines could not be joined")
        return whole


def _path(glyph: Glyph):
    import pathops
    from fontTools.pens.transformPen import TransformPen

    font = hb_font(glyph.font)
    scale = _UNITS / font.face.upem
    path = pathops.Path()
    pen = TransformPen(path.getPen(glyphSet=None), (scale, 0, 0, scale, glyph.x * _UNITS, glyph.y * _UNITS))
    font.draw_glyph_with_pen(glyph.id, pen)
    try:
        return pathops.simplify(path, fix_winding=True)
    except pathops.PathOpsError:
        return path


def _pieces(path) -> np.ndarray:
    import pathops

    path.convertConicsToQuads()
    verb = pathops.PathVerb
    out: list[tuple] = []
    start = at = (0.0, 0.0)
    for kind, points in path:
        if kind == verb.MOVE:
            start = at = points[0]
            continue
        if kind == verb.LINE:
            out.append(_straight(at, points[0]))
        elif kind == verb.QUAD:
            out.append((at, *points))
        elif kind == verb.CUBIC:
            out += _quadratics((at, *points))
        elif kind == verb.CLOSE and at != start:
            out.append(_straight(at, start))
        at = points[-1] if points else start
    pieces = np.array(out, float).reshape(-1, 3, 2) / _UNITS
    pieces = _with_straight_ones(pieces[(pieces[:, 0] != pieces[:, 2]).any(1)])
    return pieces if _area(pieces) >= 0 else pieces[:, ::-1]


def _straight(a: tuple, b: tuple) -> tuple:
    return a, ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2), b


def _quadratics(cubic: tuple) -> list[tuple]:
    from fontTools.cu2qu import curve_to_quadratic

    handles = curve_to_quadratic(cubic, _MOST_OFF)
    ends = [
        handles[0],
        *(((a[0] + b[0]) / 2, (a[1] + b[1]) / 2) for a, b in zip(handles[1:-2], handles[2:-1])),
        handles[-1],
    ]
    return list(zip(ends[:-1], handles[1:-1], ends[1:]))


def _with_straight_ones(pieces: np.ndarray) -> np.ndarray:
    """Return pieces whose handles are exactly in the middle where they were nearly."""
    middle = 0.5 * (pieces[:, 0] + pieces[:, 2])
    off = np.linalg.norm(pieces[:, 1] - middle, axis=1)
    is_straight = off <= _STRAIGHT * np.linalg.norm(pieces[:, 2] - pieces[:, 0], axis=1)
    pieces[is_straight, 1] = middle[is_straight]
    return pieces


def _area(pieces: np.ndarray) -> float:
    """Return the area inside of closed pieces, above 0 if they go around it anticlockwise."""
    a, b, c = pieces[:, 0], pieces[:, 1], pieces[:, 2]

    def turn(p: np.ndarray, q: np.ndarray) -> np.ndarray:
        return p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0]

    return float((2 * turn(a, b) + 2 * turn(b, c) + turn(a, c)).sum() / 6)

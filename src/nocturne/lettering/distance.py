"""Distances to outlines, exact: below 0 inside, above 0 outside, in the outlines' own unit.

The kernels do the same in single precision. Which pieces can be the nearest is known for each cell of a grid.
"""

from itertools import chain

import numpy as np

from nocturne.lettering.setting import Artwork

MARGIN = 1.0  # how far the grid goes beyond what is drawn
_MOST_CELLS = 40_000
_FINEST = 0.1
_APART = 0.02  # how near each place of a piece is to a sample of it, while candidates are looked for
HEAD = 2  # rows before the cells


def exact(pieces: np.ndarray, places: np.ndarray) -> np.ndarray:
    """Return (...) signed distances from places (..., 2) to the nearest of pieces, (n, 3, 2) or (..., n, 3, 2).

    The nearest place on a quadratic piece is a root of a cubic (by Cardano's formula); where it is an end that two
    pieces share, the one seen more from the side tells what is inside.
    """
    a, b, c = pieces[..., 0, :], pieces[..., 1, :], pieces[..., 2, :]
    p = places[..., None, :]
    t = np.stack([np.zeros(np.broadcast_shapes(a.shape, p.shape)[:-1])] * 5, axis=-1)
    t[..., 1] = 1.0
    t[..., 2:] = np.clip(_roots(a, b, c, p), 0, 1)
    k = t[..., None]
    at = ((1 - k) ** 2) * a[..., None, :] + (2 * k * (1 - k)) * b[..., None, :] + k * k * c[..., None, :]
    at = np.where(k == 0, a[..., None, :], np.where(k == 1, c[..., None, :], at))
    way = 2 * (1 - k) * (b - a)[..., None, :] + 2 * k * (c - b)[..., None, :]
    way = way / np.maximum(np.linalg.norm(way, axis=-1, keepdims=True), 1e-30)
    to = p[..., None, :] - at
    far = (to**2).sum(-1)
    side = way[..., 0] * to[..., 1] - way[..., 1] * to[..., 0]
    far, side = (v.reshape(*v.shape[:-2], -1) for v in (far, side))
    nearest = far <= far.min(-1, keepdims=True) * (1 + 1e-9) + 1e-24
    chosen = np.where(nearest, np.abs(side), -1).argmax(-1)[..., None]
    inside = np.take_along_axis(side, chosen, -1)[..., 0] > 0
    return np.where(inside, -1.0, 1.0) * np.sqrt(far.min(-1))


def _roots(a: np.ndarray, b: np.ndarray, c: np.ndarray, p: np.ndarray) -> np.ndarray:
    """Return (..., 3) where quadratic pieces come nearest to places, or turn away; of straight ones once."""
    d, e, f = b - a, a - 2 * b + c, a - p
    cubic = (e * e).sum(-1)
    square, linear, rest = 3 * (d * e).sum(-1), 2 * (d * d).sum(-1) + (f * e).sum(-1), (f * d).sum(-1)
    is_straight = cubic <= 1e-12 * np.maximum((d * d).sum(-1), 1e-30)
    straight = -rest / np.maximum(2 * (d * d).sum(-1), 1e-30)
    with np.errstate(all="ignore"):
        # t = s - square / (3 cubic): then s^3 + m s + n = 0.
        shift = square / (3 * cubic)
        m = linear / cubic - 3 * shift**2
        n = 2 * shift**3 - shift * linear / cubic + rest / cubic
        under = (n / 2) ** 2 + (m / 3) ** 3
        root = np.sqrt(np.maximum(under, 0))
        u = np.cbrt(-n / 2 - np.copysign(root, n))
        one = u - np.where(u != 0, m / (3 * u), 0.0)
        size = 2 * np.sqrt(np.maximum(-m / 3, 0))
        angle = np.arccos(np.clip(np.where(size > 0, 3 * n / (m * size), 0.0), -1, 1)) / 3
        three = np.stack([size * np.cos(angle - 2 * np.pi * k / 3) for k in range(3)], axis=-1)
        found = np.where((under > 0)[..., None], one[..., None], three) - shift[..., None]
    found = np.where(is_straight[..., None], straight[..., None], found)
    return np.where(np.isfinite(found), found, 0.0)


def table(art: Artwork) -> np.ndarray:
    """Return (n, 4) float64: the grid, which pieces count in each cell, and the pieces, as kernels read them.

    Rows: (x, y, cells in a unit, cells across) and (cells up, first row of lists, first row of pieces, pieces); then
    one for each cell: where its list begins, among all numbers of lists, and how long it is; the lists, four numbers
    a row; and two for each piece: begin and handle, end.
    """
    from scipy.spatial import cKDTree

    if not len(art.pieces):
        return np.zeros((HEAD, 4))
    low, high = art.low - MARGIN, art.high + MARGIN
    side = max(_FINEST, float(np.sqrt(np.prod(high - low) / _MOST_CELLS)))
    n = np.maximum(np.ceil((high - low) / side).astype(int), 1)
    x, y = np.meshgrid(np.arange(n[0]) + 0.5, np.arange(n[1]) + 0.5)
    middles = low + side * np.stack([x.ravel(), y.ravel()], axis=1)
    samples, owner, apart = _samples(art.pieces)
    tree = cKDTree(samples)
    nearest, _ = tree.query(middles)
    # Whatever is nearest to some place of a cell is, from its middle, at most a diagonal farther than the nearest.
    reach = nearest + np.sqrt(2) * side + apart
    found = tree.query_ball_point(middles, reach * (1 + 1e-9), return_sorted=False)
    many = np.fromiter((len(hits) for hits in found), int, len(found))
    pieces_of = owner[np.fromiter(chain.from_iterable(found), int, int(many.sum()))]
    cell, numbers = np.divmod(np.unique(np.repeat(np.arange(len(found)), many) * len(owner) + pieces_of), len(owner))
    counts = np.bincount(cell, minlength=len(found))
    rows = np.zeros((-(-len(numbers) // 4), 4))
    rows.reshape(-1)[: len(numbers)] = numbers
    cells = np.zeros((len(counts), 4))
    cells[:, 0], cells[:, 1] = np.cumsum(counts) - counts, counts
    first_list = HEAD + len(cells)
    first_piece = first_list + len(rows)
    head = [[*low, 1 / side, n[0]], [n[1], first_list, first_piece, len(art.pieces)]]
    a, b, c = (art.pieces[:, k] for k in range(3))
    ends = np.concatenate([c, np.zeros_like(c)], axis=1)
    pieces = np.stack([np.concatenate([a, b], axis=1), ends], axis=1).reshape(-1, 4)
    return np.concatenate([np.array(head, float), cells, rows, pieces])


def _samples(pieces: np.ndarray) -> tuple[np.ndarray, np.ndarray, float]:
    """Return (m, 2) places on pieces, (m,) whose they are, and how far any place of a piece is from one of its own."""
    a, b, c = (pieces[:, k] for k in range(3))
    speed = 2 * np.maximum(np.linalg.norm(b - a, axis=1), np.linalg.norm(c - b, axis=1))  # along it, at most
    many = np.ceil(speed / (2 * _APART)).astype(int) + 1
    owner = np.repeat(np.arange(len(pieces)), many)
    at = np.arange(len(owner)) - np.repeat(np.cumsum(many) - many, many)
    t = (at / np.maximum(many[owner] - 1, 1))[:, None]
    along = (1 - t) ** 2 * a[owner] + 2 * t * (1 - t) * b[owner] + t * t * c[owner]
    return along, owner, float((speed / np.maximum(many - 1, 1)).max() / 2)


def by_table(rows: np.ndarray, places: np.ndarray) -> np.ndarray:
    """Return (...) signed distances by the grid of a table; beyond it, those to what counts at its rim."""
    flat = np.asarray(places, float).reshape(-1, 2)
    low, scale, across = rows[0, :2], rows[0, 2], int(rows[0, 3])
    if not rows[1, 3]:
        return np.full(places.shape[:-1], 1e9)
    up, first_list, first_piece, count = rows[1].astype(int)
    i = np.clip(((flat - low) * scale).astype(int), 0, [across - 1, up - 1])
    cells = rows[HEAD + i[:, 1] * across + i[:, 0], :2].astype(int)
    numbers = rows[first_list:first_piece].reshape(-1).astype(int)
    ends = rows[first_piece:].reshape(count, 8)
    pieces = np.stack([ends[:, 0:2], ends[:, 2:4], ends[:, 4:6]], axis=1)
    longest = int(cells[:, 1].max())
    # Shorter lists are filled with their own first piece.
    at = np.arange(longest)
    which = numbers[cells[:, :1] + np.where(at < cells[:, 1:], at, 0)]
    out = np.empty(len(flat))
    for k in range(0, len(flat), 4096):
        out[k : k + 4096] = exact(pieces[which[k : k + 4096]], flat[k : k + 4096])
    return out.reshape(places.shape[:-1])

"""A picture laid without repeats: patches of it at random places, blended so that contrast and colours stay.

The picture's values are first spread as a normal distribution is, along the main axes of its colours; blended patches
of that have its variance again once they are divided by the root of the squared shares, and are then taken back through
the same spread (Heitz and Neyret 2018, High-performance by-example noise using a histogram-preserving blending
operator). For coarser levels, whose values vary less, the way back is the mean over what they stand for.
"""

import threading
from dataclasses import dataclass
from statistics import NormalDist

import numpy as np

from nocturne.kept import kept
from nocturne.scene.patterns.hashing import hashed

STEPS = 256
SPREAD = 1 / 6  # of the normal distribution about a half
HEAD = 3  # rows of the table before the ways back
_MOST_SORTED = 1 << 18  # pixels that decide the spread
_MOST_RANKS = 1 << 14  # values between which those of the even steps below are looked up
_EVEN_STEPS = 1 << 16  # even steps over all values, between which those of pixels are looked up
_MOST_KEPT = 12
_LEAST_KEPT = 200_000  # numbers; what is smaller, such as what small pictures show, is made in a moment


@dataclass(frozen=True, eq=False)
class Even:
    """A picture made ready: normally spread values, and the way back.

    spread: (h, w, 3) float32, about 0..1. table: (3 + levels * 256, 4): first, for red, green and blue, the share of
    each main axis and the mean; then for each level what spread values 0..1 are along the axes.
    """

    spread: np.ndarray
    table: np.ndarray


class _Kept:
    """A picture, and what it is made into once somebody asks; others who ask meanwhile wait for it."""

    def __init__(self, image: np.ndarray) -> None:
        self.image, self._even, self._free = image, None, threading.Lock()

    @property
    def even(self) -> Even:
        with self._free:
            if self._even is None:
                self._even = Even(*kept("even", (self.image,), (__file__,), lambda: _parts(_even(self.image))))
            return self._even


_free = threading.Lock()
_made: dict[int, _Kept] = {}


def even_of(image: np.ndarray) -> Even:
    """Return what a picture (h, w, 3) of linear values is made into; of the last few large ones it is kept.

    Several may be made at once, from as many threads.
    """
    if image.size < _LEAST_KEPT:
        return _even(image)
    with _free:
        kept = _made.get(id(image))
        if kept is None or kept.image is not image:
            while len(_made) >= _MOST_KEPT:
                _made.pop(next(iter(_made)))
            kept = _made[id(image)] = _Kept(image)
    return kept.even


def _parts(even: Even) -> tuple[np.ndarray, np.ndarray]:
    return even.spread, even.table


def _even(image: np.ndarray) -> Even:
    height, width, _ = image.shape
    flat = np.asarray(image, np.float32).reshape(-1, 3)
    mean = flat.mean(0, dtype=np.float64)
    # An odd step goes through all columns of a picture whose width is even.
    some = flat[:: len(flat) // _MOST_SORTED | 1].astype(np.float64)
    _, axes = np.linalg.eigh(np.cov((some - mean).T) + 1e-12 * np.eye(3))
    along = flat @ axes.astype(np.float32) - (mean @ axes).astype(np.float32)
    ordered = np.sort((some - mean) @ axes, axis=0)
    which = np.linspace(0, len(ordered) - 1, min(len(ordered), _MOST_RANKS)).round().astype(int)
    ordered, chances = ordered[which], (which + 0.5) / len(ordered)
    normal = 0.5 + SPREAD * _quantile(chances)
    spread = np.stack([_looked_up(along[:, k], ordered[:, k], normal) for k in range(3)], axis=-1)
    spread = np.clip(spread, 0, 1).reshape(height, width, 3).astype(np.float32)
    at = np.linspace(0, 1, STEPS)
    back = np.stack([np.interp(at, normal, ordered[:, k]) for k in range(3)], axis=-1)
    levels, level = [back], spread
    whole = level.reshape(-1, 3).var(0)
    while max(level.shape[:2]) > 1:
        level = _halved(level)
        lost = np.sqrt(np.maximum(whole - level.reshape(-1, 3).var(0), 0))
        levels.append(np.stack([_blurred(back[:, k], lost[k]) for k in range(3)], axis=-1))
    head = np.concatenate([axes, mean[:, None]], axis=1)
    rows = np.concatenate(levels)
    return Even(spread, np.concatenate([head, np.pad(rows, ((0, 0), (0, 1)))]))


def _looked_up(values: np.ndarray, at: np.ndarray, to: np.ndarray) -> np.ndarray:
    """Return what rising places lead to, at values; by even steps, as a search for each pixel takes far longer."""
    low, high = float(at[0]), float(at[-1])
    if not high > low:
        return np.interp(values, at, to)
    steps = np.interp(np.linspace(low, high, _EVEN_STEPS), at, to).astype(np.float32)
    per_value = np.float32((_EVEN_STEPS - 1) / (high - low))
    x = np.clip((values - np.float32(low)) * per_value, 0, _EVEN_STEPS - 1)
    i = np.minimum(x.astype(np.int32), _EVEN_STEPS - 2)
    a = steps[i]
    return a + (steps[i + 1] - a) * (x - i)


def _quantile(chances: np.ndarray) -> np.ndarray:
    """Return the standard normal distribution's quantiles, by a table of what it runs up to."""
    at = np.linspace(-5, 5, 4001)
    running = np.array([NormalDist().cdf(x) for x in at])
    return np.interp(chances, running, at)


def _halved(image: np.ndarray) -> np.ndarray:
    h, w = image.shape[:2]
    image = image[: max(h // 2 * 2, 1), : max(w // 2 * 2, 1)]
    if h > 1:
        image = (image[0::2] + image[1::2]) / 2
    if w > 1:
        image = (image[:, 0::2] + image[:, 1::2]) / 2
    return image


def _blurred(values: np.ndarray, width: float) -> np.ndarray:
    """Return values over 0..1 averaged by a normal distribution of that width."""
    if width < 0.5 / STEPS:
        return values
    reach = np.arange(-STEPS, STEPS + 1)
    shares = np.exp(-0.5 * (reach / (width * (STEPS - 1))) ** 2)
    return np.convolve(np.pad(values, STEPS, mode="edge"), shares / shares.sum(), mode="valid")


def patches(u: np.ndarray, v: np.ndarray, per_unit: np.ndarray) -> list[tuple[np.ndarray, np.ndarray, np.ndarray]]:
    """Return the three patches at coordinates: their numbers (x, y) and their shares, which add up to 1."""
    x, y = (u - v / np.sqrt(3)) * per_unit, v * 2 / np.sqrt(3) * per_unit
    column, row = np.floor(x), np.floor(y)
    a, b = x - column, y - row
    c = 1 - a - b
    low = c > 0
    return [
        (column + ~low, row + ~low, np.where(low, c, -c)),
        (column + ~low, row + low, np.where(low, b, 1 - b)),
        (column + low, row + ~low, np.where(low, a, 1 - a)),
    ]


def laid(even: Even, look_up, u: np.ndarray, v: np.ndarray, patch: np.ndarray, turn: np.ndarray) -> np.ndarray:
    """Return (..., 3) of the picture without repeats at coordinates; look_up(image, u, v) reads one.

    patch: how large patches are, in pictures. turn: how far they are turned, in half turns either way.
    """
    per_unit = 1 / np.maximum(patch, 1e-3)
    total = np.zeros((*np.shape(u), 3))
    squares = np.zeros(np.shape(u))
    for column, row, share in patches(u, v, per_unit):
        a, b, c = hashed(column, row, 77)
        middle_v = row * (np.sqrt(3) / 2) / per_unit
        middle_u = column / per_unit + middle_v / np.sqrt(3)
        angle = np.pi * turn * (2 * c - 1)
        x, y = u - middle_u, v - middle_v
        su = np.cos(angle) * x - np.sin(angle) * y + middle_u + a
        sv = np.sin(angle) * x + np.cos(angle) * y + middle_v + b
        total += (look_up(even.spread, su, sv) - 0.5) * share[..., None]
        squares += share**2
    spread = np.clip(0.5 + total / np.sqrt(np.maximum(squares, 1e-9))[..., None], 0, 1)
    at = np.linspace(0, 1, STEPS)
    back = even.table[HEAD : HEAD + STEPS]
    along = np.stack([np.interp(spread[..., k], at, back[:, k]) for k in range(3)], axis=-1)
    return np.maximum(along @ even.table[:HEAD, :3].T + even.table[:HEAD, 3], 0)

"""What a lens and a print do across pixels: bloom, glare, fringing, sharpening."""

import math
from functools import lru_cache

import numpy as np
import scipy  # its parts are loaded when they are asked for

from nocturne.finish import kernels
from nocturne.finish.blur import gaussian
from nocturne.scene import finish as steps

_GLARE_ROWS = 270  # of the small picture that streaks are made in


def bloom(linear: np.ndarray, amount: float, size: float) -> np.ndarray:
    """Return linear light of which a part is spread over a wide, peaked spot, as scatter in a lens does.

    The spot is a sum of Gaussians, and what would leave the frame is turned back, as much as would come in from beside
    it: the sum of all light stays, and an even picture stays even.
    """
    height, width = linear.shape[:2]
    k = max(1, round(size * height / 8))
    pads = ((0, -height % k), (0, -width % k), (0, 0))
    if not np.any(pads):
        return kernels.veil(linear, _spread(kernels.means(linear, k), size * height / k), k, 0.25 * amount)
    # Blocks at the ragged edge hold less of the picture, and count as much less.
    spread = _spread(kernels.means(np.pad(linear, pads), k), size * height / k) / _held(height, width, k, size)
    return kernels.veil(linear, spread, k, 0.25 * amount)


@lru_cache(maxsize=4)
def _held(height: int, width: int, k: int, size: float) -> np.ndarray:
    """Return how much of the picture a bloom's blocks hold, spread as their light is."""
    whole = np.ones((height, width, 1), np.float32)
    blocks = kernels.means(np.pad(whole, ((0, -height % k), (0, -width % k), (0, 0))), k)
    return np.maximum(_spread(blocks, size * height / k), 1e-6)


def _spread(small: np.ndarray, size: float) -> np.ndarray:
    out = np.zeros_like(small)
    for part_of_light, part_of_size in ((0.5, 0.25), (0.3, 0.6), (0.2, 1.2)):
        out += np.float32(part_of_light) * gaussian(small, part_of_size * size, reach=3.0, beyond="symmetric")
    return out


@lru_cache(maxsize=8)
def _streaks(rows: int, columns: int, n: int, length: float, angle_deg: float) -> np.ndarray:
    """Return the transform of a star of n streaks whose light falls off exponentially; its sum is 1."""
    y = np.fft.fftfreq(rows, 1 / rows)[:, None]
    x = np.fft.fftfreq(columns, 1 / columns)[None, :]
    star = np.zeros((rows, columns))
    distance = np.hypot(x, y)
    for i in range(n):
        a = math.radians(angle_deg) + 2 * math.pi * i / n
        along, across = x * math.cos(a) - y * math.sin(a), x * math.sin(a) + y * math.cos(a)
        star += (along >= 0) * np.exp(-0.5 * (across / 0.6) ** 2 - 3 * distance / length)
    return scipy.fft.rfft2((star / star.sum()).astype(np.float32), workers=2)


def glare(linear: np.ndarray, step: steps.Bloom) -> np.ndarray:
    """Return linear light of which a part is drawn out into streaks; it is conserved but for what leaves the frame."""
    height = linear.shape[0]
    k = max(1, round(height / _GLARE_ROWS))
    small = kernels.means(linear, k)
    length = step.length * height / k
    reach = math.ceil(length * 1.5)
    rows, columns = (scipy.fft.next_fast_len(n + reach, real=True) for n in small.shape[:2])
    star = _streaks(rows, columns, step.streaks, length, step.angle_deg)
    light = scipy.fft.rfft2(small, (rows, columns), axes=(0, 1), workers=2)
    spread = scipy.fft.irfft2(light * star[..., None], (rows, columns), axes=(0, 1), workers=2)
    spread = np.maximum(spread[: small.shape[0], : small.shape[1]], 0)
    return kernels.veil(linear, spread, k, 0.25 * step.glare * step.amount)


def sharpened(picture: np.ndarray, step: steps.Sharpening) -> np.ndarray:
    """Return light with its fine contrast raised: an unsharp mask on the logarithm of luminance, which makes no halos
    around bright light and shifts no colours.
    """
    sigma = max(step.radius * picture.shape[0] / 1080, 0.3)
    sharp = kernels.log_luminance(picture)
    soft = gaussian(sharp, sigma, reach=2.5)
    kernels.sharpen(picture, sharp, soft, step.strength * step.amount)
    return picture


def apply(step: steps.Step, picture: np.ndarray) -> np.ndarray:
    """Return (h, w, 3) float32 light after a step that reads neighbouring pixels; may write into `picture`."""
    if isinstance(step, steps.Bloom):
        if step.bloom > 0:
            picture = bloom(picture, step.bloom * step.amount, step.size)
        return glare(picture, step) if step.glare > 0 else picture
    if isinstance(step, steps.Fringing):
        return kernels.fringe(picture, step.shift / 100 * step.amount)
    return sharpened(picture, step)

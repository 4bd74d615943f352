"""One denoised mix parted into light groups, by small pictures of each."""

import numpy as np

from nocturne.engine.entries import compiled
from nocturne.finish.kernels import in_bands

# How far a part may be raised or lowered so that the parts add up: beyond it their pictures say nothing.
_MOST = np.float32(8)


@compiled("void(float32[:,:,::1], float32[:,:,:,::1], float32[:,::1], int64, float32[:,:,:,::1], int64, int64)")
def _part_rows(mix, small, gains, k, out, y0, y1):
    n, rows, columns = small.shape[0], small.shape[1], small.shape[2]
    inv, half = np.float32(1.0 / k), np.float32(0.5)
    zero, one, least = np.float32(0), np.float32(1), np.float32(1e-12)
    for y in range(y0, y1):
        v = min(max((np.float32(y) + half) * inv - half, zero), np.float32(rows - 1))
        j = int(v)
        fy = v - np.float32(j)
        j1 = min(j + 1, rows - 1)
        for x in range(mix.shape[1]):
            u = min(max((np.float32(x) + half) * inv - half, zero), np.float32(columns - 1))
            i = int(u)
            fx = u - np.float32(i)
            i1 = min(i + 1, columns - 1)
            for c in range(3):
                whole = zero
                for g in range(n):
                    top = small[g, j, i, c] + (small[g, j, i1, c] - small[g, j, i, c]) * fx
                    low = small[g, j1, i, c] + (small[g, j1, i1, c] - small[g, j1, i, c]) * fx
                    part = max(top + (low - top) * fy, zero)
                    out[g, y, x, c] = part
                    whole += part * gains[g, c]
                ratio = one
                if whole > least:
                    ratio = max(mix[y, x, c], zero) / whole
                bounded = min(max(ratio, one / _MOST), _MOST)
                for g in range(n):
                    out[g, y, x, c] *= bounded
                if bounded == ratio:
                    continue
                # What is left over is shared by all that are heard, so that the sum holds.
                heard = zero
                for g in range(n):
                    heard += gains[g, c]
                if heard > zero:
                    rest = (mix[y, x, c] - whole * bounded) / heard
                    for g in range(n):
                        if gains[g, c] > zero:
                            out[g, y, x, c] += rest


def parted(mix: np.ndarray, small: np.ndarray, gains: np.ndarray, k: int) -> np.ndarray:
    """Return (n, h, w, 3) light groups whose sum under their gains is a mix.

    Parameters
    ----------
    mix : (h, w, 3) float32 array
        Radiance of all groups together.
    small : (n, h / k, w / k, 3) float32 array
        A picture of each group; their sum need not be the mix.
    gains : (n, 3) array
        With which groups are in the mix. One that is not heard is raised and lowered with the others.
    k : int
        Pixels of the mix to one of the small pictures.
    """
    out = np.empty((len(small), *mix.shape), np.float32)
    gains = np.ascontiguousarray(gains, np.float32)
    small = np.ascontiguousarray(small, np.float32)
    in_bands(len(mix), lambda a, b: _part_rows(mix, small, gains, k, out, a, b))
    return out

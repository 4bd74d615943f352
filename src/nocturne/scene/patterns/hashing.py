"""Random numbers by place, the same in NumPy and in the kernels, and noise made of them."""

import numpy as np

Numbers = tuple[np.ndarray, np.ndarray, np.ndarray]


def hashed(x: np.ndarray, y: np.ndarray, z: np.ndarray) -> Numbers:
    """Return three random float64 arrays in [0, 1) for whole numbers (Jarzynski and Olano 2020, pcg3d)."""
    with np.errstate(over="ignore"):
        a, b, c = (
            np.asarray(v).astype(np.int64).astype(np.uint32) * np.uint32(1664525) + np.uint32(1013904223)
            for v in (x, y, z)
        )
        a = a + b * c
        b = b + c * a
        c = c + a * b
        a, b, c = (v ^ (v >> np.uint32(16)) for v in (a, b, c))
        a = a + b * c
        b = b + c * a
        c = c + a * b
    return tuple((v >> np.uint32(8)) * 2.0**-24 for v in (a, b, c))


def _eased(t: np.ndarray) -> np.ndarray:
    return t * t * t * (t * (t * 6 - 15) + 10)


def _gradient(x: np.ndarray, y: np.ndarray, z: np.ndarray) -> Numbers:
    """Return the gradient at a corner, each part -1..1: ten bits of one hashed number.

    Teschner et al. 2003, Optimized spatial hashing; Wellons 2018, Hash prospector (lowbias32).
    """
    with np.errstate(over="ignore"):
        whole = [np.asarray(v).astype(np.int64).astype(np.uint32) for v in (x, y, z)]
        h = (whole[0] * np.uint32(73856093)) ^ (whole[1] * np.uint32(19349663)) ^ (whole[2] * np.uint32(83492791))
        h = (h ^ (h >> np.uint32(16))) * np.uint32(0x7FEB352D)
        h = (h ^ (h >> np.uint32(15))) * np.uint32(0x846CA68B)
        h = h ^ (h >> np.uint32(16))
    return tuple(((h >> np.uint32(10 * k)) & np.uint32(1023)) * (2 / 1023) - 1 for k in range(3))


def noise(p: np.ndarray, *, is_value: bool = False) -> np.ndarray:
    """Return (...) noise at places (..., 3), about -1..1: of gradients, or of values (Perlin 2002, Improving noise)."""
    cell = np.floor(p)
    f = p - cell
    w = _eased(f)
    total = np.zeros(p.shape[:-1])
    for i in (0, 1):
        for j in (0, 1):
            for k in (0, 1):
                corner = np.array([i, j, k])
                at = np.moveaxis(cell + corner, -1, 0)
                if is_value:
                    value = 2 * hashed(*at)[0] - 1
                else:
                    gradient = _gradient(*at)
                    value = sum(g * (f[..., n] - corner[n]) for n, g in enumerate(gradient)) * GRADIENT_SCALE
                share = np.prod(np.where(corner == 1, w, 1 - w), axis=-1)
                total = total + value * share
    return total


GRADIENT_SCALE = 1.5  # so that it fills -1..1 about as values do

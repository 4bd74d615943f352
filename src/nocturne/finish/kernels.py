"""Compiled loops of the finish: mixing light groups, and developing linear light through the grade to the screen."""

import math
from concurrent.futures import ThreadPoolExecutor
from functools import cache as memoize

import numpy as np
from numba import njit

import nocturne.engine  # noqa: F401 - points Numba's cache at its folder before anything here compiles
from nocturne.colour.spaces import encode_srgb, working_to_rec709

_OPTIONS = {
    "nogil": True,
    "cache": True,
    "fastmath": {"nsz", "arcp", "contract", "afn", "reassoc"},
    "error_model": "numpy",
}
LUT_SIZE = 64
# The table's axes are even in the float32 bit pattern: a piecewise linear logarithm that costs no logarithm.
LUT_LOW, LUT_HIGH = 2.0**-13, 2.0**8
_LOW_BITS = int(np.float32(LUT_LOW).view(np.int32))
_HIGH_BITS = int(np.float32(LUT_HIGH).view(np.int32))
_SCALE = (LUT_SIZE - 1) / (_HIGH_BITS - _LOW_BITS)
_GREY = 0.18
_TO_REC709 = np.ascontiguousarray(working_to_rec709(), np.float32)
_ENCODING = encode_srgb(np.linspace(0, 1, 4096) ** 2 * (4095 / 4094) ** 2).astype(np.float32)


def lut_axis() -> np.ndarray:
    """Return the (64,) linear values at which the view's table is made."""
    bits = np.rint(np.linspace(_LOW_BITS, _HIGH_BITS, LUT_SIZE)).astype(np.int32)
    return bits.view(np.float32)


@njit("void(float32[:,:,:,::1], int32[:,::1], float32[:,::1], float32[:,:,::1], int64, int64)", **_OPTIONS)
def _mix_rows(groups, samples, gains, out, y0, y1):
    n, width = groups.shape[0], groups.shape[2]
    for y in range(y0, y1):
        for x in range(width):
            out[y, x, 0] = np.float32(0)
            out[y, x, 1] = np.float32(0)
            out[y, x, 2] = np.float32(0)
        for i in range(n):
            a, b, c = gains[i, 0], gains[i, 1], gains[i, 2]
            if a == 0 and b == 0 and c == 0:
                continue
            for x in range(width):
                out[y, x, 0] += groups[i, y, x, 0] * a
                out[y, x, 1] += groups[i, y, x, 1] * b
                out[y, x, 2] += groups[i, y, x, 2] * c
        for x in range(width):
            k = np.float32(1) / np.float32(max(samples[y, x], 1))
            out[y, x, 0] *= k
            out[y, x, 1] *= k
            out[y, x, 2] *= k


@njit("void(float32[:,:,::1], float32[:,:,::1], int32[:,::1], float32[::1], int64, int64)", **_OPTIONS)
def _add_rows(out, group, samples, change, y0, y1):
    for y in range(y0, y1):
        for x in range(group.shape[1]):
            k = np.float32(1) / np.float32(max(samples[y, x], 1))
            out[y, x, 0] += group[y, x, 0] * change[0] * k
            out[y, x, 1] += group[y, x, 1] * change[1] * k
            out[y, x, 2] += group[y, x, 2] * change[2] * k


@njit(**_OPTIONS, inline="always")
def _toned(v, contrast, highlights, shadows):
    """Return v after contrast about middle grey, and gains that set in softly above and below it, in stops."""
    if v <= np.float32(1e-9):
        return v
    s = math.log2(v / np.float32(_GREY))
    s *= contrast
    if s > np.float32(0):
        s += highlights * (s / (s + np.float32(2)))
    else:
        s += shadows * (s / (s - np.float32(2)))
    return np.float32(_GREY) * np.float32(2) ** s


@njit(
    "void(float32[:,:,::1], float32[:,::1], float32[:,:,:,::1], float32[::1], float32[:,::1], float32[::1],"
    " float32[:,:,::1], int32[:,:,::1], int64, int64, int64, int64)",
    **_OPTIONS,
)
def _develop_rows(linear, matrix, table, settings, to_display, encoding, out, bits, y0, y1, width, height):
    """`bits` is `out` seen as int32: exposed light passes through it to become a place in the table."""
    contrast, highlights, shadows, saturation, vignette = (
        settings[0],
        settings[1],
        settings[2],
        settings[3],
        settings[4],
    )
    shaped = contrast != np.float32(1) or highlights != np.float32(0) or shadows != np.float32(0)
    low = np.float32(LUT_LOW)
    high = np.float32(LUT_HIGH * 0.9999)
    cx = np.float32(0.5 * width)
    cy = np.float32(0.5 * height)
    reach = np.float32(1) / (cx * cx + cy * cy)
    for y in range(y0, y1):
        for x in range(width):
            a0 = linear[y, x, 0]
            a1 = linear[y, x, 1]
            a2 = linear[y, x, 2]
            r = matrix[0, 0] * a0 + matrix[0, 1] * a1 + matrix[0, 2] * a2
            g = matrix[1, 0] * a0 + matrix[1, 1] * a1 + matrix[1, 2] * a2
            b = matrix[2, 0] * a0 + matrix[2, 1] * a1 + matrix[2, 2] * a2
            if vignette > np.float32(0):
                dx = np.float32(x) + np.float32(0.5) - cx
                dy = np.float32(y) + np.float32(0.5) - cy
                t = np.float32(1) + vignette * (dx * dx + dy * dy) * reach
                k = np.float32(1) / (t * t)
                r *= k
                g *= k
                b *= k
            if saturation != np.float32(1):
                m = np.float32(0.2722287) * r + np.float32(0.6740818) * g + np.float32(0.0536895) * b
                r = m + (r - m) * saturation
                g = m + (g - m) * saturation
                b = m + (b - m) * saturation
            if shaped:
                r = _toned(r, contrast, highlights, shadows)
                g = _toned(g, contrast, highlights, shadows)
                b = _toned(b, contrast, highlights, shadows)
            out[y, x, 0] = min(max(r, low), high)
            out[y, x, 1] = min(max(g, low), high)
            out[y, x, 2] = min(max(b, low), high)
        if table.shape[0] == 1:
            # No table of three dimensions: straight to the display's primaries and encoding, clipped.
            for x in range(width):
                r = min(out[y, x, 0], high)
                g = min(out[y, x, 1], high)
                b = min(out[y, x, 2], high)
                for c in range(3):
                    v = to_display[c, 0] * r + to_display[c, 1] * g + to_display[c, 2] * b
                    f = math.sqrt(min(max(v, np.float32(0)), np.float32(1))) * np.float32(4094)
                    i = int(f)
                    f -= np.float32(i)
                    out[y, x, c] = encoding[i] + (encoding[i + 1] - encoding[i]) * f
            continue
        for x in range(width):
            fr = np.float32(bits[y, x, 0] - _LOW_BITS) * np.float32(_SCALE)
            fg = np.float32(bits[y, x, 1] - _LOW_BITS) * np.float32(_SCALE)
            fb = np.float32(bits[y, x, 2] - _LOW_BITS) * np.float32(_SCALE)
            i = int(fr)
            j = int(fg)
            k2 = int(fb)
            fr -= np.float32(i)
            fg -= np.float32(j)
            fb -= np.float32(k2)
            # Tetrahedral interpolation: along the largest part first, which keeps greys grey.
            i1, j1, k1 = i, j, k2
            i3, j3, k3 = i + 1, j + 1, k2 + 1
            if fr >= fg and fr >= fb:
                i1 = i + 1
                first = fr
            elif fg >= fb:
                j1 = j + 1
                first = fg
            else:
                k1 = k2 + 1
                first = fb
            if fb <= fg and fb <= fr:
                k3 = k2
                last = fb
            elif fg <= fr:
                j3 = j
                last = fg
            else:
                i3 = i
                last = fr
            middle = fr + fg + fb - first - last
            w0 = np.float32(1) - first
            w1 = first - middle
            w2 = middle - last
            for c in range(3):
                out[y, x, c] = (
                    w0 * table[i, j, k2, c]
                    + w1 * table[i1, j1, k1, c]
                    + w2 * table[i3, j3, k3, c]
                    + last * table[i + 1, j + 1, k2 + 1, c]
                )


@njit("void(float32[:,:,::1], uint8[:,:,::1], int64, int64)", **_OPTIONS)
def _to_bytes(shown, out, y0, y1):
    for y in range(y0, y1):
        for x in range(shown.shape[1]):
            for c in range(3):
                v = min(max(shown[y, x, c], np.float32(0)), np.float32(1))
                out[y, x, c] = np.uint8(v * np.float32(255) + np.float32(0.5))
            out[y, x, 3] = np.uint8(255)


@njit("void(int32[:,::1], int64, int32[:,::1])", **_OPTIONS)
def _cover_gaps(samples, step, source):
    """Write for every pixel the flat index of the pixel whose sample stands in for it."""
    height, width = samples.shape
    for y in range(height):
        for x in range(width):
            s = 1
            while samples[y - y % s, x - x % s] == 0 and s < step:
                s *= 2
            source[y, x] = (y - y % s) * width + (x - x % s)


@njit("void(float32[:,:,::1], float32[:,:,::1], int64, float32, float32[:,:,::1], int64, int64)", **_OPTIONS)
def _veil_rows(linear, wide, k, share, out, y0, y1):
    rows, columns, width = wide.shape[0], wide.shape[1], linear.shape[1]
    inv = np.float32(1.0 / k)
    half = np.float32(0.5)
    for y in range(y0, y1):
        v = min(max((np.float32(y) + half) * inv - half, np.float32(0)), np.float32(rows - 1))
        j = min(int(v), max(rows - 2, 0))
        fy = v - np.float32(j)
        j1 = min(j + 1, rows - 1)
        for x in range(width):
            u = min(max((np.float32(x) + half) * inv - half, np.float32(0)), np.float32(columns - 1))
            i = min(int(u), max(columns - 2, 0))
            fx = u - np.float32(i)
            i1 = min(i + 1, columns - 1)
            for c in range(3):
                top = wide[j, i, c] + (wide[j, i1, c] - wide[j, i, c]) * fx
                low = wide[j1, i, c] + (wide[j1, i1, c] - wide[j1, i, c]) * fx
                out[y, x, c] = linear[y, x, c] * (np.float32(1) - share) + (top + (low - top) * fy) * share


@memoize
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(2, thread_name_prefix="nocturne-finish")


def _in_bands(height: int, work) -> None:
    if height < 64:
        work(0, height)
        return
    edges = np.linspace(0, height, 5).astype(int)
    for done in [_pool().submit(work, int(a), int(b)) for a, b in zip(edges, edges[1:])]:
        done.result()


def mix(groups: np.ndarray, samples: np.ndarray, gains: np.ndarray) -> np.ndarray:
    """Return (h, w, 3) float32: the sum over (g, h, w, 3) sums times their (n, 3) gains, divided by (h, w) samples."""
    out = np.empty(groups.shape[1:], np.float32)
    gains = np.ascontiguousarray(gains, np.float32)
    _in_bands(out.shape[0], lambda a, b: _mix_rows(groups, samples, gains, out, a, b))
    return out


def add_group(mixed: np.ndarray, group: np.ndarray, samples: np.ndarray, change: np.ndarray) -> None:
    """Add a group's mean light times a (3,) change of gain to a mix, in place."""
    change = np.ascontiguousarray(change, np.float32)
    _in_bands(mixed.shape[0], lambda a, b: _add_rows(mixed, group, samples, change, a, b))


def veil(linear: np.ndarray, wide: np.ndarray, k: int, share: float) -> np.ndarray:
    """Return (h, w, 3) light of which a share is replaced by a picture k times smaller, brought up bilinearly."""
    out = np.empty_like(linear)
    wide, share = np.ascontiguousarray(wide, np.float32), np.float32(share)
    _in_bands(linear.shape[0], lambda a, b: _veil_rows(linear, wide, k, share, out, a, b))
    return out


def develop(linear: np.ndarray, matrix: np.ndarray, table: np.ndarray, settings: np.ndarray) -> np.ndarray:
    """Return (h, w, 3) float32 display values of linear light.

    matrix: (3, 3) exposure and white balance. settings: contrast, highlights, shadows, saturation, vignette.
    table: (n, n, n, 3) view transform at `lut_axis`; (1, 1, 1, 3) for none: clipped to the display.
    """
    out = np.empty_like(linear)
    bits = out.view(np.int32)
    height, width = linear.shape[:2]
    settings, matrix = np.ascontiguousarray(settings, np.float32), np.ascontiguousarray(matrix, np.float32)

    def band(a: int, b: int) -> None:
        _develop_rows(linear, matrix, table, settings, _TO_REC709, _ENCODING, out, bits, a, b, width, height)

    _in_bands(height, band)
    return out


def to_bytes(shown: np.ndarray) -> np.ndarray:
    """Return (h, w, 4) uint8 RGBX of display values in 0..1."""
    out = np.empty((*shown.shape[:2], 4), np.uint8)
    _in_bands(shown.shape[0], lambda a, b: _to_bytes(shown, out, a, b))
    return out


def cover_gaps(picture: np.ndarray, samples: np.ndarray, step: int) -> np.ndarray:
    """Return a picture in which pixels without a sample show their coarse neighbour's, up to `step` pixels away."""
    source = np.empty(samples.shape, np.int32)
    _cover_gaps(samples, step, source)
    return np.ascontiguousarray(picture.reshape(-1, picture.shape[-1])[source])


def compile_all() -> None:
    """Run every loop once, so that the cache holds it."""
    one = np.ones((1, 2, 2, 3), np.float32)
    samples = np.ones((2, 2), np.int32)
    linear = mix(one, samples, np.ones((1, 3)))
    add_group(linear, one[0], samples, np.zeros(3))
    linear = veil(linear, linear, 1, 0.5)
    settings = np.array([1, 0, 0, 1, 0])
    to_bytes(develop(linear, np.eye(3), np.zeros((LUT_SIZE,) * 3 + (3,), np.float32), settings))
    cover_gaps(linear, samples, 4)

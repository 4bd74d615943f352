"""Compiled loops of the finish: mixing light groups, the operations of the grade, the way to the screen."""

import math
from concurrent.futures import ThreadPoolExecutor
from functools import cache as memoize

import numpy as np

from nocturne.colour.spaces import encode_srgb, working_to_rec709
from nocturne.engine.entries import compiled
from nocturne.engine.kernels.jit import loop

LUT_SIZE = 64
# The table's axes are even in the float32 bit pattern: a piecewise linear logarithm that costs no logarithm.
LUT_LOW, LUT_HIGH = 2.0**-13, 2.0**8
_LOW_BITS = int(np.float32(LUT_LOW).view(np.int32))
_HIGH_BITS = int(np.float32(LUT_HIGH).view(np.int32))
_SCALE = (LUT_SIZE - 1) / (_HIGH_BITS - _LOW_BITS)
OP_MATRIX, OP_VIGNETTE, OP_CURVE, OP_GRAIN, OP_CUBE = range(5)
N_VALUES = 9  # of an operation
_TO_REC709 = np.ascontiguousarray(working_to_rec709(), np.float32)
_ENCODING = encode_srgb(np.linspace(0, 1, 4096) ** 2 * (4095 / 4094) ** 2).astype(np.float32)


def lut_axis() -> np.ndarray:
    """Return the (64,) linear values at which the view's table is made."""
    bits = np.rint(np.linspace(_LOW_BITS, _HIGH_BITS, LUT_SIZE)).astype(np.int32)
    return bits.view(np.float32)


@compiled("void(float32[:,:,:,::1], int32[:,::1], float32[:,::1], float32[:,:,::1], int64, int64)")
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


@compiled("void(float32[:,:,::1], float32[:,:,::1], int32[:,::1], float32[::1], int64, int64)")
def _add_rows(out, group, samples, change, y0, y1):
    for y in range(y0, y1):
        for x in range(group.shape[1]):
            k = np.float32(1) / np.float32(max(samples[y, x], 1))
            out[y, x, 0] += group[y, x, 0] * change[0] * k
            out[y, x, 1] += group[y, x, 1] * change[1] * k
            out[y, x, 2] += group[y, x, 2] * change[2] * k


@loop
def _place(bits):
    """Return where a value, seen as int32, lies on the axis of the three-dimensional tables."""
    return np.float32(bits - _LOW_BITS) * np.float32(_SCALE)


@loop
def _hash(a):
    """Return 32 well mixed bits of 32 bits (the integer finaliser "lowbias32")."""
    a = np.uint32(a)
    a ^= a >> np.uint32(16)
    a = np.uint32(a * np.uint32(0x7FEB352D))
    a ^= a >> np.uint32(15)
    a = np.uint32(a * np.uint32(0x846CA68B))
    a ^= a >> np.uint32(16)
    return a


@loop
def _grains(x, y, salt):
    """Return a number of mean 0 and variance 1 that belongs to a cell of the grain: the sum of two even ones."""
    h = _hash(np.uint32(x) * np.uint32(0x9E3779B1) ^ _hash(np.uint32(y) + np.uint32(salt)))
    low = np.float32(h & np.uint32(0xFFFF)) * np.float32(1 / 65536)
    high = np.float32(h >> np.uint32(16)) * np.float32(1 / 65536)
    return (low + high - np.float32(1)) * np.float32(2.4494897)


@loop
def _soft_grains(u, v, salt):
    """Return the grain at a place between cells, blended so that its variance stays the same."""
    i = math.floor(u)
    j = math.floor(v)
    fx = u - np.float32(i)
    fy = v - np.float32(j)
    a = (np.float32(1) - fx) * (np.float32(1) - fy)
    b = fx * (np.float32(1) - fy)
    c = (np.float32(1) - fx) * fy
    d = fx * fy
    n = a * _grains(i, j, salt) + b * _grains(i + 1, j, salt) + c * _grains(i, j + 1, salt)
    n += d * _grains(i + 1, j + 1, salt)
    return n / math.sqrt(a * a + b * b + c * c + d * d)


@loop
def _through_cube(out, bits, y, table, amount, keeps_scale, x0, x1):
    """Send a row through a three-dimensional table; `bits` is `out` seen as int32.

    keeps_scale 1: values above the axis are scaled by what it does at its end (light); 0: clipped (screen).
    """
    low = np.float32(LUT_LOW)
    high = np.float32(LUT_HIGH * 0.9999)
    keep = np.float32(1) - amount
    for x in range(x0, x1):
        a0 = out[y, x, 0]
        a1 = out[y, x, 1]
        a2 = out[y, x, 2]
        over = np.float32(1)
        if keeps_scale == 1:
            over = max(max(max(a0, a1), a2) / high, np.float32(1))
        inv = np.float32(1) / over
        out[y, x, 0] = min(max(a0 * inv, low), high)
        out[y, x, 1] = min(max(a1 * inv, low), high)
        out[y, x, 2] = min(max(a2 * inv, low), high)
        fr = _place(bits[y, x, 0])
        fg = _place(bits[y, x, 1])
        fb = _place(bits[y, x, 2])
        # Bounded again: a value that is not a number passes the comparisons above.
        i = min(max(int(fr), 0), LUT_SIZE - 2)
        j = min(max(int(fg), 0), LUT_SIZE - 2)
        k2 = min(max(int(fb), 0), LUT_SIZE - 2)
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
            got = (
                w0 * table[i, j, k2, c]
                + w1 * table[i1, j1, k1, c]
                + w2 * table[i3, j3, k3, c]
                + last * table[i + 1, j + 1, k2 + 1, c]
            )
            if keeps_scale == 1:
                out[y, x, c] = got * over * amount + (a0 if c == 0 else a1 if c == 1 else a2) * keep
            else:
                out[y, x, c] = got


@compiled(
    "void(float32[:,:,::1], int32[:,:,::1], int32[::1], float32[:,::1], float32[:,:,::1], float32[:,:,:,:,::1],"
    " int64, int64)"
)
def _operate_rows(out, bits, codes, values, curves, cubes, y0, y1):
    """Apply operations, one row at a time while it is in the processor's cache; `bits` is `out` seen as int32."""
    height, width = out.shape[0], out.shape[1]
    cx = np.float32(0.5 * width)
    cy = np.float32(0.5 * height)
    reach = np.float32(1) / (cx * cx + cy * cy)
    low = np.float32(LUT_LOW)
    high = np.float32(LUT_HIGH * 0.9999)
    for y in range(y0, y1):
        for op in range(codes.shape[0]):
            code = codes[op]
            v = values[op]
            if code == OP_MATRIX:
                for x in range(width):
                    a0 = out[y, x, 0]
                    a1 = out[y, x, 1]
                    a2 = out[y, x, 2]
                    out[y, x, 0] = v[0] * a0 + v[1] * a1 + v[2] * a2
                    out[y, x, 1] = v[3] * a0 + v[4] * a1 + v[5] * a2
                    out[y, x, 2] = v[6] * a0 + v[7] * a1 + v[8] * a2
            elif code == OP_VIGNETTE:
                for x in range(width):
                    dx = np.float32(x) + np.float32(0.5) - cx
                    dy = np.float32(y) + np.float32(0.5) - cy
                    t = np.float32(1) + v[0] * (dx * dx + dy * dy) * reach
                    k = np.float32(1) + v[1] * (np.float32(1) / (t * t) - np.float32(1))
                    out[y, x, 0] *= k
                    out[y, x, 1] *= k
                    out[y, x, 2] *= k
            elif code == OP_CURVE:
                which = int(v[0])
                last = curves.shape[2] - 1
                scale = np.float32(last) / np.float32(_HIGH_BITS - _LOW_BITS)
                for x in range(width):
                    for c in range(3):
                        a = out[y, x, c]
                        if a <= low:
                            out[y, x, c] = a * curves[which, c, 0]
                        elif a >= high:
                            out[y, x, c] = a * curves[which, c, last]
                        else:
                            f = np.float32(bits[y, x, c] - _LOW_BITS) * scale
                            i = min(max(int(f), 0), last - 1)
                            f -= np.float32(i)
                            gain = curves[which, c, i] + (curves[which, c, i + 1] - curves[which, c, i]) * f
                            out[y, x, c] = a * gain
            elif code == OP_GRAIN:
                size = v[1]
                for x in range(width):
                    gu = (np.float32(x) + np.float32(0.5)) / size
                    gv = (np.float32(y) + np.float32(0.5)) / size
                    common = _soft_grains(gu, gv, 17) * (np.float32(1) - v[2])
                    for c in range(3):
                        own = np.float32(0)
                        if v[2] > np.float32(0):
                            own = _soft_grains(gu, gv, 101 + 57 * c) * v[2]
                        out[y, x, c] *= np.float32(2) ** (v[0] * (common + own))
            elif code == OP_CUBE:
                _through_cube(out, bits, y, cubes[int(v[0])], v[1], 1, 0, width)


@compiled("void(float32[:,:,::1], int32[:,:,::1], float32[:,:,:,::1], float32[:,::1], float32[::1], int64, int64)")
def _view_rows(out, bits, table, to_display, encoding, y0, y1):
    """Turn exposed light into display values, in place."""
    width = out.shape[1]
    most = np.float32(1e30)  # what is infinite would become no number in the matrix
    for y in range(y0, y1):
        if table.shape[0] > 1:
            _through_cube(out, bits, y, table, np.float32(1), 0, 0, width)
            continue
        # No table of three dimensions: straight to the display's primaries and encoding, clipped.
        for x in range(width):
            r = min(max(out[y, x, 0], -most), most)
            g = min(max(out[y, x, 1], -most), most)
            b = min(max(out[y, x, 2], -most), most)
            for c in range(3):
                v = to_display[c, 0] * r + to_display[c, 1] * g + to_display[c, 2] * b
                f = math.sqrt(min(max(v, np.float32(0)), np.float32(1))) * np.float32(4094)
                i = int(f)
                f -= np.float32(i)
                out[y, x, c] = encoding[i] + (encoding[i + 1] - encoding[i]) * f


@compiled("void(float32[:,:,::1], float32[:,:,::1], float32, float32, int64, int64)")
def _fringe_rows(linear, out, red, blue, y0, y1):
    """Read red and blue a little nearer to or further from the middle than green."""
    height, width = linear.shape[0], linear.shape[1]
    cx = np.float32(0.5 * (width - 1))
    cy = np.float32(0.5 * (height - 1))
    for y in range(y0, y1):
        for x in range(width):
            out[y, x, 1] = linear[y, x, 1]
            for c in range(0, 3, 2):
                s = red if c == 0 else blue
                u = min(max(cx + (np.float32(x) - cx) * s, np.float32(0)), np.float32(width - 1))
                v = min(max(cy + (np.float32(y) - cy) * s, np.float32(0)), np.float32(height - 1))
                i = min(int(u), max(width - 2, 0))
                j = min(int(v), max(height - 2, 0))
                fx = u - np.float32(i)
                fy = v - np.float32(j)
                i1 = min(i + 1, width - 1)
                j1 = min(j + 1, height - 1)
                top = linear[j, i, c] + (linear[j, i1, c] - linear[j, i, c]) * fx
                low = linear[j1, i, c] + (linear[j1, i1, c] - linear[j1, i, c]) * fx
                out[y, x, c] = top + (low - top) * fy


@compiled("void(float32[:,:,::1], float32[:,::1], int64, int64)")
def _log_luminance_rows(linear, out, y0, y1):
    for y in range(y0, y1):
        for x in range(linear.shape[1]):
            v = np.float32(0.2722287) * linear[y, x, 0] + np.float32(0.6740818) * linear[y, x, 1]
            v += np.float32(0.0536895) * linear[y, x, 2]
            out[y, x] = math.log2(max(v, np.float32(1e-6)))


@compiled("void(float32[:,:,::1], float32[:,::1], float32[:,::1], float32, int64, int64)")
def _sharpen_rows(out, sharp, soft, strength, y0, y1):
    """Raise each pixel by how far it stands out of its surroundings, in stops, at most one and a half."""
    limit = np.float32(1.5)
    for y in range(y0, y1):
        for x in range(out.shape[1]):
            d = strength * (sharp[y, x] - soft[y, x])
            k = np.float32(2) ** min(max(d, -limit), limit)
            out[y, x, 0] *= k
            out[y, x, 1] *= k
            out[y, x, 2] *= k


@compiled("void(float32[:,:,::1], uint8[:,:,::1], int64, int64)")
def _to_bytes(shown, out, y0, y1):
    for y in range(y0, y1):
        for x in range(shown.shape[1]):
            for c in range(3):
                v = min(max(shown[y, x, c], np.float32(0)), np.float32(1))
                out[y, x, c] = np.uint8(v * np.float32(255) + np.float32(0.5))
            out[y, x, 3] = np.uint8(255)


@compiled("void(int32[:,::1], int64, int32[:,::1])")
def _cover_gaps(samples, step, source):
    """Write for every pixel the flat index of the pixel whose sample stands in for it."""
    height, width = samples.shape
    for y in range(height):
        for x in range(width):
            s = 1
            while samples[y - y % s, x - x % s] == 0 and s < step:
                s *= 2
            source[y, x] = (y - y % s) * width + (x - x % s)


@compiled("void(float32[:,:,::1], float32[:,:,::1], int64, float32, float32[:,:,::1], int64, int64)")
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


def in_bands(height: int, work) -> None:
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
    in_bands(out.shape[0], lambda a, b: _mix_rows(groups, samples, gains, out, a, b))
    return out


def add_group(mixed: np.ndarray, group: np.ndarray, samples: np.ndarray, change: np.ndarray) -> None:
    """Add a group's mean light times a (3,) change of gain to a mix, in place."""
    change = np.ascontiguousarray(change, np.float32)
    in_bands(mixed.shape[0], lambda a, b: _add_rows(mixed, group, samples, change, a, b))


def veil(linear: np.ndarray, wide: np.ndarray, k: int, share: float) -> np.ndarray:
    """Return (h, w, 3) light of which a share is replaced by a picture k times smaller, brought up bilinearly."""
    out = np.empty_like(linear)
    wide, share = np.ascontiguousarray(wide, np.float32), np.float32(share)
    in_bands(linear.shape[0], lambda a, b: _veil_rows(linear, wide, k, share, out, a, b))
    return out


def operate(picture: np.ndarray, codes: np.ndarray, values: np.ndarray, curves: np.ndarray, cubes: np.ndarray) -> None:
    """Apply operations to (h, w, 3) float32 light, in place.

    codes (n,) int32: OP_MATRIX, values: 3 x 3 by rows; OP_VIGNETTE: fall-off, amount; OP_CURVE: which of `curves`;
    OP_GRAIN: strength in stops, size in pixels, colour; OP_CUBE: which of `cubes`, amount.
    curves (m, 3, k): gains on the same axis as the tables'. cubes (m, n, n, n, 3): light at `lut_axis`.
    """
    if len(codes):
        bits = picture.view(np.int32)
        in_bands(picture.shape[0], lambda a, b: _operate_rows(picture, bits, codes, values, curves, cubes, a, b))


def show(picture: np.ndarray, table: np.ndarray) -> None:
    """Turn (h, w, 3) float32 exposed light into display values, in place.

    table: (n, n, n, 3) view transform at `lut_axis`; (1, 1, 1, 3) for none: clipped to the display.
    """
    bits = picture.view(np.int32)
    in_bands(picture.shape[0], lambda a, b: _view_rows(picture, bits, table, _TO_REC709, _ENCODING, a, b))


def fringe(linear: np.ndarray, share: float) -> np.ndarray:
    """Return light whose red is read a share of the way further out than its green, and blue as much further in."""
    out = np.empty_like(linear)
    red, blue = np.float32(1 - share), np.float32(1 + share)
    in_bands(linear.shape[0], lambda a, b: _fringe_rows(linear, out, red, blue, a, b))
    return out


def log_luminance(linear: np.ndarray) -> np.ndarray:
    """Return (h, w) float32: log2 of the luminance of (h, w, 3) light."""
    out = np.empty(linear.shape[:2], np.float32)
    in_bands(linear.shape[0], lambda a, b: _log_luminance_rows(linear, out, a, b))
    return out


def sharpen(picture: np.ndarray, sharp: np.ndarray, soft: np.ndarray, strength: float) -> None:
    """Raise what stands out: picture times 2^(strength (sharp - soft)), in place; both (h, w) are in stops."""
    strength = np.float32(strength)
    in_bands(picture.shape[0], lambda a, b: _sharpen_rows(picture, sharp, soft, strength, a, b))


def to_bytes(shown: np.ndarray) -> np.ndarray:
    """Return (h, w, 4) uint8 RGBX of display values in 0..1."""
    out = np.empty((*shown.shape[:2], 4), np.uint8)
    in_bands(shown.shape[0], lambda a, b: _to_bytes(shown, out, a, b))
    return out


def cover_gaps(picture: np.ndarray, samples: np.ndarray, step: int) -> np.ndarray:
    """Return a picture in which pixels without a sample show their coarse neighbour's, up to `step` pixels away."""
    source = np.empty(samples.shape, np.int32)
    _cover_gaps(samples, step, source)
    return np.ascontiguousarray(picture.reshape(-1, picture.shape[-1])[source])


def means(picture: np.ndarray, k: int) -> np.ndarray:
    """Return (h / k, w / k, c) means over blocks of k x k pixels; the ragged edge counts its last pixels again."""
    height, width, n = picture.shape
    rows, columns = -(-height // k), -(-width // k)
    if k == 1:
        return picture
    if (rows * k, columns * k) != (height, width):
        picture = np.pad(picture, ((0, rows * k - height), (0, columns * k - width), (0, 0)), mode="edge")
    down = picture.reshape(rows, k, columns * k * n).sum(1)  # along whole rows first: four times as quick
    return down.reshape(rows, columns, k, n).sum(2) / np.asarray(k * k, picture.dtype)

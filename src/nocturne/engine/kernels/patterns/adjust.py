"""What is done to colours and numbers that lie under; and mixing of two. Names as in `steps`."""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.dispatch import by_kind
from nocturne.engine.kernels.jit import f4, i4, jit, row_f4
from nocturne.engine.kernels.patterns.handing import put_out, under_it
from nocturne.engine.kernels.patterns.noises import grey
from nocturne.engine.kernels.vectors import HALF, ONE, TWO, TWO_PI, ZERO, clamped, load, luminance, mixed
from nocturne.engine.layout import pattern as Pattern
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import steps as Steps

LEAST, TINY, FLAT = f4(1e-6), f4(1e-9), f4(1e-5)
THREE, SIX = f4(3), f4(6)


@jit
def wrapped(x):
    return f4(x - math.floor(x))


@jit
def hsv(c):
    """Return hue 0..1, saturation and value of a colour (Smith 1978)."""
    value = max(c[0], max(c[1], c[2]))
    way = value - min(c[0], min(c[1], c[2]))
    if way <= FLAT:
        return ZERO, ZERO, value
    if value == c[0]:
        hue = (c[1] - c[2]) / way
    elif value == c[1]:
        hue = TWO + (c[2] - c[0]) / way
    else:
        hue = f4(4) + (c[0] - c[1]) / way
    return wrapped(hue / SIX), way / max(value, TINY), value


@jit
def part_of(hue, k):
    return clamped(abs(wrapped(hue + k / SIX) * SIX - THREE) - ONE, ZERO, ONE)


@jit
def rgb_of(hue, saturation, value):
    """Return the colour of hue 0..1, saturation and value."""
    r = part_of(hue, ZERO)
    g = part_of(hue, f4(4))
    b = part_of(hue, TWO)
    return (
        value * (ONE - saturation * (ONE - r)),
        value * (ONE - saturation * (ONE - g)),
        value * (ONE - saturation * (ONE - b)),
    )


@jit
def positive(c):
    return (max(c[0], ZERO), max(c[1], ZERO), max(c[2], ZERO))


@jit
def constant(S, wp, at, b, F, q, size, under):
    """Return the colour."""
    return load(F, Steps.CONSTANT_VALUE)


@jit
def mix(S, wp, at, b, F, q, size, under):
    """Return two colours by a mask."""
    k = clamped(f4(F[Steps.MIX_MIX]), ZERO, ONE)
    c = load(F, Steps.MIX_BG)
    d = load(F, Steps.MIX_FG)
    return (mixed(c[0], d[0], k), mixed(c[1], d[1], k), mixed(c[2], d[2], k))


@jit
def ramp(S, wp, at, b, F, q, size, under):
    """Return the colour at the lightness of what lies under."""
    t = clamped(luminance(under), ZERO, ONE)
    first = T.bind_i(S)[b, Pattern.FIRST_ENTRY]
    last = first + T.bind_i(S)[b, Pattern.ENTRIES] - 1
    R = T.entries(S)
    after = first
    while after <= last and f4(R[after, 0]) <= t:
        after += 1
    low = max(after - 1, first)
    high = min(after, last)
    way = f4(R[high, 0]) - f4(R[low, 0])
    k = clamped((t - f4(R[low, 0])) / way, ZERO, ONE) if way > TINY else ZERO
    style = i4(F[Steps.RAMP_STYLE])
    if style == 1:
        k = k * k * (THREE - TWO * k)
    elif style == 2:
        k = ZERO
    return (
        mixed(f4(R[low, 1]), f4(R[high, 1]), k),
        mixed(f4(R[low, 2]), f4(R[high, 2]), k),
        mixed(f4(R[low, 3]), f4(R[high, 3]), k),
    )


@jit
def height_of(R, first, steps, x):
    """Return a curve's height at x, 0..1: between two of its even steps, four in a row."""
    at = clamped(x, ZERO, ONE) * f4(steps - 1)
    k = min(i4(at), i4(steps - 2))
    low = f4(R[first + (k >> 2), k & 3])
    return mixed(low, f4(R[first + ((k + 1) >> 2), (k + 1) & 3]), at - f4(k))


@jit
def led(S, wp, at, b, F, q, size, under):
    """Return the curve's height at each channel of what lies under."""
    first = T.bind_i(S)[b, Pattern.FIRST_ENTRY]
    steps = 4 * T.bind_i(S)[b, Pattern.ENTRIES]
    R = T.entries(S)
    return (
        height_of(R, first, steps, under[0]),
        height_of(R, first, steps, under[1]),
        height_of(R, first, steps, under[2]),
    )


@jit
def level(F, x):
    low = f4(F[Steps.RANGE_INLOW])
    way = f4(F[Steps.RANGE_INHIGH]) - low
    if abs(way) < LEAST:
        way = LEAST
    t = (x - low) / way
    if f4(F[Steps.RANGE_DOCLAMP]) > HALF:
        t = clamped(t, ZERO, ONE)
    k = ONE / max(f4(F[Steps.RANGE_GAMMA]), f4(0.01))
    t = t**k if t >= ZERO else -((-t) ** k)
    return mixed(f4(F[Steps.RANGE_OUTLOW]), f4(F[Steps.RANGE_OUTHIGH]), t)


@jit
def levels(S, wp, at, b, F, q, size, under):
    """Return what lies under in another range."""
    W = row_f4(wp)
    for k in range(3):
        W[Scratch.PUT_OUT + k] = level(F, under[k])
    return load(W, Scratch.PUT_OUT)


@jit
def held(S, wp, at, b, F, q, size, under):
    """Return what lies under, held between two numbers."""
    low = f4(F[Steps.CLAMP_LOW])
    high = f4(F[Steps.CLAMP_HIGH])
    return (clamped(under[0], low, high), clamped(under[1], low, high), clamped(under[2], low, high))


@jit
def turned(S, wp, at, b, F, q, size, under):
    """Return what lies under with hue, saturation and brightness changed."""
    hue, saturation, value = hsv(positive(under))
    hue = wrapped(hue + f4(F[Steps.HSVADJUST_HUE]) / f4(360))
    strong = clamped(saturation * f4(F[Steps.HSVADJUST_SATURATION]), ZERO, ONE)
    return rgb_of(hue, strong, value * f4(F[Steps.HSVADJUST_BRIGHTNESS]))


@jit
def contrast(S, wp, at, b, F, q, size, under):
    """Return what lies under further from the middle."""
    k = f4(F[Steps.CONTRAST_STRENGTH])
    p = f4(F[Steps.CONTRAST_PIVOT])
    return positive(((under[0] - p) * k + p, (under[1] - p) * k + p, (under[2] - p) * k + p))


@jit
def operated(operation, x, n):
    """Return one operation on one number."""
    safe = n if abs(n) >= LEAST else LEAST
    if operation == 0:
        return x * n
    if operation == 1:
        return x + n
    if operation == 2:
        return max(x, ZERO) ** n
    if operation == 3:
        return x - safe * f4(math.floor(x / safe))
    if operation == 4:
        return abs(x)
    if operation == 5:
        return HALF + HALF * math.sin(TWO_PI * x * n)
    if operation == 6:
        return f4(math.floor(x / safe)) * safe
    return min(x, n) if operation == 7 else max(x, n)


@jit
def maths(S, wp, at, b, F, q, size, under):
    """Return one operation on what lies under."""
    k = i4(F[Steps.MATHS_OPERATION])
    n = f4(F[Steps.MATHS_NUMBER])
    W = row_f4(wp)
    for i in range(3):
        W[Scratch.PUT_OUT + i] = operated(k, under[i], n)
    return load(W, Scratch.PUT_OUT)


@jit
def channel(S, wp, at, b, F, q, size, under):
    """Return one number of the colour that lies under."""
    k = i4(F[Steps.EXTRACT_CHANNEL])
    if k == 0:
        return grey(luminance(under))
    if k == 1:
        return grey(under[0])
    if k == 2:
        return grey(under[1])
    if k == 3:
        return grey(under[2])
    hue, saturation, value = hsv(positive(under))
    return grey(value if k == 4 else (hue if k == 5 else saturation))


VALUES = {
    Steps.CONSTANT: constant,
    Steps.MIX: mix,
    Steps.RAMP: ramp,
    Steps.CURVEADJUST: led,
    Steps.RANGE: levels,
    Steps.CLAMP: held,
    Steps.HSVADJUST: turned,
    Steps.CONTRAST: contrast,
    Steps.MATHS: maths,
    Steps.EXTRACT: channel,
}
choose = by_kind(VALUES)


def step(S, wp, kind, at, b, F, x, y, z, size):
    """Unit: put out what a step of this family does."""
    put_out(wp, choose(kind, S, wp, at, b, row_f4(F), (x, y, z), size, under_it(wp)))

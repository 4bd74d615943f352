"""Three-vectors as tuples of float32, and small scalar helpers.

Names: a, b vectors; s scalar; n unit normal; W work row (float32 view), I the same row as uint32.
"""

import math

from nocturne.engine.kernels.jit import f4, jit

ZERO, ONE, TWO, HALF, FOUR = f4(0), f4(1), f4(2), f4(0.5), f4(4)
PI, INV_PI, TWO_PI = f4(math.pi), f4(1 / math.pi), f4(2 * math.pi)
BIG = f4(1e30)
TINY = f4(1e-30)


@jit
def dot(a, b):
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


@jit
def cross(a, b):
    return (a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0])


@jit
def scaled(a, s):
    return (a[0] * s, a[1] * s, a[2] * s)


@jit
def negated(a):
    return (-a[0], -a[1], -a[2])


@jit
def added(a, b):
    return (a[0] + b[0], a[1] + b[1], a[2] + b[2])


@jit
def subtracted(a, b):
    return (a[0] - b[0], a[1] - b[1], a[2] - b[2])


@jit
def multiplied(a, b):
    return (a[0] * b[0], a[1] * b[1], a[2] * b[2])


@jit
def along(a, s, b):
    """Return a * s + b."""
    return (a[0] * s + b[0], a[1] * s + b[1], a[2] * s + b[2])


@jit
def length(a):
    return math.sqrt(dot(a, a))


@jit
def unit(a):
    s = ONE / math.sqrt(max(dot(a, a), TINY))
    return (a[0] * s, a[1] * s, a[2] * s)


@jit
def largest(a):
    return max(a[0], max(a[1], a[2]))


@jit
def luminance(a):
    """Return the luminance of ACEScg RGB (AP1 weights of Y)."""
    return f4(0.2722287) * a[0] + f4(0.6740818) * a[1] + f4(0.0536895) * a[2]


@jit
def clamped(x, low, high):
    return min(max(x, low), high)


@jit
def mixed(a, b, s):
    return a + (b - a) * s


@jit
def load(W, at):
    return (f4(W[at]), f4(W[at + 1]), f4(W[at + 2]))


@jit
def store(W, at, v):
    W[at] = v[0]
    W[at + 1] = v[1]
    W[at + 2] = v[2]


@jit
def row_at(A, i, k):
    return (f4(A[i, k]), f4(A[i, k + 1]), f4(A[i, k + 2]))


@jit
def frame(n):
    """Return two tangents of unit n (Duff et al. 2017, Building an orthonormal basis, revisited)."""
    s = ONE if n[2] >= ZERO else -ONE
    a = -ONE / (s + n[2])
    b = n[0] * n[1] * a
    return (ONE + s * n[0] * n[0] * a, s * b, -s * n[0]), (b, s + n[1] * n[1] * a, -n[1])


@jit
def transform_point(M, i, p):
    """Return p moved by the 3x4 row-major matrix in row i of M."""
    return (
        f4(M[i, 0]) * p[0] + f4(M[i, 1]) * p[1] + f4(M[i, 2]) * p[2] + f4(M[i, 3]),
        f4(M[i, 4]) * p[0] + f4(M[i, 5]) * p[1] + f4(M[i, 6]) * p[2] + f4(M[i, 7]),
        f4(M[i, 8]) * p[0] + f4(M[i, 9]) * p[1] + f4(M[i, 10]) * p[2] + f4(M[i, 11]),
    )


@jit
def transform_vector(M, i, v):
    """Return v turned by the 3x3 part of the 3x4 matrix in row i of M."""
    return (
        f4(M[i, 0]) * v[0] + f4(M[i, 1]) * v[1] + f4(M[i, 2]) * v[2],
        f4(M[i, 4]) * v[0] + f4(M[i, 5]) * v[1] + f4(M[i, 6]) * v[2],
        f4(M[i, 8]) * v[0] + f4(M[i, 9]) * v[1] + f4(M[i, 10]) * v[2],
    )


@jit
def transform_normal(M, i, v):
    """Return v turned by the 3x3 row-major matrix in row i of M."""
    return (
        f4(M[i, 0]) * v[0] + f4(M[i, 1]) * v[1] + f4(M[i, 2]) * v[2],
        f4(M[i, 3]) * v[0] + f4(M[i, 4]) * v[1] + f4(M[i, 5]) * v[2],
        f4(M[i, 6]) * v[0] + f4(M[i, 7]) * v[1] + f4(M[i, 8]) * v[2],
    )


@jit
def search(C, first, n, u):
    """Return the last index i in [first, first + n) whose predecessor's running sum is <= u."""
    low = first
    high = first + n - 1
    while low < high:
        middle = (low + high) >> 1
        if f4(C[middle]) <= u:
            low = middle + 1
        else:
            high = middle
    return low


@jit
def power_heuristic(a, b):
    """Return the weight of the strategy with density a against b (Veach 1997, eq. 9.13)."""
    if a > f4(1e15):
        return ONE
    return a * a / max(a * a + b * b, TINY)

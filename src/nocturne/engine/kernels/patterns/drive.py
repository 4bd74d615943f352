"""Asking for patterns: a copy of a material's row in which its steps have replaced what they drive.

W work row, I unsigned, wp its address, S scene table, m material, to the copy, at the place, see `layout.spot`.
"""

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels import units
from nocturne.engine.kernels.jit import f4, inlined, u4
from nocturne.engine.kernels.vectors import ONE, ZERO, clamped
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import program as Program
from nocturne.engine.layout import scratch as Scratch


@inlined
def run_steps(S, I, wp, first, n, to, at):
    """Let n steps from the first change the row at `to`."""
    A = Scratch.PROGRAM
    I[A + Program.FIRST] = u4(first)
    I[A + Program.STEPS] = u4(n)
    I[A + Program.TARGET] = u4(to)
    I[A + Program.PLACE] = u4(at)
    units.drive(S, wp)


@inlined
def join_emission(W, to):
    """Work out what a material emits from colour and luminance, where it is there."""
    e = f4(W[to + Mat.LUMINANCE]) * clamped(f4(W[to + Mat.OPACITY]), ZERO, ONE)
    W[to + Mat.EMISSION] = f4(W[to + Mat.EMISSION_COLOR]) * e
    W[to + Mat.EMISSION + 1] = f4(W[to + Mat.EMISSION_COLOR + 1]) * e
    W[to + Mat.EMISSION + 2] = f4(W[to + Mat.EMISSION_COLOR + 2]) * e


@inlined
def read_material(S, W, I, wp, m, to, at):
    """Copy material m's row, and let its steps replace what they drive."""
    R = T.mat_f(S)
    for k in range(Mat.COUNT):
        W[to + k] = R[m, k]
    n = T.mat_i(S)[m, Mat.BINDINGS] - T.mat_i(S)[m, Mat.HEIGHTS]
    if n > 0:
        run_steps(S, I, wp, T.mat_i(S)[m, Mat.FIRST_BINDING], n, to, at)
        if T.mat_i(S)[m, Mat.GLOWS] > 0:
            join_emission(W, to)
    weight = f4(W[to + Mat.BASE_WEIGHT])
    if weight != ONE:
        for k in range(3):
            W[to + Mat.BASE + k] = f4(W[to + Mat.BASE + k]) * weight


@inlined
def read_emission(S, W, I, wp, m, to, at):
    """Copy what material m's row says of its emission, and let its steps replace what they drive."""
    R = T.mat_f(S)
    for k in range(Mat.EMISSION_COLOR, Mat.EMISSION + 3):
        W[to + k] = R[m, k]
    W[to + Mat.OPACITY] = f4(R[m, Mat.OPACITY])
    # The coat over it dims it.
    W[to + Mat.COAT] = f4(R[m, Mat.COAT])
    W[to + Mat.COAT_IOR] = f4(R[m, Mat.COAT_IOR])
    for k in range(3):
        W[to + Mat.COAT_COLOR + k] = f4(R[m, Mat.COAT_COLOR + k])
    n = T.mat_i(S)[m, Mat.GLOWS]
    if n > 0:
        run_steps(S, I, wp, T.mat_i(S)[m, Mat.FIRST_BINDING], n, to, at)
        join_emission(W, to)

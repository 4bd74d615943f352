"""What the patterns' unit does: work out what drives the numbers of a row."""

from nocturne.engine.kernels.jit import i4, row_f4, row_u4
from nocturne.engine.kernels.patterns.machine import run
from nocturne.engine.layout import scratch as Scratch


def drive(S, wp):
    """Unit: apply the steps that PROGRAM names to the row that it names, at the place that it names."""
    W = row_f4(wp)
    I = row_u4(wp)
    A = Scratch.PROGRAM
    run(S, W, wp, i4(I[A]), i4(I[A + 1]), i4(I[A + 2]), i4(I[A + 3]))

"""What the patterns' unit does: work out what drives the numbers of a row."""

from nocturne.engine.kernels.jit import i4, row_f4, row_u4
from nocturne.engine.kernels.patterns.machine import run
from nocturne.engine.layout import program as Program
from nocturne.engine.layout import scratch as Scratch


def drive(S, wp):
    """Unit: apply the steps that PROGRAM names to the row that it names, at the place that it names."""
    W = row_f4(wp)
    I = row_u4(wp)
    A = Scratch.PROGRAM
    first, n = i4(I[A + Program.FIRST]), i4(I[A + Program.STEPS])
    run(S, W, wp, first, n, i4(I[A + Program.TARGET]), i4(I[A + Program.PLACE]))

"""How a step hands over what it works on and what it puts out, where its family is a unit of its own."""

from nocturne.engine.kernels.jit import inlined, row_f4
from nocturne.engine.kernels.vectors import load, store
from nocturne.engine.layout import scratch as Scratch


@inlined
def under_it(wp):
    """Return what lies under the step in hand."""
    return load(row_f4(wp), Scratch.UNDER)


@inlined
def hand_over(wp, under):
    """Say what lies under the step in hand."""
    store(row_f4(wp), Scratch.UNDER, under)


@inlined
def put_out(wp, value):
    """Write what the step in hand puts out."""
    store(row_f4(wp), Scratch.PUT_OUT, value)


@inlined
def taken(wp):
    """Return what the step in hand has put out."""
    return load(row_f4(wp), Scratch.PUT_OUT)

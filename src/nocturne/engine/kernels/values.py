"""What a material does with light, summed over the kinds of events."""

from nocturne.engine.kernels.jit import jit
from nocturne.engine.kernels.vectors import added, load
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import value as Value

E = Scratch.EVAL


@jit
def whole_value(W):
    """Return the value in EVAL, diffuse, reflection and transmission together."""
    return added(added(load(W, E + Value.DIFFUSE), load(W, E + Value.REFLECTION)), load(W, E + Value.TRANSMISSION))

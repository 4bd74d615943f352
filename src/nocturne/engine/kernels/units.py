"""The functions that are compiled each on its own, as the others see them: names that are found when all is loaded.

A unit is such a function of two addresses, scene table and work row: an edit of one recompiles one, and processes
can compile at once on the first start.
"""

from nocturne.engine.entries import KERNELS
from nocturne.engine.kernels.later import Later

_POINT = "boolean(intp, intp, intp, intp, intp)"
_RAY = "void(intp, intp, intp)"


def _named(symbol: str, shape: str) -> Later:
    def make():
        from numba import types
        from numba.core import sigutils

        takes, returns = sigutils.normalize_signature(shape)
        return types.ExternalFunction(symbol, returns(*takes))

    return Later(make)


intersect = _named("nocturne_intersect", _RAY)
occluded = _named("nocturne_occluded", _RAY)
nearest = _named("nocturne_nearest", _POINT)
globals().update({name: _named(entry.symbol, entry.shape) for name, entry in KERNELS.items()})

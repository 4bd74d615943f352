"""Compiling a unit by its name. The names that it calls must be bound before, be it to any address."""

import importlib
from collections.abc import Iterable

from numba import cfunc

from nocturne.engine.kernels import units
from nocturne.engine.kernels.jit import unit_options

_ROOM = __name__.rpartition(".")[0]


def compiled_unit(name: str):
    """Return a unit, compiled or from the cache."""
    module, function, shape = units.FUNCTIONS[name]
    return cfunc(shape, **unit_options)(getattr(importlib.import_module(f"{_ROOM}.{module}"), function))


def compile_alone(names: Iterable[str]) -> None:
    """Compile units into the cache without those that they call: to compile, only names are needed."""
    units.bind_nowhere()
    for name in names:
        compiled_unit(name)

"""Compiling a unit by its name. The names that it calls must be bound before, be it to any address."""

import importlib
from collections.abc import Iterable

from numba import njit

from nocturne.engine.kernels import units
from nocturne.engine.kernels.jit import unit_options

_ROOM = __name__.rpartition(".")[0]


def address_of_unit(name: str) -> int:
    """Return the address of a unit as C would call it, compiled or from the cache. Its code stays as long as it does.

    As Numba calls a function from other languages: a wrapper in the unit's own code. Its `cfunc` would make code of the
    whole unit a second time, for the wrapper, and again at every start.
    """
    module, function, shape = units.FUNCTIONS[name]
    unit = njit(shape, **unit_options)(getattr(importlib.import_module(f"{_ROOM}.{module}"), function))
    (made,) = unit.overloads.values()
    _kept[name] = unit
    return made.library.get_pointer_to_function(made.fndesc.llvm_cfunc_wrapper_name)


def compile_alone(names: Iterable[str]) -> None:
    """Compile units into the cache without those that they call: to compile, only names are needed."""
    units.bind_nowhere()
    for name in names:
        address_of_unit(name)


_kept: dict[str, object] = {}

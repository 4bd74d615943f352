"""The separately compiled units and their binding to the names in `units`.

A symbol must be bound before a cached caller of it is loaded (Numba would crash, not raise), so `bind` runs before the
path loop is imported.
"""

import importlib

from numba import cfunc

from nocturne.engine.kernels import units
from nocturne.engine.kernels.jit import unit_options

_ROOM = __name__.rpartition(".")[0]


def compiled_unit(name: str):
    """Return a unit, compiled or from the cache. The units that it calls are bound before."""
    module, function = units.UNITS[name]
    return cfunc(units.UNIT, **unit_options)(getattr(importlib.import_module(f"{_ROOM}.{module}"), function))


def _compiled() -> dict:
    made = {}
    units.bind_rays()
    for name in units.UNITS:
        made[name] = compiled_unit(name)
        units.bind_unit(name, made[name].address)
    return made


compiled = _compiled()


def bind() -> None:
    """Bind every unit's name to its address in this process."""
    units.bind_to({name: unit.address for name, unit in compiled.items()})

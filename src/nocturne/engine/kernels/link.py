"""The separately compiled units and their binding to the names in `units`.

A symbol must be bound before a cached caller of it is loaded (Numba would crash, not raise), so `bind` runs before the
path loop is imported, and units that are called come before those that call them.
"""

from nocturne.engine.kernels import units
from nocturne.engine.kernels.building import address_of_unit


def _compiled() -> dict[str, int]:
    made = {}
    units.bind_rays()
    for name in units.FUNCTIONS:
        made[name] = address_of_unit(name)
        units.bind_unit(name, made[name])
    return made


addresses = _compiled()


def bind() -> None:
    """Bind every unit's name to its address in this process."""
    units.bind_to(addresses)

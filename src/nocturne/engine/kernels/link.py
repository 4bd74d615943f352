"""The separately compiled units and their binding to the names in `units`.

An edit of one unit recompiles one, and two processes can compile at once on the first start. A symbol must be bound
before a cached caller of it is loaded (Numba would crash, not raise), so `bind` runs before `paths` is imported.
"""

from numba import cfunc, types

from nocturne.engine.kernels import lights, materials, units
from nocturne.engine.kernels.jit import unit_options

_UNIT = types.void(types.intp, types.intp)


@cfunc(_UNIT, **unit_options)
def _read_material(scene, row):
    materials.read(scene, row)


@cfunc(_UNIT, **unit_options)
def _read_sheet(scene, row):
    materials.read_sheet(scene, row)


@cfunc(_UNIT, **unit_options)
def _derive_material(scene, row):
    materials.derive_hit(scene, row)


@cfunc(_UNIT, **unit_options)
def _evaluate_material(scene, row):
    materials.evaluate_lamp(scene, row)


@cfunc(_UNIT, **unit_options)
def _sample_material(scene, row):
    materials.sample_direction(scene, row)


@cfunc(_UNIT, **unit_options)
def _sample_lamp(scene, row):
    lights.sample_lamp(scene, row)


@cfunc(_UNIT, **unit_options)
def _lamp_hit(scene, row):
    lights.lamp_hit(scene, row)


@cfunc(_UNIT, **unit_options)
def _infinite_hit(scene, row):
    lights.infinite_hit(scene, row)


_COMPILED = {
    "read_material": _read_material,
    "read_sheet": _read_sheet,
    "derive_material": _derive_material,
    "evaluate_material": _evaluate_material,
    "sample_material": _sample_material,
    "sample_lamp": _sample_lamp,
    "lamp_hit": _lamp_hit,
    "infinite_hit": _infinite_hit,
}


def bind() -> None:
    """Bind every unit's name to its address in this process."""
    units.bind_to({name: compiled.address for name, compiled in _COMPILED.items()})

"""The kernel's units as the path loop sees them: names of compiled functions, bound to addresses by `link`."""

import llvmlite.binding as llvm
from numba import types

from nocturne.engine import embree

_UNIT = types.void(types.intp, types.intp)
_RAY = types.void(types.intp, types.intp, types.intp)
NAMES = (
    "read_material",
    "read_sheet",
    "derive_material",
    "evaluate_material",
    "sample_material",
    "sample_lamp",
    "lamp_hit",
    "infinite_hit",
)

_is_bound = False


def bind_to(addresses: dict[str, int]) -> None:
    """Bind the units' names, and Embree's ray functions, to addresses of this process."""
    global _is_bound
    llvm.add_symbol("nocturne_intersect", embree.intersect_address)
    llvm.add_symbol("nocturne_occluded", embree.occluded_address)
    for name in NAMES:
        llvm.add_symbol(f"nocturne_{name}", addresses[name])
    _is_bound = True


def ensure_bound() -> None:
    """Bind the units if nobody has: compiled code that names them would end the process where they have no address."""
    if not _is_bound:
        from nocturne.engine.kernels import link

        link.bind()


intersect = types.ExternalFunction("nocturne_intersect", _RAY)
occluded = types.ExternalFunction("nocturne_occluded", _RAY)
read_material = types.ExternalFunction("nocturne_read_material", _UNIT)
read_sheet = types.ExternalFunction("nocturne_read_sheet", _UNIT)
derive_material = types.ExternalFunction("nocturne_derive_material", _UNIT)
evaluate_material = types.ExternalFunction("nocturne_evaluate_material", _UNIT)
sample_material = types.ExternalFunction("nocturne_sample_material", _UNIT)
sample_lamp = types.ExternalFunction("nocturne_sample_lamp", _UNIT)
lamp_hit = types.ExternalFunction("nocturne_lamp_hit", _UNIT)
infinite_hit = types.ExternalFunction("nocturne_infinite_hit", _UNIT)

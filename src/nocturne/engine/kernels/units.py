"""The kernel's units as the path loop sees them: names of compiled functions, bound to addresses by `link`.

A unit is a function of two addresses, scene table and work row, that is compiled on its own: an edit of one recompiles
one, and two processes can compile at once on the first start.
"""

import llvmlite.binding as llvm
from numba import types

from nocturne.engine import embree

UNIT = types.void(types.intp, types.intp)
_RAY = types.void(types.intp, types.intp, types.intp)
# Name, and the function it stands for; `link` compiles that.
UNITS = {
    # First what others call.
    "drive": ("patterns.units", "drive"),
    "read_material": ("lobes.units", "read"),
    "read_sheet": ("lobes.units", "read_sheet"),
    "derive_material": ("lobes.units", "derive_hit"),
    "evaluate_material": ("lobes.units", "evaluate_lamp"),
    "sample_material": ("lobes.units", "sample_direction"),
    "sample_lamp": ("lights.units", "sample_lamp"),
    "lamp_hit": ("lights.units", "lamp_hit"),
    "infinite_hit": ("lights.units", "infinite_hit"),
}

_is_bound = False


def bind_to(addresses: dict[str, int]) -> None:
    """Bind the units' names, and Embree's ray functions, to addresses of this process."""
    global _is_bound
    bind_rays()
    for name in UNITS:
        bind_unit(name, addresses[name])
    _is_bound = True


def bind_rays() -> None:
    """Bind the names of Embree's ray functions."""
    llvm.add_symbol("nocturne_intersect", embree.intersect_address)
    llvm.add_symbol("nocturne_occluded", embree.occluded_address)


def bind_unit(name: str, address: int) -> None:
    """Bind one unit's name."""
    llvm.add_symbol(f"nocturne_{name}", address)


def ensure_bound() -> None:
    """Bind the units if nobody has: compiled code that names them would end the process where they have no address."""
    if not _is_bound:
        from nocturne.engine.kernels import link

        link.bind()


intersect = types.ExternalFunction("nocturne_intersect", _RAY)
occluded = types.ExternalFunction("nocturne_occluded", _RAY)
globals().update({name: types.ExternalFunction(f"nocturne_{name}", UNIT) for name in UNITS})

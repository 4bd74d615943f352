"""The kernel's units as the path loop sees them: names of compiled functions, bound to addresses by `link`.

A unit is a function of two addresses, scene table and work row, that is compiled on its own: an edit of one recompiles
one, and two processes can compile at once on the first start.
"""

import llvmlite.binding as llvm
from numba import types

from nocturne.engine import embree

UNIT = types.void(types.intp, types.intp)
_POINT = types.boolean(types.intp, types.intp, types.intp, types.intp, types.intp)
_RAY = types.void(types.intp, types.intp, types.intp)
# Noise at a place: so many steps call it that it is compiled once.
NOISE = types.float32(types.float32, types.float32, types.float32)
STEP = types.void(
    *(types.intp, types.intp, types.int64, types.int64, types.int64, types.intp),
    *(types.float32, types.float32, types.float32, types.float32),
)
# What works out patterns: noise, families of steps and the machine that calls them. Name: file, function, shape.
PATTERNS = {
    "noise": ("patterns.noise", "noise", NOISE),
    "closer": ("patterns.nearest", "closer", types.boolean(types.intp)),
    **{
        name: (f"patterns.{name}", "step", STEP)
        for name in ("noises", "marks", "laid", "grown", "signs", "where", "wear", "adjust")
    },
    "drive": ("patterns.units", "drive", UNIT),
}
# What a thin film on a base reflects: several lobes ask, and few materials have one.
FILM = types.void(types.intp, types.intp, types.int64, *(types.float32,) * 4)
SURFACES = {
    "film": ("lobes.film", "film", FILM),
    "read_material": ("lobes.units", "read", UNIT),
    "read_sheet": ("lobes.units", "read_sheet", UNIT),
    "derive_material": ("lobes.units", "derive_hit", UNIT),
    "evaluate_material": ("lobes.units", "evaluate_lamp", UNIT),
    "sample_material": ("lobes.units", "sample_direction", UNIT),
    "sample_lamp": ("lights.units", "sample_lamp", UNIT),
    "lamp_hit": ("lights.units", "lamp_hit", UNIT),
    "infinite_hit": ("lights.units", "infinite_hit", UNIT),
}
FUNCTIONS = {**PATTERNS, **SURFACES}

_is_bound = False


def bind_to(addresses: dict[str, int]) -> None:
    """Bind the units' names, and Embree's ray functions, to addresses of this process."""
    global _is_bound
    bind_rays()
    for name in FUNCTIONS:
        bind_unit(name, addresses[name])
    _is_bound = True


def bind_nowhere() -> None:
    """Bind every name to some address, for a process that compiles and calls nothing."""
    bind_to(dict.fromkeys(FUNCTIONS, embree.intersect_address))


def bind_rays() -> None:
    """Bind the names of Embree's ray functions."""
    llvm.add_symbol("nocturne_intersect", embree.intersect_address)
    llvm.add_symbol("nocturne_occluded", embree.occluded_address)
    llvm.add_symbol("nocturne_nearest", embree.nearest_address)


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
nearest = types.ExternalFunction("nocturne_nearest", _POINT)
globals().update({name: types.ExternalFunction(f"nocturne_{name}", made[2]) for name, made in FUNCTIONS.items()})

"""How kernels are compiled, and how they read tables of addresses.

Without reference counting (`_nrt=False`) a kernel cannot make or return arrays, so arrays are blocks made by
intrinsics over addresses (`memory`): passing a table's address through the call graph measured three to four times
faster than passing arrays.
"""

from collections.abc import Callable, Iterable

import numpy as np

from nocturne.engine.entries import ANY_ORDER, SAFE_MATH
from nocturne.engine.kernels.later import Later, accessor
from nocturne.engine.types import SCENE, offsets
from nocturne.film.layout import ARRAYS
from nocturne.rows import Field


def part(function: Callable, math: Iterable[str] = SAFE_MATH, **options) -> Later:
    """Return a function that other compiled functions call."""

    def make():
        from numba import njit

        from nocturne.engine.kernels.parts import PartCompiler

        bare = {"nogil": True, "error_model": "numpy", "_nrt": False, "pipeline_class": PartCompiler}
        inside = {"no_cpython_wrapper": True, "no_cfunc_wrapper": True}
        return njit(fastmath=set(math), **bare, **inside, **options)(function)

    return Later(make)


def jit(function: Callable) -> Later:
    """Return a function of the kernels."""
    return part(function)


def inlined(function: Callable) -> Later:
    """Return a function of the kernels that has one caller: a call passes each row as seven numbers."""
    return part(function, forceinline=True)


def loop(function: Callable) -> Later:
    """Return a function of loops over pictures, whose sums may be taken in any order."""
    return part(function, ANY_ORDER)


f4 = np.float32
f8 = np.float64
i4 = np.int32
u4 = np.uint32


def _accessors(fields: tuple[Field, ...], *, is_constant: bool) -> dict[str, Later]:
    where = offsets(fields)
    return {f.name: accessor("make_accessor", f, where[f.name], is_constant=is_constant) for f in fields}


# What is learned of the set is added up by address only, so kernels may trust what they read of it to stay.
scene = _accessors(SCENE, is_constant=True)
address_of = {name: accessor("make_address", at) for name, at in offsets(SCENE).items()}
film = _accessors(ARRAYS, is_constant=False)
row_f4 = accessor("make_row_view", "f4")
row_u4 = accessor("make_row_view", "u4")
row_i4 = accessor("make_row_view", "i4")
row_i8 = accessor("make_row_view", "i8")
counted_up = accessor("counted_up")
added_to = accessor("added_to")
ask_for = accessor("ask_for")

"""Machine code, loaded from the cache and linked without the compiler that made it.

Numba takes over a second until it may call what its own cache holds: it loads the tables that it compiles by, and a
library of linear algebra. What it made is an object file, which LLVM links in a moment. Each function is known by one
symbol, `nocturne_` and its name, through which others call it.
"""

import threading
from functools import cache as memoize
from typing import TYPE_CHECKING

import llvmlite.binding as llvm

from nocturne.engine import cache

if TYPE_CHECKING:
    from nocturne.engine.entries import Entry

_free = threading.RLock()
_loaded: set[str] = set()


@memoize
def _linker() -> llvm.ExecutionEngine:
    """Return what links code in this process."""
    llvm.initialize_native_target()
    llvm.initialize_native_asmprinter()
    # As Numba chooses it: code in this process may lie anywhere.
    machine = llvm.Target.from_default_triple().create_target_machine(opt=3, reloc="default", codemodel="jitdefault")
    return llvm.create_mcjit_compiler(llvm.parse_assembly(""), machine)


def address_of(entry: "Entry") -> int:
    """Return the address of a function's code; what calls each other is loaded together."""
    from nocturne.engine.entries import KERNELS

    with _free:
        if entry.name not in _loaded:
            if entry.name in KERNELS:
                name_rays()
                _load(*KERNELS.values())
            else:
                _load(entry)
        return _linker().get_function_address(entry.symbol)


def name_rays() -> None:
    """Tell LLVM the addresses of Embree's functions: code that calls what has no address would end the process."""
    from nocturne.engine import embree

    llvm.add_symbol("nocturne_intersect", embree.intersect_address)
    llvm.add_symbol("nocturne_occluded", embree.occluded_address)
    llvm.add_symbol("nocturne_nearest", embree.nearest_address)


def _load(*entries: "Entry") -> None:
    # All of it first: what is linked while a part of it is missing ends the process.
    codes = [cache.code_of(entry.name) or _compiled(entry) for entry in entries]
    for code in codes:
        _linker().add_object_file(llvm.ObjectFileRef.from_data(code))
    _linker().finalize_object()
    _loaded.update(entry.name for entry in entries)


def _compiled(entry: "Entry") -> bytes:
    from nocturne.engine.kernels.building import object_code

    return object_code(entry)

"""How kernels are compiled, and how they read tables of addresses.

Without reference counting (`_nrt=False`) a kernel cannot make or return arrays, so arrays are blocks made by
intrinsics over addresses (`memory`): passing a table's address through the call graph measured three to four times
faster than passing arrays. The fast-math subset leaves NaN and infinity tests intact, and sums in the order they are
written: a picture does not change with what a compiler finds to join (measured: no slower).
"""

import numpy as np
from llvmlite import ir
from numba import njit, types
from numba.core import cgutils
from numba.extending import intrinsic

from nocturne.engine.kernels.memory import UNKNOWN, Block, made
from nocturne.engine.kernels.parts import KernelCompiler, PartCompiler
from nocturne.engine.types import SCENE, offsets
from nocturne.film.layout import ARRAYS
from nocturne.rows import Field

SAFE_MATH = {"nsz", "arcp", "contract", "afn"}
_OPTIONS = {"nogil": True, "fastmath": SAFE_MATH, "error_model": "numpy", "_nrt": False}
_PART = {**_OPTIONS, "no_cpython_wrapper": True, "no_cfunc_wrapper": True, "pipeline_class": PartCompiler}

jit = njit(**_PART)
# For functions with one caller: a call passes each row as seven numbers.
inlined = njit(forceinline=True, **_PART)
entry_options = {**_OPTIONS, "cache": True, "pipeline_class": KernelCompiler}
unit_options = {**entry_options, "no_cpython_wrapper": True}

f4 = np.float32
f8 = np.float64
i4 = np.int32
u4 = np.uint32

_NUMBA_TYPES = {
    "i8": types.int64,
    "f8": types.float64,
    "f4": types.float32,
    "i4": types.int32,
    "u4": types.uint32,
    "u2": types.uint16,
}


def make_accessor(field: Field, at: int, *, is_constant: bool):
    """Return a compiled function: address of a table -> block that one of its arrays is.

    is_constant: nobody writes it while a kernel runs.
    """
    block = Block(_NUMBA_TYPES[field.dtype], field.shape, is_constant)

    @intrinsic
    def access(typing_context, table):
        def generate(context, builder, signature, args):
            base = builder.inttoptr(args[0], context.get_value_type(types.CPointer(types.int64)))

            def load(k):
                value = builder.load(cgutils.gep_inbounds(builder, base, k))
                value.set_metadata("invariant.load", builder.module.add_metadata([]))
                return value

            return made(context, builder, block, load(at), [load(at + 1 + k) for k in block.carried])

        return block(types.intp), generate

    return access


def make_row_view(code: str):
    """Return a compiled function: address -> block of one dimension."""
    block = Block(_NUMBA_TYPES[code], (UNKNOWN,), False)

    @intrinsic
    def view(typing_context, address):
        def generate(context, builder, signature, args):
            return made(context, builder, block, args[0], [])

        return block(types.intp), generate

    return view


@intrinsic
def counted_up(typing_context, address):
    """Add one to the int64 at an address, whichever threads do so at once; return what it was."""

    def generate(context, builder, signature, args):
        counter = builder.inttoptr(args[0], context.get_value_type(types.CPointer(types.int64)))
        return builder.atomic_rmw("add", counter, ir.Constant(ir.IntType(64), 1), "monotonic")

    return types.int64(types.intp), generate


@intrinsic
def added_to(typing_context, address, amount):
    """Add an int64 to the one at an address, whichever threads do so at once; return what it was."""

    def generate(context, builder, signature, args):
        counter = builder.inttoptr(args[0], context.get_value_type(types.CPointer(types.int64)))
        return builder.atomic_rmw("add", counter, args[1], "monotonic")

    return types.int64(types.intp, types.int64), generate


@intrinsic
def ask_for(typing_context, address):
    """Ask for the cache line at an address, which will be read soon: a hint, never a fault."""

    def generate(context, builder, signature, args):
        pointer, word = builder.inttoptr(args[0], ir.IntType(8).as_pointer()), ir.IntType(32)
        function = cgutils.get_or_insert_function(
            builder.module, ir.FunctionType(ir.VoidType(), [pointer.type, word, word, word]), "llvm.prefetch.p0"
        )
        builder.call(function, [pointer, word(0), word(3), word(1)])
        return context.get_dummy_value()

    return types.void(types.intp), generate


def make_address(at: int):
    """Return a compiled function: address of a table -> address of one of its arrays."""

    @intrinsic
    def address(typing_context, table):
        def generate(context, builder, signature, args):
            base = builder.inttoptr(args[0], context.get_value_type(types.CPointer(types.int64)))
            value = builder.load(cgutils.gep_inbounds(builder, base, at))
            value.set_metadata("invariant.load", builder.module.add_metadata([]))
            return value

        return types.intp(types.intp), generate

    return address


def _accessors(fields: tuple[Field, ...], *, is_constant: bool) -> dict:
    where = offsets(fields)
    return {field.name: make_accessor(field, where[field.name], is_constant=is_constant) for field in fields}


# What is learned of the set is added up by address only, so kernels may trust what they read of it to stay.
scene = _accessors(SCENE, is_constant=True)
address_of = {name: make_address(at) for name, at in offsets(SCENE).items()}
film = _accessors(ARRAYS, is_constant=False)
row_f4 = make_row_view("f4")
row_u4 = make_row_view("u4")
row_i4 = make_row_view("i4")
row_i8 = make_row_view("i8")

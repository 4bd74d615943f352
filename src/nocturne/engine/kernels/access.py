"""Blocks that tables of addresses hold, and addresses themselves, as functions that the compiler writes out."""

from llvmlite import ir
from numba import types
from numba.core import cgutils
from numba.extending import intrinsic

from nocturne.engine.kernels.memory import UNKNOWN, Block, made
from nocturne.rows import Field

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

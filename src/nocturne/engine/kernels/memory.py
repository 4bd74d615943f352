"""Memory that kernels read and write: bare addresses that are indexed like arrays.

An array of Numba's is seven numbers that each call passes, and each index of it is asked whether it counts from the
end. A block is an address, and what of its shape is not known when the kernel is compiled. Reading outside is not
caught, and neither is an index below 0. Where nothing is written while a kernel runs, the compiler is told, so that it
need not read again after each store to the work row.
"""

import operator

from llvmlite import ir
from numba import types
from numba.core import cgutils
from numba.core.typing.templates import AbstractTemplate, AttributeTemplate, infer_getattr, infer_global, signature
from numba.extending import lower_builtin, lower_getattr, models, register_model

UNKNOWN = -1  # how many there are in the first dimension, where nobody asks


class Block(types.Type):
    """An address with a dtype and a shape: numbers, None where it comes with the value, `UNKNOWN`."""

    def __init__(self, dtype: types.Type, shape: tuple[int | None, ...], is_constant: bool) -> None:
        super().__init__(name=f"Block({dtype}, {shape}, {is_constant})")
        self.dtype, self.shape, self.is_constant = dtype, shape, is_constant

    @property
    def carried(self) -> list[int]:
        """Return which of its dimensions come with the value."""
        return [k for k, size in enumerate(self.shape) if size is None]


@register_model(Block)
class _BlockModel(models.StructModel):
    def __init__(self, manager, block: Block) -> None:
        sizes = [(f"size{k}", types.intp) for k in block.carried]
        super().__init__(manager, block, [("data", types.CPointer(block.dtype)), *sizes])


def made(context, builder, block: Block, address, sizes):
    """Return the value of a block: at an address (a number), of these sizes."""
    value = cgutils.create_struct_proxy(block)(context, builder)
    value.data = builder.inttoptr(address, context.get_value_type(types.CPointer(block.dtype)))
    for k, size in zip(block.carried, sizes):
        setattr(value, f"size{k}", size)
    return value._getvalue()


def _indices(block: Block, index: types.Type) -> tuple[types.Type, ...] | None:
    """Return the types of a whole index of a block, None if this is none."""
    parts = tuple(index.types) if isinstance(index, types.BaseTuple) else (index,)
    fits = len(parts) == len(block.shape) and all(isinstance(part, types.Integer) for part in parts)
    return parts if fits else None


@infer_global(operator.getitem)
class _Get(AbstractTemplate):
    def generic(self, args, kws):
        block, index = args
        if isinstance(block, Block) and _indices(block, index) is not None:
            return signature(block.dtype, block, index)
        return None


@infer_global(operator.setitem)
class _Set(AbstractTemplate):
    def generic(self, args, kws):
        block, index, _ = args
        if isinstance(block, Block) and not block.is_constant and _indices(block, index) is not None:
            return signature(types.none, block, index, block.dtype)
        return None


@infer_getattr
class _Attributes(AttributeTemplate):
    key = Block

    def resolve_shape(self, block: Block) -> types.Type | None:
        return None if UNKNOWN in block.shape else types.UniTuple(types.intp, len(block.shape))


def _sizes(builder, block: Block, value) -> list:
    word = ir.IntType(64)
    return [getattr(value, f"size{k}") if n is None else ir.Constant(word, n) for k, n in enumerate(block.shape)]


def _place(context, builder, block: Block, value, index_type: types.Type, index):
    """Return the pointer to what an index means."""
    kinds = _indices(block, index_type)
    numbers = cgutils.unpack_tuple(builder, index) if isinstance(index_type, types.BaseTuple) else [index]
    at = None
    for kind, number, size in zip(kinds, numbers, _sizes(builder, block, value)):
        number = context.cast(builder, number, kind, types.int64)
        at = number if at is None else builder.add(builder.mul(at, size, flags=("nsw",)), number, flags=("nsw",))
    return builder.gep(value.data, [at], inbounds=True)


@lower_builtin(operator.getitem, Block, types.Any)
def _lower_get(context, builder, sig, args):
    block, index = sig.args
    value = cgutils.create_struct_proxy(block)(context, builder, args[0])
    found = builder.load(_place(context, builder, block, value, index, args[1]))
    if block.is_constant:
        found.set_metadata("invariant.load", builder.module.add_metadata([]))
    return found


@lower_builtin(operator.setitem, Block, types.Any, types.Any)
def _lower_set(context, builder, sig, args):
    block, index, kind = sig.args
    value = cgutils.create_struct_proxy(block)(context, builder, args[0])
    stored = context.cast(builder, args[2], kind, block.dtype)
    builder.store(stored, _place(context, builder, block, value, index, args[1]))
    return context.get_dummy_value()


@lower_getattr(Block, "shape")
def _lower_shape(context, builder, block, value):
    held = cgutils.create_struct_proxy(block)(context, builder, value)
    kind = types.UniTuple(types.intp, len(block.shape))
    return context.make_tuple(builder, kind, _sizes(builder, block, held))

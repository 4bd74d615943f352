"""Compiling one function, with all that it calls, to machine code that is known by one symbol."""

import importlib

from llvmlite import ir
from numba import types
from numba.core.codegen import JITCodeLibrary
from numba.core.compiler_lock import global_compiler_lock
from numba.core.registry import cpu_target
from numba.np import arrayobj

from nocturne.engine.entries import Entry
from nocturne.engine.kernels.jit import part


class _Whole(JITCodeLibrary):
    """Code that is optimised and emitted, but never loaded where it is made: what it calls may have no address here."""

    def _optimize_final_module(self) -> None:
        # Whatever is not called from outside need not be there once it is part of its only caller.
        for function in self._final_module.functions:
            if not function.is_declaration and function.name != self.name:
                function.linkage = "internal"
        # Numba keeps exceptions pickled; where nobody looks at them, optimising would leave no trace of them.
        if any("pickle" in constant.name for constant in self._final_module.global_variables):
            raise TypeError(f"{self.name} could raise, which nobody would see.")
        super()._optimize_final_module()

    def _finalize_final_module(self) -> None:
        self._finalize_dynamic_globals()
        self._finalized = True

    def emitted(self) -> bytes:
        return self._codegen._tm.emit_object(self._final_module)


@global_compiler_lock
def object_code(entry: Entry) -> bytes:
    """Return the object file of a function.

    Raises
    ------
    TypeError
        If it could raise: nobody would see that.
    """
    function = entry.source or getattr(importlib.import_module(entry.module), entry.function)
    dispatcher = part(function, entry.math).made
    dispatcher.compile(entry.shape)
    (made,) = dispatcher.overloads.values()
    library = _Whole(cpu_target.target_context.codegen(), entry.symbol)
    library.add_ir_module(_entrance(entry.symbol, made.fndesc))
    library.add_linking_library(made.library)
    library.finalize()
    return library.emitted()


def _entrance(symbol: str, inner) -> ir.Module:
    """Return a module with the one function that is called from outside, by the rules of C.

    An array is its address and its lengths. Nobody looks whether it raised: what could is refused.
    """
    context = cpu_target.target_context
    module = context.create_module("entrance")
    flat = []
    for kind in inner.argtypes:
        is_array = isinstance(kind, types.Array)
        flat += (
            [ir.IntType(8).as_pointer(), *[ir.IntType(64)] * kind.ndim] if is_array else [context.get_value_type(kind)]
        )
    returned = context.get_value_type(inner.restype)
    is_void, is_truth = inner.restype == types.void, inner.restype == types.boolean
    outer = ir.IntType(8) if is_truth else ir.VoidType() if is_void else returned
    callee = ir.Function(
        module, context.call_conv.get_function_type(inner.restype, inner.argtypes), inner.llvm_func_name
    )
    entrance = ir.Function(module, ir.FunctionType(outer, flat), symbol)
    builder = ir.IRBuilder(entrance.append_basic_block("entry"))
    given, values = iter(entrance.args), []
    for kind in inner.argtypes:
        values.append(_array(context, builder, kind, given) if isinstance(kind, types.Array) else next(given))
    _, value = context.call_conv.call_function(builder, callee, inner.restype, inner.argtypes, values)
    if is_void:
        builder.ret_void()
    else:
        builder.ret(builder.zext(value, outer) if is_truth else value)
    return module


def _array(context, builder, kind: types.Array, given):
    """Return the structure that Numba knows an array by, of its address and lengths."""
    made = context.make_array(kind)(context, builder)
    data = builder.bitcast(next(given), context.get_data_type(kind.dtype).as_pointer())
    lengths = [next(given) for _ in range(kind.ndim)]
    size = context.get_abi_sizeof(context.get_data_type(kind.dtype))
    strides, step = [], context.get_constant(types.intp, size)
    for length in reversed(lengths):
        strides.insert(0, step)
        step = builder.mul(step, length)
    arrayobj.populate_array(made, data, lengths, strides, context.get_constant(types.intp, size), None)
    return made._getvalue()

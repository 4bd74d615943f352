"""How a function is compiled that only other compiled functions call: brought to LLVM's language and left at that.

Numba optimises each function with all that it calls and makes machine code of it, before its caller does the same once
more, and the caller's caller. What is never called from outside needs neither: whoever is at the top optimises all of
it in one go. Written against the Numba that is pinned: its own way of adding a compiler, with two steps replaced.
"""

from numba import _dynfunc
from numba.core import compiler
from numba.core.codegen import JITCodeLibrary
from numba.core.compiler_machinery import PassManager, register_pass
from numba.core.typed_passes import AnnotateTypes, NativeLowering

from nocturne.engine.kernels import remembered  # noqa: F401 - before anything is compiled


class _Part(JITCodeLibrary):
    """The code of one function and of those that it calls, to be linked into a caller's."""

    def _optimize_final_module(self) -> None:
        pass

    def _finalize_final_module(self) -> None:
        self._finalize_dynamic_globals()
        self._finalized = True


# Of Numba's steps those that kernels need: no closures, generators, loops over tuples or exceptions are in them.
_NEEDED = {
    *("TranslateByteCode", "FixupArgs", "IRProcessing", "GenericRewrites", "ReconstructSSA"),
    *("NopythonTypeInference", "PreLowerStripPhis", "IRLegalization", "AnnotateTypes"),
    *("NativeLowering", "NoPythonBackend"),
}


@register_pass(mutates_CFG=True, analysis_only=False)
class _LowerPart(NativeLowering):
    """Numba's lowering, without making a function that Python could call."""

    _name = "lower_part"

    def run_pass(self, state) -> bool:
        state.library = _Part(state.targetctx.codegen(), state.func_id.func_qualname)
        state.flags.no_compile = True
        super().run_pass(state)
        found = state["cr"]
        # Numba knows functions by such an object; its address is nowhere.
        known_by = _dynfunc.make_function(
            found.fndesc.lookup_module(), state.func_id.func_name, "", 0, found.env, (state.library,)
        )
        state.targetctx.insert_user_function(known_by, found.fndesc, [state.library])
        state["cr"] = found._replace(cfunc=known_by)
        return True


@register_pass(mutates_CFG=False, analysis_only=True)
class _Unexplained(AnnotateTypes):
    """In the place of what Numba would write for people about types."""

    _name = "unexplained"

    def get_analysis_usage(self, needs) -> None:
        """Ask for nothing."""

    def run_pass(self, state) -> bool:
        state.type_annotation = None
        return False


_INSTEAD = {NativeLowering: _LowerPart, AnnotateTypes: _Unexplained}


class PartCompiler(compiler.CompilerBase):
    """Numba's compiler for functions without Python objects, with the steps alone that kernels need."""

    def define_pipelines(self) -> list[PassManager]:
        """Return the one way to compile."""
        made = compiler.DefaultPassBuilder.define_nopython_pipeline(self.state)
        steps = PassManager("kernel")
        for step, told in made.passes:
            if step.__name__ in _NEEDED:
                steps.add_pass(_INSTEAD.get(step, step), told)
        steps.finalize()
        return [steps]

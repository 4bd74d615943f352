"""What Numba works out again and again while it compiles, worked out once.

Two thirds of compiling the kernels were Numba's own work in Python. Of that, a third was asking each of dozens of
templates, at each `a + b` again, whether it is the one for two numbers; a tenth was comparing options that are the
same; a tenth was telling listeners of events what nobody reads. Written against the Numba that is pinned. The code
that comes out is the same; where a function stands for Numba's own `min` both within and without what is inlined, its
instructions may come in another order.
"""

import operator
from collections.abc import Callable, Iterable
from contextlib import nullcontext
from functools import cache
from typing import Any

from llvmlite.binding import ffi
from numba.core import base, errors, event, ir, lowering, typeinfer, types
from numba.core.targetconfig import ConfigStack, TargetConfig

_NO_VARIABLES = frozenset((str, int, float, bool, type(None), ir.Loc, type(operator.add), type))

_SAYING_WHERE = errors.new_error_context
_CONSTANTS = (types.IntegerLiteral, types.BooleanLiteral)


def _as_set(options: TargetConfig | None) -> tuple:
    """Return what tells options apart, without asking each of fifty for its default."""
    return () if options is None else tuple((name, str(options._values[name])) for name in sorted(options._values))


def _remembering(resolve: Callable) -> Callable:
    """Return the same, for a kind of function, that works out once which types come of which.

    An answer hangs on the options too: by them Numba compiles what stands for some functions.
    """

    def resolved(self, context, args, kws) -> Any:
        key = (context, tuple(args), tuple(kws.items()), _as_set(ConfigStack.top_or_none()))
        known = self.__dict__.setdefault("_known_calls", {})
        if key not in known:
            known[key] = resolve(self, context, args, kws)
        return known[key]

    return resolved


def _once_for_numbers(resolve: Callable) -> Callable:
    """Return the same, for functions of ours, that compiles one for all the constants that it is called with.

    Where it is inlined, the constants are there all the same.
    """

    def resolved(self, context, args, kws) -> Any:
        return resolve(self, context, tuple(types.unliteral(a) if isinstance(a, _CONSTANTS) else a for a in args), kws)

    return resolved


def _add_variables(of: Iterable[Any], found: list[ir.Var]) -> None:
    for one in of:
        kind = type(one)
        if kind is ir.Var:
            found.append(one)
        elif kind in _NO_VARIABLES:
            continue
        elif kind is tuple or kind is list:
            _add_variables(one, found)
        elif kind is dict:
            _add_variables(one.values(), found)
        elif isinstance(one, ir.Inst):
            found += one.list_vars()


def _listed(self, of: Any) -> list[ir.Var]:
    """Return the variables of an instruction's parts; Numba asks five times for those of each."""
    found: list[ir.Var] = []
    _add_variables((of,), found)
    return found


def _equal(self: TargetConfig, other: Any) -> bool:
    if self is other:
        return True
    if not isinstance(other, TargetConfig):
        return NotImplemented
    return self._values == other._values or self.values() == other.values()


class _Where:
    """What an error is told of where it was met, put together only if there is one."""

    def __init__(self, *about: Any, **named: Any) -> None:
        self._about, self._named = about, named

    def __enter__(self) -> None:
        pass

    def __exit__(self, kind: type | None, error: BaseException | None, _: Any) -> None:
        if isinstance(error, errors.NumbaError):
            with _SAYING_WHERE(*self._about, **self._named):
                raise error


def _tell_nobody(told: event.Event) -> None:
    pass


types.BaseFunction.get_call_type = _remembering(types.BaseFunction.get_call_type)
types.BoundFunction.get_call_type = _remembering(types.BoundFunction.get_call_type)
types.Dispatcher.get_call_type = _once_for_numbers(types.Dispatcher.get_call_type)
ir.Inst._rec_list_vars = _listed
TargetConfig.__eq__ = _equal
event.broadcast = _tell_nobody
base._has_loc = cache(base._has_loc)
lowering.new_error_context = typeinfer.new_error_context = _Where
errors.WarningsFixer.catch_warnings = lambda *_, **__: nullcontext()  # which are errors here
for _taken, _given_back in list(getattr(ffi.lib._lock, "_cblist", ())):
    ffi.unregister_lock_callback(_taken, _given_back)

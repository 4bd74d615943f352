"""What Numba works out again and again while it compiles, worked out once.

Two thirds of compiling the kernels are Numba's own work in Python. Of that, a third was asking each of dozens of
templates, again at each `a + b`, whether it is the one for two numbers; a tenth was comparing options that are the
same; a tenth was telling listeners of events what nobody reads. Written against the Numba that is pinned; the code
that comes out is the same, byte by byte.
"""

from collections.abc import Callable
from typing import Any

from llvmlite.binding import ffi
from numba.core import event, ir, types
from numba.core.targetconfig import ConfigStack, TargetConfig

_NOTHING = (str, int, float, bool, type(None), ir.Loc)


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


def _variables(of: Any, found: list[ir.Var]) -> None:
    kind = type(of)
    if kind is ir.Var:
        found.append(of)
    elif kind is tuple or kind is list:
        for one in of:
            _variables(one, found)
    elif kind is dict:
        for one in of.values():
            _variables(one, found)
    elif kind not in _NOTHING and isinstance(of, ir.Inst):
        found += of.list_vars()


def _listed(self, of: Any) -> list[ir.Var]:
    found: list[ir.Var] = []
    _variables(of, found)
    return found


def _equal(self: TargetConfig, other: Any) -> bool:
    if self is other:
        return True
    if not isinstance(other, TargetConfig):
        return NotImplemented
    return self._values == other._values or self.values() == other.values()


def _tell_nobody(told: event.Event) -> None:
    pass


types.BaseFunction.get_call_type = _remembering(types.BaseFunction.get_call_type)
types.BoundFunction.get_call_type = _remembering(types.BoundFunction.get_call_type)
ir.Inst._rec_list_vars = _listed
TargetConfig.__eq__ = _equal
event.broadcast = _tell_nobody
for _taken, _given_back in list(getattr(ffi.lib._lock, "_cblist", ())):
    ffi.unregister_lock_callback(_taken, _given_back)

"""What compiled functions are made of, made once a compiler asks: a start that compiles nothing loads no compiler."""

from collections.abc import Callable
from functools import cached_property
from typing import Any


class Later:
    """Something of Numba's that is made when its type is asked for."""

    def __init__(self, make: Callable[[], Any]) -> None:
        self._make = make

    @cached_property
    def made(self) -> Any:
        """Return it."""
        return self._make()

    @property
    def _numba_type_(self) -> Any:  # where Numba asks for the type of what it does not know
        from numba.core.dispatcher import Dispatcher
        from numba.core.registry import cpu_target

        if "made" not in self.__dict__ and not isinstance(self.made, Dispatcher):
            cpu_target.typing_context.refresh()  # takes note of what was made since a compiler began
            cpu_target.target_context.refresh()
        return cpu_target.typing_context.resolve_value_type(self.made)


def intrinsic(function: Callable) -> Later:
    """Return a function that writes LLVM's language itself, as `numba.extending.intrinsic` makes it."""

    def make() -> Any:
        from numba.extending import intrinsic

        return intrinsic(function)

    return Later(make)


def accessor(name: str, *given: Any, **named: Any) -> Later:
    """Return one of what `access` holds, or what a function of it makes of what is given."""

    def make() -> Any:
        from nocturne.engine.kernels import access

        found = getattr(access, name)
        return found(*given, **named) if given else found

    return Later(make)

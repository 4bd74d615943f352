"""What a command is."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Need:
    """What a command needs to be there: asked of the window, and what is said where it is not."""

    is_met: Callable[[Any], bool]
    otherwise: str


@dataclass(frozen=True)
class Command:
    """Something the user can do; `run` gets the window."""

    id: str
    title: str
    menu: str
    run: Callable[[Any], None]
    keys: str = ""
    needs: Need | None = None
    help: str = ""
    finishes_typing: bool = True  # else it takes back what is half typed, or leaves it

    def enabled(self, window: Any) -> bool:
        """Return True if what it needs is there."""
        return self.needs is None or self.needs.is_met(window)

"""What a command is."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Command:
    """Something the user can do; `run` gets the window."""

    id: str
    title: str
    menu: str
    run: Callable[[Any], None]
    keys: str = ""
    enabled: Callable[[Any], bool] = lambda _: True
    help: str = ""

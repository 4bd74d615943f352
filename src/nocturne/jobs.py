"""How slow work reports and stops: generators of `Update`, driven by `run`."""

import os
import threading
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from nocturne.errors import Cancelled

# What a thread outlives: everything that code which meets unexpected data raises. `Exception` itself is left to
# programmers' mistakes of other kinds, which a hook logs and tells.
FAULTS = (
    ArithmeticError,
    AssertionError,
    AttributeError,
    BufferError,
    EOFError,
    ImportError,
    LookupError,
    MemoryError,
    NameError,
    OSError,
    RuntimeError,
    TypeError,
    ValueError,
)


@dataclass(frozen=True, slots=True)
class Update:
    """One report of slow work; the last one of a job carries `result`."""

    done: float
    total: float
    note: str = ""
    preview: Any = None
    result: Any = None


def ignore(_: Update) -> None:
    """Take an update and do nothing."""


def never() -> bool:
    """Never ask work to stop."""
    return False


def give_way(by: int) -> None:
    """Lower the priority of this thread and those it starts, so that the interface stays quick.

    by: its nice value, which on Linux is a thread's own; 0 leaves it as it is.
    """
    if not by:
        return
    try:
        os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), by)
    except OSError:
        pass  # then the system decides alone


def run(
    work: Iterator[Update],
    on_update: Callable[[Update], None] = ignore,
    should_stop: Callable[[], bool] = never,
) -> Any:
    """Drive a job to its end and return its result.

    Parameters
    ----------
    work : generator of Update
        The job; closed whatever happens.
    on_update : callable
        Called with every update, in this thread.
    should_stop : callable
        Asked after every update; True stops the job.

    Returns
    -------
    object
        `result` of the last update, None if there was none.

    Raises
    ------
    Cancelled
        If `should_stop` said so.
    """
    update = None
    try:
        for update in work:
            on_update(update)
            if should_stop():
                raise Cancelled
    finally:
        close = getattr(work, "close", None)
        if close is not None:
            close()
    return update.result if update is not None else None


def duration(seconds: float) -> str:
    """Return a time for people: "8 s", "3 min 05 s", "2 h 10 min"."""
    seconds = round(seconds)
    if seconds < 60:
        return f"{seconds} s"
    if seconds < 3600:
        return f"{seconds // 60} min {seconds % 60:02d} s"
    return f"{seconds // 3600} h {seconds % 3600 // 60:02d} min"

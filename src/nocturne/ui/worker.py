"""Work behind the window: a thread that does what there is to do and waits while there is nothing."""

import logging
import threading
from collections.abc import Callable
from typing import Any

from nocturne.errors import NocturneError
from nocturne.jobs import give_way

_log = logging.getLogger(__name__)
_PATIENCE_S = 30  # for a thread to end: all of them ask often whether they should


class Worker:
    """One thread, the condition it waits on, and the boundary that no error crosses.

    name: of the thread. has_work, take: whether there is something to do, and what; `changed` is held then, and
    whoever changes the answer calls `wake`. do: does it, holding nothing. fail: told what went wrong, in the worker's
    thread; what is unexpected is logged and put into the words that `trouble` has for a task. courtesy: how far it
    gives way to others. changed: a condition shared with other workers. interrupt: ends what is being done, on closing.
    """

    def __init__(
        self,
        name: str,
        has_work: Callable[[], bool],
        take: Callable[[], Any],
        do: Callable[[Any], None],
        *,
        fail: Callable[[NocturneError], None],
        trouble: Callable[[Any], str],
        courtesy: int = 0,
        changed: threading.Condition | None = None,
        interrupt: Callable[[], None] = lambda: None,
    ) -> None:
        self._has_work, self._take, self._do = has_work, take, do
        self._fail, self._trouble, self._courtesy = fail, trouble, courtesy
        self._interrupt = interrupt
        self.changed = changed or threading.Condition()
        self._is_busy = self._closing = self._draining = False
        self._thread = threading.Thread(target=self._work, name=f"nocturne-{name}", daemon=True)

    def start(self) -> None:
        """Start the thread, unless it has been started."""
        if not self._thread.is_alive() and not self._closing:
            self._thread.start()

    def wake(self) -> None:
        """Have it look again what there is to do; `changed` is held."""
        self.changed.notify_all()

    @property
    def is_idle(self) -> bool:
        """Return True if it does nothing, and there is nothing for it to do."""
        with self.changed:
            return not self._is_busy and not self._has_work()

    @property
    def is_closing(self) -> bool:
        """Return True once it is to end."""
        return self._closing

    def close(self, *, drain: bool = False, patience_s: float | None = _PATIENCE_S) -> None:
        """End the thread and wait for it, None for as long as it takes; with `drain` once nothing is left to do."""
        with self.changed:
            self._closing, self._draining = True, drain
            if not drain:
                self._interrupt()
            self.wake()
        if self._thread.is_alive():
            self._thread.join(timeout=patience_s)

    def _work(self) -> None:
        give_way(self._courtesy)
        while True:
            with self.changed:
                self._is_busy = False
                while not (self._closing or self._has_work()):
                    self.changed.wait()
                if self._closing and not (self._draining and self._has_work()):
                    return
                task, self._is_busy = self._take(), True
            try:
                self._do(task)
            except NocturneError as error:
                self._fail(error)
            except Exception as error:  # noqa: BLE001 - nothing whatever ends a worker: all later tasks would wait for good
                _log.exception("%s", self._thread.name)
                self._fail(NocturneError(f"{self._trouble(task)} ({error})."))
            del task  # what was done may be large

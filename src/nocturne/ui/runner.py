"""Background work: the one class that carries updates of jobs to the interface thread."""

import logging
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from PySide6.QtCore import QObject, Signal

from nocturne.errors import Cancelled, NocturneError
from nocturne.jobs import Update, run

_log = logging.getLogger(__name__)


class Runner(QObject):
    """Runs one job after another in a thread of its own; a newer job of the same kind replaces an older one."""

    updated = Signal(str, object)
    finished = Signal(str, object)
    failed = Signal(str, object)
    _hop = Signal(object, str, object)  # a queued call: (receiver function, kind, value)

    def __init__(self) -> None:
        super().__init__()
        self._pool = ThreadPoolExecutor(1, thread_name_prefix="nocturne-job")
        self._stops: dict[str, threading.Event] = {}
        self._hop.connect(self._deliver)

    def submit(self, kind: str, work: Iterator[Update], done: Callable[[Any], None] | None = None) -> None:
        """Start a job; `done` is called in the interface thread with its result."""
        self.cancel(kind)
        stop = self._stops[kind] = threading.Event()
        self._pool.submit(self._work, kind, work, stop, done)

    def cancel(self, kind: str) -> None:
        """Ask a running job to stop."""
        if kind in self._stops:
            self._stops[kind].set()

    def _work(self, kind: str, work: Iterator[Update], stop: threading.Event, done) -> None:
        try:
            result = run(work, lambda update: self._hop.emit(self.updated.emit, kind, update), stop.is_set)
        except Cancelled:
            self._hop.emit(self.finished.emit, kind, None)
        except NocturneError as error:
            self._hop.emit(self.failed.emit, kind, error)
        except (
            OSError,
            ValueError,
            TypeError,
            RuntimeError,
            KeyError,
            AttributeError,
            IndexError,
            MemoryError,
        ) as error:
            _log.exception("job %s", kind)
            self._hop.emit(self.failed.emit, kind, NocturneError(f"{kind}: something went wrong ({error})."))
        else:
            if done is not None:
                self._hop.emit(lambda _, value: done(value), kind, result)
            self._hop.emit(self.finished.emit, kind, result)

    def _deliver(self, receiver: Callable, kind: str, value: Any) -> None:
        receiver(kind, value)

    def shutdown(self) -> None:
        """Stop all jobs and wait for them."""
        for stop in self._stops.values():
            stop.set()
        self._pool.shutdown(wait=True, cancel_futures=True)

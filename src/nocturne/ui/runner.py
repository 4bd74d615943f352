"""Background work: the one class that carries updates of jobs to the interface thread."""

import logging
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from PySide6.QtCore import QObject, Signal

from nocturne.errors import Cancelled, NocturneError
from nocturne.jobs import FAULTS, Update, give_way, run

_log = logging.getLogger(__name__)


class Runner(QObject):
    """Runs jobs in threads, those of one kind one after another; a newer one of a kind replaces an older one."""

    updated = Signal(str, object)
    finished = Signal(str, object)
    failed = Signal(str, object)
    _hop = Signal(object, str, object)  # a queued call: (receiver function, kind, value)

    def __init__(self) -> None:
        super().__init__()
        self._pools: dict[str, ThreadPoolExecutor] = {}
        self._stops: dict[str, list[threading.Event]] = {}
        self._hop.connect(self._deliver)

    def submit(
        self,
        kind: str,
        work: Iterator[Update],
        done: Callable[[Any], None] | None = None,
        *,
        replace: bool = True,
    ) -> None:
        """Start a job; `done` is called in the interface thread with its result.

        replace: stop jobs of this kind that still run or wait; else they come first.
        """
        if replace:
            self.cancel(kind)
        stop = threading.Event()
        self._stops[kind] = [s for s in self._stops.get(kind, ()) if not s.is_set()] + [stop]
        pool = self._pools.setdefault(
            kind, ThreadPoolExecutor(1, thread_name_prefix="nocturne-job", initializer=give_way, initargs=(5,))
        )
        pool.submit(self._work, kind, work, stop, done)

    def is_busy(self, kind: str) -> bool:
        """Return True if a job of a kind runs or waits."""
        return any(not stop.is_set() for stop in self._stops.get(kind, ()))

    def cancel(self, kind: str) -> None:
        """Ask all running and waiting jobs of a kind to stop."""
        for stop in self._stops.get(kind, ()):
            stop.set()

    def _work(self, kind: str, work: Iterator[Update], stop: threading.Event, done) -> None:
        try:
            if stop.is_set():
                raise Cancelled
            result = run(work, lambda update: self._hop.emit(self.updated.emit, kind, update), stop.is_set)
        except Cancelled:
            self._hop.emit(self.finished.emit, kind, None)
        except NocturneError as error:
            self._hop.emit(self.failed.emit, kind, error)
        except FAULTS as error:
            _log.exception("job %s", kind)
            self._hop.emit(self.failed.emit, kind, NocturneError(f"{kind}: something went wrong ({error})."))
        else:
            if done is not None:
                self._hop.emit(lambda _, value: done(value), kind, result)
            self._hop.emit(self.finished.emit, kind, result)
        finally:
            stop.set()

    def report(self, error: NocturneError) -> None:
        """Say in the interface thread, from whatever thread, that something failed."""
        self._hop.emit(self.failed.emit, "", error)

    def _deliver(self, receiver: Callable, kind: str, value: Any) -> None:
        receiver(kind, value)

    def shutdown(self, *, finish: tuple[str, ...] = ()) -> None:
        """Stop all jobs and wait for them; those of some kinds are let come to their end."""
        for kind, stops in self._stops.items():
            for stop in stops if kind not in finish else ():
                stop.set()
        for kind, pool in self._pools.items():
            pool.shutdown(wait=True, cancel_futures=kind not in finish)

"""Background work: the one class that carries updates of jobs to the interface thread."""

from collections import deque
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from functools import partial
from threading import Event
from typing import Any

from PySide6.QtCore import QObject, Signal

from nocturne.errors import Cancelled, NocturneError
from nocturne.jobs import Update, run
from nocturne.ui.worker import Worker


@dataclass(eq=False)
class _Job:
    kind: str
    work: Iterator[Update]
    done: Callable[[Any], None] | None
    stop: Event = field(default_factory=Event)
    is_over: bool = False  # also what is done with its result


class Runner(QObject):
    """Runs jobs in threads, those of one kind one after another; a newer one of a kind replaces an older one."""

    updated = Signal(str, object)
    finished = Signal(str, object)
    failed = Signal(str, object)
    _hop = Signal(object, str, object)  # a queued call: (receiver function, kind, value)

    def __init__(self) -> None:
        super().__init__()
        self._workers: dict[str, Worker] = {}
        self._waiting: dict[str, deque[_Job]] = {}
        self._jobs: dict[str, list[_Job]] = {}  # that wait or run
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
        worker, job = self._worker(kind), _Job(kind, work, done)
        self._jobs[kind] = [other for other in self._jobs.get(kind, ()) if not other.is_over] + [job]
        with worker.changed:
            self._waiting[kind].append(job)
            worker.wake()

    def _worker(self, kind: str) -> Worker:
        if kind not in self._workers:
            waiting = self._waiting[kind] = deque()
            self._workers[kind] = Worker(
                "job",
                lambda: bool(waiting),
                waiting.popleft,
                self._work,
                fail=partial(self._say, kind),
                trouble=lambda job: f"{job.kind}: something went wrong",
                courtesy=5,
            )
            self._workers[kind].start()
        return self._workers[kind]

    def is_busy(self, kind: str) -> bool:
        """Return True if a job of a kind runs or waits, or its result does."""
        return any(not (job.is_over or job.stop.is_set()) for job in self._jobs.get(kind, ()))

    def cancel(self, kind: str) -> None:
        """Ask all running and waiting jobs of a kind to stop."""
        for job in self._jobs.get(kind, ()):
            job.stop.set()

    def _work(self, job: _Job) -> None:
        kind = job.kind
        try:
            if job.stop.is_set():
                raise Cancelled
            result = run(job.work, lambda update: self._hop.emit(self.updated.emit, kind, update), job.stop.is_set)
        except Cancelled:
            self._hop.emit(self.finished.emit, kind, None)
        else:
            if job.done is not None:
                self._hop.emit(lambda _, value: job.done(value), kind, result)
            self._hop.emit(self.finished.emit, kind, result)
        finally:
            self._hop.emit(self._end, kind, job)

    def _end(self, kind: str, job: _Job) -> None:
        job.is_over = True

    def _say(self, kind: str, error: NocturneError) -> None:
        self._hop.emit(self.failed.emit, kind, error)

    def report(self, error: NocturneError) -> None:
        """Say in the interface thread, from whatever thread, that something failed."""
        self._say("", error)

    def _deliver(self, receiver: Callable, kind: str, value: Any) -> None:
        receiver(kind, value)

    def shutdown(self, *, finish: tuple[str, ...] = ()) -> None:
        """Stop all jobs and wait for them; those of some kinds are let come to their end."""
        for kind in self._workers:
            if kind not in finish:
                self.cancel(kind)
        for kind, worker in self._workers.items():
            worker.close(drain=kind in finish, patience_s=None)

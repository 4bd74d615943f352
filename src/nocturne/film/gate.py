"""Looking at a film while nobody writes to it."""

import threading
from collections.abc import Iterator
from contextlib import contextmanager


class Gate:
    """Lets a film be copied between two passes of the threads that render into it.

    A film's sums and its counts are written one after another, so a copy made meanwhile would be torn. Who renders asks
    `is_wanted` now and then, and leaves `writing` for a moment if so.
    """

    def __init__(self) -> None:
        self._changed = threading.Condition()
        self._waiting = self._reading = 0
        self._writer: int | None = None

    @property
    def is_wanted(self) -> bool:
        """Return True while somebody waits for the film to stand still."""
        return self._waiting > 0

    @contextmanager
    def writing(self) -> Iterator[None]:
        """Write to the film; waits for those who look at it, or want to."""
        with self._changed:
            while self._waiting or self._reading or self._writer is not None:
                self._changed.wait()
            self._writer = threading.get_ident()
        try:
            yield
        finally:
            with self._changed:
                self._writer = None
                self._changed.notify_all()

    @contextmanager
    def still(self) -> Iterator[None]:
        """Look at the film while nobody writes.

        Raises
        ------
        RuntimeError
            If this thread drives the render itself: it would wait for ever.
        """
        with self._changed:
            if self._writer == threading.get_ident():
                raise RuntimeError("a film cannot be copied by the thread that renders it while it does")
            self._waiting += 1
            while self._writer is not None:
                self._changed.wait()
            self._waiting -= 1
            self._reading += 1
        try:
            yield
        finally:
            with self._changed:
                self._reading -= 1
                self._changed.notify_all()

"""A progress bar on the terminal, and a job's way to it."""

import sys
import time
from collections.abc import Callable, Iterator
from typing import Any

from nocturne.jobs import Update, never, run


class Bar:
    """Draws one line again and again on a terminal; elsewhere a line now and then."""

    def __init__(self, stream=None) -> None:
        self.stream = stream or sys.stderr
        self.is_terminal = self.stream.isatty()
        self._last = 0.0

    def show(self, share: float, text: str, *, force: bool = False) -> None:
        """Draw the bar at a share of 0..1 with a text behind it."""
        now = time.monotonic()
        if not force and now - self._last < (0.1 if self.is_terminal else 5.0):
            return
        self._last = now
        filled = round(24 * min(max(share, 0), 1))
        line = f"[{'#' * filled}{'.' * (24 - filled)}] {share * 100:3.0f} %  {text}"
        self.stream.write(f"\r{line[:118]:<118}" if self.is_terminal else line + "\n")
        self.stream.flush()

    def end(self) -> None:
        """Leave the line."""
        if self.is_terminal:
            self.stream.write("\n")


def drive(work: Iterator[Update], *, should_stop: Callable[[], bool] = never) -> Any:
    """Run a job with a bar that shows its notes; return its result."""
    bar = Bar()
    result = run(work, lambda u: bar.show(u.done / u.total if u.total else 0, u.note), should_stop)
    if bar.is_terminal:
        bar.stream.write("\r" + " " * 118 + "\r")
    return result

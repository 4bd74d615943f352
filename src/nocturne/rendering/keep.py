"""Samples kept on disk while they are taken, so that a render that was killed goes on where it was."""

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from nocturne.errors import NocturneError
from nocturne.film.film import Film
from nocturne.io import filmstate
from nocturne.jobs import FAULTS, give_way


@dataclass(frozen=True, slots=True)
class Keep:
    """Where a film is kept, how often in seconds, and whether also when it is done, for who wants more of it later."""

    path: Path
    every_s: float = 60.0
    when_done: bool = True


# Of the time that rendering takes, keeping may take about a thirtieth: a film can be large, a disk slow.
_SELDOM = 30


class Keeper:
    """Keeps a film while it is entered, every so many seconds, and when it is left; without a `Keep` it does nothing.

    ended: why the render ended, set by who renders.
    """

    def __init__(self, film: Film, keep: Keep | None, key: Callable[[], str]) -> None:
        self.problem = self.ended = ""
        self._film, self._keep, self._key = film, keep, cache(key)
        self._done = threading.Event()
        self._thread = threading.Thread(target=self._work, name="nocturne-keep", daemon=True)

    def _try(self) -> float:
        """Keep the film; return how long writing took, seconds."""
        began = time.monotonic()
        try:
            key = self._key()  # of all files, once: how long that takes says nothing about writing
            began = time.monotonic()
            filmstate.write(self._keep.path, self._film.copy(), key)
            self.problem = ""
        except (NocturneError, *FAULTS) as error:
            # Rendering goes on, and its picture is written: a full disk may have room again by then.
            self.problem = f"The render could not be kept to go on from: {error}"
        return time.monotonic() - began

    def _work(self) -> None:
        give_way(5)
        took = 0.0
        while not self._done.wait(max(self._keep.every_s, _SELDOM * took)):
            took = self._try()

    def __enter__(self) -> "Keeper":
        if self._keep is not None:
            self._thread.start()
        return self

    def __exit__(self, kind, *_) -> None:
        if self._keep is None:
            return
        self._done.set()
        self._thread.join()
        if kind is None and (self._keep.when_done or self.ended == "stopped"):
            self._try()

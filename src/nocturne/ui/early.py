"""A project that is read, and its set prepared, while the window is still being put together.

Loading Qt and building the window keep one processor busy for seconds, reading pictures and working out their coarser
levels another one.
"""

import sys
import threading
from collections.abc import Iterator
from pathlib import Path
from queue import SimpleQueue

from nocturne.engine.prepare import Preparer
from nocturne.errors import NocturneError
from nocturne.io import project
from nocturne.jobs import FAULTS, Update

_SIZE = (740, 416)  # about as large as the live picture is in a new window; only relief is as fine as that asks


# How long another thread may keep the interpreter while this one waits for it; at Python's own 5 ms, preparing the
# next picture held up each call of the interface: measured, a change of stage took up to 97 ms, and 52 at 0.2 ms.
# At 0.1 ms the slowest twentieth of a lamp's edits held it up for 15 to 20 ms, at 0.02 ms for 14 to 15. At a start,
# reading waited 5 ms after each file and each large array for whoever loaded the interface.
_SWITCH_S = 0.00002


def take_turns() -> None:
    """Have threads that wait for the interpreter get it soon."""
    sys.setswitchinterval(_SWITCH_S)


class Early:
    """Begins to open a project at once, in a thread of its own."""

    def __init__(self, path: Path) -> None:
        take_turns()
        self.preparer = Preparer()
        self._path, self._said, self._is_taken = path, SimpleQueue(), False
        threading.Thread(target=self._work, name="nocturne-early", daemon=True).start()

    def take(self, path: Path) -> Iterator[Update] | None:
        """Return the job that opens a project, once; None if it is not the one that was begun."""
        if self._is_taken or path != self._path:
            return None
        self._is_taken = True
        return self._told()

    def _told(self) -> Iterator[Update]:
        while (said := self._said.get()) is not None:
            if isinstance(said, Exception):
                raise said
            yield said

    def _work(self) -> None:
        loaded = None
        try:
            for update in project.load(self._path):
                loaded = update.result
                self._said.put(update)
        except (NocturneError, *FAULTS) as error:
            self._said.put(error)  # whoever takes the job meets it
            return
        finally:
            self._said.put(None)
        try:
            self.preparer.prepare(loaded.document, loaded.assets, width=_SIZE[0], height=_SIZE[1])
            _ready_finish(loaded)
        except (NocturneError, *FAULTS):
            pass  # the live picture says so when it meets it


def _ready_finish(loaded: project.Project) -> None:
    """Load what is wanted between the first film and the screen; it is kept."""
    from nocturne.finish.denoise import library
    from nocturne.finish.stack import display_table

    display_table(loaded.document.finish, loaded.assets.luts)
    library()

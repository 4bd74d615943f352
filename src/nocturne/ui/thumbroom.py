"""Small pictures in the background: one thread renders views and pieces for lists, what was asked for last first."""

import logging
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from nocturne.engine.prepare import Prepared
from nocturne.engine.render import Stop
from nocturne.errors import FileError
from nocturne.io.atomic import replacing
from nocturne.ui.darkroom.prints import to_image
from nocturne.ui.live import COURTESY
from nocturne.ui.worker import Worker

_log = logging.getLogger(__name__)
_SAMPLES = 24


class ThumbRoom(QObject):
    """Renders small pictures and remembers them; `made` tells of which there is a new one."""

    made = Signal(str)
    failed = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self._wanted: dict[str, tuple[tuple, Callable[[], Prepared], Callable[[], Path] | None]] = {}
        self._kept: dict[str, tuple[tuple, QImage]] = {}
        self._refused: dict[str, tuple] = {}
        self._stop = Stop()
        self._worker = Worker(
            "thumbs",
            lambda: bool(self._wanted),
            self._take,
            self._do,
            fail=self.failed.emit,
            trouble=lambda _: "A small picture could not be made",
            courtesy=6,
            interrupt=lambda: self._stop.set(),
        )

    def start(self) -> None:
        """Start rendering, once the engine is compiled."""
        self._worker.start()

    def known(self, name: str) -> QImage | None:
        """Return the newest picture of a name, None if there is none yet."""
        return self._kept[name][1] if name in self._kept else None

    def ask(
        self, name: str, key: tuple, prepare: Callable[[], Prepared], *, kept: Callable[[], Path] | None = None
    ) -> None:
        """Have a picture made, unless the one there is has the same key; its parts are compared by what they are.

        prepare: makes ready what is to be seen, in the thread that renders. kept: names there a file, by all that
        decides the picture, that it is taken from if it is there, and kept in if not.
        """
        for before in (self._kept.get(name, (None,))[0], self._refused.get(name)):
            if before is not None and _is_same(before, key):
                return
        with self._worker.changed:
            self._wanted.pop(name, None)
            self._wanted[name] = (key, prepare, kept)
            self._worker.wake()

    def forget(self, name: str) -> None:
        """Make no picture of a name any more."""
        with self._worker.changed:
            self._wanted.pop(name, None)

    @property
    def is_idle(self) -> bool:
        """Return True if there is nothing to do."""
        return self._worker.is_idle

    def close(self) -> None:
        """End the thread and wait for it."""
        self._worker.close()

    def _take(self) -> tuple:
        name = next(reversed(self._wanted))
        key, prepare, kept = self._wanted.pop(name)
        self._stop = Stop()
        return name, key, prepare, kept

    def _do(self, task: tuple) -> None:
        from nocturne.rendering.small import small_picture

        name, key, prepare, kept = task
        self._refused[name] = key  # what fails is not tried again
        file = kept() if kept is not None else None
        image = QImage(str(file)) if file is not None else QImage()
        if image.isNull():
            pixels = small_picture(prepare(), samples=_SAMPLES, stop=self._stop, courtesy=COURTESY)
            if pixels is None:
                return
            image = to_image(pixels)
            if file is not None:
                _keep(image, file)
        self._refused.pop(name, None)
        self._kept[name] = (key, image)
        self.made.emit(name)


def _keep(image: QImage, path: Path) -> None:
    """Keep a picture for the next time; if it cannot be, it is made again then."""
    try:
        with replacing(path) as temporary:
            image.save(str(temporary), "PNG")
    except FileError as error:
        _log.info("%s: not kept (%s)", path, error)


def _is_same(a: tuple, b: tuple) -> bool:
    return len(a) == len(b) and all(x is y or (isinstance(x, (str, int, float)) and x == y) for x, y in zip(a, b))

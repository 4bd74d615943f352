"""The live picture: one thread that prepares and renders the newest document, never the interface thread."""

import logging
import math
import threading
from contextlib import closing
from dataclasses import dataclass, replace

from PySide6.QtCore import QObject, Signal

from nocturne.engine.prepare import Prepared, Preparer
from nocturne.engine.render import Progress, Stop, blank_film, kernel, render
from nocturne.errors import Cancelled, NocturneError
from nocturne.film.film import Film
from nocturne.jobs import FAULTS, give_way, run
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document, render_key
from nocturne.warm import warm

# How far rendering gives way to the interface: at 5 a moved thing held it up for 36 ms at most, at 10 for 29.
COURTESY = 10
# Of the live picture, for each processor: with two, a sample for every pixel of the demo takes about four seconds.
MOST_PIXELS = 500_000
_log = logging.getLogger(__name__)


def live_size(width: int, height: int, *, processors: int) -> tuple[int, int]:
    """Return the size at which a picture of a size on the screen is rendered live: as much as can keep up with edits.

    A screen of four times as many pixels would show the same picture four times later.
    """
    share = min(math.sqrt(MOST_PIXELS * processors / (width * height)), 1.0)
    return max(round(width * share), 16), max(round(height * share), 16)


@dataclass(frozen=True, eq=False, repr=False)
class Request:
    """What is to be seen: a document, its files, a size in pixels, whether it is the final picture, what comes first.

    region: (u0, v0, u1, v1) of the picture, 0..1 from its top left; the rest of it stands still.
    """

    document: Document
    assets: Assets
    width: int
    height: int
    final: bool = False
    region: tuple[float, float, float, float] | None = None

    def key(self) -> tuple:
        """Return what decides the film; look-up tables are none of it."""
        files = (id(self.assets.meshes), id(self.assets.images))
        return (*render_key(self.document), *files, self.width, self.height, self.final)

    def work(self) -> tuple:
        """Return what decides the film and how far it is rendered."""
        quality = self.document.quality
        return (*self.key(), self.region, quality.samples, quality.least_samples, quality.noise, quality.minutes)

    def pixels(self) -> tuple[int, int, int, int] | None:
        """Return the region in pixels."""
        if self.region is None:
            return None
        u0, v0, u1, v1 = self.region
        w, h = self.width, self.height
        x0, y0 = min(int(u0 * w), w - 1), min(int(v0 * h), h - 1)
        return x0, y0, max(math.ceil(u1 * w), x0 + 1), max(math.ceil(v1 * h), y0 + 1)


@dataclass(frozen=True, eq=False, repr=False)
class Frame:
    """A film in progress, or one that was kept; that has no set it could be picked from."""

    film: Film
    prepared: Prepared | None
    progress: Progress
    request: Request
    is_done: bool


class LiveRender(QObject):
    """Keeps the newest request rendering; an edit is answered by a coarse picture at once."""

    framed = Signal(object)
    compiling = Signal(float, str)
    ready = Signal()
    failed = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self._changed = threading.Condition()
        self._wanted: Request | None = None
        self._paused = False
        self._closing = self._is_waiting = False
        self._stop = Stop()
        self._shown_once = True
        self._film: tuple[Request, Film] | None = None  # the request keeps the files alive that its key names
        self._thread = threading.Thread(target=self._work, name="nocturne-live", daemon=True)

    def start(self) -> None:
        """Start the thread; what is connected by now hears everything it says."""
        self._thread.start()

    # ---- from the interface thread ---------------------------------------------------------------------------------

    def show(self, request: Request) -> None:
        """Render this instead of what is rendered now; if only exposure or desk differ, what runs goes on."""
        with self._changed:
            before, self._wanted = self._wanted, request
            if before is not None and before.work() == request.work():
                return
            self._paused = False
            # Let the first coarse picture come through, else a drag would never show anything.
            if self._shown_once:
                self._stop.set()
            self._changed.notify()

    def pause(self) -> None:
        """Stop taking samples; what is there stays."""
        with self._changed:
            self._paused = True
            self._stop.set()

    def go_on(self) -> None:
        """Go on where it was paused."""
        with self._changed:
            self._paused = False
            self._film_done = None
            self._changed.notify()

    @property
    def is_idle(self) -> bool:
        """Return True if nothing is rendered, nor will be before it is asked for."""
        with self._changed:
            return self._is_waiting and not self._has_work()

    @property
    def is_paused(self) -> bool:
        """Return True after `pause`."""
        return self._paused

    def close(self) -> None:
        """End the thread and wait for it."""
        with self._changed:
            self._closing = True
            self._stop.set()
            self._changed.notify()
        if self._thread.is_alive():
            self._thread.join(timeout=30)

    # ---- the thread ------------------------------------------------------------------------------------------------

    _film_done: tuple | None = None

    def _work(self) -> None:
        give_way(3)
        try:
            if not self._warmed():
                return
        except NocturneError as error:
            _log.error("%s", error)
            self.failed.emit(error)
            return
        except Cancelled:
            return
        preparer = Preparer()
        while True:
            with self._changed:
                while not self._closing and not self._has_work():
                    self._is_waiting = True
                    self._changed.wait()
                self._is_waiting = False
                if self._closing:
                    return
                request = self._wanted
                self._stop = Stop()
                self._shown_once = False
            try:
                self._render(preparer, request)
            except NocturneError as error:
                self.failed.emit(error)
                self._film_done = request.work()
            except FAULTS as error:
                _log.exception("live picture")
                self.failed.emit(NocturneError(f"The picture could not be computed ({error})."))
                self._film_done = request.work()
            finally:
                self._shown_once = True

    def _has_work(self) -> bool:
        return self._wanted is not None and not self._paused and self._wanted.work() != self._film_done

    def _warmed(self) -> bool:
        def tell(update) -> None:
            self.compiling.emit(update.done / update.total, update.note)

        run(warm(), tell, lambda: self._closing)
        if self._closing:
            return False
        kernel()
        self.ready.emit()
        return True

    def _render(self, preparer: Preparer, request: Request) -> None:
        document = request.document
        prepared = preparer.prepare(document, request.assets, width=request.width, height=request.height)
        same = self._film is not None and self._film[0].key() == request.key()
        film = self._film[1] if same else blank_film(prepared)
        self._film = (request, film)
        options = {"stop": self._stop, "coarse": not request.final, "courtesy": COURTESY}
        region = request.pixels()
        jobs = [render(prepared, film, region=region, **options)]
        if region is not None and not film.samples.all():
            jobs.insert(0, render(prepared, film, samples=1, noise=0.0, **options))
        last = None
        for job in jobs:
            with closing(job):
                for update in job:
                    last = update.preview
                    self.framed.emit(Frame(film, prepared, last, request, False))
                    self._has_shown(request)
            if self._stop.is_set:
                break
        if not self._stop.is_set:
            self._film_done = request.work()
        self.framed.emit(Frame(film, prepared, replace(last, left_s=0.0), request, not self._stop.is_set))

    def _has_shown(self, request: Request) -> None:
        """End the request once it has shown something, if another one waits."""
        if self._shown_once:
            return
        with self._changed:
            self._shown_once = True
            if self._wanted is not request and self._wanted.work() != request.work():
                self._stop.set()

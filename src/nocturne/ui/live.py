"""The live picture: one thread that prepares and renders the newest document, never the interface thread."""

import math
import threading
import time
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass, replace

from PySide6.QtCore import QObject, Signal

from nocturne.engine.entries import PATHS
from nocturne.engine.learning import Learned, learn
from nocturne.engine.prepare import Prepared, Preparer
from nocturne.engine.render import Progress, Stop, blank_film, render, time_left
from nocturne.errors import Cancelled
from nocturne.film.film import Film
from nocturne.film.sight import Sight
from nocturne.jobs import Update, run
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document, render_key
from nocturne.ui.frame import Frame
from nocturne.ui.worker import Worker
from nocturne.warm import warm

# How far rendering gives way to the interface: at 5 a moved thing held it up for 36 ms at most, at 10 for 29.
COURTESY = 10
# Of the live picture, for each processor: with two, a sample for every pixel of the demo takes about four seconds.
MOST_PIXELS = 500_000
_SAMPLES_ON_OLD = 8  # of a film whose picture nothing was learned of yet, but of the one before
_PATIENCE_S = 0.5  # for a picture to be developed before rendering goes on: perhaps nobody looks at it


def live_size(width: int, height: int, *, processors: int) -> tuple[int, int]:
    """Return the size at which a picture of a size on the screen is rendered live: as much as can keep up with edits.

    A screen of four times as many pixels would show the same picture four times later.
    """
    share = min(math.sqrt(MOST_PIXELS * processors / (width * height)), 1.0)
    return max(round(width * share), 16), max(round(height * share), 16)


@dataclass(frozen=True, eq=False, repr=False)
class Request:
    """What is to be seen: a document, its files, a size in pixels, what comes first.

    region: (u0, v0, u1, v1) of the picture, 0..1 from its top left; the rest of it stands still.
    """

    document: Document
    assets: Assets
    width: int
    height: int
    region: tuple[float, float, float, float] | None = None

    def key(self) -> tuple:
        """Return what decides the film; look-up tables are none of it."""
        files = (id(self.assets.meshes), id(self.assets.images))
        return (*render_key(self.document), *files, self.width, self.height)

    def work(self) -> tuple:
        """Return what decides the film and how far it is rendered."""
        quality = self.document.quality
        return (*self.key(), self.region, quality.samples, quality.least_samples, quality.noise, quality.minutes)

    def pixels(self) -> tuple[int, int, int, int] | None:
        """Return the region in pixels."""
        return region_pixels(self.region, self.width, self.height)


def region_pixels(region: tuple | None, width: int, height: int) -> tuple[int, int, int, int] | None:
    """Return (x0, y0, x1, y1) in pixels, at least one, of a region in parts of the picture."""
    if region is None:
        return None
    u0, v0, u1, v1 = region
    x0, y0 = min(int(u0 * width), width - 1), min(int(v0 * height), height - 1)
    return x0, y0, max(math.ceil(u1 * width), x0 + 1), max(math.ceil(v1 * height), y0 + 1)


class LiveRender(QObject):
    """Keeps the newest request rendering; an edit is answered by a coarse picture at once."""

    framed = Signal(object)
    compiling = Signal(float, str)
    ready = Signal()
    failed = Signal(object)

    def __init__(self, preparer: Preparer | None = None) -> None:
        super().__init__()
        self._preparer = preparer or Preparer()
        self._wanted: Request | None = None
        self._paused = self._is_held = self._is_warm = self._is_tried = False
        self._stop = Stop()
        self._shown_once = True
        # The request keeps the files alive that its key names.
        self._film: tuple[Request, Film, Sight | None] | None = None
        self._looks = True
        # What was learned of where light comes from, and of which picture: the next edit's first samples go by it, too.
        self._learned: tuple[tuple, Learned] | None = None
        # What is on its way to the screen: of which film, its step, and whether it stands in for a whole sample.
        self._newest: tuple[Film | None, int, bool] = (None, 0, False)
        self._shown = threading.Event()
        self._over: tuple | None = None  # the work that is done, or that is not tried again because it failed
        self._worker = Worker(
            "live",
            self._has_work,
            self._take,
            self._do,
            fail=self.failed.emit,
            trouble=lambda _: "The picture could not be computed",
            courtesy=3,
            interrupt=lambda: self._stop.set(),
        )
        self._changed = self._worker.changed

    def start(self) -> None:
        """Start the thread; what is connected by now hears everything it says."""
        self._worker.start()

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
            self._worker.wake()

    def look_ahead(self, on: bool) -> None:
        """Take what pixels' middles see beside coarse pictures, from the next edit on: denoising wants to know."""
        with self._changed:
            self._looks = on

    def note_shown(self, film: Film, step: int, *, is_early: bool) -> None:
        """Take note, in whichever thread, of what is on its way to the screen (see `Print`)."""
        self._newest = (film, step, is_early)
        self._shown.set()

    def pause(self) -> None:
        """Stop taking samples; what is there stays."""
        with self._changed:
            self._paused = True
            self._stop.set()

    def go_on(self) -> None:
        """Go on where it was paused."""
        with self._changed:
            self._paused = False
            self._over = None
            self._worker.wake()

    def hold(self, on: bool) -> None:
        """Take no samples while something else has the processors, then go on."""
        with self._changed:
            self._is_held = on
            if on:
                self._stop.set()
            self._worker.wake()

    @property
    def is_idle(self) -> bool:
        """Return True if nothing is rendered, nor will be before it is asked for."""
        return self._worker.is_idle

    @property
    def is_paused(self) -> bool:
        """Return True after `pause`."""
        return self._paused

    def close(self) -> None:
        """End the thread and wait for it."""
        self._worker.close()

    # ---- the thread ------------------------------------------------------------------------------------------------

    def _has_work(self) -> bool:
        if not self._is_warm:
            return not self._is_tried
        is_free = not (self._paused or self._is_held)
        return self._wanted is not None and is_free and self._wanted.work() != self._over

    def _take(self) -> Request | None:
        """Return the request to render, None if the engine must be compiled first."""
        if not self._is_warm:
            return None
        self._stop = Stop()
        self._shown_once = False
        return self._wanted

    def _do(self, request: Request | None) -> None:
        if request is None:
            self._is_tried = True
            self._warm()
            return
        try:
            self._over = request.work()
            if not self._render(request):
                self._over = None
        finally:
            self._shown_once = True

    def _warm(self) -> None:
        def tell(update) -> None:
            self.compiling.emit(update.done / update.total, update.note)

        try:
            run(warm(), tell, lambda: self._worker.is_closing)
        except Cancelled:
            return
        if self._worker.is_closing:
            return
        for entry in PATHS.values():
            entry.load()
        self._is_warm = True
        self.ready.emit()

    def _render(self, request: Request) -> bool:
        """Render a request; return whether it came to its end."""
        document, quality = request.document, request.document.quality
        prepared = self._preparer.prepare(document, request.assets, width=request.width, height=request.height)
        if self._film is not None and self._film[0].key() == request.key():
            _, film, sight = self._film
        else:
            film = blank_film(prepared)
            sight = Sight.blank(*film.size) if self._looks else None
        self._film = (request, film, sight)

        def tell(progress: Progress, is_done: bool) -> None:
            # What was seen by now: more of it is looked at meanwhile.
            seen = replace(sight) if sight is not None and sight.step else None
            self.framed.emit(Frame(film, prepared, progress, document, is_done, request, sight=seen))

        options = {"stop": self._stop, "coarse": True, "sight": sight, "courtesy": COURTESY}
        if self._learned is not None:
            prepared = self._learned[1].used_by(prepared)

        def jobs() -> Iterator[Iterator[Update]]:
            if not film.samples.all():
                yield render(prepared, film, samples=1, noise=0.0, **options)
            if self._learned is not None and self._learned[1].fits(prepared):
                # What was learned before the edit is good enough for the first samples after it.
                few = min(_SAMPLES_ON_OLD, quality.samples)
                yield render(prepared, film, samples=few, region=request.pixels(), **options)
            yield self._learn(request, prepared)
            learned = prepared if self._learned is None else self._learned[1].used_by(prepared)
            yield render(learned, film, region=request.pixels(), **options)

        last = None
        for job in jobs():
            with closing(job):
                for update in job:
                    if update.preview is None:
                        continue
                    before, last = last, update.preview
                    # Of the whole, not of the few samples that come before anything is learned.
                    left = time_left(last, quality.samples, quality.noise, 60 * quality.minutes)
                    tell(replace(last, left_s=left), False)
                    is_first_whole = last.samples >= 1 and before is not None and before.samples < 1
                    if not self._shown_once or (sight is not None and (last.step > 1 or is_first_whole)):
                        self._let_show(film, last.step)
                    self._has_shown(request)
            if self._stop.is_set:
                break
        is_done = not self._stop.is_set
        if last is None:
            return False
        tell(replace(last, left_s=0.0), is_done)
        return is_done

    def _learn(self, request: Request, prepared: Prepared) -> Iterator[Update]:
        """Learn where light comes from, unless that is known of this very picture."""
        if self._learned is not None and self._learned[0] == request.key():
            return
        for update in learn(prepared, courtesy=COURTESY, stop=self._stop):
            yield replace(update, result=None)
        if update.result is not None:
            self._learned = (request.key(), update.result)

    def _let_show(self, film: Film, step: int) -> None:
        """Leave the processors to whoever develops one of the first pictures: nothing is as urgent.

        Beside each other both take as long in all, but the picture is seen later.
        """
        began = time.monotonic()
        while not self._stop.is_set and time.monotonic() - began < _PATIENCE_S:
            if self._newest[0] is film and self._newest[1] == step and (step > 1 or not self._newest[2]):
                return
            self._shown.wait(0.02)
            self._shown.clear()

    def _has_shown(self, request: Request) -> None:
        """End the request once it has shown something, if another one waits."""
        if self._shown_once:
            return
        with self._changed:
            self._shown_once = True
            if self._wanted is not request and self._wanted.work() != request.work():
                self._stop.set()

"""Final renders: each goes on to its end whatever the screen shows, one after another."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from nocturne.colour.lookup import LookUpTable
from nocturne.engine.prepare import Prepared, Preparer
from nocturne.engine.render import Progress, Stop
from nocturne.errors import FileError, NocturneError
from nocturne.film.film import Film
from nocturne.io import filmstate
from nocturne.jobs import FAULTS, duration
from nocturne.rendering import unfinished
from nocturne.rendering.render import blank, render_request
from nocturne.rendering.request import RenderRequest, Result
from nocturne.rendering.unfinished import Unfinished
from nocturne.scene.document import Document, render_key
from nocturne.ui.frame import Frame
from nocturne.ui.worker import Worker

# Of a processor that both want, the live picture gets more.
COURTESY = 15


@dataclass(eq=False, repr=False)
class Final:
    """One final render: what it is of, how far it is, and at the end what came of it.

    place: where its samples are kept meanwhile. folder: of the contact sheet it goes to.
    """

    request: RenderRequest
    place: Unfinished
    folder: Path
    luts: Mapping[str, LookUpTable] = field(default_factory=dict)
    film: Film | None = None
    prepared: Prepared | None = None
    progress: Progress | None = None
    result: Result | None = None
    note: str = ""
    is_stopped: bool = False
    stop: Stop = field(default_factory=Stop)

    @property
    def document(self) -> Document:
        """Return the document it is of."""
        return self.request.document

    @property
    def name(self) -> str:
        """Return what it is called: its view."""
        return self.document.view.name

    @property
    def frame(self) -> Frame | None:
        """Return its film as the window looks at it, None before there is one."""
        if self.film is None or self.progress is None:
            return None
        return Frame(self.film, self.prepared, self.progress, self.document, self.result is not None, kind="final")

    def is_of(self, request: RenderRequest) -> bool:
        """Return True if its film is of what is requested, however far."""
        mine = self.request
        files = (mine.assets.meshes is request.assets.meshes, mine.assets.images is request.assets.images)
        same = (mine.width, mine.height, mine.region) == (request.width, request.height, request.region)
        return same and all(files) and render_key(mine.document) == render_key(request.document)

    def share(self) -> str:
        """Return how far it is, in a word: "43 %"."""
        now = self.progress
        if self.is_stopped:
            return "stopped"
        if now is None:
            return "waiting"
        if now.left_s is None or not now.seconds:
            return "begun"
        return f"{now.seconds / (now.seconds + now.left_s) * 100:.0f} %"

    def words(self) -> str:
        """Return where it stands: "43 %  ·  3 min left"."""
        now = self.progress
        if self.is_stopped:
            return f"stopped at {now.samples:.0f} samples" if now is not None else "stopped"
        if self.note:
            return self.note
        if now is None or now.left_s is None or not now.seconds:
            return self.share()
        return f"{self.share()}  ·  {duration(now.left_s)} left"


class Finals(QObject):
    """Renders finals in the order they were asked for; a stopped one lets the next begin."""

    framed = Signal(object)  # a `Final` that has come further
    ended = Signal(object)  # a `Final` with its result, which is among `done` until it is taken
    changed = Signal()  # which there are, or what they do
    failed = Signal(object)

    def __init__(self, preparer: Preparer) -> None:
        super().__init__()
        self._preparer = preparer
        self._queue: list[Final] = []
        self._done: list[Final] = []
        self._worker = Worker(
            "final",
            lambda: any(not final.is_stopped for final in self._queue),
            lambda: next(final for final in self._queue if not final.is_stopped),
            self._do,
            fail=self.failed.emit,
            trouble=lambda _: "The final picture could not be computed",
            courtesy=5,
            interrupt=self._interrupt,
        )

    # ---- from the interface thread ---------------------------------------------------------------------------------

    def start_work(self) -> None:
        """Begin with what was asked for, once the engine is compiled."""
        self._worker.start()

    @property
    def queue(self) -> tuple[Final, ...]:
        """Return the finals that are not done, the one at work or to be begun next first."""
        with self._worker.changed:
            return tuple(self._queue)

    @property
    def is_idle(self) -> bool:
        """Return True if nothing is rendered, nor will be before it is asked for."""
        return self._worker.is_idle

    def take_done(self) -> list[Final]:
        """Return the finals that came to their end and were not taken yet, and take them."""
        with self._worker.changed:
            done, self._done = self._done, []
        return done

    def start(self, final: Final) -> Final:
        """Render a final after those before it; one that is of the same film goes on to the new one's end instead."""
        with self._worker.changed:
            same = next((other for other in self._queue if other.is_of(final.request)), None)
            if same is None:
                self._queue.append(final)
            else:
                # What runs is interrupted, and taken up again with the new rules.
                same.request, same.luts, same.is_stopped = final.request, final.luts, False
                same.stop.set()
            self._worker.wake()
        self.changed.emit()
        return same or final

    def stop(self, final: Final) -> None:
        """Stop taking samples for a final; what it has stays, also on the disk."""
        with self._worker.changed:
            final.is_stopped = True
            final.stop.set()
        self.changed.emit()

    def go_on(self, final: Final) -> None:
        """Go on where a final was stopped."""
        with self._worker.changed:
            final.is_stopped = False
            self._worker.wake()
        self.changed.emit()

    def drop(self, final: Final) -> None:
        """Give a final up, with its samples on the disk."""
        with self._worker.changed:
            if final in self._queue:
                self._queue.remove(final)
            final.stop.set()
        self.changed.emit()

    def close(self) -> None:
        """End the thread and wait for it; what is under way is kept on the disk."""
        self._worker.close(patience_s=None)

    def _interrupt(self) -> None:
        for final in self._queue:
            final.stop.set()

    # ---- the thread ------------------------------------------------------------------------------------------------

    def _do(self, final: Final) -> None:
        with self._worker.changed:
            request, stop = final.request, Stop()
            final.stop, final.note = stop, ""
            if final.is_stopped or self._worker.is_closing or final not in self._queue:
                stop.set()  # so it was said after it had been taken up
        try:
            self._begin(final, request)
            result = self._rendered(final, request, stop)
        except (NocturneError, *FAULTS):
            with self._worker.changed:
                final.is_stopped = True  # it would fail again
            self.changed.emit()
            raise
        with self._worker.changed:
            is_wanted = final in self._queue
            is_done = is_wanted and result.ended != "stopped" and request is final.request
            if is_done:
                self._queue.remove(final)
                self._done.append(final)
                final.result, final.note = result, ""
        if not is_wanted:
            unfinished.remove(final.place)
            return
        (self.ended if is_done else self.framed).emit(final)
        self.changed.emit()

    def _begin(self, final: Final, request: RenderRequest) -> None:
        if final.prepared is None or final.prepared.document is not request.document:
            final.prepared = self._preparer.prepare(
                request.document, request.assets, width=request.width, height=request.height
            )
        final.place = replace(final.place, document=request.document)
        kept = final.place.keep.path
        try:
            unfinished.write(final.place)
            if final.film is None and kept.exists():
                final.film = filmstate.read(kept, request.key())
        except NocturneError as error:
            if not isinstance(error, FileError):
                raise
            self.failed.emit(error)  # it begins anew, or cannot be gone on with if it is killed
        if final.film is None:
            final.film = blank(request, final.prepared)
        # What was kept, or begun before something was renamed, has the names of then.
        final.film.objects, final.film.materials = final.prepared.objects, final.prepared.materials

    def _rendered(self, final: Final, request: RenderRequest, stop: Stop) -> Result:
        if request.region is not None and not final.film.samples.all():
            # All of it once, so that what lies around the region is no hole.
            around = replace(request, region=None, samples=1, noise=0.0, denoise="off")
            result = self._driven(final, around, stop)
            if result.ended == "stopped":
                return result
        result = self._driven(final, request, stop)
        if result.problem:
            self.failed.emit(NocturneError(result.problem))
        return result

    def _driven(self, final: Final, request: RenderRequest, stop: Stop) -> Result:
        for update in render_request(
            request, film=final.film, prepared=final.prepared, keep=final.place.keep, stop=stop, courtesy=COURTESY
        ):
            if update.preview is not None:
                final.progress, final.note = update.preview, ""
                self.framed.emit(final)
            elif update.result is None:
                final.note = update.note
                self.changed.emit()
        return update.result

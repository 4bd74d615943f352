"""What the live picture and the final render are asked for, and where their frames go."""

import weakref
from collections.abc import Callable

from PySide6.QtCore import QSettings, QTimer

from nocturne.engine.render import processors
from nocturne.scene.document import Document, render_key
from nocturne.ui.darkroom import Darkroom
from nocturne.ui.live import Frame, LiveRender, Request, live_size
from nocturne.ui.panels.bars import PictureBar, StateLine
from nocturne.ui.proofroom import ProofRoom
from nocturne.ui.session import Session
from nocturne.ui.showing import Showing
from nocturne.ui.view.picture import PictureView

_FULL_SIZE = "picture/full-size"


class RenderWork:
    """Asks for pictures of the document, live or final, whole or a region first, and keeps the finished ones."""

    def __init__(
        self,
        session: Session,
        settings: QSettings,
        *,
        live: LiveRender,
        darkroom: Darkroom,
        room: ProofRoom,
        showing: Showing,
        picture: PictureView,
        bar: PictureBar,
        state_line: StateLine,
    ) -> None:
        self.session, self.settings = session, settings
        self.live, self.darkroom, self.room, self.showing = live, darkroom, room, showing
        self.picture, self.bar, self.state_line = picture, bar, state_line
        self.full_size = settings.value(_FULL_SIZE, False, bool)
        self.final = False
        self.region: tuple | None = None
        self.last_frame: Frame | None = None
        self._finished: Frame | None = None  # a final render that is to be kept, and is not yet
        self._kept_film: Callable[[], object] = lambda: None  # a weak reference: a film is large
        self._soon = QTimer(picture)  # it ends with the picture whose size it asks for
        self._soon.setSingleShot(True)
        self._soon.setInterval(60)
        self._soon.timeout.connect(self.request)
        picture.resized.connect(self.request_soon)
        picture.region_drawn.connect(self.set_region)
        live.framed.connect(self._on_frame)
        darkroom.cleaned.connect(self._on_cleaned)
        bar.denoise_changed.connect(lambda _: self.keep_waiting())

    def request(self) -> None:
        """Ask for the picture of the document as it is now."""
        document = self.session.document
        if self.showing.fixed is not None:
            return
        # Nothing in a set and nothing that shines: a first picture of it would only be called done.
        if self.last_frame is None and not (document.things or document.lights):
            return
        width, height = self.picture.wanted_size()
        if not self.full_size:
            width, height = live_size(width, height, processors=processors())
        if self.final:
            width, height = document.view.width, document.view.height
        self.live.show(Request(document, self.session.assets, width, height, self.final, self.region))

    def request_soon(self) -> None:
        """Ask for it once nothing more has come for a moment."""
        self._soon.start()

    def take_document(self, before: Document, document: Document) -> None:
        """Go back to the live picture if an edit made a final render another one; take new names over."""
        is_same = render_key(before) == render_key(document)
        if self.final and not is_same:
            self.final = False
        parts = ("things", "materials", "lights")
        is_renamed = is_same and any(getattr(before, part) is not getattr(document, part) for part in parts)
        frame = self.last_frame
        if is_renamed and frame is not None and frame.prepared is not None:
            # A name decides nothing that is rendered, but stands in what is put out.
            frame.film.objects = frame.prepared.names_in(document)
            frame.film.materials = frame.prepared.material_names_in(document)

    def _on_frame(self, frame: Frame) -> None:
        self.last_frame = frame
        self.showing.take_frame(frame)
        if self.showing.is_live and self.showing.fixed is None:
            self.state_line.show_frame(frame, paused=self.live.is_paused)
        if frame.is_done and frame.request.final and frame.film is not self._kept_film():
            self._keep_finished()  # one that still waits: this one takes its place
            self._finished = frame
            if not self._is_being_cleaned(frame):
                self._keep_finished()

    def _on_cleaned(self, frame: Frame) -> None:
        if self._finished is not None and not self._is_being_cleaned(self._finished):
            self._keep_finished()

    def _wants_clean(self, frame: Frame) -> bool:
        return frame.request.document.quality.denoise != "off" and self.bar.denoise.isChecked()

    def _is_being_cleaned(self, frame: Frame) -> bool:
        """Return True if the darkroom is going to say when a frame is denoised: it only works on what is shown."""
        is_shown = self.showing.is_live and self.showing.fixed is None
        is_over = self.darkroom.has_given_up(frame.film) or self.darkroom.is_clean(frame)
        return self._wants_clean(frame) and is_shown and not is_over

    def keep_waiting(self) -> None:
        """Keep a finished render that nobody is going to denoise any more, as another picture is shown now."""
        if self._finished is not None and not self._is_being_cleaned(self._finished):
            self._keep_finished()

    def _keep_finished(self) -> None:
        """Keep the finished final render on the contact sheet, once, denoised if it is to be."""
        frame, self._finished = self._finished, None
        if frame is None or frame.film is self._kept_film():
            return
        self._kept_film = weakref.ref(frame.film)
        document = self.session.document
        if render_key(document) != render_key(frame.request.document):
            document = frame.request.document
        wants_clean = self._wants_clean(frame) and not self.darkroom.has_given_up(frame.film)
        clean = self.darkroom.clean_groups(frame.film) if wants_clean and self.darkroom.is_clean(frame) else None
        denoise = frame.request.document.quality.denoise if wants_clean and clean is None else ""
        self.room.keep(frame, document, clean=clean, denoise=denoise, luts=self.session.assets.luts)

    def start_final(self) -> None:
        """Render the view at its full size."""
        if self.showing.fixed is not None:
            self.session.said.emit("This is a saved render without its scene; there is nothing to render.", True)
            return
        self.final = True
        self.showing.show_live()
        self.session.go_to("render")
        self.request()

    def stop(self) -> None:
        """Stop taking samples."""
        self.live.pause()
        self.session.said.emit("Stopped. Go on continues where it was.", False)

    def go_on(self) -> None:
        """Go on taking samples."""
        self.live.go_on()
        self.session.said.emit("", False)

    def toggle_full_size(self) -> None:
        """Render the live picture with every pixel of the screen, however long that takes, or only as keeps up."""
        self.full_size = not self.full_size
        self.settings.setValue(_FULL_SIZE, self.full_size)
        words = "with every pixel of the screen" if self.full_size else "as large as keeps up with edits"
        self.session.said.emit(f"The live picture is rendered {words}.", False)
        self.request()

    def set_region(self, region: tuple | None) -> None:
        """Render a part of the picture first; None renders all of it."""
        self.region = region
        self.picture.set_region(region)
        self.request()

    def toggle_region(self) -> None:
        """Let the user draw a region, or end the one there is."""
        if self.region is not None:
            self.set_region(None)
        else:
            self.picture.set_mode("region")

    def close(self) -> None:
        """Ask for nothing more; what is finished is kept."""
        self._soon.stop()
        self._keep_finished()

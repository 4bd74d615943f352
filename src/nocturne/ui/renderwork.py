"""What the live picture and the final render are asked for, and where their frames go."""

import weakref
from collections.abc import Callable

from PySide6.QtCore import QSettings, QTimer

from nocturne.engine.render import processors
from nocturne.scene.document import Document, render_key
from nocturne.ui.darkroom import Darkroom, Print
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
        self._kept_film: Callable[[], object] = lambda: None  # a weak reference: a film is large
        self._soon = QTimer()
        self._soon.setSingleShot(True)
        self._soon.setInterval(60)
        self._soon.timeout.connect(self.request)
        picture.resized.connect(self.request_soon)
        picture.region_drawn.connect(self.set_region)
        live.framed.connect(self._on_frame)

    def request(self) -> None:
        """Ask for the picture of the document as it is now."""
        if self.showing.fixed is not None:
            return
        document = self.session.document
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
        """Go back to the live picture if an edit made a final render another one."""
        if self.final and render_key(before) != render_key(document):
            self.final = False

    def _on_frame(self, frame: Frame) -> None:
        self.last_frame = frame
        self.showing.take_frame(frame)
        if self.showing.is_live and self.showing.fixed is None:
            self.state_line.show_frame(frame, paused=self.live.is_paused)

    def keep_finished(self, developed: Print) -> None:
        """Keep a finished final render on the contact sheet, once, denoised if it is to be."""
        frame = developed.frame
        if not (frame.is_done and frame.request.final and frame.prepared is not None):
            return
        if frame.film is self._kept_film() or self.live.is_paused:
            return
        wants_clean = frame.request.document.quality.denoise != "off" and self.bar.denoise.isChecked()
        clean = self.darkroom.clean_groups(frame.film)
        if wants_clean and (clean is None or not developed.is_denoised):
            return
        self._kept_film = weakref.ref(frame.film)
        self.room.keep(developed, clean=clean)

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
        """Ask for nothing more."""
        self._soon.stop()

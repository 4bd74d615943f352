"""What the live picture and final renders are asked for, and where they go."""

from pathlib import Path

from PySide6.QtCore import QObject, QSettings, QTimer, Signal

from nocturne.engine.render import processors
from nocturne.errors import NocturneError
from nocturne.io.project import load_assets
from nocturne.jobs import Update
from nocturne.rendering import unfinished
from nocturne.rendering.request import RenderRequest
from nocturne.rendering.unfinished import Unfinished
from nocturne.scene.assets import Assets
from nocturne.scene.change import Change
from nocturne.scene.document import RENDERED, Document, film_digest, render_key
from nocturne.ui.finals import Final, Finals
from nocturne.ui.frame import Frame
from nocturne.ui.live import LiveRender, Request, live_size, region_pixels
from nocturne.ui.panels.bars import StateLine
from nocturne.ui.panels.finals import FinalList
from nocturne.ui.proofroom import ProofRoom
from nocturne.ui.runner import Runner
from nocturne.ui.session import Session
from nocturne.ui.showing import Showing
from nocturne.ui.view.picture import PictureView

_FULL_SIZE = "picture/full-size"


class RenderWork(QObject):
    """Asks for pictures of the document, live or final, whole or a region first, and keeps the finished ones."""

    held_back = Signal(float)  # the share of the light that the clamp takes from the picture that is seen

    def __init__(
        self,
        session: Session,
        settings: QSettings,
        runner: Runner,
        *,
        live: LiveRender,
        finals: Finals,
        room: ProofRoom,
        showing: Showing,
        picture: PictureView,
        state_line: StateLine,
        final_list: FinalList,
    ) -> None:
        super().__init__(picture)  # it ends with the picture whose size it asks for
        self.session, self.settings, self.runner = session, settings, runner
        self.live, self.finals, self.room, self.showing = live, finals, room, showing
        self.picture, self.state_line, self.final_list = picture, state_line, final_list
        self.full_size = settings.value(_FULL_SIZE, False, bool)
        self.region: tuple | None = None
        self.last_frame: Frame | None = None
        self.left: list[Unfinished] = []  # finals of this project that earlier windows did not finish
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(60)
        self._soon.timeout.connect(self.request)
        picture.resized.connect(self.request_soon)
        picture.region_drawn.connect(self.set_region)
        live.framed.connect(self._on_frame)
        finals.framed.connect(self._on_final_frame)
        finals.ended.connect(lambda _: self._keep_done())
        finals.changed.connect(self._show_finals)
        showing.changed.connect(self._on_showing)
        state_line.final_wanted.connect(self.show_final)
        final_list.show_wanted.connect(self.show_final)
        final_list.stop_wanted.connect(finals.stop)
        final_list.go_on_wanted.connect(self.go_on_with)
        final_list.drop_wanted.connect(self.drop)

    # ---- the live picture ------------------------------------------------------------------------------------------

    def request(self) -> None:
        """Ask for the picture of the document as it is now."""
        document = self.session.seen
        if self.showing.fixed is not None:
            return
        # Nothing in a set and nothing that shines: a first picture of it would only be called done.
        if self.last_frame is None and not (document.things or document.lights):
            return
        width, height = self.picture.wanted_size()
        if not self.full_size:
            width, height = live_size(width, height, processors=processors())
        self.live.show(Request(document, self.session.assets, width, height, self.region))

    def request_soon(self) -> None:
        """Ask for it once nothing more has come for a moment."""
        self._soon.start()

    def take_change(self, change: Change) -> None:
        """Go back to the live picture if an edit made the final that is shown another one; take new names over."""
        document = change.after
        is_same = render_key(change.before) == render_key(document)
        if self.showing.final is not None and not is_same:
            self.showing.show_live()
        if not is_same or not change.touches(*RENDERED):
            return
        # A name decides nothing that is rendered, but stands in what is put out.
        shown = self.showing.final
        for frame in (self.last_frame, shown.frame if shown is not None else None):
            if frame is not None and frame.prepared is not None:
                frame.film.objects = frame.prepared.names_in(document)
                frame.film.materials = frame.prepared.material_names_in(document)

    def _on_frame(self, frame: Frame) -> None:
        self.last_frame = frame
        self.showing.take_frame(frame)
        self._show_state()

    def _on_showing(self) -> None:
        self.live.hold(self.showing.final is not None)
        self._show_state()
        self._show_finals()

    def _show_state(self) -> None:
        """Show where the picture stands that is seen."""
        showing, final = self.showing, self.showing.final
        if not showing.is_live or (showing.fixed is not None and final is None):
            return
        seen = final.frame if final is not None else showing.live
        if seen is not None:
            self.held_back.emit(seen.progress.held_back)
        if final is not None and final.frame is not None:
            self.state_line.show_frame(final.frame, paused=final.is_stopped)
        elif final is not None:
            self.state_line.show_waiting("The final render is waiting" if final.is_stopped else "Preparing the final")
        elif showing.live is not None:
            self.state_line.show_frame(showing.live, paused=self.live.is_paused)

    # ---- final renders ---------------------------------------------------------------------------------------------

    def start_final(self) -> None:
        """Render the view at its full size."""
        if self.showing.fixed is not None:
            self.session.said.emit("This is a saved render without its scene; there is nothing to render.", True)
            return
        s = self.session
        files = s.path.parent if s.path is not None else Path.cwd()
        self._start(s.document, s.assets, unfinished.begin(s.document, s.path, files, self.region))
        s.go_to("render")

    def _start(self, document: Document, assets: Assets, place: Unfinished) -> None:
        view = document.view
        request = RenderRequest(
            document,
            assets,
            view.width,
            view.height,
            region=region_pixels(place.region, view.width, view.height),
            denoise=document.quality.denoise,
        )
        final = Final(request, place, self.room.folder, assets.luts)
        done = self.showing.final
        if done is not None and done.result is not None and done.is_of(request):
            final.film, final.prepared = done.film, done.prepared  # more of the same
        others = [other for other in self.finals.queue if not other.is_stopped and not other.is_of(request)]
        final = self.finals.start(final)
        self.showing.show_final(final)
        if others:
            self.session.said.emit(f"“{final.name}” is rendered after “{others[-1].name}”.", False)

    def _on_final_frame(self, final: Final) -> None:
        self.showing.take_final(final)
        self._show_finals()
        if self.showing.final is final:
            self._show_state()

    def _keep_done(self) -> None:
        for final in self.finals.take_done():
            self._keep(final)

    def _keep(self, final: Final) -> None:
        self.showing.take_final(final)
        if self.showing.final is final:
            self._show_state()
        document = self.session.document
        if render_key(document) != render_key(final.document):
            document = final.document
        self.room.keep(
            final.result,
            document,
            luts=final.luts,
            folder=final.folder,
            then=lambda: unfinished.remove(final.place),
        )

    def _show_finals(self) -> None:
        queue = self.finals.queue
        self.final_list.show_finals(queue, self.left)
        unseen = next((final for final in queue if final is not self.showing.final), None)
        self.state_line.show_final(f"Final  ·  {unseen.share()}" if unseen is not None else "")

    def show_final(self, final: Final | None = None) -> None:
        """Show a final that is rendered behind the picture, None for the first of them."""
        final = final or next((other for other in self.finals.queue if other is not self.showing.final), None)
        if final is not None:
            self.showing.show_final(final)

    def stop(self) -> None:
        """Stop taking samples of the picture that is seen."""
        if self.showing.final is not None:
            self.finals.stop(self.showing.final)
        else:
            self.live.pause()
        self._show_state()
        self.session.said.emit("Stopped. Go on continues where it was.", False)

    def go_on(self) -> None:
        """Go on taking samples of the picture that is seen; of a final left unfinished if it was not stopped."""
        if self.showing.final is not None:
            self.finals.go_on(self.showing.final)
        elif self.live.is_paused or not self.left:
            self.live.go_on()
        else:
            self.go_on_with(self.left[0])
        self._show_state()
        self.session.said.emit("", False)

    def drop(self, final: Final | Unfinished) -> None:
        """Give a final up that is stopped, waits, or was left by another window."""
        if isinstance(final, Unfinished):
            self.left = [other for other in self.left if other is not final]
            unfinished.remove(final)
        else:
            self.finals.drop(final)
            unfinished.remove(final.place)
            if self.showing.final is final:
                self.showing.show_live()
        self._show_finals()

    def go_on_with(self, final: Final | Unfinished) -> None:
        """Go on with a final, also one that another window left."""
        if isinstance(final, Final):
            self.finals.go_on(final)
            return
        self.left = [other for other in self.left if other is not final]
        self._show_finals()
        s = self.session
        if film_digest(final.document) == film_digest(s.document):
            self._start(final.document, s.assets, final)
        else:
            work = load_assets(final.document, final.files)
            self.runner.submit("Recover", work, lambda assets: self._start(final.document, assets, final))

    def look_for_unfinished(self) -> None:
        """Look for finals of the project that earlier windows did not finish, and say so."""
        self.left = []
        document, path = self.session.document, self.session.path

        def work():
            yield Update(0, 1, "Looking for unfinished renders")
            yield Update(1, 1, "Looked", result=unfinished.found(document, path))

        def found(left: list[Unfinished]) -> None:
            if self.session.path == path:
                self.left = left
                self._show_finals()
                if left:
                    words = f"The final render of “{left[0].document.view.name}” was not finished."
                    self.session.said.emit(f"{words} Go on, in Render, continues it.", False)

        self.runner.submit("Look", work(), found)

    # ---- size and region -------------------------------------------------------------------------------------------

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
        """Ask for nothing more; finals that are done are kept, others can be gone on with."""
        self._soon.stop()
        self.finals.close()
        self._keep_done()
        for final in self.finals.queue:
            if not final.place.about.exists():  # it waited until now
                try:
                    unfinished.write(final.place)
                except NocturneError as error:
                    self.session.said.emit(str(error), True)

"""The window: rail, list, picture, sheet and foot, and what connects them."""

import gc
from pathlib import Path

from PySide6.QtCore import QEvent, QPoint, QSettings, Qt
from PySide6.QtWidgets import QApplication, QMainWindow, QStackedWidget, QWidget
from shiboken6 import isValid

from nocturne.engine.overlaps import Found, overlaps
from nocturne.engine.pick import Hit
from nocturne.engine.prepare import Preparer
from nocturne.errors import NocturneError
from nocturne.jobs import Update
from nocturne.lettering import faces
from nocturne.preflight.check import check
from nocturne.scene import edit, measuring
from nocturne.scene.change import Change
from nocturne.scene.faces import materials_of
from nocturne.ui import layout, rescue
from nocturne.ui.bringwork import WRITES_THEM, BringWork
from nocturne.ui.camerawork import CameraWork
from nocturne.ui.choice import Choice
from nocturne.ui.commands import COMMANDS, Command, menus
from nocturne.ui.darkroom.darkroom import Darkroom
from nocturne.ui.darkroom.prints import Print
from nocturne.ui.deliverwork import DeliverWork
from nocturne.ui.early import Early
from nocturne.ui.facing import KIND as FACING
from nocturne.ui.facing import FacingWork
from nocturne.ui.files import Files
from nocturne.ui.finals import Finals
from nocturne.ui.live import LiveRender
from nocturne.ui.pages import BY_PART, BY_STAGE, DRAWN, PAGES, Page, Tools
from nocturne.ui.panels import cards
from nocturne.ui.panels.array import ArrayCard
from nocturne.ui.panels.bars import PictureBar, Rail, StateLine
from nocturne.ui.panels.bringing import BringSheet
from nocturne.ui.panels.contact import ContactSheet
from nocturne.ui.panels.desk import LightDesk
from nocturne.ui.panels.export import ExportSheet
from nocturne.ui.panels.mediacard import MediaCard
from nocturne.ui.panels.pieces import PieceStrip
from nocturne.ui.panels.preflight import PreflightSheet
from nocturne.ui.panels.proof import ProofSheet
from nocturne.ui.panels.scopes import ScopesPanel
from nocturne.ui.panels.sheets.material import GLOW
from nocturne.ui.panels.start import StartPage
from nocturne.ui.panels.stock import StockStrip
from nocturne.ui.patternshelf import PatternShelf
from nocturne.ui.piecework import SHELF, PieceWork
from nocturne.ui.portalwork import PortalWork
from nocturne.ui.projects import Projects
from nocturne.ui.proofroom import ProofRoom
from nocturne.ui.proofwork import ProofWork
from nocturne.ui.readying import Readier, paint_in_turn
from nocturne.ui.renderwork import RenderWork
from nocturne.ui.runner import Runner
from nocturne.ui.session import Session
from nocturne.ui.setwork import SetWork
from nocturne.ui.showing import Showing
from nocturne.ui.stockwork import LOOK as STOCK
from nocturne.ui.stockwork import StockWork
from nocturne.ui.swatchroom import SwatchRoom
from nocturne.ui.theme import tokens as t
from nocturne.ui.theme.style import undressed
from nocturne.ui.thumbroom import ThumbRoom
from nocturne.ui.view.picture import PictureView
from nocturne.ui.widgets import entry

_MUST_END = ("Save", WRITES_THEM, "Keep", "Change a proof")  # jobs that closing the window waits for
OVERLAPS = "Look at glass and liquid"
# Jobs that need no line of their own.
_QUIET = (
    OVERLAPS,
    "Autosave",
    "Clear up",
    "Read fonts",
    "Own patterns",
    "Change a proof",
    "List proofs",
    "Load",
    "Look",
    SHELF,
    STOCK,
    FACING,
    GLOW,
)


class Window(QMainWindow):
    """The whole application's window on one project."""

    def __init__(self, *, settings: QSettings | None = None, early: Early | None = None) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.settings = settings or QSettings("Nocturne", "Nocturne")
        self.session = Session()
        self.runner = Runner()
        # One for all, so that what they share is prepared once.
        self.preparer = early.preparer if early is not None else Preparer()
        self.live, self.finals = LiveRender(self.preparer), Finals(self.preparer)
        self.darkroom, self.swatches, self.thumbs = Darkroom(), SwatchRoom(), ThumbRoom()
        self.room = ProofRoom(self.session, self.runner)
        self.rescue = rescue.Rescue(self.session, self.runner, lambda: self.room.folder)
        self.showing = Showing(self.session, self.room, self.darkroom)
        # Their connections hold the window, where no collector sees it: they end with it.
        rooms = (self.live, self.finals, self.darkroom, self.swatches, self.thumbs, self.room)
        for part in (self.session, self.runner, *rooms, self.rescue):
            part.setParent(self)
        self.showing.setParent(self)
        self.choice = Choice(self.session, {page.stage: page.part for page in PAGES})
        self.files = Files(self.session, self.runner, early)
        self.bring = BringWork(self.session, self.runner, self.files)
        self.bring.setParent(self)
        self.projects = Projects(
            self.session,
            self.runner,
            self.settings,
            self,
            files=self.files,
            bring=self.bring,
            room=self.room,
            showing=self.showing,
            rescue=self.rescue,
        )
        self._picking_for: object = None
        self._is_closed = False
        self._is_compiling = True
        self._n_said = 0
        with undressed():
            self._build()
            self.renders = RenderWork(
                self.session,
                self.settings,
                self.runner,
                live=self.live,
                finals=self.finals,
                room=self.room,
                showing=self.showing,
                picture=self.picture,
                state_line=self.state_line,
                final_list=self.sheets["render"].finals,
            )
            self.bring.middle = self.choice.middle = self.picture.middle_point
            self.delivery = DeliverWork(
                self.session,
                self.runner,
                files=self.files,
                room=self.room,
                showing=self.showing,
                picture=self.picture,
                contact=self.contact,
                sheet=self.export_sheet,
            )
            self.camera = CameraWork(self.session, self.picture)
            self.setwork = SetWork(self.session, self.picture)
            self.choice.on_faces = self.setwork.with_material
            self.proofs = ProofWork(self.session, self.room, self.showing, self.picture, self.proof_sheet)
            self.actions_by_id = menus.fill(self)
            self._connect()
            self.resize(1280, 800)
            self.session.show_anew()
            self._show_stage("set")
            self._restore_places()
        self.picture.setFocus()
        pages = (
            *self.lists.values(),
            *self.sheets.values(),
            self.desk,
            self.preflight,
            self.export_sheet,
            self.bring_sheet,
        )
        self._readier = Readier(self, list(pages), self.sheets["finish"].make_forms())
        self.live.start()

    # ---- layout ----------------------------------------------------------------------------------------------------

    def _build(self) -> None:
        s = self.session
        self.picture, self.picture_bar, self.state_line = PictureView(), PictureBar(s), StateLine()
        self.feet = {
            "proofs": ContactSheet(self.room),
            "desk": LightDesk(s),
            "pieces": PieceStrip(),
            "stock": StockStrip(),
        }
        self.contact, self.desk = self.feet["proofs"], self.feet["desk"]
        self.pieces = PieceWork(s, self.runner, self.files, self.bring, self.feet["pieces"], self.thumbs)
        self.stock = StockWork(s, self.runner, self.files, self.choice, self.feet["stock"], self.thumbs)
        self.facing = FacingWork(self.runner, self.picture)
        self.portals = PortalWork(s, self.runner, self.preparer, self.picture)
        self._build_pages()
        self.list_stack, self.sheet_stack, self.foot = QStackedWidget(), QStackedWidget(), QStackedWidget()
        for page in PAGES:
            self.list_stack.addWidget(self.lists[page.stage])
            self.sheet_stack.addWidget(self.sheets[page.stage])
        self.proof_sheet, self.preflight = ProofSheet(), PreflightSheet(s)
        self.export_sheet = ExportSheet(s, self.files.order_folder)
        self.bring_sheet = BringSheet(self.bring)
        for extra in (self.proof_sheet, self.preflight, self.export_sheet, self.bring_sheet):
            self.sheet_stack.addWidget(extra)
        for foot in self.feet.values():
            self.foot.addWidget(foot)
        self.scopes = ScopesPanel()
        self.scopes.hide()
        right = layout.stacked(self.scopes, self.sheet_stack, stretched=self.sheet_stack)
        self.parts = {
            "list": layout.framed("list", self.list_stack, width=t.LIST_WIDTH),
            "sheet": layout.framed("sheet", right, width=t.SHEET_WIDTH),
            "foot": layout.framed("foot", self.foot),
        }
        middle = (self.picture_bar, self.picture, self.state_line, self.parts["foot"])
        self.across = layout.beside(
            self.parts["list"], layout.stacked(*middle, stretched=self.picture), self.parts["sheet"]
        )
        self.rail = Rail(s, [(page.stage, page.title) for page in PAGES])
        self.setCentralWidget(layout.with_rail(self.rail, self.across))
        self.start_page = StartPage(self.picture)
        self.command_list = cards.CommandList(self)

    def _build_pages(self) -> None:
        self.patterns = PatternShelf(self.session, self.runner, self.files)
        tools = Tools(
            self.session,
            self.choice,
            self.swatches,
            self.thumbs,
            self.preparer,
            self.runner,
            ask_model=self.projects.ask_model,
            ask_picture=self.projects.ask_picture,
            ask_pictures=self.projects.ask_pictures,
            relative=self.files.relative,
            folder=self.files.folder,
            patterns=self.patterns,
            ask_points=self.projects.ask_points,
            ask_metal=self.projects.ask_metal,
            show_order=self.show_order,
            find_openings=self.portals.find,
        )
        self.lists = {page.stage: page.list(tools) for page in PAGES}
        self.sheets = {page.stage: page.sheet(tools) for page in PAGES}

    def run_command(self, command: Command) -> None:
        """Run a command unless its key is meant for a text field."""
        if not menus.means_typing(command, self.focusWidget()):
            self.do_command(command)

    def do_command(self, command: Command) -> None:
        """Run a command; where it does not apply, say why.

        What is half typed is taken first, so that the command meets what the user sees.
        """
        if command.id == "proof.live" and self._escape():
            return
        why = entry.finish() if command.finishes_typing else ""
        if not why and not command.enabled(self):
            why = command.needs.otherwise
        if why:
            self.session.said.emit(why, True)
            return
        before, said = self.session.history.document, self._n_said
        command.run(self)
        if self.session.history.document is not before and self._n_said == said:
            # Keys are pressed by mistake, too: what one did is said, and how it is taken back.
            self.session.said.emit(f"{self.session.history.undo_label}. Ctrl+Z takes it back.", False)

    def _count_said(self) -> None:
        self._n_said += 1

    def _escape(self) -> bool:
        """Leave what Escape leaves first: a mode of the picture, an open sheet; return False if there is none."""
        if self.picture.mode != "choose":
            self.picture.set_mode("choose")
            return True
        if self.picture.drawn:
            self.setwork.leave()
            self.setwork.forget_measure()
            return True
        if self.picture.offered:
            self.portals.leave()
            return True
        if self.sheet_stack.currentWidget() in (self.preflight, self.export_sheet, self.bring_sheet):
            self.show_sheet(None)
            return True
        return False

    def _connect(self) -> None:
        s, picture = self.session, self.picture
        s.document_changed.connect(self._on_document_changed)
        s.looked_at_changed.connect(self._on_looked_at)
        s.assets_changed.connect(self._on_assets_changed)
        s.stage_changed.connect(self._show_stage)
        s.chosen_changed.connect(self._on_chosen)
        s.said.connect(self._count_said)
        for said in (s.said, self.room.said):
            said.connect(self.state_line.say)
            said.connect(lambda text, wrong: self.picture.show_note(text if wrong else ""))
        picture.chosen.connect(self.choice.pick)
        picture.boxed.connect(self.choice.box)
        picture.placed.connect(lambda document, label, merge: s.push(document, label, merge=merge))
        picture.colour_picked.connect(self._on_colour_picked)
        picture.dropped.connect(self._give_dropped)
        picture.stock_dropped.connect(lambda id, hit, all_of_it: self.stock.give(id, hit.id, everywhere=all_of_it))
        picture.outline_wanted.connect(self.darkroom.set_outlined)
        picture.zoomed.connect(self.picture_bar.show_zoom)
        self.live.compiling.connect(self._on_compiling)
        self.live.ready.connect(self._on_ready)
        self.live.failed.connect(self._on_failed)
        self.finals.failed.connect(self._on_failed)
        self.darkroom.developed.connect(self._on_print)
        self.darkroom.developed.connect(self._note_shown, Qt.ConnectionType.DirectConnection)
        self.darkroom.group_shown.connect(self.desk.show_group)
        self.darkroom.cue_shown.connect(self.desk.show_cue)
        self.darkroom.failed.connect(self._on_failed)
        for room in (self.swatches, self.thumbs):
            room.failed.connect(self._on_failed)
        self.runner.failed.connect(self._on_job_failed)
        self.runner.updated.connect(self._on_job)
        self.runner.finished.connect(lambda kind, _: self.state_line.end_job(kind))
        self.state_line.cancel_wanted.connect(self.runner.cancel)
        self.state_line.foot_wanted.connect(self.show_foot)
        bar = self.picture_bar
        bar.shown_changed.connect(self.darkroom.set_shown)
        bar.denoise_changed.connect(self.darkroom.set_denoise)
        bar.denoise_changed.connect(self.live.look_ahead)
        bar.stops_changed.connect(self.darkroom.set_false_colour)
        bar.scopes_changed.connect(self._show_scopes)
        bar.history_wanted.connect(self.show_history)
        bar.compare_wanted.connect(self.proofs.toggle_compare)
        self.desk.pick_wanted.connect(self.pick_colour)
        for sheet in self.sheets.values():
            sheet.pick_wanted.connect(self.pick_colour)
        camera = self.sheets["camera"]
        camera.focus_wanted.connect(self.camera.pick_focus)
        camera.hold_wanted.connect(self.camera.hold_focus)
        camera.mode_wanted.connect(self.picture.set_mode)
        camera.average_wanted.connect(self.camera.expose_for_all)
        camera.upright_wanted.connect(self.camera.upright)
        light = self.sheets["light"]
        light.measure_wanted.connect(self.portals.measure)
        self.portals.measured.connect(light.show_gain)
        render = self.sheets["render"]
        render.start_wanted.connect(self.renders.start_final)
        render.stop_wanted.connect(self.renders.stop)
        render.go_on_wanted.connect(self.renders.go_on)
        render.export_wanted.connect(self.delivery.ask_export)
        self.renders.held_back.connect(render.show_held_back)
        self.delivery.sheet_wanted.connect(lambda: self.show_sheet(self.export_sheet))
        self.projects.begun.connect(self.renders.look_for_unfinished)
        self.projects.begun.connect(self.export_sheet.begin)
        self.projects.start_wanted.connect(self.show_start)
        self.sheets["finish"].table_wanted.connect(self.projects.ask_table)
        self.contact.keep_wanted.connect(self.proofs.keep)
        self.contact.show_wanted.connect(self.showing.show)
        self.contact.compare_wanted.connect(self.showing.compare_with)
        self.contact.live_wanted.connect(self.showing.show_live)
        self.contact.print_wanted.connect(self.delivery.ask_print)
        self.showing.changed.connect(self._on_showing)
        self.room.listed.connect(self._on_showing)
        self.proof_sheet.altered.connect(lambda id, values: self.room.alter(id, **values))
        self.proof_sheet.mode_wanted.connect(self.showing.set_mode)
        self.proof_sheet.back_wanted.connect(self.proofs.go_back)
        self.proof_sheet.close_wanted.connect(self.showing.show_live)
        self.preflight.chosen.connect(self._show_finding)
        self.preflight.files_wanted.connect(self.files.load_assets)
        self.preflight.check_wanted.connect(self._check)
        for page in (self.preflight, self.export_sheet, self.bring_sheet):
            page.close_wanted.connect(lambda: self.show_sheet(None))
        self.bring.arrived.connect(self._show_guests)
        picture.assets = lambda: s.assets
        picture.piece_dropped.connect(self.pieces.place)
        picture.files_dropped.connect(lambda paths, at: self.bring.look_at(paths, at=at))
        picture.pictures_dropped.connect(self._take_pictures)
        picture.project_dropped.connect(lambda path: self.projects.leave(lambda: self.projects.open(path)))
        self.start_page.wanted.connect(self.projects.start_with)

    # ---- what follows from changes ---------------------------------------------------------------------------------

    def _on_document_changed(self, change: Change) -> None:
        document = change.after
        star = "•  " if self.session.history.is_dirty else ""
        self.setWindowTitle(f"{star}{document.name} — Nocturne")
        self.picture.set_document(document)
        if change.parts:
            self.renders.take_change(change)
            if self.showing.first is not None:
                self.showing.show_live()
            elif self.showing.second is not None:
                self._on_showing()
        self._show_chosen()
        self.showing.take_document()
        self.contact.repaint_cards()
        self._show_start_if_empty()
        self.renders.request()

    def show_all_live(self) -> None:
        """Show the live picture of the document as it is."""
        self.showing.show_live()
        self.session.look_at_all()

    def show_before_patterns(self) -> None:
        """Show the chosen material without its patterns, or as it is again."""
        material = self.session.chosen.get("materials", "")
        if self.session.document.find("materials", material) is not None:
            self.session.look_at_step(material, None)

    def show_step_alone(self) -> None:
        """Show the step in hand of the chosen material's patterns alone, or all again."""
        outline = self.sheets["materials"].outline
        path = outline.path_in_hand()
        if path is not None:
            self.session.look_at_step(outline.material, path)

    def _on_looked_at(self) -> None:
        """Say what is looked at, and render that."""
        self.sheets["materials"].outline.mark_alone()
        if self.session.looked_at is not None:
            is_alone = self.session.looked_at[1] is not None
            key, what = ("Shift+O", "One step alone") if is_alone else ("Shift+B", "The material without its patterns")
            self.session.said.emit(f"{what} is shown. {key} or Escape shows all again.", False)
        else:
            self.session.said.emit("All steps are shown again.", False)
        if self.showing.fixed is not None:
            self.showing.show_live()
        self.renders.request()

    def _on_assets_changed(self) -> None:
        self.showing.take_document()
        self.renders.request_soon()

    def _on_print(self, developed: Print) -> None:
        self.picture.show_print(developed)
        self._get_ready()
        self.delivery.follow_picture()
        self.facing.look()
        self.picture_bar.show_zoom(self.picture.scale())
        self.scopes.show_scopes(developed.scopes)
        if developed.scopes is not None:
            self.sheets["finish"].show_histogram(developed.scopes.stops)
        if developed.frame.prepared is not None:
            self.sheets["materials"].show_moved(developed.frame.prepared.moved)
        else:
            self.state_line.show_frame(developed.frame, paused=False)

    def _get_ready(self) -> None:
        """Begin, once there is something to see, what is wanted sooner or later: it would hold up the first picture."""
        if self._readier.start():
            self.runner.submit("Clear up", rescue.sweep())
            self.runner.submit("Read fonts", faces.read())
            self.patterns.read()

    def _note_shown(self, developed: Print) -> None:
        frame = developed.frame
        self.live.note_shown(frame.film, frame.progress.step, is_early=developed.is_early)

    def _on_job(self, kind: str, update: Update) -> None:
        if kind not in _QUIET:
            self.state_line.show_job(kind, update)
        if kind == "Open" and self.picture.print is None and not self._is_compiling:
            self.picture.show_message(f"{update.note}…", update.done / max(update.total, 1))

    def _on_compiling(self, share: float, note: str) -> None:
        self._is_compiling = share < 1
        if share < 1:
            self.picture.show_message(note, max(share, 0.02))
            self.state_line.show_waiting("Preparing the renderer")

    def _on_ready(self) -> None:
        if self._is_closed:
            return  # said before the window was closed, heard after
        # What is loaded by now stays: looking through all of it for garbage would stop every thread for a tenth of a
        # second now and then.
        gc.freeze()
        gc.enable()
        self._is_compiling = False
        if self.start_page.isVisible():
            self._get_ready()
        elif self.picture.print is None:
            what = "the project is being read" if self.projects.is_opening else "the first picture is on its way"
            self.picture.show_message(f"The renderer is ready; {what}…", 0.0)
        self.state_line.show_waiting("Waiting for a picture")
        self.swatches.start()
        self.thumbs.start()
        self.finals.start_work()
        self.renders.request()

    def _on_failed(self, error: NocturneError) -> None:
        gc.enable()  # the renderer may never be ready
        self._get_ready()  # nor may there ever be a picture
        self.session.said.emit(str(error), True)
        if self.picture.print is None:
            self.picture.show_message(str(error))

    def _on_job_failed(self, kind: str, error: NocturneError) -> None:
        self.state_line.end_job(kind)
        if kind == "Open":
            self.projects.is_opening = False
            self._show_start_if_empty()
        self._on_failed(error)

    def _show_stage(self, stage: str) -> None:
        paint_in_turn([self.parts[name] for name in ("list", "sheet", "foot")])
        self.list_stack.setCurrentWidget(self.lists[stage])
        self.show_sheet(None)
        for name in DRAWN:
            setattr(self.picture.overlays, name, name in self._page.draws)
        self.show_foot(self._page.foot)
        self._count_stops()
        self._show_chosen()

    @property
    def _page(self) -> Page:
        return BY_STAGE[self.session.stage]

    def _count_stops(self) -> None:
        self.darkroom.set_scopes(self.scopes.isVisible() or self._page.counts)

    def show_sheet(self, widget: QWidget | None) -> None:
        """Show a page in the sheet's place; None goes back to the stage's own, or the proof's."""
        about = self.showing.proof()
        own = self.proof_sheet if about is not None else self.sheets[self.session.stage]
        self.sheet_stack.setCurrentWidget(widget or own)

    def show_foot(self, name: str) -> None:
        """Show the contact sheet ("proofs"), the light desk ("desk"), pieces or ready materials ("stock")."""
        self.foot.setCurrentWidget(self.feet[name])
        self.parts["foot"].setFixedHeight(t.DESK_HEIGHT if name == "desk" else t.CONTACT_HEIGHT)
        self.state_line.show_foot(name)
        self._tell_desk_seen()

    def _tell_desk_seen(self) -> None:
        """Small pictures, and light groups apart, are made while the desk is seen."""
        self.darkroom.set_desk_seen(self.foot.currentWidget() is self.desk and self.parts["foot"].isVisibleTo(self))

    def _on_showing(self) -> None:
        showing = self.showing
        self.picture.set_compare(showing.compare, showing.names())
        seen = (chosen[0] if chosen else "" for chosen in (showing.first, showing.second))
        self.contact.mark(*seen, is_final=showing.final is not None)
        about = showing.proof()
        if about is not None:
            proof, sheet = about
            against = " against ".join(name for name in showing.names() if name) if showing.second else ""
            self.proof_sheet.show_proof(
                proof, sheet.document, self.session.document, mode=showing.compare, against=against
            )
        self.show_sheet(None)

    def _on_chosen(self, part: str, id: str) -> None:
        s = self.session
        if part == "things":
            thing = s.document.find("things", id)
            if thing is not None and materials_of(thing):
                s.choose("materials", materials_of(thing)[0])
        elif part == "views":
            s.look_through(id)
        elif part == "qualities":
            s.edit(lambda d: edit.changed(d, active_quality=id), label="Choose a quality level")
        self._show_chosen()

    def _show_chosen(self) -> None:
        part = self._page.outlined
        self.picture.set_chosen(part, self.session.all_chosen(part))

    def pick_colour(self, chip: object) -> None:
        """Let the next click in the picture give a chip its colour."""
        self._picking_for = chip
        self.picture.set_mode("colour")

    def _take_pictures(self, paths: list, thing: str) -> None:
        """Make a material of pictures that were dropped; while light is set, an environment of the first."""
        if self.session.stage == "light":
            self.choice.light_by_picture(self.files.relative(paths[0]))
        else:
            self.sheets["materials"].wiring.clothe(paths, thing)

    def _give_dropped(self, material: str, hit: Hit, everywhere: bool) -> None:
        """Give a material from the list to what it was dropped on, or to all that wear the same."""
        old = self.choice.worn_by(hit.id)
        if everywhere and old:
            self.choice.give_instead(material, old)
        else:
            self.choice.give_to(material, (hit.id,))

    def _on_colour_picked(self, colour: tuple | None) -> None:
        chip, self._picking_for = self._picking_for, None
        if colour is None or chip is None:
            return
        if isValid(chip):
            chip.take(colour)
        else:
            self.session.said.emit("What the colour was picked for is not shown any more.", True)

    # ---- the window itself -----------------------------------------------------------------------------------------

    def fold(self, part: str) -> None:
        """Fold a part of the window away, or bring it back."""
        self.parts[part].setVisible(not self.parts[part].isVisible())
        self._tell_desk_seen()

    def fold_all(self) -> None:
        """Leave only the picture, or bring everything back."""
        show = not self.rail.isVisible()
        for widget in (self.rail, self.menuBar(), *self.parts.values()):
            widget.setVisible(show)
        self._tell_desk_seen()

    def toggle_full_screen(self) -> None:
        """Fill the screen, or go back to a window."""
        self.setWindowState(self.windowState() ^ Qt.WindowState.WindowFullScreen)

    def remove_choice(self) -> None:
        """Remove what is chosen in the stage; while the contact sheet has the keyboard, its card."""
        card = self.contact.chosen_id() if self.contact.view.hasFocus() else ""
        if card:
            self.room.remove(card)
        else:
            self.choice.remove()

    def toggle_foot(self) -> None:
        """Show the next of contact sheet, light desk, pieces and ready materials."""
        self.show_foot(list(self.feet)[(self.foot.currentIndex() + 1) % len(self.feet)])

    def toggle_overlay(self, name: str) -> None:
        """Show or hide something drawn over the picture."""
        shown = self.picture.overlays
        setattr(shown, name, not getattr(shown, name))
        self.facing.look()
        self.picture.update()

    def zoom(self, factor: float) -> None:
        """Zoom the picture by a factor."""
        self.picture.set_zoom(self.picture.zoom * factor)

    def _show_scopes(self, on: bool) -> None:
        self.scopes.setVisible(on)
        self._count_stops()

    def show_history(self) -> None:
        """Show the steps of this session."""
        cards.HistoryCard(self, self.session.history, self.session.go_to_step).open()

    def show_commands(self) -> None:
        """Show the list of commands."""
        self.command_list.open()

    def show_keys(self) -> None:
        """Show what mouse and keys do."""
        cards.KeysCard(self).open()

    def show_measures(self) -> None:
        """Show how large the choice, the frame and the set are, and how much there is."""
        rows = measuring.told(self.session.document, self.session.assets, self.session.all_chosen("things"))
        cards.FactsCard(self, "Measures", rows).open()

    def show_array(self) -> None:
        """Ask how many copies of the choice are wanted, and how far apart."""
        ArrayCard(self, self.choice.array, self.projects.ask_points).open()

    def show_order(self) -> None:
        """Show the order of overlapping glass and liquid."""
        card = MediaCard(self, self.session)

        def look() -> None:
            self.runner.submit(OVERLAPS, overlaps(self.session.document, self.session.assets), card_found)

        def card_found(found: Found) -> None:
            if isValid(card):
                card.show_found(found)

        card.look_wanted.connect(look)
        card.open()
        look()

    def bring_when_open(self, models: list[Path]) -> None:
        """Show models to be brought in, once the project that is being opened is there."""
        if not self.projects.is_opening:
            self.bring.look_at(models)
            return

        def then(kind: str, _: object) -> None:
            if kind == "Open":
                self.runner.finished.disconnect(then)
                self.bring.look_at(models)

        self.runner.finished.connect(then)

    def _show_guests(self, guests: list) -> None:
        self.start_page.hide()
        self.bring_sheet.show_guests(guests)
        self.show_sheet(self.bring_sheet)

    def show_preflight(self) -> None:
        """Check the project and show what is probably wrong."""
        self.preflight.check()
        self.show_sheet(self.preflight)

    def _check(self) -> None:
        s = self.session
        work = check(s.document, s.assets, self.files.folder())
        self.runner.submit("Preflight", work, self.preflight.show_findings)

    def _show_finding(self, part: str, id: str) -> None:
        self.session.go_to(BY_PART[part].stage)
        self.session.choose(part, id)
        self.show_sheet(self.preflight)

    def show_start(self) -> None:
        """Show the start page over the picture."""
        self.start_page.open(self.projects.recent(), self.projects.recoverable())

    def _show_start_if_empty(self) -> None:
        document = self.session.document
        is_fresh = self.session.path is None and not document.things and not self.session.history.is_dirty
        if is_fresh and self.showing.fixed is None and not self.projects.is_opening:
            self.show_start()
        else:
            self.start_page.hide()

    def keyPressEvent(self, event) -> None:
        """Leave what Escape leaves, if no field wanted the key."""
        if event.key() == Qt.Key.Key_Escape:
            self.run_command(next(command for command in COMMANDS if command.keys == "Escape"))
        else:
            super().keyPressEvent(event)

    def start_meter(self) -> None:
        """Show the meter until its key is let go."""
        if not self.picture.metering:
            self.picture.set_metering(True)
            QApplication.instance().installEventFilter(self)

    def eventFilter(self, watched, event) -> bool:
        """End the meter when its key is let go, or the window loses the keyboard; only listens while metering."""
        let_go = event.type() == QEvent.Type.KeyRelease and event.key() == Qt.Key.Key_M and not event.isAutoRepeat()
        if let_go or (event.type() == QEvent.Type.WindowDeactivate and watched is self):
            self.picture.set_metering(False)
            QApplication.instance().removeEventFilter(self)
        return False

    # ---- opening and leaving ---------------------------------------------------------------------------------------

    def open_path(self, path: Path) -> None:
        """Open a project."""
        self.start_page.hide()
        self.projects.open(path)

    def open_demo(self) -> None:
        """Open the demo project."""
        self.start_page.hide()
        self.projects.open_demo()

    def _restore_places(self) -> None:
        geometry, sizes = self.settings.value("window/geometry"), self.settings.value("window/across")
        if geometry is not None:
            self.restoreGeometry(geometry)
        if sizes is not None:
            self.across.restoreState(sizes)
        hidden = self.settings.value("window/folded") or []
        for name in [hidden] if isinstance(hidden, str) else hidden:
            if name in self.parts:
                self.parts[name].hide()
        stage = self.settings.value("window/stage")
        if stage in self.lists:
            self.session.go_to(stage)

    def fit_to_screen(self) -> None:
        """Make the window no larger than the free part of its screen, and keep all of it there."""
        if self.isMaximized() or self.isFullScreen():
            return
        room, frame = self.screen().availableGeometry(), self.frameGeometry()
        around = frame.size() - self.size()
        self.resize(self.size().boundedTo(room.size() - around))
        corner = self.frameGeometry()
        at = QPoint(
            max(min(corner.x(), room.right() + 1 - corner.width()), room.x()),
            max(min(corner.y(), room.bottom() + 1 - corner.height()), room.y()),
        )
        if at != corner.topLeft():
            self.move(at)

    def closeEvent(self, event) -> None:
        """Ask about unsaved changes, then end all threads."""
        if not self.projects.may_close():
            event.ignore()
            return
        self.settings.setValue("window/geometry", self.saveGeometry())
        self.settings.setValue("window/across", self.across.saveState())
        self.settings.setValue("window/stage", self.session.stage)
        if not self.rail.isHidden():  # with everything folded away, what was folded before is not known
            self.settings.setValue("window/folded", [n for n, part in self.parts.items() if part.isHidden()])
        QApplication.instance().removeEventFilter(self)
        self.projects.close()
        self.bring.close()
        self._readier.stop()
        self.live.close()
        self.renders.close()
        self.swatches.close()
        self.thumbs.close()
        self.darkroom.close()
        self.runner.shutdown(finish=_MUST_END)
        self.rescue.close()
        self.room.close()
        self._is_closed = True
        gc.unfreeze()
        event.accept()

"""The window: rail, list, picture, sheet and foot, and what connects them."""

from pathlib import Path

from PySide6.QtCore import QSettings, Qt, QTimer
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QMainWindow, QSplitter, QStackedWidget, QVBoxLayout, QWidget

from nocturne.demo import workshop
from nocturne.engine.pick import Hit, focus_distance
from nocturne.errors import NocturneError
from nocturne.io import project
from nocturne.scene import edit, grading, navigate
from nocturne.scene.assets import Assets
from nocturne.scene.camera import View
from nocturne.scene.document import Document, free_id, free_name, render_key
from nocturne.scene.lights import KIND_NAMES, UNITS, Light
from nocturne.scene.materials import Material
from nocturne.ui import files
from nocturne.ui.commands import COMMANDS, MENUS, Command
from nocturne.ui.darkroom import Darkroom, Print
from nocturne.ui.live import Frame, LiveRender, Request
from nocturne.ui.panels import finish, lists, sheets
from nocturne.ui.panels.bars import PictureBar, Rail, StateLine
from nocturne.ui.panels.desk import LightDesk
from nocturne.ui.runner import Runner
from nocturne.ui.session import STAGES, Session
from nocturne.ui.theme import tokens as t
from nocturne.ui.view.picture import PictureView

_POWER = {
    "rect": 1500.0,
    "sphere": 800.0,
    "spot": 1200.0,
    "point": 800.0,
    "environment": 100.0,
    "dome": 50.0,
    "sun": 1.0,
    "sky": 1.0,
}


class Window(QMainWindow):
    """The whole application's window on one project."""

    def __init__(self, *, settings: QSettings | None = None) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.settings = settings or QSettings("Nocturne", "Nocturne")
        self.session = Session()
        self.runner = Runner()
        self.files = files.Files(self, self.session, self.runner)
        self.live, self.darkroom = LiveRender(), Darkroom()
        self.final = False
        self.last_frame: Frame | None = None
        self._picking_for: object = None
        self._refit = QTimer(self)
        self._refit.setSingleShot(True)
        self._refit.setInterval(60)
        self._refit.timeout.connect(self.request_picture)
        self._build()
        self._make_menus()
        self._connect()
        self.resize(1280, 800)
        self.session.document_changed.emit(self.session.document, self.session.document)
        self._show_stage("set")
        self.picture.setFocus()
        self.live.start()

    # ---- layout ----------------------------------------------------------------------------------------------------

    def _build(self) -> None:
        s = self.session
        self.picture, self.picture_bar, self.state_line = PictureView(), PictureBar(s), StateLine()
        self.denoise_button = self.picture_bar.denoise
        self.desk = LightDesk(s)
        self._build_lists()
        self._build_sheets()
        self.list_stack, self.sheet_stack = QStackedWidget(), QStackedWidget()
        for stage in STAGES:
            self.list_stack.addWidget(self.lists[stage])
            self.sheet_stack.addWidget(self.sheets[stage])
        self.parts = {
            "list": _framed("list", self.list_stack, width=t.LIST_WIDTH),
            "sheet": _framed("sheet", self.sheet_stack, width=t.SHEET_WIDTH),
            "foot": _framed("foot", self.desk, height=t.FOOT_HEIGHT),
        }
        middle = QWidget()
        column = QVBoxLayout(middle)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.picture_bar)
        column.addWidget(self.picture, 1)
        column.addWidget(self.state_line)
        column.addWidget(self.parts["foot"])
        across = QSplitter(Qt.Orientation.Horizontal)
        across.setHandleWidth(1)
        across.setChildrenCollapsible(False)
        for widget in (self.parts["list"], middle, self.parts["sheet"]):
            across.addWidget(widget)
        across.setStretchFactor(1, 1)
        across.setSizes([t.LIST_WIDTH, 1280, t.SHEET_WIDTH])
        whole = QWidget()
        row = QHBoxLayout(whole)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        self.rail = Rail(s)
        row.addWidget(self.rail)
        row.addWidget(across, 1)
        self.setCentralWidget(whole)

    def _build_lists(self) -> None:
        s = self.session
        outline = lists.Outline(s, "things", "The set", "Nothing here yet. Bring in a model to start.")
        outline.add_button("add", "Bring in a model", self.ask_model)
        outline.add_copy_and_remove()
        materials = lists.MaterialList(
            s, "materials", "Materials", "No materials yet. Add one, then give it to a thing."
        )
        materials.add_button("add", "Add a material", self.add_material)
        materials.add_copy_and_remove()
        lights = lists.LightList(s, "lights", "Lights", "It is dark. Add a light to begin.")
        self.add_light_button = lights.add_button("add", "Add a light", self._ask_light)
        lights.add_copy_and_remove()
        views = lists.ViewList(s, "views", "Views", "")
        views.add_button("add", "Keep this view", self.keep_view)
        views.add_button("remove", "Remove this view", views.remove)
        qualities = lists.QualityList(s, "qualities", "Quality levels", "")
        qualities.add_copy_and_remove()
        steps = finish.StepList(s)
        self.lists = dict(zip(STAGES, (outline, materials, lights, views, qualities, steps)))

    def _build_sheets(self) -> None:
        s = self.session
        self.sheets = {
            "set": sheets.ThingSheet(s),
            "materials": sheets.MaterialSheet(s, self.ask_picture),
            "light": sheets.LightSheet(s, self.ask_picture),
            "camera": sheets.CameraSheet(s),
            "render": sheets.RenderSheet(s),
            "finish": finish.FinishSheet(s),
        }

    def _make_menus(self) -> None:
        self.actions_by_id: dict[str, QAction] = {}
        for name in MENUS:
            menu = self.menuBar().addMenu(name)
            for command in COMMANDS:
                if command.menu == name:
                    menu.addAction(self._action(command))
            menu.aboutToShow.connect(self._refresh_actions)

    def _action(self, command: Command) -> QAction:
        action = QAction(command.title, self)
        if command.keys:
            action.setShortcut(QKeySequence(command.keys))
        action.triggered.connect(lambda: self.run_command(command))
        self.actions_by_id[command.id] = action
        self.addAction(action)
        return action

    def _refresh_actions(self) -> None:
        for command in COMMANDS:
            self.actions_by_id[command.id].setEnabled(command.enabled(self))

    def run_command(self, command: Command) -> None:
        """Run a command unless it does not apply, or its single letter is meant for a text field."""
        if len(command.keys) == 1 and isinstance(self.focusWidget(), QLineEdit):
            return
        if command.enabled(self):
            command.run(self)

    def _connect(self) -> None:
        s, picture = self.session, self.picture
        s.document_changed.connect(self._on_document_changed)
        s.assets_changed.connect(self._on_assets_changed)
        s.stage_changed.connect(self._show_stage)
        s.chosen_changed.connect(self._on_chosen)
        s.said.connect(self.state_line.say)
        picture.resized.connect(self._refit.start)
        picture.chosen.connect(self._on_picked)
        picture.moved.connect(self._on_moved)
        picture.focus_picked.connect(self._on_focus_picked)
        picture.colour_picked.connect(self._on_colour_picked)
        self.live.framed.connect(self._on_frame)
        self.live.compiling.connect(self._on_compiling)
        self.live.ready.connect(self.request_picture)
        self.live.failed.connect(self._on_failed)
        self.darkroom.developed.connect(self._on_print)
        self.darkroom.group_shown.connect(self.desk.show_group)
        self.darkroom.failed.connect(self._on_failed)
        self.runner.failed.connect(lambda kind, error: self._on_failed(error))
        self.picture_bar.shown_changed.connect(self.darkroom.set_shown)
        self.picture_bar.denoise_changed.connect(self.darkroom.set_denoise)
        self.desk.pick_wanted.connect(self.pick_colour)
        for sheet in self.sheets.values():
            sheet.pick_wanted.connect(self.pick_colour)
        self.sheets["camera"].focus_wanted.connect(self.pick_focus)
        render = self.sheets["render"]
        render.start_wanted.connect(self.start_final)
        render.stop_wanted.connect(self.stop_render)
        render.go_on_wanted.connect(self.go_on)
        render.export_wanted.connect(self.ask_export)
        self.sheets["finish"].table_wanted.connect(self.ask_table)

    # ---- what follows from changes ---------------------------------------------------------------------------------

    def _on_document_changed(self, before: Document, document: Document) -> None:
        star = "•  " if self.session.history.is_dirty else ""
        self.setWindowTitle(f"{star}{document.name} — Nocturne")
        self.picture.set_view(document.view)
        self.darkroom.set_document(document, self.session.assets.luts)
        if before is not document and self.final and _changes_film(before, document):
            self.final = False
        self.request_picture()

    def _on_assets_changed(self) -> None:
        self.darkroom.set_document(self.session.document, self.session.assets.luts)
        self._refit.start()

    def request_picture(self) -> None:
        """Ask for the picture of the document as it is now."""
        document = self.session.document
        width, height = self.picture.wanted_size()
        if self.final:
            width, height = document.view.width, document.view.height
        self.live.show(Request(document, self.session.assets, width, height, self.final))

    def _on_frame(self, frame: Frame) -> None:
        self.last_frame = frame
        self.darkroom.hand_in(frame)
        self.state_line.show_frame(frame, paused=self.live.is_paused)

    def _on_print(self, developed: Print) -> None:
        self.picture.show_print(developed)

    def _on_compiling(self, share: float, note: str) -> None:
        if share < 1:
            self.picture.show_message(note, max(share, 0.02))
            self.state_line.state.setText("Preparing the renderer…")

    def _on_failed(self, error: NocturneError) -> None:
        self.session.said.emit(str(error), True)
        if self.picture.print is None:
            self.picture.show_message(str(error))

    def _show_stage(self, stage: str) -> None:
        i = STAGES.index(stage)
        self.list_stack.setCurrentIndex(i)
        self.sheet_stack.setCurrentIndex(i)
        self.sheets[stage].show_document(self.session.document)

    def _on_chosen(self, part: str, id: str) -> None:
        if part == "things":
            self.picture.set_chosen(id)
            thing = self.session.document.find("things", id)
            if thing is not None and thing.material:
                self.session.choose("materials", thing.material)
        elif part == "lights":
            self.picture.set_chosen(id)
        elif part == "views":
            self.session.edit(lambda d: edit.changed(d, active_view=id), label="Look through a view")
        elif part == "qualities":
            self.session.edit(lambda d: edit.changed(d, active_quality=id), label="Choose a quality level")

    def _on_picked(self, hit: Hit | None) -> None:
        if hit is None:
            self.session.choose("things", "")
        elif hit.is_lamp:
            self.session.choose("lights", hit.id)
            self.session.go_to("light")
        else:
            self.session.choose("things", hit.id)

    def _on_moved(self, view: View, merge: object) -> None:
        self.session.edit(edit.put, "views", view, label="Move the view", merge=merge)

    # ---- commands --------------------------------------------------------------------------------------------------

    def pick_focus(self) -> None:
        """Let the next click in the picture set the focus distance."""
        self.picture.set_mode("focus")

    def _on_focus_picked(self, hit: Hit | None) -> None:
        if hit is None:
            self.session.said.emit("There is nothing to focus on there.", True)
            return
        distance = round(focus_distance(self.picture.print.frame.prepared, hit.point), 4)
        self.session.edit(
            edit.alter,
            "views",
            self.session.document.view.id,
            focus_m=distance,
            depth_of_field=True,
            label="Pick the focus",
        )
        self.session.said.emit(f"Focused on “{hit.name}”, {distance:.3g} m away.", False)

    def pick_colour(self, chip: object) -> None:
        """Let the next click in the picture give a chip its colour."""
        self._picking_for = chip
        self.picture.set_mode("colour")

    def _on_colour_picked(self, colour: tuple | None) -> None:
        if colour is not None and self._picking_for is not None:
            self._picking_for.take(colour)
        self._picking_for = None

    def add_material(self) -> None:
        """Add a material, and give it to the chosen thing if that has none."""
        document = self.session.document
        material = Material(
            id=free_id(document, "materials", "material"), name=free_name(document, "materials", "New material")
        )
        document = edit.put(document, "materials", material)
        thing = document.find("things", self.session.chosen.get("things", ""))
        if thing is not None and thing.mesh and not thing.material:
            document = edit.alter(document, "things", thing.id, material=material.id)
        self.session.push(document, "Add a material")
        self.session.choose("materials", material.id)

    def _ask_light(self) -> None:
        lists.menu_under(
            self.add_light_button, [(KIND_NAMES[kind], lambda kind=kind: self.add_light(kind)) for kind in KIND_NAMES]
        )

    def add_light(self, kind: str) -> None:
        """Add a light of a kind in front of the camera."""
        document = self.session.document
        view = document.view
        _, up, ahead = navigate.axes(view)
        at = [round(float(e + 1.5 * a + 0.5 * u), 3) for e, a, u in zip(view.eye, ahead, up)]
        light = Light(
            id=free_id(document, "lights", "light"),
            name=free_name(document, "lights", KIND_NAMES[kind]),
            kind=kind,
            group=document.light_groups[0],
            power=_POWER[kind],
            unit=UNITS[kind][0],
            place=tuple(at),
        )
        self.session.push(edit.put(document, "lights", light), f"Add {KIND_NAMES[kind].lower()}")
        self.session.choose("lights", light.id)
        self.session.go_to("light")

    def keep_view(self) -> None:
        """Keep a copy of the view as it is."""
        document, id = edit.duplicate(self.session.document, "views", self.session.document.view.id)
        self.session.push(edit.changed(document, active_view=id), "Keep this view")

    def bring_into_view(self) -> None:
        """Move the view so that the chosen thing fills it."""
        document, wanted = self.session.document, self.session.chosen.get("things", "")
        box = navigate.bounds_of(document, self.session.assets, wanted)
        if box is not None:
            view = navigate.bring_into_view(document.view, *box)
            self.session.edit(edit.put, "views", view, label="Bring into view")

    def start_final(self) -> None:
        """Render the view at its full size."""
        self.final = True
        self.session.go_to("render")
        self.request_picture()

    def stop_render(self) -> None:
        """Stop taking samples."""
        self.live.pause()
        self.session.said.emit("Stopped. Go on continues where it was.", False)

    def go_on(self) -> None:
        """Go on taking samples."""
        self.live.go_on()
        self.session.said.emit("", False)

    def fold(self, part: str) -> None:
        """Fold a part of the window away, or bring it back."""
        self.parts[part].setVisible(not self.parts[part].isVisible())

    def fold_all(self) -> None:
        """Leave only the picture, or bring everything back."""
        show = not self.rail.isVisible()
        for widget in (self.rail, *self.parts.values()):
            widget.setVisible(show)

    # ---- files -----------------------------------------------------------------------------------------------------

    def open_path(self, path: Path) -> None:
        """Open a project."""
        self.final = False
        self.files.open(path)

    def new_project(self) -> None:
        """Start with an empty project."""
        if self.may_leave():
            self.session.open(Document(), Assets(), None)

    def open_demo(self) -> None:
        """Open the demo project, built first if it is not there."""
        if not self.may_leave():
            return
        path = workshop.user_path()
        if path.is_file():
            self.open_path(path)
        else:
            self.session.said.emit("Building the demo project…", False)
            self.runner.submit("Build", workshop.save(path.parent), self.open_path)

    def ask_open(self) -> None:
        """Ask for a project and open it."""
        if self.may_leave():
            name = files.ask_open_file(self, "Open a project", files.PROJECTS, self.files.start_folder())
            if name:
                self.open_path(Path(name))

    def save(self, *, then=None) -> None:
        """Save the project where it is, or ask where."""
        if self.session.path is None:
            self.ask_save(then=then)
        else:
            self.files.save(self.session.path, then=then)

    def ask_save(self, *, then=None) -> None:
        """Ask where to save the project."""
        name = files.ask_save_file(self, "Save the project", files.PROJECTS, self.files.start_folder())
        if name:
            path = Path(name)
            self.files.save(path if path.suffix == project.SUFFIX else path.with_suffix(project.SUFFIX), then=then)

    def ask_model(self) -> None:
        """Ask for a model and bring it in."""
        name = files.ask_open_file(self, "Bring in a model", files.MODELS, self.files.start_folder())
        if name:
            self.files.bring_in(Path(name))

    def ask_picture(self) -> str:
        """Ask for a picture; return it as the document refers to it, "" if none was chosen."""
        name = files.ask_open_file(self, "Choose a picture", files.PICTURES, self.files.start_folder())
        if not name:
            return ""
        QTimer.singleShot(0, self.files.load_assets)
        return self.files.relative(Path(name))

    def ask_table(self, step: str) -> None:
        """Ask for a look-up table for a finishing step."""
        name = files.ask_open_file(self, "Choose a look-up table", files.TABLES, self.files.start_folder())
        if name:
            path = self.files.relative(Path(name))
            self.session.edit(grading.alter_step, step, path=path, label="Choose a look-up table")
            self.files.load_assets()

    def ask_export(self) -> None:
        """Ask for a name and export the picture as it stands."""
        if self.last_frame is None:
            self.session.said.emit("There is no picture yet.", True)
            return
        name = files.ask_save_file(self, "Export the picture", files.EXPORTS, self.files.start_folder())
        if name:
            path = Path(name)
            self.export(path if path.suffix else path.with_suffix(".exr"))

    def export(self, path: Path) -> None:
        """Export the picture as it stands, denoised if it is shown so."""
        film = self.last_frame.film
        denoised = self.darkroom.clean_groups(film) if self.denoise_button.isChecked() else None
        self.files.export(path, film, self.session.document, denoised)

    def may_leave(self) -> bool:
        """Ask about unsaved changes; return False if the user wants to stay."""
        if not self.session.history.is_dirty:
            return True
        answer = files.ask_unsaved(self, self.session.document.name)
        if answer == "save":
            self.save()
            return False
        return answer == "drop"

    def closeEvent(self, event) -> None:
        """Ask about unsaved changes, then end all threads."""
        if self.session.history.is_dirty:
            answer = files.ask_unsaved(self, self.session.document.name)
            if answer != "drop":
                event.ignore()
                if answer == "save":
                    self.save(then=self.close)
                return
        self._refit.stop()
        self.live.close()
        self.darkroom.close()
        self.runner.shutdown()
        event.accept()


def _framed(name: str, inside: QWidget, *, width: int = 0, height: int = 0) -> QWidget:
    holder = QWidget()
    holder.setObjectName(name)
    holder.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
    layout = QVBoxLayout(holder)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.addWidget(inside)
    if width:
        holder.setMinimumWidth(round(width * 0.8))
    if height:
        holder.setFixedHeight(height)
    return holder


def _changes_film(before: Document, document: Document) -> bool:
    return render_key(before) != render_key(document)

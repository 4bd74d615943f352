"""The project as a whole: new, open, save, recent ones, recovery, and what comes into it."""

import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, QSettings, QTimer, Signal
from PySide6.QtWidgets import QWidget

from nocturne.demo import workshop
from nocturne.errors import NocturneError
from nocturne.io import exr, metaltable, points, project
from nocturne.io.project import SUFFIX, Project, load_assets
from nocturne.io.stamp import Stamp
from nocturne.jobs import Update
from nocturne.scene import edit, grading
from nocturne.scene.assets import Assets
from nocturne.scene.compare import differences
from nocturne.scene.document import Document
from nocturne.ui import files, rescue
from nocturne.ui.bringwork import WRITES_THEM, BringWork
from nocturne.ui.darkroom.prints import Sheet
from nocturne.ui.files import Files
from nocturne.ui.proofroom import ProofRoom, still
from nocturne.ui.rescue import Rescue
from nocturne.ui.runner import Runner
from nocturne.ui.session import Session
from nocturne.ui.showing import Showing
from nocturne.ui.widgets import entry

_MOST_RECENT = 8
_LOOK_AT_DISK_MS = 3000


class Projects(QObject):
    """What the Project menu does: which project is open, and what comes into it."""

    begun = Signal()  # with another project
    start_wanted = Signal()  # the page that is shown while there is nothing

    def __init__(
        self,
        session: Session,
        runner: Runner,
        settings: QSettings,
        window: QWidget,
        *,
        files: Files,
        bring: BringWork,
        room: ProofRoom,
        showing: Showing,
        rescue: Rescue,
    ) -> None:
        super().__init__(window)
        self.session, self.runner, self.settings, self.window = session, runner, settings, window
        self.files, self.bring = files, bring
        self.room, self.showing, self.rescue = room, showing, rescue
        self.is_opening = False
        self._left: Document | None = None  # as it was when it was last asked whether it may be left
        self._noticed: Stamp | None = None
        self._disk = QTimer(self)
        self._disk.setInterval(_LOOK_AT_DISK_MS)
        self._disk.timeout.connect(self.notice_disk)
        self._disk.start()

    # ---- new, open, save -------------------------------------------------------------------------------------------

    def new(self) -> None:
        """Start with an empty project."""
        self.leave(lambda: self._begin(Document(), Assets(), None))

    def _begin(self, document: Document, assets: Assets, path: Path | None) -> None:
        self.showing.open_fixed(None)
        self.room.close()
        self.room.follow(path, is_new=True)
        self.session.open(document, assets, path)
        if path is not None:
            self._remember(path)
        self.begun.emit()

    def close(self) -> None:
        """Look at the disk no more."""
        self._disk.stop()

    def open(self, path: Path) -> None:
        """Open a project file."""
        self.is_opening = True
        self.files.open(path, self._opened)

    def _opened(self, loaded: Project) -> None:
        self.is_opening = False
        self._when_left(lambda: self._take(loaded))

    def _when_left(self, begin: Callable[[], None]) -> None:
        """Begin with another project; edits that were made while it was read are asked about first."""
        if self.session.history.is_dirty and self.session.document is not self._left:
            self.leave(begin)
        else:
            begin()

    def _take(self, loaded: Project) -> None:
        self._begin(loaded.document, loaded.assets, loaded.path)
        if not loaded.assets.problems:
            self.session.said.emit(f"Opened {loaded.document.name}.", False)
        else:
            n = len(loaded.assets.problems)
            self.session.said.emit(f"{n} file{'s are' if n > 1 else ' is'} missing. Preflight mends it.", True)

    def open_demo(self) -> None:
        """Open the demo project: the first time from memory, and its files are written while it is seen."""

        def go_on() -> None:
            path = workshop.user_path()
            if path.is_file():
                self.open(path)
                return
            self.is_opening = True
            self.runner.submit("Open", workshop.build_project(path), self._built)

        self.leave(go_on)

    def _built(self, made: workshop.Made) -> None:
        self._opened(made.project)
        self.runner.submit(WRITES_THEM, workshop.write(made), lambda _: self.bring.take_standing())

    def ask_open(self) -> None:
        """Ask for a project and open it."""

        def go_on() -> None:
            name = files.ask_open_file(self.window, "Open a project", files.PROJECTS, self.files.start_folder())
            if name:
                self.open(Path(name))

        self.leave(go_on)

    def _has_finished(self) -> bool:
        """Take what is half typed; if it makes no sense, say so and return False."""
        why = entry.finish()
        if why:
            self.session.said.emit(why, True)
        return not why

    def save(self, *, then=None) -> None:
        """Save the project where it is, or ask where."""
        if not self._has_finished():
            return
        if self.session.path is None:
            self.ask_save(then=then)
        elif not self.session.is_behind_disk() or self.ask_changed(then=then) == "over":
            self._save(self.session.path, then)

    def ask_changed(self, *, then=None) -> str:
        """Ask what to do about a project that somebody else has written meanwhile, and do it, but for writing over."""
        path = self.session.path
        try:
            found = differences(project.read_document(path), self.session.document)
            lines = [f"{d.owner or d.part}: {d.label}: {d.before} on disk, {d.after} here" for d in found]
        except NocturneError as error:
            lines = [str(error)]
        answer = files.ask_changed(self.window, path.name, "\n".join(lines[:200]) or "Nothing that is rendered.")
        if answer == "reload":
            self.rescue.drop()
            self._left = self.session.document
            self.open(path)
        elif answer == "elsewhere":
            self.ask_save(then=then)
        return answer

    def notice_disk(self) -> None:
        """Look whether somebody else has written the project; say so once for each time, and ask."""
        s = self.session
        if self.runner.is_busy("Save") or self.runner.is_busy("Open") or not s.is_behind_disk():
            return
        now = Stamp.of(s.path)
        if now is None or now == self._noticed:
            return
        self._noticed = now
        s.said.emit(f"{s.path.name} was changed on disk. Saving asks what to do.", True)
        if self.window.isActiveWindow():
            if self.ask_changed() == "over":
                self._save(s.path, None)

    def ask_save(self, *, then=None) -> None:
        """Ask where to save the project."""
        if not self._has_finished():
            return
        name = self.files.ask_target(self.window, "Save the project", files.PROJECTS, SUFFIX)
        if name:
            self._save(Path(name), then)

    def _save(self, path: Path, then) -> None:
        def done(written: Path) -> None:
            self.room.follow(written, is_new=False)
            self._remember(written)
            self.session.said.emit(f"Saved as {written}.", False)
            if then:
                then()

        self.files.save(path, then=done)

    def leave(self, then: Callable[[], None]) -> None:
        """Ask about unsaved changes and go on: at once, when they are saved, or not at all."""
        if not self._has_finished():
            return
        answer = files.ask_unsaved(self.window, self.session.document.name) if self.session.history.is_dirty else "drop"
        if answer == "save":
            self.save(then=lambda: self.leave(then))
        elif answer == "drop":
            self.rescue.drop()
            self._left = self.session.document
            then()

    def may_close(self) -> bool:
        """Ask about unsaved changes before the window closes; a save closes it when it is done."""
        if entry.finish():
            entry.give_up()  # what makes no sense is no change
        if not self.session.history.is_dirty:
            return True
        answer = files.ask_unsaved(self.window, self.session.document.name)
        if answer == "save":
            self.save(then=self.window.close)
        return answer == "drop"

    # ---- recent and recovered --------------------------------------------------------------------------------------

    def recent(self) -> list[Path]:
        """Return the projects that were open lately and are still there, the newest first."""
        names = self.settings.value("recent") or []
        names = [names] if isinstance(names, str) else names
        return [Path(name) for name in names if Path(name).is_file()]

    def _remember(self, path: Path) -> None:
        names = [str(path), *(str(p) for p in self.recent() if p != path)]
        self.settings.setValue("recent", names[:_MOST_RECENT])

    def recoverable(self) -> list[rescue.Found]:
        """Return what windows that ended unexpectedly left behind."""
        return rescue.found()

    def recover(self, found: rescue.Found) -> None:
        """Open a copy that was left behind; it counts as not saved."""

        def loaded(assets) -> None:
            self._when_left(lambda: take(assets))

        def take(assets) -> None:
            self._begin(found.document, assets, found.path)
            self.session.history.saved = None
            if found.path is None and found.proofs is not None and found.proofs.is_dir():
                self.room.adopt(found.proofs)
            self.session.show_anew()
            self.rescue.write()
            found.copy.unlink(missing_ok=True)
            when = time.strftime("%H:%M", time.localtime(found.written))
            self.session.said.emit(f"Recovered “{found.document.name}” as of {when}. Save it to keep it.", False)

        folder = found.path.parent if found.path is not None else Path.cwd()
        self.leave(lambda: self.runner.submit("Recover", load_assets(found.document, folder), loaded))

    def start_with(self, what: str, value: object) -> None:
        """Do what was chosen on the start page."""
        if what == "recover":
            self.recover(value)
        elif what == "forget":
            value.copy.unlink(missing_ok=True)
            self.start_wanted.emit()
        elif what == "recent":
            self.leave(lambda: self.open(value))
        else:
            actions = {
                "demo": self.open_demo,
                "open": self.ask_open,
                "model": self.ask_model,
                "render": self.ask_render,
            }
            actions[what]()

    # ---- things that come in ---------------------------------------------------------------------------------------

    def ask_model(self) -> None:
        """Ask for models and show what is in them."""
        names = files.ask_open_files(self.window, "Bring in models", files.MODELS, self.files.start_folder())
        if names:
            self.bring.look_at([Path(name) for name in names])

    def ask_picture(self) -> str:
        """Ask for a picture; return it as the document refers to it, "" if none was chosen."""
        name = files.ask_open_file(self.window, "Choose a picture", files.PICTURES, self.files.start_folder())
        return self.files.relative(Path(name)) if name else ""

    def ask_pictures(self) -> list[str]:
        """Ask for pictures of one stuff; return their paths, none if none was chosen."""
        return files.ask_open_files(
            self.window, "Choose the pictures of one stuff", files.PICTURES, self.files.start_folder()
        )

    def ask_points(self) -> tuple | None:
        """Ask for a file of points and read it; None if none was chosen or it could not be read."""
        name = files.ask_open_file(self.window, "Points from a file", files.POINTS, self.files.start_folder())
        if not name:
            return None
        try:
            return points.read(Path(name))
        except NocturneError as error:
            self.session.said.emit(str(error), True)
            return None

    def ask_metal(self) -> tuple | None:
        """Ask for a table of n and k and read it; None if none was chosen or it could not be read."""
        name = files.ask_open_file(self.window, "n and k from a table", files.METALS, self.files.start_folder())
        if not name:
            return None
        try:
            return metaltable.read(Path(name))
        except NocturneError as error:
            self.session.said.emit(str(error), True)
            return None

    def ask_table(self, step: str) -> None:
        """Ask for a look-up table for a finishing step."""
        name = files.ask_open_file(self.window, "Choose a look-up table", files.TABLES, self.files.start_folder())
        if name:
            path = self.files.relative(Path(name))
            if path:
                self.session.edit(grading.alter_step, step, path=path, label="Choose a look-up table")

    def ask_render(self) -> None:
        """Ask for a saved render and open it on the desk."""

        def go_on() -> None:
            name = files.ask_open_file(self.window, "Open a saved render", files.RENDERS, self.files.start_folder())
            if name:
                self.open_render(Path(name))

        self.leave(go_on)

    def open_render(self, path: Path) -> None:
        """Open an EXR's light groups on the desk, without their scene."""

        def work():
            yield Update(0, 1, f"Reading {path.name}")
            yield Update(1, 1, "Read", result=exr.read_film(path))

        self.runner.submit("Open a render", work(), lambda saved: self._opened_render(path, saved))

    def _opened_render(self, path: Path, saved: exr.Saved) -> None:
        self._when_left(lambda: self._take_render(path, saved))

    def _take_render(self, path: Path, saved: exr.Saved) -> None:
        document = without_scene(saved, path.stem)
        self._begin(document, Assets(), None)
        self.showing.open_fixed(Sheet(still(saved, document), document, saved.clean, path.stem))
        self.session.show_anew()
        self.session.go_to("light")
        n = len(saved.film.group_names)
        self.session.said.emit(
            f"{path.name}: {n} light group{'' if n == 1 else 's'} on the desk, without a scene.", False
        )


def without_scene(saved: exr.Saved, name: str) -> Document:
    """Return a document of a saved render's desk, cues, finish and camera, with nothing to render."""
    width, height = saved.film.size
    base = saved.document or Document()
    view = edit.changed(base.view, width=max(width, 16), height=max(height, 16))
    known = set(saved.film.group_names)
    try:
        return Document(
            name=name,
            groups=saved.film.group_names,
            views=(view,),
            active_view=view.id,
            qualities=base.qualities,
            active_quality=base.active_quality,
            desk=tuple(strip for strip in base.desk if strip.group in known),
            cues=base.cues,
            finish=base.finish,
        )
    except ValueError as error:
        raise NocturneError(f"{name}: its settings cannot be read.") from error

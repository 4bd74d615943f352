"""Files in the background: open, save, bring in models; and the dialogs that ask for them."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from nocturne.deliver import convert
from nocturne.io import image, lut, paths, points, project
from nocturne.io.models import read as models
from nocturne.jobs import Update
from nocturne.scene.assets import Assets, Named
from nocturne.scene.change import Change
from nocturne.scene.files import split
from nocturne.ui.early import Early
from nocturne.ui.runner import Runner
from nocturne.ui.session import Session


def ask_open_file(parent: QWidget, title: str, pattern: str, start: str) -> str:
    """Ask for a file to read; "" if none was chosen. Tests replace this."""
    return _kept(parent, title, QFileDialog.getOpenFileName(parent, title, _folder(parent, title, start), pattern)[0])


def ask_open_files(parent: QWidget, title: str, pattern: str, start: str) -> list[str]:
    """Ask for files to read; none if none was chosen. Tests replace this."""
    names = QFileDialog.getOpenFileNames(parent, title, _folder(parent, title, start), pattern)[0]
    _kept(parent, title, names[0] if names else "")
    return names


def _folder(parent: QWidget, title: str, start: str) -> str:
    """Return where something of this kind was chosen last, if that is still there, else `start`."""
    last = str(parent.window().settings.value(f"folders/{title}") or "")
    return last if last and Path(last).is_dir() else start


def _kept(parent: QWidget, title: str, name: str) -> str:
    """Remember the folder of what was chosen."""
    if name:
        parent.window().settings.setValue(f"folders/{title}", str(Path(name).parent))
    return name


def ask_save_file(parent: QWidget, title: str, pattern: str, start: str, ending: str) -> str:
    """Ask for a file of an ending to write; "" if none was chosen. Tests replace this."""
    while True:
        typed = QFileDialog.getSaveFileName(parent, title, start, pattern)[0]
        path = with_ending(Path(typed), ending) if typed else None
        # The dialog asked about the name as it was typed.
        if path is None or str(path) == typed or not path.exists() or ask_replace(parent, path):
            return str(path or "")


def ask_replace(parent: QWidget, path: Path) -> bool:
    """Ask whether a file that is there may be written over."""
    question = f"“{path.name}” is there already. Write over it?"
    return QMessageBox.question(parent, "Write over a file", question) == QMessageBox.StandardButton.Yes


def with_ending(path: Path, ending: str) -> Path:
    """Return a path with an ending; what follows a dot in a name, as in “kitchen.v2”, stays."""
    return path.with_suffix(ending) if path.suffix.lower() == ending else path.with_name(path.name + ending)


def ask_folder(parent: QWidget, title: str, start: str) -> str:
    """Ask for a folder; "" if none was chosen. Tests replace this."""
    return QFileDialog.getExistingDirectory(parent, title, start)


def ask_unsaved(parent: QWidget, name: str) -> str:
    """Ask what to do with changes that are not saved: "save", "drop" or "stay". Tests replace this."""
    box = QMessageBox(parent)
    box.setText(f"“{name}” has changes that are not saved.")
    save = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
    drop = box.addButton("Drop the changes", QMessageBox.ButtonRole.DestructiveRole)
    box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
    box.exec()
    box.deleteLater()
    return {save: "save", drop: "drop"}.get(box.clickedButton(), "stay")


def ask_outside(parent: QWidget, paths: list[Path]) -> str:
    """Ask about files outside the project's folder that a pack would take: "bring", "leave" or "stay"."""
    box = QMessageBox(parent)
    n = len(paths)
    box.setText(f"{n} file{' lies' if n == 1 else 's lie'} outside the project's folder. Bring them along?")
    box.setInformativeText("\n".join(str(path) for path in paths[:12]) + ("\n…" if n > 12 else ""))
    bring = box.addButton("Bring them along", QMessageBox.ButtonRole.AcceptRole)
    leave = box.addButton("Leave them out", QMessageBox.ButtonRole.DestructiveRole)
    box.addButton("Do not pack", QMessageBox.ButtonRole.RejectRole)
    box.exec()
    box.deleteLater()
    return {bring: "bring", leave: "leave"}.get(box.clickedButton(), "stay")


def ask_changed(parent: QWidget, name: str, differences: str) -> str:
    """Ask what to do about a project that was changed on disk: "reload", "elsewhere", "over" or "stay".

    differences: what differs there, a line each.
    """
    box = QMessageBox(parent)
    box.setText(f"“{name}” was changed on disk since it was opened here.")
    box.setInformativeText("Saving here would lose what was saved there, reading it again what was done here.")
    box.setDetailedText(differences)
    reload = box.addButton("Read it again", QMessageBox.ButtonRole.DestructiveRole)
    elsewhere = box.addButton("Keep mine under another name…", QMessageBox.ButtonRole.AcceptRole)
    over = box.addButton("Write over it", QMessageBox.ButtonRole.DestructiveRole)
    box.addButton("Not now", QMessageBox.ButtonRole.RejectRole)
    box.exec()
    box.deleteLater()
    return {reload: "reload", elsewhere: "elsewhere", over: "over"}.get(box.clickedButton(), "stay")


def endings(names: tuple[str, ...]) -> str:
    """Return the pattern of a file dialog."""
    return " ".join(f"*{name}" for name in names)


def as_named(assets: Assets, moved: Callable[[str], str]) -> Assets:
    """Return loaded models and pictures by the names that another document has for their files."""

    def of(name: str, holds: str) -> str:
        file, mark, part = split(name, holds)
        return moved(file) + mark + part

    return Assets(
        {of(name, "model"): mesh for name, mesh in assets.meshes.items()},
        {(of(name, "picture"), space): image for (name, space), image in assets.images.items()},
    )


class Files:
    """The file jobs of a window."""

    def __init__(self, session: Session, runner: Runner, early: Early | None = None) -> None:
        self.session, self.runner, self._early = session, runner, early
        self._asked = self._failed = Named()
        self._history = session.history
        session.document_changed.connect(self._follow)

    def folder(self) -> Path:
        """Return what the document's paths are relative to."""
        return self.session.path.parent if self.session.path else Path.cwd()

    def start_folder(self) -> str:
        """Return the folder that file dialogs start in."""
        return str(self.session.path.parent) if self.session.path else str(Path.home())

    def ask_target(self, window: QWidget, title: str, pattern: str, ending: str) -> str:
        """Ask where to write a file; return "" if nowhere."""
        return ask_save_file(window, title, pattern, self.start_folder(), ending)

    def order_folder(self) -> Path:
        """Return where exports go if nothing else is said."""
        return self.folder() / "out" if self.session.path else Path.home()

    def open(self, path: Path, then: Callable[[project.Project], None]) -> None:
        """Read a project."""
        self.session.said.emit(f"Opening {path.name}…", False)
        begun = self._early.take(path) if self._early is not None else None
        self._early = None
        self.runner.submit("Open", begun or project.load(path), then)

    def save(self, path: Path, *, then: Callable[[Path], None]) -> None:
        """Save the document; files it refers to, and those of its history, are named from its new place."""
        history, document, old = self.session.history, self.session.document, self.session.path
        states = [step.document for step in history.steps]
        folder = path.parent if path.suffix == project.SUFFIX else path
        place = None if old and folder.resolve() == old.parent.resolve() else paths.Relocation(self.folder(), folder)

        def work():
            yield Update(0, 1, "Saving")
            written = project.save_document(path, place.document(document) if place is not None else document)
            for state in states if place is not None else ():
                place.document(state)  # so that the window need not wait for it
            yield Update(1, 1, "Saved", result=written)

        def done(written: Path) -> None:
            if self.session.history is not history:
                return  # another project was opened meanwhile
            if place is not None:
                self.session.relocate(place, document, written)
            else:
                self.session.mark_saved(document, written)
            then(written)

        self.runner.submit("Save", work(), done)

    def load_assets(self) -> None:
        """Load what the document refers to and is not loaded, also what could not be loaded before."""
        history = self.session.history
        self._asked, self._failed = Named.of(self.session.document), Named()

        def done(assets: Assets) -> None:
            if self.session.history is history:  # else another project was opened meanwhile
                self._loaded(assets)

        work = project.load_assets(self.session.document, self.folder(), known=self.session.assets)
        self.runner.submit("Load", work, done)

    def _follow(self, change: Change) -> None:
        document = change.after
        # Whatever made the document name a file that is not loaded: a model brought in, an undo, settings gone back to.
        if self.session.history is not self._history:
            # Another project, with all that could be loaded of it.
            self._history, self._asked = self.session.history, Named()
            self._failed = Named.of(document).but(self.session.assets)
            return
        if Named.by(change).but(self.session.assets).but(self._asked).but(self._failed):
            self.load_assets()

    def _loaded(self, assets: Assets) -> None:
        self._asked, self._failed = Named(), self._asked.but(assets)
        self.session.assets = assets
        self.session.assets_changed.emit()
        for problem in assets.problems:
            self.session.said.emit(problem, True)
        self._follow(Change(self.session.document, self.session.document, is_all=True))

    def relative(self, path: Path) -> str:
        """Return a path as the document refers to it: whole until the project has a folder of its own.

        A path that is no text cannot stand in a document: then it says so and returns "".
        """
        path = path.resolve()
        name = paths.relative(path, self.folder().resolve()) if self.session.path else path.as_posix()
        if paths.is_utf8(name):
            return name
        self.session.said.emit(
            f"{paths.readable(path)}: its name, or a folder's on the way to it, is not UTF-8 text and cannot be kept "
            "in a project. Rename it, or save the project in the same folder first.",
            True,
        )
        return ""


PICTURES = f"Pictures ({endings(image.READS)})"
MODELS = f"Models ({endings(models.READS)})"
TABLES = f"Look-up tables ({endings(lut.READS)})"
PROJECTS = f"Nocturne projects (*{project.SUFFIX})"
RENDERS = "Saved renders (*.exr)"
PACKS = "Archives (*.zip)"
SHEETS = "PDF (*.pdf)"
METALS = "Tables (*.csv *.txt *.tsv)"
POINTS = f"Points ({endings((*points.READS, *models.READS))})"
SETS = f"Sets ({endings(convert.SETS)})"

"""What the window works on: the document's history, what is loaded, what is chosen. Selection is outside undo."""

from pathlib import Path

from PySide6.QtCore import QObject, Signal

from nocturne.errors import NocturneError
from nocturne.io.paths import Relocation
from nocturne.io.stamp import Stamp
from nocturne.scene import alone, edit
from nocturne.scene.assets import Assets
from nocturne.scene.carrying import with_carried_views
from nocturne.scene.change import Change
from nocturne.scene.document import Document
from nocturne.scene.exposing import with_held_focus
from nocturne.scene.history import History
from nocturne.scene.patterns import Step
from nocturne.ui.widgets import entry


class Session(QObject):
    """The open project; every change goes through `push`."""

    document_changed = Signal(object)  # a `Change`
    assets_changed = Signal()
    chosen_changed = Signal(str, str)  # part, id
    stage_changed = Signal(str)
    looked_at_changed = Signal()
    said = Signal(str, bool)  # a sentence for the state line, whether something is wrong

    def __init__(self) -> None:
        super().__init__()
        self.history = History.of(Document())
        self.assets = Assets()
        self.path: Path | None = None
        self.stamp: Stamp | None = None  # of the file as it was read or written last
        self.stage = "set"
        self.chosen: dict[str, str] = {}
        self.held_step: Step | None = None  # taken along from a pattern
        self.looked_at: tuple[str, tuple[int, ...] | None] | None = None  # material and step, None: without its steps
        self.also: dict[str, tuple[str, ...]] = {}  # what is chosen together with the main choice

    @property
    def document(self) -> Document:
        """Return the current document."""
        return self.history.document

    def open(self, document: Document, assets: Assets, path: Path | None) -> None:
        """Start with another project."""
        entry.give_up()  # it was typed for the other one
        before = self.document
        self.history, self.assets, self.path = History.of(document), assets, path
        self.stamp = Stamp.of(path) if path is not None else None
        self.chosen, self.also, self.looked_at = {}, {}, None
        self.assets_changed.emit()
        self.document_changed.emit(Change(before, document, is_all=True))
        for problem in assets.problems:
            self.said.emit(problem, True)

    @property
    def seen(self) -> Document:
        """Return the document as the live picture shows it: with one step of a pattern alone, if that is looked at."""
        if self.looked_at is None:
            return self.document
        material, path = self.looked_at
        if path is None:
            return alone.without_steps(self.document, material)
        return alone.step_alone(self.document, material, path)

    def look_at_step(self, material: str, path: tuple[int, ...] | None) -> None:
        """Show a step alone on what wears a material, or (None) the material without its steps; again: as it is."""
        wanted = (material, path)
        self.looked_at = None if self.looked_at == wanted else wanted
        self.looked_at_changed.emit()

    def look_at_all(self) -> None:
        """Show the document as it is."""
        if self.looked_at is not None:
            self.looked_at = None
            self.looked_at_changed.emit()

    def show_anew(self) -> None:
        """Have everyone look at the whole document again."""
        self.document_changed.emit(Change(self.document, self.document, is_all=True))

    def push(self, document: Document, label: str, *, merge: object = None) -> None:
        """Make a changed document the current one, as one undo step; steps with the same `merge` become one."""
        before = self.document
        if self.history.push(with_held_focus(with_carried_views(document)), label, merge):
            self.document_changed.emit(Change(before, self.document))

    def edit(self, function, *arguments, label: str, merge: object = None, **values) -> None:
        """Apply a pure edit to the document; what it refuses is said, and nothing changes."""
        try:
            self.push(function(self.document, *arguments, **values), label, merge=merge)
        except NocturneError as error:
            self.said.emit(str(error), True)

    def look_through(self, view: str) -> None:
        """Look through a view, in all states that have it: looking is no edit, and undo leaves the eye where it is."""
        before = self.document
        if view != before.active_view and before.find("views", view) is not None:
            self.history.replace(
                lambda d: edit.changed(d, active_view=view) if d.find("views", view) is not None else d
            )
            self.document_changed.emit(Change(before, self.document))

    def undo(self) -> None:
        """Go back one step; what is half typed is what is taken back first."""
        if entry.give_up():
            self.said.emit("What was typed is taken back.", False)
            return
        before, label = self.document, self.history.undo_label
        if self.history.undo():
            self.document_changed.emit(Change(before, self.document))
            self.said.emit(f"Undone: {label}", False)

    def redo(self) -> None:
        """Go forward one step."""
        entry.give_up()  # taken as a step, it would leave nothing to go forward to
        before = self.document
        if self.history.redo():
            self.document_changed.emit(Change(before, self.document))
            self.said.emit(f"Done again: {self.history.undo_label}", False)

    def mark_saved(self, document: Document, path: Path) -> None:
        """Remember that a document is on disk."""
        self.history.mark_saved(document)
        self.path, self.stamp = path, Stamp.of(path)
        self.document_changed.emit(Change(self.document, self.document))

    def relocate(self, place: Relocation, saved: Document, path: Path) -> None:
        """Go on in another folder, from which all steps name their files now; `saved` is what was written there."""
        before = self.document
        self.history.mark_saved(saved)
        self.history.replace(place.document)
        self.assets, self.path, self.stamp = place.assets(self.assets), path, Stamp.of(path)
        self.assets_changed.emit()
        self.document_changed.emit(Change(before, self.document))

    def go_to_step(self, at: int) -> None:
        """Go to a step of the history."""
        entry.give_up()
        before = self.document
        if self.history.go_to(at):
            self.document_changed.emit(Change(before, self.document))
            self.said.emit(f"Back to: {self.history.steps[at].label}", False)

    def go_to(self, stage: str) -> None:
        """Change the stage."""
        if stage != self.stage:
            self._finish_typing()
            self.stage = stage
            self.stage_changed.emit(stage)

    def is_behind_disk(self) -> bool:
        """Return True if somebody else has written the project's file since it was read or saved here."""
        return self.path is not None and self.stamp is not None and self.stamp.is_old(self.path)

    def _finish_typing(self) -> None:
        """Take what is half typed for what it was typed for; what makes no sense is given up, and said."""
        why = entry.finish()
        if why:
            entry.give_up()
            self.said.emit(why.partition(" Mend it")[0], True)

    def choose(self, part: str, id: str, *, also: tuple[str, ...] = ()) -> None:
        """Choose one item of a part ("" for none), and others with it."""
        also = tuple(other for other in dict.fromkeys(also) if other != id)
        # An undo may have gone back to another view or level than was chosen here last.
        active = {"views": self.document.view.id, "qualities": self.document.quality.id}.get(part, id)
        if active != id or self.chosen.get(part, "") != id or self.also.get(part, ()) != also:
            self._finish_typing()
            self.chosen[part], self.also[part] = id, also
            self.chosen_changed.emit(part, id)

    def choose_many(self, part: str, ids: tuple[str, ...]) -> None:
        """Choose some items of a part; the last one is the main one."""
        self.choose(part, ids[-1] if ids else "", also=tuple(ids[:-1]))

    def all_chosen(self, part: str) -> tuple[str, ...]:
        """Return all chosen items of a part that are still there, the main one last."""
        ids = (*self.also.get(part, ()), self.chosen.get(part, ""))
        return tuple(id for id in ids if self.document.find(part, id) is not None)

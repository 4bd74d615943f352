"""The finish: the stack of steps at the left, the chosen step's values at the right."""

from collections.abc import Iterator
from pathlib import Path

from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from nocturne.scene import grading
from nocturne.scene.document import Document
from nocturne.scene.finish import STEP_NAMES, STEPS, Step
from nocturne.ui.choice import Choice
from nocturne.ui.panels.lists import menu_under, tool
from nocturne.ui.panels.sheets.sheet import Sheet
from nocturne.ui.session import Session
from nocturne.ui.widgets.form import Form

_ID = Qt.ItemDataRole.UserRole
_CHANNELS = ("master", "red", "green", "blue")


class StepList(QWidget):
    """The steps of the finish from above downwards: tick, drag to another place, add, copy, remove."""

    def __init__(self, session: Session, choice: Choice) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.session = session
        self._shown: object = None
        self._filling = False
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 8, 8)
        column.setSpacing(6)
        head = QHBoxLayout()
        head.setSpacing(2)
        name = QLabel("Steps")
        name.setObjectName("heading")
        head.addWidget(name, 1)
        self.add = tool("add", "Add a step", self._ask_step)
        for button in (
            self.add,
            tool("copy", "Copy the chosen step   Ctrl+D", choice.copy),
            tool("remove", "Remove the chosen step   Delete", choice.remove),
        ):
            head.addWidget(button)
        column.addLayout(head)
        self.empty = QLabel("No steps yet: the picture is as the camera sees it. Add one, or begin with an S-curve.")
        self.empty.setObjectName("soft")
        self.empty.setWordWrap(True)
        column.addWidget(self.empty)
        self.view = QListWidget()
        self.view.setAccessibleName("Finishing steps")
        self.view.setToolTip(
            "Light passes the steps from above downwards. Untick one to leave it out; drag to move it."
        )
        self.view.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.view.setDefaultDropAction(Qt.DropAction.MoveAction)
        self.view.currentItemChanged.connect(lambda item, _: item and session.choose("steps", item.data(_ID)))
        self.view.itemChanged.connect(self._ticked)
        self.view.model().rowsMoved.connect(self._moved)
        column.addWidget(self.view, 1)
        keys = QHBoxLayout()
        for words, help, by in (
            ("Up", "Move the chosen step up   Alt+Up", -1),
            ("Down", "Move the chosen step down   Alt+Down", 1),
        ):
            button = QPushButton(words)
            button.setToolTip(help)
            button.clicked.connect(lambda _=False, by=by: self.shift(by))
            keys.addWidget(button)
        column.addLayout(keys)
        curve = QPushButton("Give it an S-curve")
        curve.setToolTip("Deeper shadows, brighter lights, the same middle: the quickest way to more punch")
        curve.clicked.connect(self.s_curve)
        column.addWidget(curve)
        self.note = QLabel("The view comes after the last step.")
        self.note.setObjectName("soft")
        column.addWidget(self.note)
        session.document_changed.connect(lambda change: self.show_document(change.after))
        session.chosen_changed.connect(lambda part, id: part == "steps" and self._select(id))

    def show_document(self, document: Document) -> None:
        """Show the stack, keeping what is chosen."""
        if self._shown is document.finish.steps:
            return
        self._shown = document.finish.steps
        self.empty.setVisible(not document.finish.steps)
        self._filling = True  # the list's own model must go on telling its view
        with QSignalBlocker(self.view):
            if [self.view.item(i).data(_ID) for i in range(self.view.count())] != [s.id for s in self._shown]:
                self.view.clear()
                for step in self._shown:
                    row = QListWidgetItem()
                    row.setData(_ID, step.id)
                    row.setFlags(row.flags() | Qt.ItemFlag.ItemIsUserCheckable)
                    self.view.addItem(row)
            for i, step in enumerate(self._shown):
                row = self.view.item(i)
                amount = "" if step.amount == 1 else f"   {step.amount * 100:.0f} %"
                row.setText(grading.label_of(document, step.id) + amount)
                row.setCheckState(Qt.CheckState.Checked if step.on else Qt.CheckState.Unchecked)
        self._filling = False
        chosen = self.session.chosen.get("steps", "")
        if document.finish.step(chosen) is None:
            self.session.choose("steps", document.finish.steps[0].id if document.finish.steps else "")
        self._select(self.session.chosen.get("steps", ""))

    def _select(self, id: str) -> None:
        with QSignalBlocker(self.view):
            for i in range(self.view.count()):
                if self.view.item(i).data(_ID) == id:
                    self.view.setCurrentRow(i)
                    return
            self.view.setCurrentRow(-1)

    def _ticked(self, row: QListWidgetItem) -> None:
        on = row.checkState() == Qt.CheckState.Checked
        name = grading.label_of(self.session.document, row.data(_ID)).lower()
        label = f"{'Apply' if on else 'Leave out'} {name}"
        self.session.edit(grading.alter_step, row.data(_ID), on=on, label=label)

    def _moved(self) -> None:
        if self._filling:
            return
        order = [self.view.item(i).data(_ID) for i in range(self.view.count())]
        document = self.session.document
        for i, id in enumerate(order):
            document = grading.move_step(document, id, i)
        self._shown = document.finish.steps
        self.session.push(document, "Move a step")

    def shift(self, by: int) -> None:
        """Move the chosen step up or down."""
        id = self.session.chosen.get("steps", "")
        ids = [step.id for step in self.session.document.finish.steps]
        if id in ids:
            self.session.edit(grading.move_step, id, ids.index(id) + by, label="Move a step")

    def keyPressEvent(self, event) -> None:
        """Move the chosen step by Alt and the arrow keys."""
        steps = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        if event.modifiers() & Qt.KeyboardModifier.AltModifier and event.key() in steps:
            self.shift(steps[event.key()])
        else:
            super().keyPressEvent(event)

    def _ask_step(self) -> None:
        menu_under(self.add, [(STEP_NAMES[kind], lambda kind=kind: self.add_step(kind)) for kind in STEPS])

    def add_step(self, kind: str) -> None:
        """Add a step where light would pass it, and choose it."""
        document, id = grading.add_step(self.session.document, kind)
        self.session.push(document, f"Add {STEP_NAMES[kind].lower()}")
        self.session.choose("steps", id)

    def s_curve(self) -> None:
        """Give the picture an S-curve."""
        document, id = grading.give_s_curve(self.session.document)
        self.session.push(document, "S-curve")
        self.session.choose("steps", id)


class FinishSheet(Sheet):
    """The values of the chosen finishing step; one form for each kind, made when it is first wanted."""

    table_wanted = Signal(str)  # a step that wants a .cube file

    def __init__(self, session: Session) -> None:
        super().__init__(
            session, "steps", (Step,), {"": ("amount",)}, "Add a finishing step at the left, or choose one."
        )
        self.forms: dict[str, Form] = {}
        self.channel = QComboBox()
        self.channel.setAccessibleName("Channel")
        for name, label in zip(_CHANNELS, ("All colours", "Red", "Green", "Blue")):
            self.channel.addItem(label, name)
        self.channel.currentIndexChanged.connect(lambda: self.show_document(session.document))
        self.more.addWidget(self.channel)
        self.own = QVBoxLayout()
        self.more.addLayout(self.own)
        self.browse = self.button("Choose a .cube file…", lambda: self.table_wanted.emit(self.chosen_id(None)))
        self.straight = self.button("Straighten this curve", self._straighten)

    def item(self, document: Document) -> Step | None:
        """Return the chosen step."""
        return document.finish.step(self.chosen_id(document))

    def _form(self, kind: str) -> Form:
        if kind not in self.forms:
            names = tuple(n for n in STEPS[kind].model_fields if n not in ("id", "kind", "on", "amount"))
            form = self.forms[kind] = Form((STEPS[kind],), {"": names})
            form.edited.connect(self._alter)
            form.committed.connect(self._alter)
            form.hide()
            self.own.addWidget(form)
        return self.forms[kind]

    def make_forms(self) -> Iterator[Form]:
        """Make the forms that were not wanted yet, one at a time."""
        for kind in STEPS:
            yield self._form(kind)

    def show_document(self, document: Document) -> None:
        """Show the chosen step."""
        step = self.item(document)
        self.form.setVisible(step is not None)
        self.empty.setVisible(step is None)
        self.title.setText(grading.label_of(document, step.id) if step else "Nothing chosen")
        is_curves = step is not None and step.kind == "curves"
        for widget in (self.channel, self.straight):
            widget.setVisible(is_curves)
        self.browse.setVisible(step is not None and step.kind == "lut")
        own = self._form(step.kind) if step is not None else None
        for form in self.forms.values():
            form.setVisible(form is own)
        if step is None:
            return
        self.form.show_model(step)
        own.show_model(step)
        if is_curves:
            own.show_only({self.channel.currentData()})
        if step.kind == "lut":
            own.editors["path"].setToolTip(Path(step.path).name)

    def show_histogram(self, counts: object) -> None:
        """Show the picture's brightness behind the curves."""
        if "curves" in self.forms:
            for name in _CHANNELS:
                self.forms["curves"].editors[name].show_histogram(counts)

    def _straighten(self) -> None:
        name = self.channel.currentData()
        self._alter(name, STEPS["curves"].model_fields[name].default, None)

    def _alter(self, name, value, merge):
        step = self.item(self.session.document)
        label = f"{STEP_NAMES[step.kind]}: {STEPS[step.kind].model_fields[name].title.lower()}"
        self.session.edit(grading.alter_step, step.id, label=label, merge=merge, **{name: value})

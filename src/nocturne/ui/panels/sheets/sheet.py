"""The sheet at the right of the picture: what every sheet has."""

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QLabel,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from nocturne.scene import edit
from nocturne.scene.document import Document
from nocturne.scene.fields import Model
from nocturne.ui.session import Session
from nocturne.ui.widgets.form import Form, change_for_each, value_for_each
from nocturne.ui.widgets.words import soft


class Sheet(QScrollArea):
    """A scrolling sheet with a heading, a form, and room for more below."""

    pick_wanted = Signal(object)

    def __init__(
        self,
        session: Session,
        part: str,
        models: tuple[type[Model], ...],
        sections: dict,
        empty: str,
        *,
        folds: bool = False,
    ) -> None:
        super().__init__()
        self.session, self.part = session, part
        self._drag: tuple[object, dict[str, Model]] | None = None
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFrameShape(QScrollArea.Shape.NoFrame)
        inside = QWidget()
        inside.setObjectName("panel")
        self.column = QVBoxLayout(inside)
        self.column.setContentsMargins(12, 10, 12, 12)
        self.column.setSpacing(6)
        self.title = QLabel()
        self.title.setObjectName("heading")
        self.column.addWidget(self.title)
        self.empty = QLabel(empty)
        self.empty.setObjectName("soft")
        self.empty.setWordWrap(True)
        self.column.addWidget(self.empty)
        self.form = Form(models, sections, folds=folds)
        self.form.edited.connect(lambda n, v, m: self._alter(n, v, m))
        self.form.committed.connect(lambda n, v, m: self._alter(n, v, m))
        self.form.changed.connect(self._change_each)
        self.form.pick_wanted.connect(self.pick_wanted)
        self.column.addWidget(self.form)
        self.more = QVBoxLayout()
        self.more.setSpacing(6)
        self.column.addLayout(self.more)
        self.column.addStretch(1)
        self.setWidget(inside)
        session.document_changed.connect(lambda change: self._follow(change.after))
        session.chosen_changed.connect(lambda part, _: part == self.part and self._follow(session.document))

    def _follow(self, document: Document) -> None:
        # A sheet that is not open is filled when it is opened: five unseen ones would hold up every edit.
        if not self.isHidden():
            self.show_document(document)

    def showEvent(self, event) -> None:
        """Show the document as it is now."""
        super().showEvent(event)
        self.show_document(self.session.document)

    def chosen_id(self, document: Document) -> str:
        """Return the id of what the sheet is about."""
        return self.session.chosen.get(self.part, "")

    def item(self, document: Document) -> Model | None:
        """Return what the sheet is about."""
        return document.find(self.part, self.chosen_id(document))

    def show_document(self, document: Document) -> None:
        """Show the chosen item."""
        item = self.item(document)
        self.form.setVisible(item is not None)
        self.empty.setVisible(item is None)
        several = self.several(document)
        self.title.setText(f"{len(several)} {self.part}" if several else item.name if item else "Nothing chosen")
        self.show_more(item is not None)
        if item is not None:
            self.show_item(item, document)
            self.form.show_several(several or [item])

    def several(self, document: Document) -> list[Model]:
        """Return all items that are chosen if they are more than one, the main one last."""
        ids = self.session.all_chosen(self.part) if self.part not in ("views", "qualities") else ()
        if len(ids) < 2 or ids[-1] != self.chosen_id(document):
            return []
        return [document.find(self.part, id) for id in ids]

    def show_item(self, item: Model, document: Document) -> None:
        """Show an item."""
        self.form.show_model(item)

    def show_more(self, visible: bool) -> None:
        """Show or hide what stands below the form."""

    def _alter(self, name: str, value: object, merge: object) -> None:
        id, several = self.chosen_id(self.session.document), self.several(self.session.document)
        label = f"Change {self.form._about[name].label.lower()}"
        if not several:
            self.session.edit(self.change, id, label=label, merge=merge, **{name: value})
            return
        self._alter_several(several, name, value_for_each(self.form, name, value), label, merge)

    def _change_each(self, name: str, change: Callable[[float], float], merge: object) -> None:
        """Change a field of all that are selected by a function of its value, where a drag began."""
        several = self.as_begun(self.several(self.session.document), merge)
        label = f"Change {self.form._about[name].label.lower()}"
        self._alter_several(several, name, change_for_each(self.form, name, change), label, merge)

    def as_begun(self, items: list[Model], merge: object) -> list[Model]:
        """Return items as they were when a drag began: each of its steps counts from there."""
        if merge is None:
            return items
        if self._drag is None or self._drag[0] != merge:
            self._drag = merge, {item.id: item for item in items}
        return [self._drag[1].get(item.id, item) for item in items]

    def _alter_several(
        self, several: list[Model], name: str, new: Callable[[object], object], label: str, merge: object
    ) -> None:
        values = {item.id: {name: new(getattr(item, name))} for item in several if name in type(item).model_fields}
        self.session.edit(self.change_each, values, label=label, merge=merge)

    def change_each(self, document: Document, values: dict[str, dict]) -> Document:
        """Return the document with fields of several items changed, for each by its id."""
        return edit.alter_each(document, self.part, values)

    def change(self, document: Document, id: str, **values: object) -> Document:
        """Return the document with fields of an item changed."""
        return edit.alter(document, self.part, id, **values)

    def text(self, words: str = "") -> QLabel:
        """Put a soft line below the form."""
        label = soft(words)
        self.more.addWidget(label)
        return label

    def button(self, words: str, action, *, main: bool = False) -> QPushButton:
        """Put a button below the form."""
        button = QPushButton(words)
        if main:
            button.setObjectName("main")
        button.clicked.connect(lambda: action())
        self.more.addWidget(button)
        return button

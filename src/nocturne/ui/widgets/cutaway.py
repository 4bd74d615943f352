"""The numbers of a cutaway, and what it cuts."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from nocturne.scene.cutaway import Cutaway
from nocturne.scene.document import Document
from nocturne.ui.widgets.form import Form
from nocturne.ui.widgets.scatter import NamedRows
from nocturne.ui.widgets.words import section

_COUNTING = {"box": {"width", "depth", "height"}, "ball": {"radius"}, "plane": set()}
_FIELDS = {"Shape": ("kind", "width", "depth", "height", "radius", "closed")}


class CutawayEditor(QWidget):
    """Edits a cutaway; `altered` carries new values and the id of a drag."""

    altered = Signal(object, object)  # values by field, merge

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        self.form = Form((Cutaway,), _FIELDS)
        self.form.edited.connect(lambda name, value, merge: self.altered.emit({name: value}, merge))
        self.form.committed.connect(lambda name, value, merge: self.altered.emit({name: value}, merge))
        column.addWidget(self.form)
        column.addWidget(section("What is cut"))
        self.cut = NamedRows("Cut this too…", with_weight=False)
        self.cut.altered.connect(lambda rows: self.altered.emit({"of": tuple(id for id, _ in rows)}, None))
        column.addWidget(self.cut)

    def show_cutaway(self, cutaway: Cutaway, document: Document, own: str) -> None:
        """Show a cutaway; own: the id of the thing that it is."""
        self.form.show_model(cutaway)
        self.form.show_only({"kind", "closed", *_COUNTING[cutaway.kind]})
        names = [(t.id, t.name) for t in document.things if t.id != own and t.cutaway is None]
        self.cut.show_rows([(id, 1.0) for id in cutaway.of], names)

"""The pattern outline of a material: its steps from the result down to their sources, and what is done with them."""

from collections.abc import Callable, Iterator

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QMenu, QPushButton, QScrollArea, QVBoxLayout, QWidget

from nocturne.scene import edit, signing
from nocturne.scene.materials import DRIVEN, Material, label_of
from nocturne.scene.patterns import KINDS, Picture, Step, outline
from nocturne.scene.patterns.step import TOO_DEEP
from nocturne.scene.throwing import thrown
from nocturne.ui.patternshelf import PatternShelf
from nocturne.ui.session import Session
from nocturne.ui.theme import tokens as t
from nocturne.ui.view.hands.dropping import pictures_in
from nocturne.ui.widgets.pattern import PatternRow, label_of_field, offer_kinds
from nocturne.ui.widgets.words import section, soft
from nocturne.ui.wiring import Wiring

_OF_MATERIALS = tuple((name, label_of(name)) for name in DRIVEN)


def _parents(widget: QWidget) -> Iterator[QWidget]:
    while (widget := widget.parentWidget()) is not None:
        yield widget


class PatternOutline(QWidget):
    """Rows of a material's steps, with ways to add one. It works on the material that it shows last."""

    pick_wanted = Signal(object)

    def __init__(self, session: Session, browse: Callable[[], str], wiring: Wiring, shelf: PatternShelf) -> None:
        super().__init__()
        self.session, self._browse, self.wiring, self.shelf = session, browse, wiring, shelf
        self.numbers = wiring.numbers
        self.setAcceptDrops(True)
        self.material = ""
        self.rows: list[PatternRow] = []
        self._places: list[outline.Place] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(section("Patterns"))
        self.empty = soft("Nothing drives this material yet: each of its numbers is the same all over.")
        self.empty.setWordWrap(True)
        column.addWidget(self.empty)
        self.mark = QFrame(self)
        self.mark.setStyleSheet(f"background: {t.MOON};")
        self.mark.hide()
        self.list = QVBoxLayout()
        self.list.setSpacing(4)
        column.addLayout(self.list)
        self.add = QPushButton("Drive a parameter with a picture…")
        self.add.clicked.connect(lambda: self.add_step("image"))
        self.add_other = QPushButton("Drive a parameter with…")
        self.add_other.setToolTip("Noises, made surfaces, wear, masks, and what changes colours and numbers")
        self.add_other.clicked.connect(self.offer_kinds)
        self.add_set = QPushButton("Wire a set of pictures…")
        self.add_set.setToolTip(
            "Colour, roughness, normal and more of one stuff, told apart by how their names end. "
            "They can be dropped here, too."
        )
        self.add_set.clicked.connect(lambda: self.wiring.ask(self.material))
        column.addWidget(self.add)
        column.addWidget(self.add_set)
        column.addWidget(self.add_other)

    def dragEnterEvent(self, event) -> None:
        """Take files of pictures."""
        if pictures_in(event.mimeData()):
            event.acceptProposedAction()

    def dropEvent(self, event) -> None:
        """Let the pictures drive the material."""
        event.acceptProposedAction()
        self.wiring.wire(self.material, pictures_in(event.mimeData()))

    def offer_kinds(self) -> None:
        """Offer the kinds of steps that can be added, below the button for it."""
        self.kinds_menu().popup(self.add_other.mapToGlobal(self.add_other.rect().bottomLeft()))

    def kinds_menu(self) -> QMenu:
        """Return the kinds of steps that can be added, and what was taken along."""
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.setToolTipsVisible(True)
        offer_kinds(menu, self.add_step)
        menu.aboutToShow.emit()
        if self.shelf.patterns:
            menu.addSeparator()
            kept, gone = menu.addMenu("Own patterns"), QMenu("Take one off the shelf", menu)
            for pattern in self.shelf.patterns:
                kept.addAction(pattern.name, lambda pattern=pattern: self.put(self.shelf.step_of(pattern)))
                gone.addAction(pattern.name, lambda pattern=pattern: self.shelf.remove(pattern))
            kept.addSeparator()
            kept.addMenu(gone)
        if self.session.held_step is not None:
            menu.addSeparator()
            menu.addAction(f"What was taken along: {self.session.held_step.title.lower()}", self.put_held)
        return menu

    # ---- showing ---------------------------------------------------------------------------------------------------

    def show_material(self, item: Material) -> None:
        """Show a material's steps."""
        if item.id != self.material:
            self.material = item.id
            for row in self.rows:
                row.picture.setChecked(False)
        self._places = list(outline.places(item.steps))
        self.empty.setVisible(not self._places)
        while len(self.rows) > len(self._places):
            self.rows.pop().deleteLater()
        while len(self.rows) < len(self._places):
            self._add_row()
        images = self.session.assets.images
        for row, place in zip(self.rows, self._places):
            owner = place.owner
            if owner is None:
                drives, is_colour = _OF_MATERIALS, place.step.parameter.endswith("_color")
            else:
                drives = tuple((name, label_of_field(owner, name)) for name in type(owner).drivable())
                kind = type(owner).model_fields[place.step.parameter].json_schema_extra["kind"]
                is_colour = kind == "colour"
            row.show_step(place.step, images, depth=place.depth, drives=drives, is_colour=is_colour)
            row.show()
        self.mark_alone()

    def mark_alone(self) -> None:
        """Mark the row whose step alone is shown on the thing."""
        for row, place in zip(self.rows, self._places):
            row.picture.show_alone(self.session.looked_at == (self.material, place.path))

    def _add_row(self) -> None:
        row = PatternRow(lambda: [(t.id, t.name) for t in self.session.document.things if t.has_shape])

        def act(what: Callable[[outline.Path], None]) -> None:
            # A row that is just going away still says what was being typed in it.
            if row in self.rows and self.rows.index(row) < len(self._places):
                what(self._places[self.rows.index(row)].path)

        row.edited.connect(lambda new, merge: act(lambda path: self._set(path, new, merge)))
        row.committed.connect(lambda new, merge: act(lambda path: self._set(path, new, merge)))
        row.asked.connect(lambda what, payload: act(lambda path: self.do(path, what, payload)))
        row.pick_wanted.connect(self.pick_wanted)
        self.rows.append(row)
        self.list.addWidget(row)

    def path_in_hand(self) -> outline.Path | None:
        """Return which step the keyboard is in, else the one that was opened last, else the topmost."""
        if not self._places:
            return None
        for row, place in zip(self.rows, self._places):
            focus = row.focusWidget()
            if focus is not None and focus.hasFocus():
                return place.path
        opened = [place.path for row, place in zip(self.rows, self._places) if row.picture.isChecked()]
        return opened[-1] if opened else self._places[0].path

    def take_in_hand(self, by: int) -> None:
        """Move the keyboard to the step so many rows below the one in hand."""
        path = self.path_in_hand()
        if path is not None:
            k = [place.path for place in self._places].index(path) + by
            self._hold(min(max(k, 0), len(self._places) - 1))

    def do_in_hand(self, what: str, payload: object = None) -> None:
        """Do with the step in hand what its row does or offers; a step that is moved stays in hand."""
        path = self.path_in_hand()
        if path is None:
            return
        row, row_step = next((row, p.step) for row, p in zip(self.rows, self._places) if p.path == path)
        if what == "mute":
            row.dot.click()
        elif what == "open":
            row.picture.click()
            self._hold(self.rows.index(row))
        elif what == "menu":
            row.menu().popup(row.more.mapToGlobal(row.more.rect().bottomLeft()))
        else:
            self.do(path, what, payload)
        if what == "shift":
            self._hold(next((k for k, place in enumerate(self._places) if place.step is row_step), 0))

    def _hold(self, k: int) -> None:
        """Give a row the keyboard, and bring it into sight."""
        row = self.rows[k]
        row.picture.setFocus(Qt.FocusReason.ShortcutFocusReason)
        area = next((w for w in _parents(self) if isinstance(w, QScrollArea)), None)
        if area is not None:
            area.ensureWidgetVisible(row)

    # ---- changes ---------------------------------------------------------------------------------------------------

    def _item(self) -> Material | None:
        return self.session.document.find("materials", self.material)

    def _change(self, label: str, function: Callable, *arguments: object, merge: object = None) -> bool:
        """Make the steps what a function makes of them; return False if that left them as they are."""
        item = self._item()
        steps = function(item.steps, *arguments) if item is not None else None
        if item is None or steps is item.steps:
            return False
        self.session.edit(edit.alter, "materials", item.id, steps=steps, label=label, merge=merge)
        return True

    def _set(self, path: outline.Path, new: Step, merge: object = None) -> None:
        item = self._item()
        if item is not None and outline.at(item.steps, path) is not None:
            self._change("Change patterns", outline.exchanged, path, new, merge=merge)

    def add_step(self, kind: str) -> None:
        """Add a step of a kind on top of the first parameter that nothing drives yet; a picture is asked for."""
        new = self._made(kind, self._free_parameter(), is_colour=None)
        if new is not None:
            self._change(f"Add {new.title.lower()}", outline.added, (), new)

    def put_held(self) -> None:
        """Add the step that was taken along."""
        self.put(self.session.held_step)

    def put(self, held: Step) -> None:
        """Add a step of elsewhere, driving what it drove there where this material has that."""
        name = held.parameter if held.parameter in DRIVEN else self._free_parameter()
        self._change("Put a step", outline.added, (), held.model_copy(update={"parameter": name}))

    def do(self, path: outline.Path, what: str, payload: object = None) -> None:
        """Do what a row's menu offers with the step that a path leads to."""
        item = self._item()
        step = outline.at(item.steps, path) if item is not None else None
        if step is None:
            return
        if what == "refused":
            self.session.said.emit(payload, True)
            self.show_material(item)
        elif what == "browse":
            file = self._browse()
            if file:
                self._set(path, edit.changed(step, **self.numbers.read_as(file)))
        elif what in ("one", "tiles", "frames"):
            self._set(path, self.numbers.read(step, what))
        elif what == "throw":
            new = thrown(step, self.session.document.view)
            if new is None:
                self.session.said.emit("A panorama's camera throws no picture; choose another view.", True)
            else:
                self._set(path, new)
        elif what == "remove":
            self._change("Remove a step", outline.exchanged, path)
        elif what == "copy":
            self._change("Copy a step", outline.exchanged, path, step, step)
        elif what == "take":
            self.session.held_step = step
            self.session.said.emit(f"{step.title} is taken along; put it under “Drive a parameter with…”.", False)
        elif what == "carry":
            self._mark(path, payload)
        elif what == "put down":
            self.mark.hide()
            now, to = self._carried_to(path, payload)
            self._change("Move a step", outline.shifted, path, now - to)
        elif what == "keep":
            self.shelf.keep(step, f"{item.name}, {step.known_as.lower()}"[:60])
        elif what == "shift":
            self._change("Move a step", outline.shifted, path, payload)
        elif what == "mix":
            if not self._change("Mix a step", outline.mixed, path):
                self.session.said.emit(TOO_DEEP.capitalize() + ".", True)
        elif what == "unmix":
            self._change("Leave a mix", outline.unmixed, path)
        elif what == "into":
            new = self._made(payload, step.parameter, is_colour=None)
            if new is not None:
                kept = {name: getattr(step, name) for name in ("amount", "blend", "on")}
                self._set(path, edit.changed(new, **kept))
        elif what == "drive":
            name, kind = payload
            is_colour = type(step).model_fields[name].json_schema_extra["kind"] == "colour"
            new = self._made(kind, name, is_colour=is_colour)
            if new is not None and not self._change(f"Drive with {new.title.lower()}", outline.added, path, new):
                self.session.said.emit(TOO_DEEP.capitalize() + ".", True)
        elif what == "alone":
            self.session.look_at_step(item.id, path)
        elif what == "fit":
            self._fit(path, step, payload)

    def _carried_to(self, path: outline.Path, y: float) -> tuple[int, int]:
        """Return where a row is among those that drive the same, from the top, and where it would be at a height."""
        same = self._beside(path)
        others = [row for row, place in same if place.path != path]
        to = sum(row.mapToGlobal(row.rect().center()).y() < y for row in others)
        return [place.path for _, place in same].index(path), to

    def _beside(self, path: outline.Path) -> list[tuple[PatternRow, outline.Place]]:
        """Return the rows that drive what one does, from the top."""
        own = next(place for place in self._places if place.path == path)
        return [
            (row, place)
            for row, place in zip(self.rows, self._places)
            if place.path[:-1] == path[:-1] and place.step.parameter == own.step.parameter
        ]

    def _mark(self, path: outline.Path, y: float) -> None:
        """Draw a line where a carried row would come to lie."""
        now, to = self._carried_to(path, y)
        rows = [row for row, _ in self._beside(path)]
        below = to + (to > now)  # the rows above the mark, with the carried one where it still is
        at = rows[below].y() - 3 if below < len(rows) else rows[-1].y() + rows[-1].height() + 1
        self.mark.setGeometry(rows[0].x(), at, self.width(), 2)
        self.mark.setVisible(to != now)
        self.mark.raise_()

    def _fit(self, path: outline.Path, step: Step, side: str) -> None:
        """Lay a sign on a thing that wears the material: one that is chosen, else the first."""
        session = self.session
        chosen = session.all_chosen("things")
        new = signing.fitted(session.document, session.assets, self.material, step, side, chosen)
        if new is None:
            session.said.emit("No thing wears this material, so there is nothing to fit it to.", True)
            return
        self._set(path, new)

    def _made(self, kind: str, parameter: str, *, is_colour: bool | None) -> Step | None:
        """Return a new step of a kind, None if it needs a picture and none was chosen."""
        blend = {"blend": "multiply"} if parameter in ("emission_color", "emission_luminance") else {}
        if kind != "image":
            is_colour = parameter.endswith("_color") if is_colour is None else is_colour
            return KINDS[kind].made_for(parameter, is_colour=is_colour, **blend)
        file = self._browse()
        if not file:
            return None
        is_colour = parameter.endswith("_color") if is_colour is None else is_colour
        values = {**self.numbers.read_as(file), "space": "colour" if is_colour else "data", **blend}
        return Picture(parameter=parameter, **values)

    def _free_parameter(self) -> str:
        """Return the first parameter that nothing drives yet."""
        item = self._item()
        used = {step.parameter for step in item.steps} if item is not None else set()
        return next((name for name in DRIVEN if name not in used), "base_color")

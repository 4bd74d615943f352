"""A row of the pattern outline: a step, with a small picture of what it puts out, a mute dot and an amount."""

from collections.abc import Callable
from pathlib import PurePath

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSignalBlocker, QSize, Qt, Signal
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPen
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QSizePolicy,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from nocturne.colour.spaces import encode_srgb, working_to_rec709
from nocturne.errors import SceneError
from nocturne.scene import edit
from nocturne.scene.numbered import as_sequence, as_tiles, is_sequence, is_tiles
from nocturne.scene.patterns import KINDS, Constant, Emblem, Lettering, Mix, Picture, Step, every, sampled
from nocturne.scene.patterns.evaluate import Images
from nocturne.scene.signing import SIDES
from nocturne.ui.theme import tokens as t
from nocturne.ui.theme.icons import icon, icon_size
from nocturne.ui.widgets.form import Form
from nocturne.ui.widgets.layer import Layer
from nocturne.ui.widgets.numberfield import NumberField

_PICTURE_PX = 40
_INDENT = 12
_PLACED = "What this step puts out. Click for its numbers and how it lies."
_APART = ("kind", "path")
_LYING = ("where", "uv_set", "anchor", "repeat", "offset", "turn_deg", "size", "origin", "tilt", "spread")
_IN_SPACE = ("anchor", "size", "origin", "tilt", "spread")


class MuteDot(QAbstractButton):
    """A dot that is filled while the step counts."""

    def __init__(self) -> None:
        super().__init__()
        self.setCheckable(True)
        self.setFixedSize(18, 18)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Counts")
        self.setToolTip("Filled: this step counts. Click mutes it, to see the material without it.")
        self._layer = Layer()

    def paintEvent(self, event) -> None:
        """Draw the dot."""
        self._layer.draw_on(self, (self.isChecked(), self.hasFocus()), self._draw)

    def _draw(self, painter: QPainter) -> None:
        painter.setPen(QPen(QColor(t.MOON if self.hasFocus() else "#7d7d7d"), 1.2))
        painter.setBrush(QColor(t.INK) if self.isChecked() else QColor(t.PANEL))
        painter.drawEllipse(QRectF(4, 4, 10, 10))


class StepPicture(QAbstractButton):
    """What a step puts out; a click opens or closes its numbers."""

    def __init__(self) -> None:
        super().__init__()
        self.setCheckable(True)
        self.setFixedSize(_PICTURE_PX, _PICTURE_PX)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName("Numbers of the step")
        self.setToolTip(_PLACED)
        self.image: QImage | None = None
        self.is_alone = False
        self._layer = Layer()

    def show_image(self, image: QImage | None) -> None:
        """Show a picture, or that there is none."""
        self.image = image
        self.update()

    def show_alone(self, is_alone: bool) -> None:
        """Say whether this step alone is shown on the thing."""
        if is_alone != self.is_alone:
            self.is_alone = is_alone
            self.update()

    def paintEvent(self, event) -> None:
        """Draw the picture."""
        key = (self.image and self.image.cacheKey(), self.hasFocus(), self.isChecked(), self.is_alone)
        self._layer.draw_on(self, key, self._draw)

    def _draw(self, painter: QPainter) -> None:
        shape = QPainterPath()
        shape.addRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
        if self.image is not None:
            painter.save()
            painter.setClipPath(shape)
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(QRectF(self.rect()), self.image)
            painter.restore()
        else:
            painter.fillPath(shape, QColor(t.RAISED))
            painter.setPen(QPen(QColor(t.CARE), 1.4))
            for a, b in (((13, 13), (27, 27)), ((27, 13), (13, 27))):
                painter.drawLine(QPointF(*a), QPointF(*b))
        is_marked = self.hasFocus() or self.isChecked() or self.is_alone
        painter.setPen(QPen(QColor(t.MOON if is_marked else t.LINE), 3 if self.is_alone else 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(shape)


class FileButton(QPushButton):
    """A button with a file's name, cut in its middle where the room ends."""

    def __init__(self) -> None:
        super().__init__()
        self._name = ""
        self.setMinimumWidth(50)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)

    def show_name(self, name: str) -> None:
        """Show a name."""
        self._name = name
        self.setAccessibleName(name)
        self._cut()

    def resizeEvent(self, event) -> None:
        """Cut the name anew."""
        super().resizeEvent(event)
        self._cut()

    def _cut(self) -> None:
        room = max(self.width() - 18, 20)
        self.setText(self.fontMetrics().elidedText(self._name, Qt.TextElideMode.ElideMiddle, room))


class PatternRow(QWidget):
    """One step of an outline; `edited` while something is dragged, `committed` at the end: the step, and the drag."""

    edited = Signal(object, object)
    committed = Signal(object, object)
    asked = Signal(str, object)  # what is to be done with the step, and what it needs
    pick_wanted = Signal(object)  # a chip, which will take a colour from the picture

    def __init__(self, things: Callable[[], list[tuple[str, str]]]) -> None:
        super().__init__()
        self.things = things  # (id, name) of those whose distance can be asked
        self.step: Step = Picture()
        self._held_at: QPointF | None = None
        self._is_carried = False
        self.depth = 0
        self._drives: tuple[tuple[str, str], ...] = ()
        self._seen: tuple | None = None  # what the small picture shows, and the pictures that went into it
        self.form: Form | None = None
        self._form_of: type[Step] | None = None
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 2)
        self.column.setSpacing(4)
        row = QHBoxLayout()
        row.setSpacing(6)
        self.picture = StepPicture()
        self.picture.toggled.connect(self._unfold)
        row.addWidget(self.picture, 0, Qt.AlignmentFlag.AlignTop)
        row.addLayout(self._words(), 1)
        self.column.addLayout(row)

    # ---- carrying --------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event) -> None:
        """Take hold of the row, where nothing else is."""
        self._held_at = event.position() if event.button() == Qt.MouseButton.LeftButton else None

    def mouseMoveEvent(self, event) -> None:
        """Carry it up or down, once it is meant."""
        if self._held_at is None:
            return
        if not self._is_carried:
            way = (event.position() - self._held_at).manhattanLength()
            self._is_carried = way >= QApplication.startDragDistance()
        if self._is_carried:
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
            self.asked.emit("carry", event.globalPosition().y())

    def mouseReleaseEvent(self, event) -> None:
        """Put it down."""
        was_carried, self._is_carried, self._held_at = self._is_carried, False, None
        self.unsetCursor()
        if was_carried:
            self.asked.emit("put down", event.globalPosition().y())

    # ---- layout ----------------------------------------------------------------------------------------------------

    def _words(self) -> QVBoxLayout:
        self.dot = MuteDot()
        self.dot.clicked.connect(lambda on: self._commit(on=on))
        self.kind = QLabel()
        self.kind.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.file = FileButton()
        self.file.clicked.connect(lambda: self.asked.emit("browse", None))
        self.more = QToolButton()
        self.more.setObjectName("plain")
        self.more.setIcon(icon("list"))
        self.more.setIconSize(icon_size())
        self.more.setFixedSize(QSize(26, 22))
        self.more.setToolTip("What can be done with this step")
        self.more.setAccessibleName("What can be done with this step")
        self.more.clicked.connect(lambda: self.menu().exec(self.more.mapToGlobal(self.more.rect().bottomLeft())))
        self.parameter = QComboBox()
        self.parameter.setAccessibleName("Drives")
        self.parameter.setToolTip("What this step drives")
        self.parameter.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.parameter.setMinimumContentsLength(3)
        self.parameter.setMinimumWidth(64)
        self.parameter.activated.connect(self._switch)
        self.amount = NumberField(
            "Amount",
            unit="%",
            kind="percent",
            low=0,
            high=1,
            default=1,
            label_width=44,
            help="How much this step counts over what lies under it; of a normal map, how strong it is.",
        )
        self.amount.edited.connect(lambda v, m: self._say(self.edited, m, amount=v))
        self.amount.committed.connect(lambda v, m: self._say(self.committed, m, amount=v))
        self.amount.unit_label.hide()
        self.amount.setFixedWidth(104)
        words = QVBoxLayout()
        words.setSpacing(2)
        first, second = QHBoxLayout(), QHBoxLayout()
        first.setSpacing(4)
        second.setSpacing(6)
        first.addWidget(self.dot)
        first.addWidget(self.kind, 1)
        first.addWidget(self.file, 1)
        first.addWidget(self.more)
        second.addWidget(self.parameter, 1)
        second.addWidget(self.amount)
        words.addLayout(first)
        words.addLayout(second)
        return words

    def _unfold(self, is_open: bool) -> None:
        if is_open:
            self._show_form()
        if self.form is not None:
            self.form.setVisible(is_open)

    def _show_form(self) -> None:
        model = type(self.step)
        if self.form is None or self._form_of is not model:
            if self.form is not None:
                self.form.setParent(None)
                self.form.deleteLater()
            own = tuple(name for name in model.model_fields if name not in Step.model_fields and name not in _APART)
            lying = ("blend", "invert", *(_LYING if model.is_placed else ()))
            sections = {**(model.sections or {"": own}), "How it lies": lying}
            self.form, self._form_of = Form((model,), sections), model
            self.form.edited.connect(lambda n, v, m: self._say(self.edited, m, **{n: v}))
            self.form.committed.connect(lambda n, v, m: self._say(self.committed, m, **{n: v}))
            self.form.pick_wanted.connect(self.pick_wanted)
            self.form.setContentsMargins(0, 0, 0, 6)
            self.column.addWidget(self.form)
        if "thing" in self.form.editors:
            self.form.set_choices("thing", [("", "Nothing"), *self.things()])
        self.form.show_model(self.step)
        hidden = set(_IN_SPACE if self.step.where == "uv" else ("uv_set",))
        if self.step.where != "sides":
            hidden.add("spread")
        hidden |= self.step.unseen
        self.form.show_only(set(self.form.rows) - hidden)
        self.form.setVisible(True)

    def menu(self) -> QMenu:
        """Return what can be done with the step."""
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.setToolTipsVisible(True)

        def offer(words: str, what: str, payload: object = None) -> None:
            menu.addAction(words, lambda: self.asked.emit(what, payload))

        if isinstance(self.step, Picture):
            offer("Choose another picture…", "browse")
            if is_tiles(self.step.path) or is_sequence(self.step.path):
                offer("Read it as one picture", "one")
            elif self.step.path:
                if as_tiles(self.step.path):
                    offer("Read it as a set of tiles", "tiles")
                if as_sequence(self.step.path)[0]:
                    offer("Read it as a sequence of frames", "frames")
            offer("Throw it from this view's camera", "throw")
        offer("Show only this on the thing", "alone")
        if isinstance(self.step, Lettering | Emblem) and self.depth == 0:
            sides = menu.addMenu("Fit it to the thing, laid on")
            for side, words in SIDES:
                sides.addAction(words, lambda side=side: self.asked.emit("fit", side))
        menu.addSeparator()
        inner = menu.addMenu("Drive one of its numbers with")
        for name in type(self.step).drivable():
            offer_kinds(
                inner.addMenu(label_of_field(self.step, name)),
                lambda kind, name=name: self.asked.emit("drive", (name, kind)),
            )
        offer_kinds(menu.addMenu("Change it into"), lambda kind: self.asked.emit("into", kind))
        offer("Mix it with another by a mask", "mix")
        if isinstance(self.step, Mix | Constant) and self.step.steps:
            offer("Keep only the first of what is in it", "unmix")
        menu.addSeparator()
        offer("Copy it", "copy")
        offer("Take it along", "take")
        offer("Keep it as own pattern", "keep")
        offer("Move it up", "shift", 1)
        offer("Move it down", "shift", -1)
        menu.addSeparator()
        offer("Remove it", "remove")
        return menu

    # ---- showing ---------------------------------------------------------------------------------------------------

    def show_step(
        self, step: Step, images: Images, *, depth: int, drives: tuple[tuple[str, str], ...], is_colour: bool
    ) -> None:
        """Show a step without saying so.

        images: loaded pictures as `Assets.images` has them. drives: what it can drive, (name, label) pairs. is_colour:
        what it drives is a colour.
        """
        self.step, self.depth = step, depth
        self.column.setContentsMargins(_INDENT * depth, 0, 0, 2)
        self.dot.setChecked(step.on)
        if drives != self._drives:
            self._drives = drives
            with QSignalBlocker(self.parameter):
                self.parameter.clear()
                for name, label in drives:
                    self.parameter.addItem(label, name)
        self.parameter.setCurrentIndex(self.parameter.findData(step.parameter))
        is_picture = isinstance(step, Picture)
        self.file.setVisible(is_picture)
        self.kind.setVisible(not is_picture)
        self.kind.setText(step.known_as)
        self.kind.setToolTip(f"{step.title}: {step.about}")
        image = images.get(step.picture) if is_picture else None
        if is_picture:
            self.file.show_name(PurePath(step.path).stem or "Choose a picture…")
            missing = "" if image is not None else "\nThe file is missing; preflight (Ctrl+Shift+F) finds it."
            self.file.setToolTip(f"{step.path}\nRead as {step.space}{missing}")
        is_normal = step.parameter == "geometry_normal"
        self.amount.high = 4.0 if is_normal or not step.is_mixed else 1.0
        self.amount.show_value(min(step.amount, self.amount.high))
        if self.form is not None and self.picture.isChecked():
            self._show_form()
        self._show_picture(step, images, is_colour and (not is_picture or step.is_colour))

    def _show_picture(self, step: Step, images: Images, is_colour: bool) -> None:
        # What the step puts out does not depend on how much it counts: while the amount is dragged it stands.
        used = tuple(images.get(s.picture) for s in every((step,)) if s.picture is not None)
        shown = edit.replaced(step, amount=1.0, on=True, parameter="", blend="replace")
        seen = self._seen
        if seen is not None and seen[:2] == (shown, is_colour) and len(seen[2]) == len(used):
            if all(a is b for a, b in zip(seen[2], used)):
                return
        self._seen = (shown, is_colour, used)
        is_known = step.picture is None or images.get(step.picture) is not None
        self.picture.show_image(_picture(step, images, is_colour) if is_known else None)

    def _commit(self, **values) -> None:
        self._say(self.committed, None, **values)

    def _say(self, signal, merge: object, **values) -> None:
        """Say that the step is to be another one; of what it cannot be, why."""
        try:
            new = edit.changed(self.step, **values)
        except SceneError as error:
            self.asked.emit("refused", str(error))
            return
        signal.emit(new, merge)

    def _switch(self, index: int) -> None:
        name = self.parameter.itemData(index)
        values: dict[str, object] = {}
        if self.depth == 0:
            values = self.step.driving(name, is_colour=name.endswith("_color"))
        self._commit(parameter=name, **values)


def label_of_field(step: Step, name: str) -> str:
    """Return what a number or colour of a step is called."""
    return type(step).model_fields[name].title or name


def offer_kinds(menu: QMenu, chosen: Callable[[str], None]) -> None:
    """Offer all kinds of steps in a menu, by families, once it is opened."""

    def fill() -> None:
        if menu.actions():
            return
        families: dict[str, QMenu] = {}
        for kind, model in KINDS.items():
            of = families.get(model.family)
            if of is None:
                of = families[model.family] = menu.addMenu(model.family)
                of.setToolTipsVisible(True)
            action = of.addAction(model.title, lambda kind=kind: chosen(kind))
            action.setToolTip(model.about)

    menu.aboutToShow.connect(fill)


def _picture(step: Step, images: Images, is_colour: bool) -> QImage:
    """Return what a step puts out, as it looks on the screen."""
    size = 2 * _PICTURE_PX if isinstance(step, Picture) and not step.steps else _PICTURE_PX
    shown = values = sampled(step, images, size)
    if is_colour:
        shown = encode_srgb(np.clip(values @ working_to_rec709().T, 0, 1))
    pixels = np.full((*values.shape[:2], 4), 255, np.uint8)
    pixels[..., :3] = np.rint(np.clip(shown, 0, 1) * 255)
    return QImage(pixels.data, size, size, 4 * size, QImage.Format.Format_RGBX8888).copy()

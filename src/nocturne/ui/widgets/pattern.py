"""The pattern row: what drives a parameter, with a small picture of what it puts out, a mute dot and an amount."""

import itertools
from pathlib import Path

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPen
from PySide6.QtWidgets import (
    QAbstractButton,
    QCheckBox,
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
from nocturne.scene import edit
from nocturne.scene.materials import Material
from nocturne.scene.patterns import DRIVEN, Checker, MeshColours, Picture, Step, sampled
from nocturne.ui.theme import tokens as t
from nocturne.ui.theme.style import icon, icon_size
from nocturne.ui.widgets.colourchip import ColourChip
from nocturne.ui.widgets.layer import Layer
from nocturne.ui.widgets.numberfield import NumberField, VectorField

_drags = itertools.count(1)
_PICTURE_PX = 40
_PLACED = "What this step puts out over one unit of texture space. Click to place it."
_MESH_COLOURS = "The colours that a mesh brings at its vertices; white where it has none."


def label_of(parameter: str) -> str:
    """Return a material parameter's label."""
    return "Normal" if parameter == "geometry_normal" else Material.model_fields[parameter].title


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
        self._layer.draw(QPainter(self), QRectF(self.rect()), (self.isChecked(), self.hasFocus()), self._draw)

    def _draw(self, painter: QPainter) -> None:
        painter.setPen(QPen(QColor(t.MOON if self.hasFocus() else "#7d7d7d"), 1.2))
        painter.setBrush(QColor(t.INK) if self.isChecked() else QColor(t.PANEL))
        painter.drawEllipse(QRectF(4, 4, 10, 10))


class StepPicture(QAbstractButton):
    """What a step puts out, over one unit of texture space; a click opens or closes its placement."""

    def __init__(self) -> None:
        super().__init__()
        self.setCheckable(True)
        self.setFixedSize(_PICTURE_PX, _PICTURE_PX)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName("Placement")
        self.setToolTip(_PLACED)
        self.image: QImage | None = None
        self._layer = Layer()

    def show_image(self, image: QImage | None) -> None:
        """Show a picture, or that there is none."""
        self.image = image
        self.update()

    def paintEvent(self, event) -> None:
        """Draw the picture."""
        key = (self.image and self.image.cacheKey(), self.hasFocus(), self.isChecked())
        self._layer.draw(QPainter(self), QRectF(self.rect()), key, self._draw)

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
        painter.setPen(QPen(QColor(t.MOON if self.hasFocus() or self.isChecked() else t.LINE), 1))
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
    """One step of what drives a material; `edited` while something is dragged, `committed` at the end."""

    edited = Signal(object, object)  # texture, merge
    committed = Signal(object, object)
    removed = Signal()
    copied = Signal()
    shifted = Signal(int)  # one up or down
    browse = Signal()
    pick_wanted = Signal(object)  # a chip, which will take a colour from the picture

    def __init__(self) -> None:
        super().__init__()
        self.texture: Step = Picture()
        self._seen: tuple | None = None  # the loaded picture and the step that the small picture shows
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 2)
        column.setSpacing(4)
        row = QHBoxLayout()
        row.setSpacing(6)
        self.picture = StepPicture()
        self.picture.toggled.connect(self._unfold)
        row.addWidget(self.picture)
        row.addLayout(self._words(), 1)
        column.addLayout(row)
        self.placement = self._placement()
        self.placement.hide()
        column.addWidget(self.placement)

    # ---- layout ----------------------------------------------------------------------------------------------------

    def _words(self) -> QVBoxLayout:
        self.dot = MuteDot()
        self.dot.clicked.connect(lambda on: self._commit(on=on))
        self.parameter = QComboBox()
        self.parameter.setAccessibleName("Drives")
        self.parameter.setToolTip("The parameter that this step drives")
        self.parameter.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.parameter.setMinimumContentsLength(8)
        for name in DRIVEN:
            self.parameter.addItem(label_of(name), name)
        self.parameter.activated.connect(self._switch)
        self.more = QToolButton()
        self.more.setObjectName("plain")
        self.more.setIcon(icon("list"))
        self.more.setIconSize(icon_size())
        self.more.setFixedSize(QSize(26, 22))
        self.more.setToolTip("Copy, move or remove this step")
        self.more.setAccessibleName("What can be done with this step")
        self.more.clicked.connect(lambda: self.menu().exec(self.more.mapToGlobal(self.more.rect().bottomLeft())))
        self.file = FileButton()
        self.file.clicked.connect(self.browse)
        self.squares = self._squares()
        self.words = QLabel()
        self.amount = NumberField(
            "Amount",
            unit="%",
            kind="percent",
            low=0,
            high=1,
            default=1,
            label_width=48,
            help="How much this step counts over what lies under it; of a normal map, how strong it is.",
        )
        self.amount.edited.connect(lambda v, m: self.edited.emit(edit.changed(self.texture, amount=v), m))
        self.amount.committed.connect(lambda v, m: self.committed.emit(edit.changed(self.texture, amount=v), m))
        words = QVBoxLayout()
        words.setSpacing(2)
        first, second = QHBoxLayout(), QHBoxLayout()
        first.setSpacing(4)
        second.setSpacing(6)
        first.addWidget(self.dot)
        first.addWidget(self.parameter, 1)
        first.addWidget(self.more)
        self.amount.setFixedWidth(124)
        second.addWidget(self.file, 1)
        second.addWidget(self.squares, 1)
        second.addWidget(self.words, 1)
        second.addWidget(self.amount)
        words.addLayout(first)
        words.addLayout(second)
        return words

    def _squares(self) -> QWidget:
        """Return the colours of a checker's squares."""
        holder = QWidget()
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        self.chips = {}
        for name in ("first", "second"):
            about = Checker.model_fields[name]
            chip = self.chips[name] = ColourChip(f"{about.title} squares", help=about.description, small=True)
            chip.edited.connect(lambda v, m, n=name: self.edited.emit(edit.changed(self.texture, **{n: v}), m))
            chip.committed.connect(lambda v, m, n=name: self.committed.emit(edit.changed(self.texture, **{n: v}), m))
            chip.pick_wanted.connect(self.pick_wanted)
            row.addWidget(chip)
        row.addWidget(QLabel(Checker.title))
        row.addStretch(1)
        return holder

    def _placement(self) -> QWidget:
        about = Step.model_fields
        self.repeat = VectorField("Repeats", axes="xy", default=(1.0, 1.0), help=about["repeat"].description)
        self.offset = VectorField("Offset", axes="xy", default=(0.0, 0.0), help=about["offset"].description)
        self.turn = NumberField(
            "Turn", unit="°", low=-360, high=360, default=0, label_width=58, help=about["turn_deg"].description
        )
        self.uv_set = QComboBox()
        self.uv_set.setAccessibleName(about["uv_set"].title)
        self.uv_set.setToolTip(about["uv_set"].description)
        for number, words in ((1, "By the first UV set"), (2, "By the second UV set")):
            self.uv_set.addItem(words, number)
        self.uv_set.activated.connect(lambda i: self._commit(uv_set=self.uv_set.itemData(i)))
        self.invert = QCheckBox("Invert")
        self.invert.setToolTip(about["invert"].description)
        self.invert.clicked.connect(lambda on: self._commit(invert=on))
        holder = QWidget()
        column = QVBoxLayout(holder)
        column.setContentsMargins(_PICTURE_PX + 6, 0, 0, 4)
        column.setSpacing(3)
        for name, field in (("repeat", self.repeat), ("offset", self.offset), ("turn_deg", self.turn)):
            field.edited.connect(lambda v, m, n=name: self.edited.emit(edit.changed(self.texture, **{n: v}), m))
            field.committed.connect(lambda v, m, n=name: self.committed.emit(edit.changed(self.texture, **{n: v}), m))
            column.addWidget(field)
        column.addWidget(self.uv_set)
        column.addWidget(self.invert)
        return holder

    def _unfold(self, open_: bool) -> None:
        self.placement.setVisible(open_)

    def menu(self) -> QMenu:
        """Return what can be done with the step."""
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        if isinstance(self.texture, Picture):
            menu.addAction("Choose another picture…", self.browse.emit)
        menu.addAction("Copy it", self.copied.emit)
        menu.addAction("Move it up", lambda: self.shifted.emit(-1))
        menu.addAction("Move it down", lambda: self.shifted.emit(1))
        menu.addSeparator()
        menu.addAction("Remove it", self.removed.emit)
        return menu

    # ---- showing ---------------------------------------------------------------------------------------------------

    def show_texture(self, texture: Step, image: np.ndarray | None) -> None:
        """Show a step without saying so; `image` is its loaded picture (h, w, 3), None if it is missing."""
        self.texture = texture
        self.dot.setChecked(texture.on)
        self.parameter.setCurrentIndex(DRIVEN.index(texture.parameter))
        self._show_kind(texture, image)
        is_normal = texture.parameter == "geometry_normal"
        self.amount.high = 4.0 if is_normal else 1.0
        self.amount.show_value(texture.amount if is_normal else min(texture.amount, 1.0))
        self.repeat.show_value(texture.repeat)
        self.offset.show_value(texture.offset)
        self.turn.show_value(texture.turn_deg)
        self.uv_set.setCurrentIndex(texture.uv_set - 1)
        self.invert.setChecked(texture.invert)
        self.invert.setEnabled(not is_normal)
        # What the step puts out does not depend on how much it counts: while the amount is dragged it stands.
        seen = (image, edit.changed(texture, amount=1.0, on=True))
        if self._seen is None or self._seen[0] is not image or self._seen[1] != seen[1]:
            self._seen = seen
            is_known = image is not None or texture.picture is None
            self.picture.show_image(_picture(texture, image) if is_known else None)
            self.picture.setToolTip(_MESH_COLOURS if isinstance(texture, MeshColours) else _PLACED)

    def _show_kind(self, step: Step, image: np.ndarray | None) -> None:
        is_picture = isinstance(step, Picture)
        self.file.setVisible(is_picture)
        self.squares.setVisible(isinstance(step, Checker))
        by_place = not isinstance(step, MeshColours)
        self.words.setVisible(not by_place)
        self.words.setText("" if by_place else step.title)
        for field in (self.repeat, self.offset, self.turn, self.uv_set):
            field.setVisible(by_place)
        if is_picture:
            self.file.show_name(Path(step.path).stem or "Choose a picture…")
            missing = "" if image is not None else "\nThe file is missing; preflight (Ctrl+Shift+F) finds it."
            self.file.setToolTip(f"{step.path}\nRead as {step.space}{missing}")
        elif isinstance(step, Checker):
            for name, chip in self.chips.items():
                chip.show_value(getattr(step, name))

    def _commit(self, **values) -> None:
        self.committed.emit(edit.changed(self.texture, **values), None)

    def _switch(self, index: int) -> None:
        name = self.parameter.itemData(index)
        space = {"space": "colour" if name.endswith("_color") else "data"} if isinstance(self.texture, Picture) else {}
        self._commit(parameter=name, **space)


def _picture(texture: Step, image: np.ndarray | None) -> QImage:
    """Return what a step puts out over one unit of texture space, as it looks on the screen."""
    shown = values = sampled(texture, image, 2 * _PICTURE_PX)
    if texture.is_colour:
        shown = encode_srgb(np.clip(values @ working_to_rec709().T, 0, 1))
    pixels = np.full((*values.shape[:2], 4), 255, np.uint8)
    pixels[..., :3] = np.rint(np.clip(shown, 0, 1) * 255)
    size = values.shape[0]
    return QImage(pixels.data, size, size, 4 * size, QImage.Format.Format_RGBX8888).copy()

"""The bars above and below the picture, and the rail of stages."""

from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QHBoxLayout,
    QLabel,
    QProgressBar,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from nocturne.jobs import duration
from nocturne.scene import edit, grading
from nocturne.scene.finish import VIEWS
from nocturne.ui.darkroom import SHOWN
from nocturne.ui.live import Frame
from nocturne.ui.panels.lists import tool
from nocturne.ui.session import STAGES, Session
from nocturne.ui.theme import tokens as t
from nocturne.ui.theme.style import icon, icon_size
from nocturne.ui.widgets.numberfield import NumberField


class Rail(QWidget):
    """The six stages, in the order of the work."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("rail")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(t.RAIL_WIDTH)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 6, 0, 6)
        column.setSpacing(2)
        self.buttons: dict[str, QToolButton] = {}
        group = QButtonGroup(self)
        for k, stage in enumerate(STAGES):
            button = QToolButton()
            button.setObjectName("stage")
            button.setCheckable(True)
            button.setText(stage.capitalize())
            button.setIcon(icon(stage, t.INK_SOFT, on=t.INK))
            button.setIconSize(icon_size() * 1.2)
            button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextUnderIcon)
            button.setFixedSize(t.RAIL_WIDTH - 1, 56)
            button.setToolTip(f"{stage.capitalize()}   {k + 1}")
            button.clicked.connect(lambda _=False, s=stage: session.go_to(s))
            group.addButton(button)
            column.addWidget(button)
            self.buttons[stage] = button
        column.addStretch(1)
        self.buttons[session.stage].setChecked(True)
        session.stage_changed.connect(lambda stage: self.buttons[stage].setChecked(True))


def pass_label(name: str) -> str:
    """Return a pass as it is shown: "Indirect diffuse"."""
    return name.replace("_", " ").capitalize()


class PictureBar(QWidget):
    """Pass, view, exposure, denoise, undo and redo."""

    shown_changed = Signal(str)
    denoise_changed = Signal(bool)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("bar")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.session = session
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 4, 10, 4)
        row.setSpacing(8)
        self.passes = QComboBox()
        self.passes.setAccessibleName("Pass")
        self.passes.setToolTip("What the picture shows: the whole, or one part of its light or data")
        for name in SHOWN:
            self.passes.addItem(pass_label(name), name)
        self.passes.activated.connect(lambda i: self.shown_changed.emit(self.passes.itemData(i)))
        self.views = QComboBox()
        self.views.setAccessibleName("View")
        self.views.setToolTip("How light becomes colours of the screen")
        for id, label in VIEWS:
            self.views.addItem(label, id)
        self.views.activated.connect(
            lambda i: session.edit(edit.set_finish, view=self.views.itemData(i), label="Change the view transform")
        )
        self.exposure = NumberField(
            "Exposure",
            unit="stop",
            low=-12,
            high=12,
            soft_high=3,
            default=0,
            label_width=56,
            help="Brightens or darkens the picture after the camera.",
        )
        self.exposure.setFixedWidth(158)
        self.exposure.edited.connect(self._expose)
        self.exposure.committed.connect(self._expose)
        self.what = QLabel()
        self.what.setObjectName("soft")
        self.denoise = QToolButton()
        self.denoise.setObjectName("plain")
        self.denoise.setCheckable(True)
        self.denoise.setChecked(True)
        self.denoise.setIcon(icon("denoise", t.INK_SOFT, on=t.MOON))
        self.denoise.setIconSize(icon_size())
        self.denoise.setToolTip("Denoise while working   N")
        self.denoise.setAccessibleName("Denoise while working")
        self.denoise.toggled.connect(self.denoise_changed)
        self.undo = tool("undo", "Undo   Ctrl+Z", session.undo)
        self.redo = tool("redo", "Redo   Ctrl+Shift+Z", session.redo)
        for widget in (self.passes, self.views, self.exposure):
            row.addWidget(widget)
        row.addStretch(1)
        row.addWidget(self.what)
        for widget in (self.denoise, self.undo, self.redo):
            row.addWidget(widget)
        session.document_changed.connect(lambda _, document: self.show_document(document))

    def _expose(self, stops: float, merge: object) -> None:
        self.session.edit(grading.set_exposure, stops, label="Change exposure", merge=merge)

    def show_document(self, document) -> None:
        """Show exposure and view, and whether there is something to undo."""
        self.exposure.show_value(document.finish.exposure)
        with QSignalBlocker(self.views):
            self.views.setCurrentIndex(self.views.findData(document.finish.view))
        history = self.session.history
        self.undo.setEnabled(bool(history.undo_label))
        self.redo.setEnabled(bool(history.redo_label))
        self.undo.setToolTip(f"Undo: {history.undo_label}   Ctrl+Z" if history.undo_label else "Nothing to undo")
        self.redo.setToolTip(
            f"Redo: {history.redo_label}   Ctrl+Shift+Z" if history.redo_label else "Nothing to do again"
        )
        self.what.setText(f"{document.view.name}   ·   {document.quality.name}")


class StateLine(QWidget):
    """Samples, noise, time, time left; and what was just said."""

    cancel_wanted = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("state")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setRange(0, 1000)
        column.addWidget(self.bar)
        row = QHBoxLayout()
        row.setContentsMargins(12, 3, 12, 3)
        self.state = QLabel("Starting…")
        self.message = QLabel()
        self.message.setObjectName("soft")
        self.message.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        row.addWidget(self.state)
        row.addStretch(1)
        row.addWidget(self.message)
        column.addLayout(row)

    def show_frame(self, frame: Frame, *, paused: bool) -> None:
        """Show where the render stands."""
        now = frame.progress
        noise = f"noise {now.noise * 100:.1f} %" if now.noise < 1e6 else "noise …"
        what = "Final" if frame.request.final else "Live"
        left = (
            "done"
            if frame.is_done
            else "stopped"
            if paused
            else f"{duration(now.left_s)} left"
            if now.left_s is not None
            else "…"
        )
        self.state.setText(
            f"{what}   ·   {now.samples:.0f} samples   ·   {noise}   ·   {duration(now.seconds)}   ·   {left}"
        )
        total = now.seconds + (now.left_s or 0)
        share = 1.0 if frame.is_done else now.seconds / total if now.left_s is not None and total else 0
        self.bar.setValue(round(1000 * share))

    def say(self, text: str, wrong: bool = False) -> None:
        """Show a sentence."""
        self.message.setObjectName("care" if wrong else "soft")
        self.message.style().unpolish(self.message)
        self.message.style().polish(self.message)
        short = text if len(text) < 110 else text[:107] + "…"
        self.message.setText(f"▲ {short}" if wrong else short)
        self.message.setToolTip(text)

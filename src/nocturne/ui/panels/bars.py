"""The bars above and below the picture, and the rail of stages."""

import time
from collections.abc import Sequence

from PySide6.QtCore import QRectF, QSignalBlocker, Qt, Signal
from PySide6.QtGui import QColor, QPainter
from PySide6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QHBoxLayout,
    QLabel,
    QSizePolicy,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from nocturne.jobs import Update, duration
from nocturne.scene import edit, grading
from nocturne.scene.finish import VIEWS
from nocturne.ui.darkroom.prints import SHOWN
from nocturne.ui.frame import Frame
from nocturne.ui.panels.lists import tool
from nocturne.ui.panels.messages import Messages
from nocturne.ui.session import Session
from nocturne.ui.theme import tokens as t
from nocturne.ui.theme.icons import icon, icon_size
from nocturne.ui.widgets.entry import GIVES_UP
from nocturne.ui.widgets.numberfield import NumberField


class Rail(QWidget):
    """The stages, in the order of the work."""

    def __init__(self, session: Session, stages: Sequence[tuple[str, str]]) -> None:
        """Show stages: their names in code and for people."""
        super().__init__()
        self.setObjectName("rail")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(t.RAIL_WIDTH)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 6, 0, 6)
        column.setSpacing(2)
        self.buttons: dict[str, QToolButton] = {}
        group = QButtonGroup(self)
        for k, (stage, title) in enumerate(stages):
            button = QToolButton()
            button.setObjectName("stage")
            button.setCheckable(True)
            button.setText(title)
            button.setIcon(icon(stage, t.INK_SOFT, on=t.INK))
            button.setIconSize(icon_size() * 1.2)
            button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextUnderIcon)
            button.setFixedSize(t.RAIL_WIDTH - 1, 56)
            button.setToolTip(f"{title}   {k + 1}")
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
    stops_changed = Signal(bool)
    scopes_changed = Signal(bool)
    history_wanted = Signal()
    compare_wanted = Signal()

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
        self.what = _Elided()
        self.what.setObjectName("soft")
        self.compare = tool("compare", "Compare with the newest proof   C", self.compare_wanted.emit)
        self.passes.setFixedWidth(132)
        self.zoom = QLabel("100 %")
        self.zoom.setObjectName("soft")
        self.zoom.setToolTip("Pixels of the screen for a pixel of the picture.   W whole picture, Q one to one")
        self.stops = _switch("stops", "False-colour stops   S", self.stops_changed)
        self.scopes = _switch("scopes", "Histogram and waveform   G", self.scopes_changed)
        self.denoise = _switch("denoise", "Denoise while working   N", self.denoise_changed, on=True)
        self.undo = tool("undo", "Undo   Ctrl+Z", session.undo)
        self.redo = tool("redo", "Redo   Ctrl+Shift+Z", session.redo)
        for button in (self.undo, self.redo):
            button.setProperty(GIVES_UP, True)
        self.history = tool("list", "History   Ctrl+H", self.history_wanted.emit)
        for widget in (self.passes, self.views, self.exposure):
            row.addWidget(widget)
        row.addWidget(self.what, 1)
        row.addWidget(self.zoom)
        icons = QHBoxLayout()
        icons.setSpacing(1)
        switches = (self.compare, self.stops, self.scopes, self.denoise, self.undo, self.redo, self.history)
        for widget in switches:
            icons.addWidget(widget)
        row.addLayout(icons)
        session.document_changed.connect(lambda change: self.show_document(change.after))

    def show_zoom(self, scale: float) -> None:
        """Show how large the picture is seen."""
        self.zoom.setText(f"{scale * 100:.0f} %")

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
        self.what.set_words(f"{document.view.name}  ·  {document.quality.name}")


def _switch(name: str, text: str, signal: Signal, *, on: bool = False) -> QToolButton:
    button = QToolButton()
    button.setObjectName("plain")
    button.setCheckable(True)
    button.setChecked(on)
    button.setIcon(icon(name, t.INK_SOFT, on=t.MOON))
    button.setIconSize(icon_size())
    button.setToolTip(text)
    button.setAccessibleName(text.split("   ")[0])
    button.setFixedSize(28, 26)
    button.toggled.connect(signal)
    return button


class StateLine(QWidget):
    """Samples, noise, time, time left; what was just said; the running job; what the foot shows."""

    cancel_wanted = Signal(str)  # the kind of job
    foot_wanted = Signal(str)
    final_wanted = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("state")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.bar = ThinBar()
        column.addWidget(self.bar)
        row = QHBoxLayout()
        row.setContentsMargins(12, 3, 8, 3)
        row.setSpacing(8)
        self.state = QLabel("Starting…")
        self.state.setMinimumWidth(150)  # or short words are cut
        self.message = _Elided()
        self.message.setObjectName("soft")
        self.messages: Messages | None = None
        self.log = tool("list", "The last messages", self.toggle_messages)
        self.job = QLabel()
        self.job.setObjectName("soft")
        self.cancel = QToolButton()
        self.cancel.setText("Cancel")
        self.cancel.setToolTip("Stop this job; nothing half done is left")
        self.cancel.clicked.connect(lambda: self.cancel_wanted.emit(self._kind))
        self._kind, self._started = "", 0.0
        self.final = QToolButton()
        self.final.setToolTip("A final render goes on behind the picture: show it")
        self.final.clicked.connect(self.final_wanted)
        self.final.hide()
        row.addWidget(self.state)
        row.addWidget(self.message, 1)
        row.addWidget(self.log)
        row.addWidget(self.final)
        row.addWidget(self.job)
        row.addWidget(self.cancel)
        self.feet: dict[str, QToolButton] = {}
        group = QButtonGroup(self)
        for name, words, whole in (
            ("proofs", "Proofs", "contact sheet"),
            ("desk", "Desk", "light desk"),
            ("pieces", "Pieces", "pieces"),
            ("stock", "Materials", "ready materials"),
        ):
            button = QToolButton()
            button.setObjectName("foot-switch")
            button.setText(words)
            button.setCheckable(True)
            button.setToolTip(f"Show the {whole} below the picture   F")
            button.clicked.connect(lambda _=False, n=name: self.foot_wanted.emit(n))
            group.addButton(button)
            row.addWidget(button)
            self.feet[name] = button
        column.addLayout(row)
        self._hide_job()

    def show_frame(self, frame: Frame, *, paused: bool) -> None:
        """Show where the render stands."""
        now = frame.progress
        noise = f"noise {now.noise * 100:.1f} %" if now.noise < 1e6 else "noise …"
        what = {"kept": "Proof", "final": "Final", "live": "Live"}[frame.kind]
        left = (
            "done"
            if frame.is_done
            else "stopped"
            if paused
            else f"{duration(now.left_s)} left"
            if now.left_s is not None
            else "…"
        )
        words = f"{what}  ·  {now.samples:.0f} samples  ·  {noise}  ·  {duration(now.seconds)}  ·  {left}"
        self.state.setText(words)
        self.state.setToolTip(words)
        total = now.seconds + (now.left_s or 0)
        share = 1.0 if frame.is_done else now.seconds / total if now.left_s is not None and total else 0
        self.bar.show_share(share)

    def show_waiting(self, what: str) -> None:
        """Show what is waited for before there is a picture."""
        self.state.setText(f"{what}…")
        self.bar.show_share(0.0)

    def show_final(self, words: str) -> None:
        """Show where a final stands that is rendered behind the picture, "" if there is none."""
        if words != self.final.text():
            self.final.setText(words)
            self.final.setVisible(bool(words))

    def say(self, text: str, wrong: bool = False) -> None:
        """Show a sentence."""
        name = "care" if wrong else "soft"
        if self.message.objectName() != name:
            self.message.setObjectName(name)
            self.message.style().unpolish(self.message)
            self.message.style().polish(self.message)
        self.message.set_words(f"▲ {text}" if wrong else text)
        self.message.setToolTip(text)
        self._floating().say(text, wrong, is_cut=self.message.is_cut())

    def toggle_messages(self) -> None:
        """Show the last messages, or hide them."""
        self._floating().toggle()

    def _floating(self) -> Messages:
        if self.messages is None or self.messages.parent() is not self.window():
            kept = self.messages.kept if self.messages is not None else ()
            self.messages = Messages(self)
            self.messages.kept.extend(kept)
        return self.messages

    def show_job(self, kind: str, update: Update) -> None:
        """Show how far a job is, how long it still takes, and how to end it."""
        now = time.monotonic()
        if kind != self._kind:
            self._kind, self._started = kind, now
        share = update.done / update.total if update.total else 0.0
        took = now - self._started
        left = f"  ·  {duration(took * (1 - share) / share)} left" if 0.02 < share < 1 and took > 1 else ""
        self.job.setText(f"{update.note}  {share * 100:.0f} %{left}")
        self.job.setToolTip(self.job.text())
        self.job.show()
        self.cancel.show()

    def end_job(self, kind: str) -> None:
        """Show that a job has ended."""
        if kind == self._kind:
            self._hide_job()

    def _hide_job(self) -> None:
        self._kind = ""
        self.job.hide()
        self.cancel.hide()

    def show_foot(self, name: str) -> None:
        """Mark what the foot shows."""
        self.feet[name].setChecked(True)


class ThinBar(QWidget):
    """A thin line that fills; it only asks to be painted, where a progress bar would paint at once, all that waits."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(4)
        self.setAccessibleName("Progress of the picture")
        self.share = 0.0

    def show_share(self, share: float) -> None:
        """Show how much is done, 0 to 1."""
        if share != self.share:
            self.share = share
            self.update()

    def paintEvent(self, event) -> None:
        """Draw the line."""
        with QPainter(self) as painter:
            painter.fillRect(self.rect(), QColor(t.RAISED))
            painter.fillRect(QRectF(0, 0, self.width() * min(self.share, 1.0), self.height()), QColor(t.MOON))


class _Elided(QLabel):
    """A line of words that is cut where its room ends, and can be read whole in its tooltip."""

    def __init__(self) -> None:
        super().__init__()
        self._words = ""
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)

    def set_words(self, words: str) -> None:
        """Show words."""
        if words != self._words:
            self._words = words
            self._cut()

    def resizeEvent(self, event) -> None:
        """Cut the words anew."""
        self._cut()

    def _cut(self) -> None:
        room = self.width() - 4
        cut = self.fontMetrics().elidedText(self._words, Qt.TextElideMode.ElideRight, room)
        self.setText(cut if room >= 48 or cut == self._words else "")  # a letter and three dots say nothing

    def is_cut(self) -> bool:
        """Return True if not all the words are shown."""
        return self.text() != self._words

    def words(self) -> str:
        """Return all the words."""
        return self._words

"""The sheet of the camera: exposure, lens, focus, frame."""

import numpy as np
from PySide6.QtCore import QSignalBlocker, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from nocturne.scene import edit, exposing
from nocturne.scene.camera import View, projected
from nocturne.scene.document import Document
from nocturne.scene.plan import footprints
from nocturne.ui.panels.sheets.sheet import Sheet
from nocturne.ui.session import Session
from nocturne.ui.view.overlay import plain
from nocturne.ui.widgets.numberfield import NumberField
from nocturne.ui.widgets.plan import FocusPlan
from nocturne.ui.widgets.words import soft

LENSES = tuple(
    (f"{mm:g} mm {words}".strip(), float(mm))
    for mm, words in (
        (18, "very wide"),
        (24, "wide"),
        (28, ""),
        (35, "reportage"),
        (50, "natural"),
        (85, "portrait"),
        (105, ""),
        (135, "long"),
        (200, "very long"),
    )
)
SENSORS = (
    ("Full frame, 36 mm", 36.0),
    ("Super 35, 24.9 mm", 24.9),
    ("APS-C, 23.5 mm", 23.5),
    ("Four thirds, 17.3 mm", 17.3),
    ("Medium format, 53.4 mm", 53.4),
    ("Large format 4 x 5, 121 mm", 121.0),
)


class CameraSheet(Sheet):
    """Lens, exposure, focus and frame of the view that is looked through."""

    focus_wanted = Signal()
    hold_wanted = Signal(bool)
    mode_wanted = Signal(str)
    average_wanted = Signal()
    upright_wanted = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(
            session,
            "views",
            (View,),
            {
                "": ("name",),
                "Exposure": ("iso", "shutter_s", "f_number", "white_k"),
                "Lens": ("projection", "span_m", "focal_mm", "sensor_mm", "shift_x", "shift_y", "roll_deg"),
                "Focus": ("depth_of_field", "focus_middle", "focus_m", "blades", "blades_turn_deg"),
                "Frame": ("width", "height"),
                "Stand": ("parent", "eye", "target", "cut_m", "far_m"),
            },
            "",
        )
        self.reading = self.text()
        self.column.removeItem(self.more)
        self.column.insertLayout(2, self.more)
        self._buttons(
            ("Expose for all", "Put the mean of the picture at middle grey, by the shutter", self.average_wanted.emit),
            ("Spot…", "Click what should become middle grey   Shift+X", lambda: self.mode_wanted.emit("spot")),
        )
        self._buttons(
            ("Neutral…", "Click something that should look grey   Shift+N", lambda: self.mode_wanted.emit("neutral")),
            ("Focus…", "Click what should be sharp   X", self.focus_wanted.emit),
            (
                "Upright",
                "Hold the camera level and shift the frame: verticals stay upright   Alt+T",
                self.upright_wanted.emit,
            ),
        )
        self.presets = QWidget()
        column = QVBoxLayout(self.presets)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        self.lens = self._presets(column, "Lens", LENSES, "focal_mm")
        self.sensor = self._presets(column, "Sensor", SENSORS, "sensor_mm")
        self.more.addWidget(self.presets)
        self.range = QWidget()
        rows = QVBoxLayout(self.range)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(5)
        help = "The f-number and focus distance that make this range look sharp."
        self.near = NumberField("Sharp from", unit="m", low=0.01, high=1e5, log=True, label_width=64, help=help)
        self.far = NumberField("Sharp to", unit="m", low=0.01, high=1e5, log=True, label_width=64, help=help)
        for field in (self.near, self.far):
            field.committed.connect(lambda *_: self._focus_on_range())
            rows.addWidget(field)
        self.more.addWidget(self.range)
        self.plan = FocusPlan()
        self.plan.edited.connect(lambda metres, merge: self._alter("focus_m", metres, merge))
        self.plan.committed.connect(lambda metres, merge: self._alter("focus_m", metres, merge))
        self._footprints: tuple[tuple, object] = ((), None)
        self.more.addWidget(self.plan)
        self.hold = QCheckBox("Hold the focus on a thing…")
        self.hold.setToolTip("Click a thing in the picture: it stays sharp when it or the camera moves")
        self.hold.clicked.connect(self._ask_hold)
        self.more.addWidget(self.hold)
        self.lock = QCheckBox("Keep the frame's proportion")
        self.lock.setChecked(True)
        self.more.addWidget(self.lock)

    def _buttons(self, *rows: tuple) -> None:
        line = QHBoxLayout()
        line.setSpacing(4)
        for words, help, action in rows:
            button = QPushButton(words)
            button.setToolTip(help)
            button.clicked.connect(lambda _=False, a=action: a())
            line.addWidget(button)
        self.more.addLayout(line)

    def _presets(self, column: QVBoxLayout, words: str, choices: tuple, name: str) -> QComboBox:
        line = QHBoxLayout()
        label = soft(words, width=64)
        box = QComboBox()
        box.setAccessibleName(f"{words} preset")
        box.setPlaceholderText("Other")
        for text, value in choices:
            box.addItem(text, value)
        box.activated.connect(lambda i: self._alter(name, box.itemData(i), None))
        line.addWidget(label)
        line.addWidget(box, 1)
        column.addLayout(line)
        return box

    def _ask_hold(self, on: bool) -> None:
        self.hold.setChecked(bool(self.session.document.view.focus_on))  # it is held once a thing was clicked
        self.hold_wanted.emit(on)

    def _before_the_lens(self, view: View, document: Document) -> np.ndarray:
        assets = self.session.assets
        key = (document.things, assets, view.eye, view.target, view.focal_mm, view.sensor_mm, view.shift_x)
        known = self._footprints[0]
        if len(known) != len(key) or known[0] is not key[0] or known[1] is not assets or known[2:] != key[2:]:
            self._footprints = (key, footprints(document, assets, view))
        return self._footprints[1]

    def _focus_on_range(self) -> None:
        view = self.session.document.view
        after = exposing.focused_on_range(view, self.near.value, self.far.value)
        self.session.edit(edit.put, "views", after, label="Focus on a range")

    def _alter(self, name, value, merge):
        view = self.session.document.view
        if name in ("width", "height") and self.lock.isChecked():
            share = view.height / view.width
            other = value * share if name == "width" else value / share
            both = {name: value, "height" if name == "width" else "width": min(max(round(other), 16), 16384)}
            self.session.edit(edit.alter, "views", view.id, label="Change the frame", merge=merge, **both)
            return
        if name == "projection":
            self.session.edit(edit.put, "views", projected(view, value), label="Change the projection", merge=merge)
            return
        if name == "parent":
            value = {"parent": value, "home": ()}
            self.session.edit(edit.alter, "views", view.id, label="Let the view move with a group", **value)
            return
        if name == "focus_m" and view.focus_on:
            # Who sets a distance by hand no longer wants it held.
            self.session.edit(
                edit.alter, "views", view.id, focus_m=value, focus_on="", label="Change focus distance", merge=merge
            )
            return
        super()._alter(name, value, merge)

    def chosen_id(self, document):
        """Return the active view."""
        return document.view.id

    def show_item(self, item, document):
        """Show a view with its exposure value and what is sharp."""
        groups = [(thing.id, thing.name) for thing in document.things if thing.is_group]
        self.form.set_choices("parent", [("", "Nothing"), *groups])
        self.form.show_model(item)
        self.form.show_only(_counting(item))
        self.presets.setVisible(item.projection == "perspective")
        near, far = exposing.sharp_range(item)
        self.near.show_value(round(near, 4))
        self.far.show_value(round(min(far, 1e5), 4))
        by_distance = item.depth_of_field and not item.focus_middle
        for widget in (self.range, self.plan, self.hold):
            widget.setVisible(by_distance)
        self.hold.setChecked(bool(item.focus_on))
        self.hold.setText(_held_words(item, document))
        if by_distance:
            self.plan.show_view(item, self._before_the_lens(item, document))
        sharp = f"\nsharp from {near:.3g} m to {'infinity' if far > 1e5 else f'{far:.3g} m'}" if by_distance else ""
        self.reading.setText(
            f"EV {item.ev100:.1f} at ISO 100   ·   white at {plain(item.white_luminance)} nit   ·   "
            f"middle grey at {plain(item.white_luminance * 0.18)} nit{sharp}"
        )
        for box, value in ((self.lens, item.focal_mm), (self.sensor, item.sensor_mm)):
            with QSignalBlocker(box):
                box.setCurrentIndex(box.findData(value))


def _counting(view: View) -> set[str]:
    """Return the fields that count for what a view is."""
    names = set(View.model_fields)
    if view.projection != "orthographic":
        names.discard("span_m")
    if view.projection != "perspective":
        names -= {"sensor_mm"} if view.depth_of_field else {"sensor_mm", "focal_mm"}
    if not view.depth_of_field:
        names -= {"focus_middle", "focus_m", "blades", "blades_turn_deg"}
    if view.focus_middle:
        names.discard("focus_m")
    return names


def _held_words(view: View, document: Document) -> str:
    """Return on what the focus is held, with the group it is in: a part's own name may say little."""
    if not view.focus_on:
        return "Hold the focus on a thing…"
    thing = document.find("things", view.focus_on)
    if thing is None:
        return "Focus held on what is gone"
    group = document.find("things", thing.parent)
    return f"Focus held on {f'{group.name}: ' if group else ''}{thing.name}"

"""The sheet of models that wait to be brought in: how large they are, what is in them, what has no equal here."""

from dataclasses import replace
from pathlib import Path
from urllib.parse import unquote

import numpy as np
from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from nocturne.io.models.read import pictures_of
from nocturne.scene.bringing import box_in_metres
from nocturne.scene.measuring import length
from nocturne.ui import files
from nocturne.ui.bringwork import BringWork, Guest
from nocturne.ui.layout import scrolling
from nocturne.ui.widgets.numberfield import NumberField
from nocturne.ui.widgets.words import section, soft

UNITS = (("Metres", 1.0), ("Centimetres", 0.01), ("Millimetres", 0.001), ("Inches", 0.0254), ("Feet", 0.3048))
_SMALL, _LARGE = 1e-3, 1e3  # metres between which a model is likely meant as it is


class BringSheet(QWidget):
    """What came with some models, and how it is to be brought in."""

    bring_wanted = Signal()
    close_wanted = Signal()

    def __init__(self, work: BringWork) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.work = work
        self.guests: list[Guest] = []
        self.blocks: list[_Block] = []
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        inside = QWidget()
        inside.setObjectName("panel")
        column = QVBoxLayout(inside)
        column.setContentsMargins(14, 10, 14, 14)
        column.setSpacing(6)
        title = QLabel("Bring in")
        title.setObjectName("heading")
        column.addWidget(title)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(6)
        column.addLayout(self.rows)
        column.addStretch(1)
        outer.addWidget(scrolling(inside), 1)
        keys = QHBoxLayout()
        keys.setContentsMargins(14, 0, 14, 14)
        self.go = QPushButton("Bring in")
        self.go.setObjectName("main")
        self.go.clicked.connect(self._bring)
        self.leave = QPushButton("Leave it")
        self.leave.clicked.connect(self.close_wanted)
        keys.addWidget(self.go, 1)
        keys.addWidget(self.leave)
        outer.addLayout(keys)

    def show_guests(self, guests: list[Guest]) -> None:
        """Show models that were read."""
        for block in self.blocks:
            self.rows.removeWidget(block)
            block.deleteLater()
        self.guests = guests
        self.blocks = [_Block(guest, self.work) for guest in guests]
        for block in self.blocks:
            self.rows.addWidget(block)
        self.go.setText("Bring in" if len(guests) == 1 else f"Bring in {len(guests)} models")
        self.go.setFocus()

    def _bring(self) -> None:
        guests, self.guests = self.guests, []
        self.close_wanted.emit()
        if guests:
            self.work.place(guests)


class _Block(QWidget):
    """One model."""

    def __init__(self, guest: Guest, work: BringWork) -> None:
        super().__init__()
        self.guest, self.work = guest, work
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(6)
        name = QLabel(guest.path.name)
        name.setObjectName("section")
        self.column.addWidget(name)
        self.size = QLabel()
        self.size.setWordWrap(True)
        self.column.addWidget(self.size)
        self.odd = soft("")
        self.column.addWidget(self.odd)
        self.fit = QPushButton("Make its longest side 1 m")
        self.fit.clicked.connect(self._fit)
        self.column.addWidget(self.fit)
        self._make_unit()
        self.facts = soft("")
        self.column.addWidget(self.facts)
        self.folder = QPushButton("Look for pictures in a folder…")
        self.folder.clicked.connect(self._ask_folder)
        work.looked.connect(self._show_again)
        self.missing = soft("")
        self.column.addWidget(self.missing)
        self.column.addWidget(self.folder)
        self.outside = soft("")
        self.column.addWidget(self.outside)
        self.allow = QPushButton("Allow them, and read it again")
        self.allow.setToolTip("From now on this model may read files anywhere. Do so if you know where it comes from.")
        self.allow.clicked.connect(lambda: work.let_outside(guest))
        self.column.addWidget(self.allow)
        self.told = QWidget()
        self.column.addWidget(self.told)
        self._make_told()
        self._show()

    def _make_told(self) -> None:
        """Show what is in it and can be left, and what was told of it."""
        old, self.told = self.told, QWidget()
        self.column.replaceWidget(old, self.told)
        old.deleteLater()
        guest, column = self.guest, QVBoxLayout(self.told)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self.ticks: dict[tuple[str, str], QCheckBox] = {}
        for part, items in (("lights", guest.arrival.lights), ("views", guest.arrival.views)):
            if items:
                column.addWidget(section(part.capitalize()))
            for item in items:
                what = f"  ({item.title.lower()})" if part == "lights" else ""
                box = QCheckBox(f"{item.name}{what}")
                box.setChecked(True)
                box.toggled.connect(lambda on, p=part, id=item.id: self._tick(p, id, on))
                self.ticks[(part, item.id)] = box
                column.addWidget(box)
        for words, told in (("Has no equal here", guest.arrival.lost), ("Put right", guest.arrival.mended)):
            if told:
                column.addWidget(section(words))
                more = f"\n…and {len(told) - 12} more" if len(told) > 12 else ""
                column.addWidget(soft("\n".join(told[:12]) + more))

    def _make_unit(self) -> None:
        row = QHBoxLayout()
        self.unit = QComboBox()
        self.unit.setAccessibleName(f"Unit of {self.guest.path.name}")
        self.unit.setToolTip("How long one unit of the file is")
        for words, metres in UNITS:
            self.unit.addItem(words, metres)
        self.unit.addItem("Other", None)
        self.unit.activated.connect(self._take_unit)
        self.up = QComboBox()
        self.up.setAccessibleName(f"Up axis of {self.guest.path.name}")
        self.up.setToolTip("Which axis of the file points up")
        for axis in "yz":
            self.up.addItem(f"{axis.upper()} is up", axis)
        self.up.activated.connect(lambda _: self._want(up=self.up.currentData()))
        row.addWidget(self.unit, 1)
        row.addWidget(self.up, 1)
        self.column.addLayout(row)
        self.other = NumberField("One unit is", unit="m", low=1e-9, high=1e9, soft_high=10.0, log=True, default=1.0)
        self.other.edited.connect(lambda value, _: self._want(unit_m=float(value)))
        self.other.committed.connect(lambda value, _: self._want(unit_m=float(value)))
        self.column.addWidget(self.other)

    def _take_unit(self) -> None:
        metres = self.unit.currentData()
        self.other.setVisible(metres is None)
        if metres is not None:
            self._want(unit_m=metres)

    def _want(self, **values) -> None:
        self.guest.wanted = replace(self.guest.wanted, **values)
        self._show()

    def _tick(self, part: str, id: str, on: bool) -> None:
        ids = getattr(self.guest.wanted, part)
        self.guest.wanted = replace(self.guest.wanted, **{part: ids | {id} if on else ids - {id}})

    def _fit(self) -> None:
        longest = float(np.ptp(box_in_metres(self.guest.arrival, self.guest.wanted), axis=0).max())
        self._want(unit_m=self.guest.wanted.unit_m / longest)

    def _ask_folder(self) -> None:
        name = files.ask_folder(self.window(), "Look for pictures", str(self.guest.path.parent))
        if name:
            self.work.try_folder(self.guest, Path(name))

    def _show_again(self, guest: Guest) -> None:
        if guest is self.guest:
            self._make_told()
            self._show()

    def _show(self) -> None:
        arrival, wanted = self.guest.arrival, self.guest.wanted
        size = np.ptp(box_in_metres(arrival, wanted), axis=0)
        self.size.setText(" × ".join(length(float(v)) for v in size) if arrival.parts else "Nothing with a shape")
        has_places = bool(arrival.things or arrival.lights or arrival.views)
        for box in (self.unit, self.up):
            box.setVisible(has_places)
        longest = float(size.max())
        is_odd = bool(arrival.parts) and not _SMALL < longest < _LARGE
        self.odd.setVisible(is_odd)
        self.fit.setVisible(is_odd)
        if is_odd:
            what = "small" if longest <= _SMALL else "large"
            self.odd.setText(f"That is very {what}. Is the unit right?")
        at = self.unit.findData(wanted.unit_m)
        self.unit.setCurrentIndex(at if at >= 0 else len(UNITS))
        self.other.setVisible(has_places and (at < 0 or self.unit.currentData() is None))
        self.other.show_value(wanted.unit_m)
        self.up.setCurrentIndex(self.up.findData(wanted.up))
        pictures = pictures_of(arrival)
        shared = len({thing.mesh for thing in arrival.parts})
        counts = (
            (len(arrival.parts), "part", f" of {shared} meshes" if shared != len(arrival.parts) else ""),
            (arrival.n_triangles, "triangle", ""),
            (len(arrival.materials), "material", ""),
            (sum(1 for path in pictures if unquote(path) not in arrival.missing), "picture", " found"),
        )
        told = "" if arrival.is_told else "The file does not say its unit or what is up.\n"
        lines = "   ·   ".join(f"{n:,} {word}{'' if n == 1 else 's'}{after}" for n, word, after in counts)
        self.facts.setText(told + lines)
        self.missing.setVisible(bool(arrival.missing))
        self.folder.setVisible(bool(arrival.missing))
        more = f"\n…and {len(arrival.missing) - 6} more" if len(arrival.missing) > 6 else ""
        self.outside.setVisible(bool(arrival.outside))
        self.allow.setVisible(bool(arrival.outside))
        others = f"\n…and {len(arrival.outside) - 6} more" if len(arrival.outside) > 6 else ""
        names = "\n".join(arrival.outside[:6])
        self.outside.setText(f"It names files outside its folder, which were not read:\n{names}{others}")
        self.missing.setText("Missing files:\n" + "\n".join(arrival.missing[:6]) + more)

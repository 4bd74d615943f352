"""Seeded random use of the real window: commands, clicks, drags, keys, fields; reports faults, memory and lateness.

    PYTHONPATH=src .venv/bin/python tools/random_use.py [--seconds 3600] [--seed 1]

Runs without a screen, on a copy of the demo project in a folder of its own. Ends with 1 if anything raised or was
logged as an error, or if memory kept growing. As what is on the screen decides how much memory is needed, memory is
compared only at rests: about every five minutes the tool puts the window back to where it began.
"""

import argparse
import gc
import logging
import os
import random
import shutil
import sys
import tempfile
import time
import traceback
from pathlib import Path
from statistics import median

_HOME = Path(tempfile.mkdtemp(prefix="nocturne-random-"))
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_CONFIG_HOME"] = str(_HOME / "config")
os.environ["XDG_DATA_HOME"] = str(_HOME / "data")

from PySide6.QtCore import QEventLoop, QPoint, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QPushButton, QToolButton, QWidget
from shiboken6 import isValid

from nocturne.demo import workshop
from nocturne.jobs import run
from nocturne.scene import edit
from nocturne.scene.finish import STEPS
from nocturne.scene.lights import KINDS
from nocturne.ui import files
from nocturne.ui.app import application
from nocturne.ui.commands import COMMANDS
from nocturne.ui.widgets.curve import CurveEditor
from nocturne.ui.widgets.fader import Fader
from nocturne.ui.widgets.numberfield import DragLabel
from nocturne.ui.widgets.plan import FocusPlan
from nocturne.ui.window import Window

NEVER = ("project.quit", "picture.full", "project.new", "project.demo", "project.open-render")
REST_SECONDS = 300
KEYS = [
    Qt.Key.Key_Left,
    Qt.Key.Key_Right,
    Qt.Key.Key_Up,
    Qt.Key.Key_Down,
    Qt.Key.Key_Escape,
    Qt.Key.Key_Tab,
    Qt.Key.Key_M,
]
TYPED = ["0", "1", "-1", "0.5", "12", "1e9", "3 ft", "+1 stop", "2700K", "1/60", "* 2", "nonsense", "", "50 %", "nan"]
LEFT, MIDDLE, RIGHT = Qt.MouseButton.LeftButton, Qt.MouseButton.MiddleButton, Qt.MouseButton.RightButton


class Faults(logging.Handler):
    """Collects what is logged as an error, and exceptions nobody caught."""

    def __init__(self) -> None:
        super().__init__(logging.ERROR)
        self.found: list[str] = []

    def emit(self, record: logging.LogRecord) -> None:
        """Take a record."""
        self.found.append(self.format(record))

    def hook(self, kind, error, trace) -> None:
        """Take an exception."""
        self.found.append("".join(traceback.format_exception(kind, error, trace)))


class Heart:
    """Measures how late a timer of the interface thread is while something is being done."""

    def __init__(self) -> None:
        self.late: list[float] = []
        self._due = time.perf_counter()
        self._timer = QTimer()
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.setInterval(5)
        self._timer.timeout.connect(self._beat)
        self._timer.start()

    def _beat(self) -> None:
        now = time.perf_counter()
        self.late.append(max(now - self._due - 0.005, 0.0))
        self._due = now


class User:
    """Does one random thing after another."""

    def __init__(self, window: Window, seed: int) -> None:
        self.window, self.dice, self.done = window, random.Random(seed), 0
        self.start = window.session.document
        self.actions = (
            (14, self.command),
            (8, self.click_picture),
            (10, self.drag_picture),
            (6, self.wheel),
            (6, self.key),
            (12, self.field),
            (6, self.combo),
            (6, self.button),
            (6, self.choose),
            (6, self.desk),
            (5, self.step),
            (3, self.light),
            (8, self.history),
            (2, self.resize),
            (2, self.proof),
            (4, self.row),
            (4, self.handle),
            (8, self.control),
        )

    def act(self) -> str:
        """Do something and return what it was."""
        weights = [weight for weight, _ in self.actions]
        action = self.dice.choices([action for _, action in self.actions], weights)[0]
        self.done += 1
        return f"{action.__name__}: {action()}"

    def _point(self) -> QPoint:
        room = self.window.picture.rect()
        return QPoint(self.dice.randrange(room.width()), self.dice.randrange(room.height()))

    def command(self) -> str:
        """Run any command."""
        command = self.dice.choice([c for c in COMMANDS if c.id not in NEVER])
        self.window.run_command(command)
        for popup in QApplication.topLevelWidgets():
            if popup is not self.window and popup.isVisible():
                popup.close()
        return command.id

    def _keys(self) -> Qt.KeyboardModifier:
        return self.dice.choice(
            [
                Qt.KeyboardModifier.NoModifier,
                Qt.KeyboardModifier.ShiftModifier,
                Qt.KeyboardModifier.ControlModifier,
                Qt.KeyboardModifier.AltModifier,
            ]
        )

    def click_picture(self) -> str:
        """Click somewhere in the picture."""
        at = self._point()
        QTest.mouseClick(self.window.picture, LEFT, self._keys(), at)
        return f"{at.x()}, {at.y()}"

    def drag_picture(self) -> str:
        """Drag in the picture with any button."""
        button = self.dice.choice([LEFT, LEFT, MIDDLE, RIGHT])
        return f"{button} {self._drag(self.window.picture, self._point(), button)}"

    def _drag(self, widget: QWidget, at: QPoint, button: Qt.MouseButton = LEFT) -> str:
        """Drag from a point of a widget, now and then with a command by key in the middle; return that."""
        keys, command = self._keys(), ""
        QTest.mousePress(widget, button, keys, at)
        for i in range(4):
            at += QPoint(self.dice.randint(-25, 25), self.dice.randint(-25, 25))
            if isValid(widget):
                QTest.mouseMove(widget, at)
            if i == 2 and self.dice.random() < 0.15:
                command = self.command()
            QApplication.processEvents()
        if isValid(widget):
            QTest.mouseRelease(widget, button, keys, at)
        return command

    def handle(self) -> str:
        """Drag a handle of what is chosen, if there is one."""
        made = self.window.picture.star()
        if made is None or not made.grips:
            return "none"
        grip = self.dice.choice(made.grips)
        return f"{grip.kind} {self._drag(self.window.picture, grip.at.toPoint())}"

    def control(self) -> str:
        """Drag in a visible control that takes drags."""
        kinds = (DragLabel, Fader, CurveEditor, FocusPlan)
        there = [w for kind in kinds for w in self.window.findChildren(kind) if w.isVisible()]
        if not there:
            return "none"
        widget = self.dice.choice(there)
        at = QPoint(self.dice.randrange(widget.width()), self.dice.randrange(widget.height()))
        return f"{type(widget).__name__} {self._drag(widget, at)}"

    def wheel(self) -> str:
        """Turn the wheel over the picture."""
        from PySide6.QtCore import QPointF
        from PySide6.QtGui import QWheelEvent

        at, turn = QPointF(self._point()), self.dice.choice([-120, 120])
        event = QWheelEvent(
            at,
            at,
            QPoint(),
            QPoint(0, turn),
            Qt.MouseButton.NoButton,
            self._keys(),
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        QApplication.sendEvent(self.window.picture, event)
        return str(turn)

    def key(self) -> str:
        """Press a key in the picture."""
        key = self.dice.choice(KEYS)
        QTest.keyClick(self.window.picture, key, self._keys())
        return str(key)

    def field(self) -> str:
        """Type something into a visible field of the sheet."""
        from nocturne.ui.widgets.numberfield import NumberField

        fields = [f for f in self.window.sheet_stack.currentWidget().findChildren(NumberField) if f.isVisible()]
        if not fields:
            return "none"
        field = self.dice.choice(fields)
        text = self.dice.choice(TYPED)
        if field.unit == "px" or field.kind == "whole":
            text = str(self.dice.randint(16, 400))
        field.entry.setFocus()
        field.entry.selectAll()
        QTest.keyClicks(field.entry, text)
        QTest.keyClick(field.entry, Qt.Key.Key_Return)
        return text

    def combo(self) -> str:
        """Choose from a visible drop-down."""
        boxes = [b for b in self.window.findChildren(QComboBox) if b.isVisible() and b.isEnabled() and b.count()]
        box = self.dice.choice(boxes)
        i = self.dice.randrange(box.count())
        box.setCurrentIndex(i)
        box.activated.emit(i)
        return box.accessibleName()

    def button(self) -> str:
        """Press a visible button that opens no menu: those wait for a choice."""
        skip = {self.window.lists["finish"].add}
        kinds = (QPushButton, QToolButton)
        there = [b for kind in kinds for b in self.window.findChildren(kind) if b.isVisible() and b.isEnabled()]
        there = [b for b in there if b not in skip and "demo" not in b.text()]
        there = [
            b for b in there if not b.accessibleName().startswith(("What can be done", "Add a light", "Add a shape"))
        ]
        button = self.dice.choice(there)
        button.click()
        return button.text() or button.toolTip()

    def row(self) -> str:
        """Mute, place, mix, move, copy or remove a picture of the material that is seen."""
        sheet = self.window.sheets["materials"]
        rows = [row for row in sheet.rows if row.isVisible()]
        if not rows:
            return "none"
        row = self.dice.choice(rows)
        menu = row.menu()
        actions = [a for a in menu.actions() if a.text() and "picture" not in a.text()]
        act = self.dice.choice([row.dot.click, row.picture.click, self.dice.choice(actions).trigger])
        act()
        menu.deleteLater()
        return row.step.parameter

    def choose(self) -> str:
        """Choose an item of the document, or several."""
        part = self.dice.choice(["things", "materials", "lights", "views", "steps"])
        document = self.window.session.document
        items = document.finish.steps if part == "steps" else getattr(document, part)
        if items:
            ids = tuple(item.id for item in self.dice.sample(items, min(len(items), self.dice.choice([1, 1, 3]))))
            self.window.session.choose_many(part, ids) if part == "things" else self.window.session.choose(part, ids[0])
        return part

    def desk(self) -> str:
        """Move a fader, or recall a cue."""
        desk = self.window.desk
        if desk.strips and self.dice.random() < 0.7:
            strip = self.dice.choice(list(desk.strips.values()))
            strip.fader.edited.emit(self.dice.uniform(-6, 6), ("random", self.done))
            return strip.group
        cues = self.window.session.document.cues
        if cues:
            desk.recall(self.dice.choice(cues).id)
        return "cue"

    def step(self) -> str:
        """Add a finishing step, or take one away when there are many."""
        steps = self.window.lists["finish"]
        if len(self.window.session.document.finish.steps) > 6:
            document = self.window.session.document
            self.window.session.push(edit.changed(document, finish=edit.changed(document.finish, steps=())), "Clear")
            return "clear"
        kind = self.dice.choice([k for k in STEPS if k != "lut"])
        steps.add_step(kind)
        return kind

    def light(self) -> str:
        """Add a light, or undo when there are many."""
        if len(self.window.session.document.lights) > 12:
            self.window.session.undo()
            return "undo"
        kind = self.dice.choice(list(KINDS))
        self.window.choice.add_light(kind)
        return kind

    def history(self) -> str:
        """Undo and redo."""
        history = self.window.session.history
        self.window.session.go_to_step(self.dice.randrange(max(len(history.steps) - 6, 0), len(history.steps)))
        return str(history.at)

    def resize(self) -> str:
        """Give the window another size."""
        size = self.dice.choice([(1280, 800), (1600, 900), (1180, 720)])
        self.window.resize(*size)
        return str(size)

    def proof(self) -> str:
        """Keep a proof while there are few, else remove one."""
        room = self.window.room
        if len(room.proofs) < 8:
            self.window.proofs.keep()
            return "keep"
        room.remove(self.dice.choice(room.proofs).id)
        return "remove"

    def rest(self) -> tuple[float, int]:
        """Go back to where it all began; return the memory held there, MB, and the number of widgets."""
        window = self.window
        for proof in window.room.proofs:
            window.room.remove(proof.id)
        window.resize(1280, 800)
        window.picture.zoom_whole()
        window.session.go_to("light")
        window.session.push(self.start, "Back to the start")
        wait(15)
        gc.collect()
        return memory_mb(), len(QApplication.allWidgets())


def memory_mb() -> float:
    """Return the memory that the process holds, MB."""
    return int(Path("/proc/self/statm").read_text().split()[1]) * os.sysconf("SC_PAGESIZE") / 1e6


def steal() -> float:
    """Return the time that this machine's processors have been kept from it by others, s, the mean of a processor."""
    words = Path("/proc/stat").read_text().split("\n", 1)[0].split()
    return int(words[8]) / os.sysconf("SC_CLK_TCK") / os.cpu_count()


def wait(seconds: float) -> None:
    """Run the event loop for a time."""
    loop = QEventLoop()
    QTimer.singleShot(round(seconds * 1000), loop.quit)
    loop.exec()


def opened(size: tuple[int, int], project: Path | None) -> Window:
    """Return a window on a copy of a project, or of the demo, with a small frame so that final renders end."""
    if project is None:
        path = run(workshop.save(_HOME / "project"))
    else:
        path = Path(shutil.copytree(project.parent, _HOME / "project")) / project.name
    (_HOME / "out").mkdir(exist_ok=True)
    files.ask_open_file = lambda *_: ""
    files.ask_open_files = lambda *_: []
    files.ask_save_file = lambda *given: str(_HOME / "out" / f"saved{given[-1]}")
    files.ask_folder = lambda *_: str(_HOME / "out")
    files.ask_unsaved = lambda *_: "stay"
    files.ask_outside = lambda *_: "stay"
    window = Window()
    window.resize(*size)
    window.show()
    window.open_path(path)
    wait(4)
    window.session.edit(edit.alter, "views", "wide", width=320, height=180, label="Small")
    return window


def main() -> int:
    """Use the window for a time and say what happened."""
    given = argparse.ArgumentParser(description=__doc__)
    given.add_argument("--seconds", type=float, default=3600)
    given.add_argument("--seed", type=int, default=1)
    given.add_argument("--pause", type=float, default=0.06, help="seconds between actions")
    given.add_argument("--project", type=Path, help="a project whose folder is copied, in place of the demo")
    words = given.parse_args()
    faults = Faults()
    logging.getLogger().addHandler(faults)
    sys.excepthook = faults.hook
    application(["nocturne"])
    window = opened((1280, 800), words.project)
    user, heart = User(window, words.seed), Heart()
    took, last, said, until = [], "", time.monotonic(), time.monotonic() + words.seconds
    rests, rested = [], time.monotonic()
    while time.monotonic() < until and len(faults.found) < 5:
        before = len(faults.found)
        started, worked, stolen = time.perf_counter(), time.thread_time(), steal()
        try:
            last = user.act()
            took.append((time.perf_counter() - started, time.thread_time() - worked, steal() - stolen, last))
        except Exception:  # noqa: BLE001 - whatever an action raises is what this tool looks for
            faults.found.append(traceback.format_exc())
        wait(words.pause)
        if time.monotonic() - said > 60:
            said = time.monotonic()
            print(f"{user.done} actions, {memory_mb():.0f} MB, {len(faults.found)} faults", flush=True)
        if time.monotonic() - rested > REST_SECONDS:
            rests.append(user.rest())
            rested = time.monotonic()
            print(f"at rest: {rests[-1][0]:.0f} MB, {rests[-1][1]} widgets", flush=True)
        if len(faults.found) > before:
            print(*faults.found[before:], f"at action {user.done}, {last}", sep="\n", flush=True)
    window.session.history.mark_saved(window.session.document)
    window.close()
    shutil.rmtree(_HOME, ignore_errors=True)
    return report(user, faults, heart, rests, took)


def report(
    user: User,
    faults: Faults,
    heart: Heart,
    rests: list[tuple[float, int]],
    took: list[tuple[float, float, float, str]],
) -> int:
    """Print what happened; return 1 if anything was wrong."""
    for seconds, worked, stolen, what in sorted(took, reverse=True)[:12]:
        print(
            f"{seconds * 1e3:6.0f} ms, of them {worked * 1e3:.0f} at work in the interface thread, "
            f"while the machine lost {stolen * 1e3:.0f}  {what}"
        )
    half = len(rests) // 2
    early, late = (median([mb for mb, _ in part] or [0]) for part in (rests[:half], rests[half:]))
    lateness = sorted(heart.late) or [0.0]
    print(
        f"{user.done} actions, {len(faults.found)} faults; memory at rest {early:.0f} MB in the first half (median), "
        f"{late:.0f} MB in the second; a timer of the interface thread was late by "
        f"{lateness[len(lateness) // 2] * 1e3:.1f} ms (median), "
        f"{lateness[int(len(lateness) * 0.99)] * 1e3:.0f} ms (p99), {lateness[-1] * 1e3:.0f} ms (most)"
    )
    grows = half >= 3 and late > 1.15 * early
    return 1 if faults.found or grows else 0


if __name__ == "__main__":
    sys.exit(main())

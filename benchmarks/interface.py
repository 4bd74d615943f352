"""How long the interface thread is held up while the picture renders, by what the user does.

    PYTHONPATH=src .venv/bin/python benchmarks/interface.py

Runs the real window without a screen on the demo project, with two render threads, developing and denoising going on.
Each row is the time that one step holds the interface thread, handling and painting together; beside it, as a measure
of the machine, how late a timer is while the user does nothing.
"""

import os
import statistics
import tempfile
import time

os.environ["QT_QPA_PLATFORM"] = "offscreen"
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp(prefix="nocturne-bench-")

from PySide6.QtCore import QEventLoop, Qt, QTimer
from PySide6.QtWidgets import QApplication

from nocturne.demo import workshop
from nocturne.jobs import run
from nocturne.scene import edit, grading, navigate
from nocturne.ui.app import application
from nocturne.ui.window import Window


def wait(seconds: float) -> None:
    """Run the event loop for a time."""
    loop = QEventLoop()
    QTimer.singleShot(round(seconds * 1000), loop.quit)
    loop.exec()


def lateness(seconds: float) -> list[float]:
    """Return how late a timer of 5 ms was, each time, while nothing is done."""
    late, due = [], [time.perf_counter() + 0.005]
    timer = QTimer()
    timer.setTimerType(Qt.TimerType.PreciseTimer)

    def beat() -> None:
        now = time.perf_counter()
        late.append(max(now - due[0], 0.0))
        due[0] = now + 0.005

    timer.timeout.connect(beat)
    timer.start(5)
    wait(seconds)
    return late


def held(step, n: int = 40) -> list[float]:
    """Return how long each of n steps held the thread, between them the picture goes on."""
    took = []
    for i in range(n):
        started = time.perf_counter()
        step(i)
        QApplication.processEvents()
        took.append(time.perf_counter() - started)
        wait(0.03)
    return took


def row(what: str, took: list[float]) -> None:
    """Print a row of a table, ms."""
    took = sorted(took)
    figures = (statistics.median(took), took[int(len(took) * 0.95)], took[-1])
    print(f"| {what} | " + " | ".join(f"{seconds * 1e3:.1f}" for seconds in figures) + " |")


def main() -> None:
    """Measure and print a table."""
    application(["nocturne"])
    path = workshop.user_path()
    if not path.is_file():
        run(workshop.save(path.parent))
    window = Window()
    window.resize(1280, 800)
    window.show()
    window.open_path(path)
    wait(6)
    s = window.session
    print("| step, while rendering | median ms | 95 % | most |\n|---|---|---|---|")
    row("nothing: a timer's lateness", lateness(6))
    s.choose("things", "mug")

    def moved(i: int) -> None:
        s.edit(edit.put, "views", navigate.pan(s.document.view, across=0.002, up=0), label="Move", merge="m")

    row("move the view, handles shown", held(moved))
    row(
        "move a thing",
        held(lambda i: s.edit(edit.alter, "things", "mug", place=(-0.36, -0.1, 0.8 + i / 1e3), label="t")),
    )
    s.go_to("light")
    wait(1)
    row("a fader", held(lambda i: s.edit(edit.set_strip, "lamp", stops=i / 40, label="f", merge="f")))
    row("a lamp's power", held(lambda i: s.edit(edit.alter, "lights", "bulb", power=1000.0 + i, label="p", merge="p")))
    s.go_to("finish")
    s.push(grading.give_s_curve(s.document)[0], "S")
    wait(1)
    row("the grade", held(lambda i: s.edit(grading.set_exposure, i / 40, label="e", merge="e")))
    stages = ("set", "materials", "light", "camera", "render", "finish")
    row("change the stage", held(lambda i: s.go_to(stages[i % 6])))
    s.history.mark_saved(s.document)
    window.close()


if __name__ == "__main__":
    main()

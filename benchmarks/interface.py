"""How long the interface thread is held up while the picture renders, by what the user does.

    PYTHONPATH=src .venv/bin/python benchmarks/interface.py

Runs the real window without a screen on the demo project, with two render threads, developing and denoising going on.
Each row is the longest time for which the interface thread did not come back to its event loop in the 80 ms from a step
on, handling or painting it; beside it, as a measure of the machine, the same while the user does nothing.
"""

import os
import statistics
import tempfile
import time

os.environ["QT_QPA_PLATFORM"] = "offscreen"
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp(prefix="nocturne-bench-")

from PySide6.QtCore import QEventLoop, Qt, QTimer

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


class Beat:
    """Tells how long the thread did not come back to its event loop: a timer that should come every millisecond."""

    def __init__(self) -> None:
        self.longest, self._last = 0.0, time.perf_counter()
        self._timer = QTimer()
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._beat)
        self._timer.start(1)

    def _beat(self) -> None:
        now = time.perf_counter()
        self.longest = max(self.longest, now - self._last - 0.001)
        self._last = now

    def during(self, step, seconds: float) -> float:
        """Return the longest absence while one step is done from the event loop, as a click does it, s."""
        self.longest = 0.0
        QTimer.singleShot(0, step)
        wait(seconds)
        self._beat()
        return self.longest


def held(step, n: int = 40) -> list[float]:
    """Return how long each of n steps held the thread at most, handling and painting; the picture goes on."""
    beat = Beat()
    return [beat.during(lambda i=i: step(i), 0.08) for i in range(n)]


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
    row("nothing", held(lambda i: None, 75))
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

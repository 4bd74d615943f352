"""How long the interface thread is held up while the picture renders, by what the user does.

    PYTHONPATH=src .venv/bin/python benchmarks/interface.py

Runs the real window without a screen on the demo project, with two render threads, developing and denoising going on.
Each row is the longest time for which the interface thread did not come back to its event loop in the 80 ms from a
step on, handling or painting it; beside it, as a measure of the machine, the same while the user does nothing. A
machine that is shared with others stands still now and then: steps during which the system counts time that was taken
from it (the field "steal" of /proc/stat) are counted in a row of their own. The last columns tell how long the thread
worked itself (its time on a processor) in the longest stretch of each step; the rest of an absence is spent waiting for
a processor or the interpreter, which render threads and others hold.
"""

import os
import statistics
import tempfile
import time
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp(prefix="nocturne-bench-")

from PySide6.QtCore import QEventLoop, Qt, QTimer

from nocturne.demo import workshop
from nocturne.jobs import run
from nocturne.scene import edit, grading, navigate
from nocturne.ui.app import application
from nocturne.ui.window import Window

GOAL = 0.03  # seconds


def wait(seconds: float) -> None:
    """Run the event loop for a time."""
    loop = QEventLoop()
    QTimer.singleShot(round(seconds * 1000), loop.quit)
    loop.exec()


class Beat:
    """Tells how long the thread did not come back to its event loop: a timer that should come every millisecond."""

    def __init__(self) -> None:
        self.longest, self._last = 0.0, time.perf_counter()
        self.work, self._worked = 0.0, time.thread_time()
        self._timer = QTimer()
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._beat)
        self._timer.start(1)

    def _beat(self) -> None:
        now, worked = time.perf_counter(), time.thread_time()
        self.longest = max(self.longest, now - self._last - 0.001)
        self.work = max(self.work, worked - self._worked)
        self._last, self._worked = now, worked

    def during(self, step, seconds: float) -> tuple[float, float]:
        """Return the longest absence, and work, while one step is done from the event loop, as a click does it, s."""
        self.longest = self.work = 0.0
        QTimer.singleShot(0, step)
        wait(seconds)
        self._beat()
        return self.longest, self.work


def stolen() -> int:
    """Return how much time others took from this machine since it started, in the system's ticks."""
    fields = Path("/proc/stat").read_text().splitlines()[0].split()
    return int(fields[8]) if len(fields) > 8 else 0


def row(what: str, step, n: int = 100) -> None:
    """Do n steps while the picture goes on, and print how long each held the thread at most, ms."""
    beat = Beat()
    own, disturbed = [], []
    for i in range(n):
        before = stolen()
        took = beat.during(lambda i=i: step(i), 0.08)
        (own if stolen() == before else disturbed).append(took)
    for name, took in ((what, own), (f"{what}, disturbed", disturbed)):
        if took:
            late, work = (sorted(times) for times in zip(*took))
            over = sum(s > GOAL for s in late)
            print(f"| {name} | {len(took)} | {_spread(late)} | {over} | {_spread(work)} |", flush=True)


def _spread(times: list[float]) -> str:
    figures = (statistics.median(times), times[int(len(times) * 0.95)], times[-1])
    return " | ".join(f"{s * 1e3:.1f}" for s in figures)


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
    print("| step, while rendering | times | late: median ms | 95 % | most | over 30 | work: median | 95 % | most |")
    print("|---" * 9 + "|")
    row("nothing", lambda i: None)

    def moved(i: int) -> None:
        across = 0.002 if i % 2 else -0.002
        s.edit(edit.put, "views", navigate.pan(s.document.view, across=across, up=0), label="Move", merge="m")

    s.choose("things", "mug")
    row("move the view, handles shown", moved)
    row(
        "move a thing",
        lambda i: s.edit(edit.alter, "things", "mug", place=(-0.36, -0.1, 0.8 + i / 2e3), label="t", merge="t"),
    )
    s.go_to("camera")
    wait(1)
    row("move the view beside the plan", moved)
    s.go_to("light")
    wait(1)
    row("a fader", lambda i: s.edit(edit.set_strip, "lamp", stops=i / 40, label="f", merge="f"))
    row("a lamp's power", lambda i: s.edit(edit.alter, "lights", "bulb", power=1000.0 + i, label="p", merge="p"))
    s.go_to("finish")
    s.push(grading.give_s_curve(s.document)[0], "S")
    wait(1)
    row("the grade", lambda i: s.edit(grading.set_exposure, i / 40, label="e", merge="e"))
    stages = ("set", "materials", "light", "camera", "render", "finish")
    row("change the stage", lambda i: s.go_to(stages[i % 6]), 200)
    s.history.mark_saved(s.document)
    window.close()


if __name__ == "__main__":
    main()

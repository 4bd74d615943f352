"""How soon an edit is answered by a clean picture, and how many samples the live picture gets of what the engine could.

    PYTHONPATH=src .venv/bin/python benchmarks/live.py [--pictures FOLDER]

Runs the real window without a screen on the demo project. Of each kind of edit: the time to the first clean picture, to
the one of a quarter of the pixels, to the first whole sample without noise; beside them the time the engine alone takes
for one whole sample of the same picture, in the same run. Then the samples that the live picture has some time after an
edit over those that the engine alone takes in that time, before and after it; of the live picture's time learning where
light comes from takes a part. With `--pictures`, what is seen 0.15,
0.5, 1, 3 and 10 s after each kind of edit is written to a folder.
"""

import argparse
import os
import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp(prefix="nocturne-bench-")

from PySide6.QtCore import QEventLoop, QTimer

from nocturne.demo import workshop
from nocturne.engine.render import Stop, blank_film, render
from nocturne.jobs import run
from nocturne.scene import edit, navigate
from nocturne.scene.document import Document, render_key
from nocturne.ui.app import application
from nocturne.ui.window import Window

TIMES = 7
SEEN_AFTER = (0.15, 0.5, 1.0, 3.0, 10.0)


def wait(seconds: float) -> None:
    """Run the event loop for a time."""
    loop = QEventLoop()
    QTimer.singleShot(round(seconds * 1000), loop.quit)
    loop.exec()


def wait_until(done: Callable[[], bool], most: float = 120) -> None:
    """Run the event loop until something is so, or for so many seconds at most."""
    began = time.monotonic()
    while not done() and time.monotonic() - began < most:
        wait(0.005)


def edits(document: Document, k: int) -> dict[str, Document]:
    """Return the k-th document of each kind of edit."""
    view = document.view
    plaster = document.find("materials", "plaster").steps
    fainter = tuple(picture.model_copy(update={"amount": 0.9 - 0.06 * k}) for picture in plaster)
    return {
        "camera": edit.put(document, "views", navigate.orbit(view, pivot=view.target, turn=0.03 * k, tilt=0.0)),
        "lamp": edit.alter(document, "lights", "bulb", power=300.0 + 90 * k),
        "material": edit.alter(document, "materials", "plaster", base_color=(0.6, 0.3, 0.2), steps=fainter),
        "moved thing": edit.alter(document, "things", "mug", place=(-0.3 - 0.02 * k, -0.1, 0.8)),
    }


class Watch:
    """Notes when pictures of the newest edit are seen."""

    def __init__(self, window: Window) -> None:
        self.window = window
        self.key: tuple = ()
        self.began = 0.0
        self.seen: list[tuple[float, int, float]] = []  # after, step of the newest samples, samples
        window.darkroom.developed.connect(self._note)

    def edit(self, document: Document) -> None:
        """Make an edit, and note from now on."""
        self.key, self.seen, self.began = render_key(document), [], time.perf_counter()
        self.window.session.push(document, "Edit")

    def _note(self, shown) -> None:
        if shown.is_denoised and render_key(shown.frame.document) == self.key:
            progress = shown.frame.progress
            self.seen.append((time.perf_counter() - self.began, progress.step, progress.samples))

    def first(self, wanted: Callable[[int, float], bool]) -> float | None:
        """Return when a picture of a step and so many samples came first."""
        return next((at for at, step, samples in self.seen if wanted(step, samples)), None)


def alone(window: Window, seconds: float) -> float:
    """Return the samples a second that the engine takes of the picture in the window, which holds still meanwhile."""
    request = window.live._wanted
    prepared = window.live._preparer.prepare(
        request.document, request.assets, width=request.width, height=request.height
    )
    if window.live._learned is not None:
        prepared = window.live._learned[1].used_by(prepared)
    film, stop, began = blank_film(prepared), Stop(), time.perf_counter()
    work = render(prepared, film, samples=100_000, noise=0.0, stop=stop)
    for _ in work:
        if time.perf_counter() - began >= seconds:
            stop.set()
            work.close()
            break
    return float(film.samples.sum()) / (time.perf_counter() - began)


def main() -> None:
    """Measure and print."""
    reader = argparse.ArgumentParser()
    reader.add_argument("--pictures", type=Path)
    reader.add_argument("--seconds", type=float, default=12.0)
    wanted = reader.parse_args()
    if not workshop.user_path().is_file():
        run(workshop.save(workshop.user_path().parent))
    app = application([])
    window = Window()
    window.resize(1280, 800)
    window.show()
    window.projects.open(workshop.user_path())
    wait_until(lambda: window.picture.print is not None and window.picture.print.is_denoised)
    wait(4)
    watch, document = Watch(window), window.session.document
    film = window.picture.print.frame.film
    pixels = film.size[0] * film.size[1]
    print(f"picture {film.size[0]} x {film.size[1]}; a whole sample of it, engine alone:", end=" ", flush=True)
    window.live.hold(True)
    wait(0.5)
    print(f"{1000 * pixels / alone(window, 5):.0f} ms")
    window.live.hold(False)
    rows: dict[str, list] = {}
    for k in range(1, TIMES + 1):
        for name, changed in edits(document, k).items():
            watch.edit(changed)
            wait_until(lambda: watch.first(lambda step, n: step == 1 and n >= 1) is not None, 30)
            found = (lambda step, n: True), (lambda step, n: step == 2), (lambda step, n: step == 1 and n >= 1)
            rows.setdefault(name, []).append([watch.first(one) or float("nan") for one in found])
            wait(0.5)
    print("| edit | first clean picture, ms | a quarter of the pixels | one whole sample |\n|---|---|---|---|")
    for name, found in rows.items():
        middle = [f"{1000 * statistics.median(column):.0f}" for column in zip(*found)]
        print(f"| {name} | {' | '.join(middle)} |", flush=True)
    shares = []
    for k in range(1, 4):
        window.live.hold(True)
        wait(0.5)
        before = alone(window, 4)
        window.live.hold(False)
        watch.edit(edits(document, k + TIMES)["camera"])
        began = time.perf_counter()
        wait(wanted.seconds)
        took, n = time.perf_counter() - began, float(window.showing.live.film.samples.sum())
        window.live.hold(True)
        wait(0.5)
        after = alone(window, 4)
        shares.append(n / took / (0.5 * (before + after)))
        window.live.hold(False)
    print(f"samples of the live picture over the engine alone, first {wanted.seconds:.0f} s:", end=" ")
    print(", ".join(f"{share:.2f}" for share in shares))
    if wanted.pictures is not None:
        wanted.pictures.mkdir(parents=True, exist_ok=True)
        for name, changed in edits(document, 11).items():
            watch.edit(document)
            wait(6)
            watch.edit(changed)
            for after in SEEN_AFTER:
                wait(max(after - (time.perf_counter() - watch.began), 0.001))
                window.picture.grab().save(str(wanted.pictures / f"{name.replace(' ', '-')}-{after}.png"))
    window.session.history.mark_saved(window.session.document)  # else it asks whether to save
    window.close()
    app.processEvents()


if __name__ == "__main__":
    main()

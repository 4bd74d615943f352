"""From the start of the program to the demo's first picture, once the kernels are compiled and the demo is on disk.

    PYTHONPATH=src .venv/bin/python benchmarks/start.py [--rounds 3] [--tree TREE]

Beside each start, a process that only loads the libraries which no start can do without: the ratio to that is what
counts. --tree: another tree to start in turn with this one.
"""

import argparse
import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

HERE = Path(__file__).resolve().parents[1]
LIBRARIES = "import PySide6.QtWidgets, llvmlite.binding, pydantic, OpenImageIO, PyOpenColorIO"
START = """
import gc, os, sys, time
begun = time.time()
import nocturne.__main__, nocturne.cli
from nocturne.demo import workshop
known = {}
from nocturne.ui import early as beginning
if hasattr(beginning, "take_turns"):  # as `nocturne demo` begins; trees before it look for garbage
    gc.disable()
Early = beginning.Early
if workshop.user_path().is_file():
    known["early"] = Early(workshop.user_path())
from nocturne.ui.app import application
from PySide6.QtCore import QEventLoop, QTimer
from nocturne.ui.window import Window
loaded = time.time()
app = application([])
window = Window(**known)
window.open_demo()
window.show()
shown = time.time()
loop, clock = QEventLoop(), QTimer()
clock.timeout.connect(lambda: window.picture.print is not None and loop.quit())
clock.start(10)
QTimer.singleShot(180000, loop.quit)
loop.exec()
print(loaded - begun, shown - loaded, time.time() - shown)
sys.stdout.flush()
clock.stop()
saving = QTimer()
saving.timeout.connect(lambda: workshop.user_path().is_file() and loop.quit())
saving.start(100)
loop.exec()
os._exit(0)
"""


def start(tree: Path, data: str) -> tuple[float, list[float]]:
    """Return seconds of a whole start of a tree, and of its parts: libraries, window, picture."""
    places = {"XDG_DATA_HOME": data, "XDG_CONFIG_HOME": tempfile.mkdtemp(prefix="nocturne-start-")}
    os.environ.pop("PYTHONDONTWRITEBYTECODE", None)  # `nocturne` does so too
    env = {**os.environ, **places, "QT_QPA_PLATFORM": "offscreen", "PYTHONPATH": str(tree / "src")}
    done = subprocess.run([sys.executable, "-c", START], env=env, capture_output=True, text=True, check=True)
    parts = [float(v) for v in done.stdout.split()]
    return sum(parts), parts


def main() -> None:
    """Start in turn, and print each start beside what the libraries alone take."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rounds", type=int, default=3)
    parser.add_argument("--tree", type=Path)
    given = parser.parse_args()
    trees = [HERE, *([given.tree] if given.tree else [])]
    data = {tree: tempfile.mkdtemp(prefix="nocturne-start-") for tree in trees}
    for tree in trees:
        start(tree, data[tree])  # compiles, and writes the demo
    for _ in range(given.rounds):
        for tree in trees:
            begun = time.perf_counter()
            subprocess.run([sys.executable, "-c", LIBRARIES], check=True)
            alone = time.perf_counter() - begun
            whole, (loaded, shown, picture) = start(tree, data[tree])
            print(
                f"{tree.name}: {whole:.1f} s, {whole / alone:.1f} times the libraries alone "
                f"(loading {loaded:.1f}, window {shown:.1f}, picture {picture:.1f})"
            )


if __name__ == "__main__":
    main()

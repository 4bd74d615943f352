"""What one edit costs in a set of many things: on the interface thread, and to prepare the next picture.

    QT_QPA_PLATFORM=offscreen PYTHONPATH=src .venv/bin/python benchmarks/edits.py [--things 10000 30000]

Prints for each edit the median and the longest of some tries, in milliseconds: until the edit is made and all have
followed it on the interface thread; for painting list, sheet and picture anew, which is the same for any number of
things; and for preparing the next picture. Beside them, as machines differ, a pass over as many numbers in Python.
"""

import argparse
import statistics
import time
from collections.abc import Callable

import numpy as np
from PySide6.QtWidgets import QApplication

from nocturne.engine.prepare import Preparer
from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.camera import View
from nocturne.scene.document import Document
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.shapes import Mesh
from nocturne.scene.thing import Thing
from nocturne.ui.app import application
from nocturne.ui.theme.style import dress
from nocturne.ui.window import Window

_TRIES = 15
_GROUP = 100


def triangle() -> Mesh:
    """Return one triangle."""
    v = np.array([[0, 0, 0], [0.4, 0, 0], [0, 0.4, 0]], np.float32)
    up = np.tile(np.array([[0, 0, 1]], np.float32), (3, 1))
    return Mesh(v, np.array([[0, 1, 2]], np.uint32), up, np.zeros((3, 2), np.float32))


def crowd(n: int) -> tuple[Document, Assets]:
    """Return n things of one mesh in groups of a hundred, on a square."""
    groups = tuple(Thing(id=f"g{k}", name=f"Group {k}") for k in range(n // _GROUP))
    side = int(n**0.5) + 1
    things = tuple(
        Thing(
            id=f"t{k}",
            name=f"Thing {k}",
            mesh="m",
            material=f"m{k % 20}",
            place=(k % side, k // side, 0),
            parent=f"g{k // _GROUP}",
        )
        for k in range(n)
    )
    materials = tuple(Material(id=f"m{k}", name=f"Material {k}") for k in range(20))
    view = View(id="v", name="Above", eye=(side / 2, side / 2, side), target=(side / 2, side / 2, 0))
    document = Document(
        things=groups + things,
        materials=materials,
        lights=(make_light(kind="dome", id="l"),),
        views=(view,),
        active_view="v",
    )
    return document, Assets({"m": triangle()})


def edits(n: int) -> dict[str, Callable[[Document, int], Document]]:
    """Return edits of one thing, each of another for every try."""

    def which(k: int) -> str:
        return f"t{(k * 7919) % n}"

    return {
        "move a thing": lambda d, k: edit.alter(d, "things", which(k), place=(0.5, k, 0.1)),
        "rename a thing": lambda d, k: edit.alter(d, "things", which(k), name=f"Other {k}"),
        "give a material": lambda d, k: edit.alter(d, "things", which(k), material=f"m{k % 20}"),
        "change a material": lambda d, k: edit.alter(d, "materials", "m3", specular_roughness=0.2 + 0.01 * k),
        "turn a light": lambda d, k: edit.alter(d, "lights", "l", power=1.0 + k),
        "move the camera": lambda d, k: edit.alter(d, "views", "v", eye=(k, 1.0, 30.0)),
    }


def measure(n: int) -> None:
    """Print what the edits cost among n things."""
    document, assets = crowd(n)
    window = Window()
    window.resize(1280, 800)
    window.show()
    window.session.open(document, assets, None)
    window.session.choose("things", "t5")
    deadline = time.monotonic() + 300
    while (window.picture.print is None or not window.live.is_idle) and time.monotonic() < deadline:
        QApplication.processEvents()
        if window.picture.print is not None:
            window.live.pause()
    preparer = Preparer()
    preparer.prepare(document, assets, width=64, height=64)
    started = time.perf_counter()
    sum(k for k in range(n))
    print(f"{n} things; a pass over {n} numbers takes {1000 * (time.perf_counter() - started):.2f} ms")
    for name, change in edits(n).items():
        answered, painted, prepared = [], [], []
        for k in range(_TRIES):
            started = time.perf_counter()
            changed = change(window.session.document, k + 1)
            window.session.push(changed, name)
            answered.append(1000 * (time.perf_counter() - started))
            window.live.pause()
            started = time.perf_counter()
            for widget in (window.lists["set"].view.viewport(), window.sheets["set"], window.picture):
                widget.repaint()
            painted.append(1000 * (time.perf_counter() - started))
            QApplication.processEvents()
            started = time.perf_counter()
            preparer.prepare(changed, assets, width=64, height=64)
            prepared.append(1000 * (time.perf_counter() - started))
        columns = (("answered", answered), ("painted", painted), ("prepared", prepared))
        print(
            f"  {name:18}",
            *(f"{what} {statistics.median(ms):6.1f} ms, longest {max(ms):6.1f}  " for what, ms in columns),
        )
    window.session.history.mark_saved(window.session.document)
    window.close()


def main() -> None:
    """Measure what the command line asks for."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--things", type=int, nargs="+", default=[10_000, 30_000])
    given = parser.parse_args()
    app = application(["nocturne-benchmark"])
    dress(app)
    for n in given.things:
        measure(n)


if __name__ == "__main__":
    main()

"""How long work on large projects takes as they grow: twice as many things should take about twice as long.

    PYTHONPATH=src .venv/bin/python benchmarks/growth.py [--things 25000]

Prints the seconds for n and for 4 n, and their ratio; 4 is linear, 16 quadratic.
"""

import argparse
import json
import tempfile
import time
from contextlib import suppress
from pathlib import Path

import numpy as np

from nocturne.engine.prepare import Preparer
from nocturne.errors import BadFile
from nocturne.io import project
from nocturne.io.models import read as models
from nocturne.io.models.glb import write_glb
from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.document import FORMAT_VERSION, Document
from nocturne.scene.materials import Material
from nocturne.scene.shapes import Mesh
from nocturne.scene.thing import Thing

FOLDER = Path(tempfile.mkdtemp(prefix="nocturne-growth-"))


def box() -> Mesh:
    """Return one triangle."""
    v = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], np.float32)
    up = np.tile(np.array([[0, 0, 1]], np.float32), (3, 1))
    return Mesh(v, np.array([[0, 1, 2]], np.uint32), up, np.zeros((3, 2), np.float32))


def flat(n: int) -> Document:
    """Return n things of one mesh."""
    things = tuple(Thing(id=f"t{k}", name=f"Thing {k}", mesh="m", material="a", place=(k, 0, 0)) for k in range(n))
    return Document(things=things, materials=(Material(id="a", name="A"),))


def opened(n: int):
    """Open a project of n things in which every id stands twice, which is refused by name."""
    things = [{"id": f"t{k % (n // 2)}", "name": "Same", "mesh": ""} for k in range(n)]
    raw = {"format": "nocturne-project", "version": FORMAT_VERSION, "things": things}
    path = FOLDER / f"doubled-{n}.nocturne"
    path.write_text(json.dumps(raw))

    def refused():
        with suppress(BadFile):
            project.read_document(path)

    return refused


def chained(n: int):
    """Place a chain of groups, each in the one before."""
    things = tuple(Thing(id=f"t{k}", name="T", parent=f"t{k - 1}" if k else "") for k in range(n))
    return lambda: Document(things=things).placements


def brought_in(n: int):
    """Read a model of n parts."""
    path = FOLDER / f"parts-{n}.glb"
    write_glb(path, {f"part {k}": box() for k in range(n)})
    return lambda: models.read(path)


def prepared(n: int):
    """Prepare n things for rendering, from nothing."""
    document, mesh = flat(n), box()
    return lambda: Preparer().prepare(document, Assets({"m": mesh}))


def moved(n: int):
    """Prepare n things again after one of them has moved."""
    document, assets, preparer = flat(n), Assets({"m": box()}), Preparer()
    preparer.prepare(document, assets)
    return lambda: preparer.prepare(edit.alter(document, "things", "t3", place=(0.0, 1.0, 0.0)), assets)


def removed(n: int):
    """Remove half of n things."""
    document = flat(n)
    return lambda: edit.remove(document, "things", *(f"t{k}" for k in range(0, n, 2)))


def given(n: int):
    """Give a material to all things."""
    document = flat(n)
    return lambda: edit.alter_many(document, "things", [t.id for t in document.things], material="")


def saved(n: int):
    """Save and read n things."""
    document = flat(n)

    def both():
        path = project.save_document(FOLDER / f"saved-{n}.nocturne", document)
        return project.read_document(path)

    return both


CASES = (opened, saved, chained, brought_in, prepared, moved, removed, given)
SHARE = {"chained": 0.04, "brought_in": 0.02}  # of the things


def seconds(make, n: int) -> float:
    """Return the shorter of two runs, s."""
    work, best = make(n), float("inf")
    for _ in range(2):
        started = time.perf_counter()
        work()
        best = min(best, time.perf_counter() - started)
    return best


def main() -> None:
    """Print a line for each case."""
    given_words = argparse.ArgumentParser(description=__doc__)
    given_words.add_argument("--things", type=int, default=25_000)
    n = given_words.parse_args().things
    for case in CASES:
        own = int(n * SHARE.get(case.__name__, 1))
        one, four = seconds(case, own), seconds(case, 4 * own)
        print(f"{case.__name__:12s} {own:7,d}: {one:7.3f} s   {4 * own:8,d}: {four:7.3f} s   ratio {four / one:5.1f}")


if __name__ == "__main__":
    main()

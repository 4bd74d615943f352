"""What each kind of step costs: time of a picture of one board that it drives, over that of the plain board.

PYTHONPATH=src .venv/bin/python benchmarks/patterns.py [KIND...]
"""

import sys
import time

import numpy as np

from nocturne.engine.prepare import Preparer
from nocturne.engine.render import blank_film, render
from nocturne.jobs import run
from nocturne.scene import solids
from nocturne.scene.assets import Assets
from nocturne.scene.camera import View
from nocturne.scene.document import Document
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.outputs import Quality
from nocturne.scene.patterns import KINDS, Step
from nocturne.scene.thing import Thing
from nocturne.warm import warm

SAMPLES, TIMES = 48, 3


def board(*steps: Step) -> tuple[Document, Assets]:
    """Return a rounded board under a dome, seen from above, driven by steps."""
    material = Material(id="m", steps=steps)
    picture = np.random.default_rng(1).uniform(size=(1024, 1024, 3)).astype(np.float32)
    document = Document(
        things=(Thing(id="t", mesh="board", material="m"),),
        materials=(material,),
        lights=(make_light(id="dome", kind="dome", unit="nit", power=1.0),),
        views=(View(id="v", eye=(0, -1.5, 1.5), target=(0, 0, 0), width=320, height=180, focal_mm=50),),
        active_view="v",
        qualities=(Quality(id="q", samples=SAMPLES, noise=0.0, denoise="off"),),
        active_quality="q",
        groups=("light",),
    )
    return document, Assets({"board": solids.rounded_box((1.6, 0.9, 0.05), 0.005)}, {("p.png", "colour"): picture})


def seconds(*steps: Step) -> float:
    """Return the least time of some renders."""
    document, assets = board(*steps)
    prepared, best = Preparer().prepare(document, assets), np.inf
    for _ in range(TIMES):
        film, began = blank_film(prepared), time.perf_counter()
        run(render(prepared, film, samples=SAMPLES, noise=0.0))
        best = min(best, time.perf_counter() - began)
    return best


def main() -> int:
    """Print a table for docs/performance.md."""
    run(warm())
    wanted = sys.argv[1:] or list(KINDS)
    print("| step | time over plain |\n|---|---|")
    seconds()
    for kind in wanted:
        path = {"path": "p.png"} if kind == "image" else {}
        # In pairs, one after the other, so that what else the machine does meets both.
        plain, driven = seconds(), seconds(KINDS[kind](**path))
        print(f"| {kind} | {driven / plain:.2f} |", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())

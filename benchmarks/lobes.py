"""What each part of the surface costs: time of a picture of one ball that has it, over that of an evenly matt one.

PYTHONPATH=src .venv/bin/python benchmarks/lobes.py [NAME...]
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
from nocturne.scene.thing import Thing
from nocturne.warm import warm

SAMPLES, TIMES = 48, 3
MATT = {"specular_weight": 0.0, "specular_ior": 1.0}
LOBES = {
    "plastic": {},
    "chalk": {"base_diffuse_roughness": 1.0, **MATT},
    "metal": {"base_metalness": 1},
    "measured metal": {"base_metalness": 1, "metal_from": "table", "metal_name": "gold"},
    "brushed metal": {"base_metalness": 1, "specular_roughness_anisotropy": 0.8},
    "brushed plastic": {"specular_roughness_anisotropy": 0.8},
    "metal with a tail": {"base_metalness": 1, "specular_tail": 0.4},
    "coat": {"coat_weight": 1, "coat_roughness": 0.1},
    "coat with a tail": {"coat_weight": 1, "coat_roughness": 0.1, "coat_tail": 0.4},
    "fuzz": {"fuzz_weight": 1},
    "film on plastic": {"thin_film_weight": 1},
    "film on metal": {"base_metalness": 1, "thin_film_weight": 1},
    "leaf": {"subsurface_weight": 1, "geometry_thin_walled": True},
    "half cut away": {"geometry_opacity": 0.5},
    "wax, 20 mm": {"subsurface_weight": 1, "subsurface_radius_mm": 20},
    "glass": {"transmission_weight": 1, "specular_roughness": 0.0},
    "glass that parts colours": {
        "transmission_weight": 1,
        "specular_roughness": 0.0,
        "transmission_dispersion_scale": 1,
    },
    "murky glass": {
        "transmission_weight": 1,
        "specular_roughness": 0.0,
        "transmission_depth": 0.3,
        "transmission_color": (0.4, 0.4, 0.4),
        "transmission_scatter": (0.8, 0.8, 0.8),
    },
    "rounded edges, none near": {"rounding_mm": 5.0},
    "layer, half": {"layer_over": "below", "layer_cover": 0.5},
}


def ball(values: dict) -> tuple[Document, Assets]:
    """Return a ball of a metre under a dome."""
    materials = (Material(id="m", **values), Material(id="below", **MATT))
    document = Document(
        things=(Thing(id="t", mesh="ball", material="m"),),
        materials=materials,
        lights=(make_light(id="dome", kind="dome", unit="nit", power=1.0),),
        views=(View(id="v", eye=(0, -4, 0), target=(0, 0, 0), width=240, height=240, focal_mm=70),),
        active_view="v",
        qualities=(Quality(id="q", samples=SAMPLES, noise=0.0, denoise="off"),),
        active_quality="q",
        groups=("light",),
    )
    return document, Assets({"ball": solids.ball(0.5, segments=128)})


def seconds(values: dict) -> float:
    """Return the least time of some renders."""
    document, assets = ball(values)
    prepared, best = Preparer().prepare(document, assets), np.inf
    for _ in range(TIMES):
        film, began = blank_film(prepared), time.perf_counter()
        run(render(prepared, film, samples=SAMPLES, noise=0.0))
        best = min(best, time.perf_counter() - began)
    return best


def main() -> int:
    """Print a table for docs/performance.md."""
    run(warm())
    print("| surface | time over evenly matt |\n|---|---|")
    seconds(MATT)
    for name in sys.argv[1:] or list(LOBES):
        # In pairs, one after the other, so that what else the machine does meets both.
        matt, own = seconds(MATT), seconds(LOBES[name])
        print(f"| {name} | {own / matt:.2f} |", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())

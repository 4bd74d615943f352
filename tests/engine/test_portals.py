"""Portals: directions through them follow their density, the light is that of the closed form, and less noise."""

import math

import numpy as np
import pytest
from numba import njit

from nocturne.colour.spaces import luminance
from nocturne.engine.learning import learn
from nocturne.engine.prepare import Preparer
from nocturne.engine.render import blank_film, render
from nocturne.jobs import run
from nocturne.scene import edit
from nocturne.scene import solids as forms
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from tests import sets

GREY = Material(id="grey", base_color=(0.5, 0.5, 0.5), specular_weight=0.0, specular_ior=1.0)
HALF, HIGH = 0.5, 2.0  # of the hole in the ceiling, metres


def room(*lights, quality=None, camera=None):
    """Return (document, assets) of a closed room, its floor at z 0, with a square hole in the middle of its ceiling."""
    w = 2.0
    ring = [
        [(-w, -w), (w, -w), (w, -HALF), (-w, -HALF)],
        [(-w, HALF), (w, HALF), (w, w), (-w, w)],
        [(-w, -HALF), (-HALF, -HALF), (-HALF, HALF), (-w, HALF)],
        [(HALF, -HALF), (w, -HALF), (w, HALF), (HALF, HALF)],
    ]
    panels = [[(x, y, HIGH) for x, y in corners] for corners in ring]
    panels.append([(-w, -w, 0), (w, -w, 0), (w, w, 0), (-w, w, 0)])
    for (ax, ay), (bx, by) in (((-w, -w), (w, -w)), ((w, -w), (w, w)), ((w, w), (-w, w)), ((-w, w), (-w, -w))):
        panels.append([(ax, ay, 0), (bx, by, 0), (bx, by, HIGH), (ax, ay, HIGH)])
    camera = camera or sets.view(eye=(0, 0, 1.5), target=(0, 0, 0), focal_mm=400, size=(16, 16))
    return sets.many([(forms.panel(p), GREY, {}) for p in panels], *lights, camera=camera, quality=quality)


def portal(**changes):
    values = {"place": (0.0, 0.0, HIGH), "width": 2 * HALF, "height": 2 * HALF, **changes}
    return make_light(id="portal", kind="portal", **values)


@pytest.mark.parametrize("turn", [(0, 0, 0), (35, 20, 10)])
def test_directions_follow_their_density(turn):
    from nocturne.engine.kernels.lights.portal import density, sample

    document, assets = room(sets.white_dome(), portal(turn_deg=turn, width=1.7, height=0.6))
    prepared = Preparer().prepare(document, assets)
    q = int(prepared.arrays["slots"][1][prepared_column("PORTAL")]) - 1
    rng = np.random.default_rng(2)

    @njit
    def tried(table, q, at, us, found):
        for k in range(len(us)):
            d, own = sample(table, q, at, us[k, 0], us[k, 1])
            found[k, 0], found[k, 1], found[k, 2] = d
            found[k, 3], found[k, 4] = own, density(table, q, at, d)

    @njit
    def integral(table, q, at, directions):
        total, hits = 0.0, 0
        for k in range(len(directions)):
            one = density(table, q, at, (directions[k, 0], directions[k, 1], directions[k, 2]))
            total += one
            hits += one > 0
        return total / len(directions) * 4 * np.pi, hits

    directions = rng.normal(size=(400_000, 3))
    directions = (directions / np.linalg.norm(directions, axis=1, keepdims=True)).astype(np.float32)
    table = prepared.table.ctypes.data
    for place in ((0, 0, 0.3), (1.2, -0.8, 0.6), (-0.3, 0.2, 1.9), (0, 0, -40)):
        at = tuple(map(np.float32, place))
        found = np.zeros((4000, 5), np.float32)
        tried(table, q, at, rng.random((4000, 2)).astype(np.float32), found)
        assert (found[:, 3] > 0).all()
        told = np.isclose(found[:, 3], found[:, 4], rtol=2e-3)
        assert told.mean() > 0.999, "but for its very edge"
        if place[2] > -1:
            whole, hits = integral(table, q, at, directions)
            assert hits > 500
            assert whole == pytest.approx(1, abs=4 / math.sqrt(hits))
            # Directions are spread as evenly over the opening as the density says: of both halves, by their means.
            assert found[:, :3].mean(0) == pytest.approx(mean_direction(directions, table, q, at, density), abs=0.02)
    behind = tuple(map(np.float32, (0, 0, 5)))
    found = np.zeros((10, 5), np.float32)
    tried(table, q, behind, rng.random((10, 2)).astype(np.float32), found)
    assert (found[:, 3:] == 0).all(), "nothing comes in from behind"


def mean_direction(directions, table, q, at, density) -> np.ndarray:
    @njit
    def weights(table, q, at, directions, out):
        for k in range(len(directions)):
            out[k] = density(table, q, at, (directions[k, 0], directions[k, 1], directions[k, 2]))

    out = np.zeros(len(directions))
    weights(table, q, at, directions, out)
    return (directions * out[:, None]).sum(0) / out.sum()


def prepared_column(name: str) -> int:
    from nocturne.engine.layout import learned

    return learned.SLOT.offsets[name]


@pytest.mark.parametrize("mode", ["mis", "light"])
def test_the_floor_gets_what_the_closed_form_says(engine, mode):
    direct = sets.deep(256, diffuse_bounces=0)
    # A small patch under the middle of a parallel rectangle, four times that to a corner (Howell, Thermal Radiation
    # Configuration Factors, B-4).
    a = HALF / HIGH
    factor = 4 / (2 * math.pi) * 2 * (a / math.hypot(1, a)) * math.atan(a / math.hypot(1, a))
    for lights in ((sets.white_dome(10), portal()), (sets.white_dome(10),)):
        film = sets.picture(*room(*lights, quality=direct), mode=mode)
        assert sets.middle(film) == pytest.approx(np.full(3, 10 * 0.5 * factor), rel=0.02)


def test_a_portal_takes_noise_off_and_nothing_else(engine):
    camera = sets.view(eye=(1.6, -1.7, 1.2), target=(-1, 1, 0.5), focal_mm=24, size=(48, 32))
    sky = make_light(id="sky", kind="sky", unit="x", power=1.0, elevation_deg=40, azimuth_deg=10)
    found = {}
    for name, lights in {"without": (sky,), "with": (sky, portal()), "misplaced": (sky, portal(width=0.4))}.items():
        document, assets = room(*lights, quality=sets.deep(192, diffuse_bounces=2), camera=camera)
        prepared = Preparer().prepare(document, assets)
        what = run(learn(prepared))
        ready = what.used_by(prepared) if what else prepared
        film = blank_film(ready)
        run(render(ready, film, noise=0.0))
        mean, squares = film.moments
        variance = np.maximum(squares - mean**2, 0) / np.maximum(mean, 0.1 * mean.mean()) ** 2
        # The brightest hundredth of the pixels is left out: chance alone decides whether they are caught.
        found[name] = luminance(film.beauty()).mean(), np.sort(variance.ravel())[: -variance.size // 100].mean()
    for name in ("with", "misplaced"):
        assert found[name][0] == pytest.approx(found["without"][0], rel=0.02), name
    assert found["with"][1] < 0.4 * found["without"][1]


def test_a_portal_is_no_light(engine):
    document, assets = room(portal(on=True))
    assert not sets.picture(document, assets, samples=2).beauty().any()
    off = edit.alter(room(sets.white_dome(), portal())[0], "lights", "portal", on=False)
    assert len(Preparer().prepare(off, assets).arrays["slots"]) == 1

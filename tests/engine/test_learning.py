"""Learned choice of lights: chances that add up, the same picture with less noise, the same bits whoever learns."""

import numpy as np
import pytest
from numba import njit

from nocturne.colour.spaces import luminance
from nocturne.engine import lighttree
from nocturne.engine.learning import learn
from nocturne.engine.prepare import Preparer
from nocturne.engine.render import Stop, blank_film, render
from nocturne.jobs import run
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from tests import sets
from tests.engine.test_lighttree import emitters

MATT = {"specular_weight": 0.0}


def hall(n_lamps: int = 6):
    """Return a floor with a wall across it: a bright lamp lights one side only, and dim ones stand about."""
    clay = Material(id="clay", base_color=(0.6, 0.6, 0.6), **MATT)
    glow = Material(id="glow", emission_luminance=8)
    lights = [
        make_light(id="bright", kind="sphere", unit="nit", power=900, place=(-2.5, 0, 1.0), radius=0.25, group="a"),
        make_light(id="dome", kind="dome", unit="nit", power=0.05, group="b"),
        make_light(id="sun", kind="distant", power=20, turn_deg=(0, 100, 0), group="c"),
    ]
    lights += [
        make_light(
            id=f"dim-{k}", kind="sphere", unit="nit", power=30, place=(0.6 * k, 1.2, 0.4), radius=0.08, group="d"
        )
        for k in range(n_lamps)
    ]
    parts = [
        (sets.PLANE, clay, {"place": (0.0, 0.0, -1.0)}),
        (sets.BOX, clay, {"place": (0.0, 0.0, 0.5), "size": (0.1, 5.0, 1.5)}),
        (sets.BALL, glow, {"place": (2.0, 0.5, -0.6), "size": (0.3,) * 3}),
    ]
    camera = sets.view(eye=(1.5, -7, 4), target=(0.5, 0, -0.5), focal_mm=30, size=(96, 64), iso=3200.0)
    return sets.many(parts, *lights, camera=camera, quality=sets.deep(24, diffuse_bounces=3, bounces=8))


@pytest.fixture(scope="module")
def learned(engine):
    document, assets = hall()
    prepared = Preparer().prepare(document, assets)
    return prepared, run(learn(prepared))


def film_of(prepared, **options):
    film = blank_film(prepared)
    return run(render(prepared, film, stop=Stop(), **{"noise": 0.0, "samples": 24, **options}))


def test_a_cut_has_every_light_once():
    floats, links, trails = lighttree.build(emitters(200), list(range(200)))
    for most in (1, 2, 31, 500):
        nodes = lighttree.cut(floats, links, most)
        assert len(nodes) == min(most, 200)
        for trail, depth in trails.values():
            above = [n for n, t, d in nodes if d <= depth and trail & ((1 << d) - 1) == t]
            assert len(above) == 1
        for node, trail, depth in nodes:
            at = 0
            for step in range(depth):
                at = links[at][0] + (trail >> step & 1)
            assert at == node
    power = [floats[n, 11] for n, _, _ in lighttree.cut(floats, links, 8)]
    assert max(power) < 0.5 * floats[0, 11], "the most powerful are parted"


@pytest.mark.parametrize("n_lamps", [6, 120])
def test_chosen_as_often_as_the_chance_says(engine, n_lamps):
    from nocturne.engine.kernels.lights.learned import chance_of_light, choose_light, is_known, row_of

    document, assets = hall(n_lamps)
    prepared = Preparer().prepare(document, assets)
    what = run(learn(prepared))
    ready = what.used_by(prepared)
    n_lights = len(ready.arrays["light_i"])
    assert len(ready.arrays["slots"]) == min(n_lamps + 2, 48) + 2

    @njit
    def count(table, at, normal, counts, chances, us):
        row = row_of(table, at, normal, np.uint32(0x20080200))
        for u in us:
            light, chance, pick = choose_light(table, at, normal, False, u, row)
            if light >= 0:
                counts[light] += 1
                if abs(chance - chance_of_light(table, light, at, normal, False, row)) > 1e-5 or not 0 <= pick < 1:
                    return -1
        for light in range(len(counts)):
            chances[light] = chance_of_light(table, light, at, normal, False, row)
        return 1 if is_known(table, row) else 0

    n, known = 40_000, 0
    us = ((np.arange(n) + 0.5) / n).astype(np.float32)
    f = np.float32
    for at in ((-1.5, 0.4, -1), (1.2, -0.3, -1), (0.4, 0.9, -1), (3, 1, -1), (0.5, -0.6, -1), (-0.8, -1.1, -1)):
        counts, chances = np.zeros(n_lights), np.zeros(n_lights)
        found = count(ready.table.ctypes.data, tuple(map(f, at)), (f(0), f(0), f(1)), counts, chances, us)
        assert found >= 0, "the chance that is told is the one that it had"
        known += found
        assert chances.sum() <= 1 + 1e-4
        assert np.allclose(counts / n, chances, atol=2e-3)
    assert known >= 4


def test_what_walls_block_is_not_asked_for(learned):
    prepared, what = learned
    plain, wiser = (film_of(p, samples=64) for p in (prepared, what.used_by(prepared)))
    # The same picture, in every light group and pass.
    for i, name in enumerate(plain.group_names):
        a, b = (luminance(f.group(i)).mean() for f in (plain, wiser))
        assert b == pytest.approx(a, rel=0.03), name
    variance = []
    for film in (plain, wiser):
        mean, squares = film.moments
        variance.append((np.maximum(squares - mean**2, 0) / np.maximum(mean, 0.05 * mean.mean()) ** 2).mean())
    assert variance[1] < 0.6 * variance[0]


def test_what_is_learned_is_the_same_whoever_learns(learned):
    prepared, what = learned
    again = run(learn(prepared, threads=1))
    for name, array in what.arrays.items():
        assert np.array_equal(array, again.arrays[name]), name
    assert not np.array_equal(run(learn(prepared, seed=5)).arrays["learned_cdf"], what.arrays["learned_cdf"])
    ready = what.used_by(prepared)
    whole = film_of(ready, samples=4)
    part = film_of(ready, samples=4, region=(20, 10, 60, 40), threads=1)
    assert np.array_equal(part.groups[:, 10:40, 20:60], whole.groups[:, 10:40, 20:60])


def test_it_is_kept_only_where_it_fits(learned):
    prepared, what = learned
    document, assets = hall(7)
    other = Preparer().prepare(document, assets)
    assert what.used_by(other) is other
    stop = Stop()
    stop.set()
    assert run(learn(prepared, stop=stop)) is None
    alone, assets = sets.one_thing(sets.BALL, Material(id="m"), sets.white_dome())
    assert run(learn(Preparer().prepare(alone, assets))) is None, "of one light there is nothing to choose"

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
            light, _, _, chance, pick = choose_light(table, at, normal, False, u, row)
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


# ---- bright things -------------------------------------------------------------------------------------------------


def shaded():
    """Return a room in which a lamp is hidden in a shade that lights what it does not reach itself."""
    clay = Material(id="clay", base_color=(0.5, 0.5, 0.5), **MATT)
    paint = Material(id="paint", base_color=(0.4, 0.4, 0.5), specular_roughness=0.3, coat_weight=1, coat_roughness=0.0)
    lining = Material(id="lining", base_color=(0.9, 0.9, 0.9), **MATT)
    lights = [
        make_light(id="bulb", kind="sphere", unit="nit", power=2000, place=(1.0, 0, 0.2), radius=0.04, group="bulb"),
        make_light(id="dome", kind="dome", unit="nit", power=0.2, group="dome"),
    ]
    # A tray beside the bulb, open towards the room; the bulb itself is hidden from most of it by a small board.
    parts = [
        (sets.PLANE, clay, {"place": (0.0, 0.0, -1.0)}),
        (sets.BOX, lining, {"place": (1.25, 0.0, -0.05), "size": (0.02, 0.25, 0.25)}),
        (sets.BOX, clay, {"place": (0.85, 0.0, 0.1), "size": (0.02, 0.1, 0.1)}),
        (sets.BALL, paint, {"place": (-1.2, 0.0, -0.4), "size": (0.6,) * 3}),
    ]
    camera = sets.view(eye=(-0.8, -6, 2), target=(-0.3, 0, -0.4), focal_mm=45, size=(96, 64), iso=3200.0)
    return sets.many(parts, *lights, camera=camera, quality=sets.deep(24, diffuse_bounces=4, bounces=10))


@pytest.fixture(scope="module")
def lit(engine):
    document, assets = shaded()
    prepared = Preparer().prepare(document, assets)
    return prepared, run(learn(prepared))


def test_bright_things_are_found_and_looked_at(lit):
    prepared, what = lit
    share = what.arrays["bright_share"]
    places = what.arrays["bright"][:, :3]
    board = np.abs(places - (1.25, 0, 0.2)).max(1).argmin()
    assert np.allclose(places[board], (1.25, 0, 0.2), atol=0.01), "the lit board beside the bulb is one of them"
    assert share[:, board].max() > 0.1
    dark = np.abs(places - (0.85, 0, 0.2)).max(1) < 0.01
    assert share[:, :-1][:, dark].sum() < 0.2 * share[:, board].sum(), "the dark one before it is none"
    assert share[:, -1].max() <= 0.65 + 1e-6
    chances = {name: array for name, array in what.arrays.items() if name.startswith("learned")}
    films = [film_of(p, samples=256) for p in (prepared.using(chances), what.used_by(prepared))]
    for i, name in enumerate(films[0].group_names):
        a, b = (luminance(film.group(i)).mean() for film in films)
        assert b == pytest.approx(a, rel=0.03), name
    for name in ("direct_diffuse", "indirect_diffuse", "direct_reflection", "indirect_reflection"):
        a, b = (luminance(film.light_pass(name)).mean() for film in films)
        assert b == pytest.approx(a, rel=0.05, abs=1e-3), name
    spread = []
    for film in films:
        mean, squares = film.moments
        spread.append((np.maximum(squares - mean**2, 0) / np.maximum(mean, 0.05 * mean.mean()) ** 2).mean())
    assert spread[1] < 0.6 * spread[0]


def test_directions_to_bright_things_follow_their_density(lit):
    from nocturne.engine.kernels.path.bright import bright_density, direction_to_bright, row_share

    prepared, _ = lit
    share = np.zeros((2, 4), np.float32)
    share[1] = 0.3, 0.1, 0.2, 0.6
    spheres = np.array([[1, 0, 0, 0.3], [0, 0, 2, 1.5], [0.1, 0, 0, 0.5]], np.float32)  # the last one: from inside
    ready = prepared.using({"bright": spheres, "bright_share": share})

    @njit
    def tally(table, p, us, counts, masses, n):
        for k in range(len(us)):
            d = direction_to_bright(table, np.uint32(1), p, us[k, 0], us[k, 1], us[k, 2])
            i = min(int((d[2] + 1) * 0.5 * n), n - 1)
            j = min(int((np.arctan2(d[1], d[0]) / (2 * np.pi) + 0.5) * 2 * n), 2 * n - 1)
            counts[i, j] += 1
        fine = 16
        for i in range(n * fine):
            z = np.float32(-1 + (i + 0.5) * 2 / (n * fine))
            for j in range(2 * n * fine):
                a = (j + 0.5) / (2 * n * fine) * 2 * np.pi - np.pi
                r = np.sqrt(1 - z * z)
                d = (np.float32(r * np.cos(a)), np.float32(r * np.sin(a)), z)
                masses[i // fine, j // fine] += bright_density(table, np.uint32(1), p, d, np.float32(1))
        return row_share(table, np.uint32(1))

    n, fine = 12, 16
    counts, masses = np.zeros((n, 2 * n)), np.zeros((n, 2 * n))
    us = np.random.default_rng(3).random((200_000, 3)).astype(np.float32)
    p = (np.float32(0), np.float32(0), np.float32(0))
    assert tally(ready.table.ctypes.data, p, us, counts, masses, n) == pytest.approx(0.6)
    masses *= 4 * np.pi / (2 * n * n * fine * fine)
    assert masses.sum() == pytest.approx(0.6, rel=0.01)
    expected = masses / masses.sum() * len(us)
    assert (np.abs(counts - expected) < 6 * np.sqrt(expected + 1) + 0.05 * expected).all()

"""Choosing among many lights: chances that add up, and are what the density says."""

import numpy as np
import pytest
from numba import njit

from nocturne.engine import lighttree
from nocturne.engine.prepare import Preparer
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.lights import KINDS, Turned, make_light


def emitters(n: int, seed: int = 0) -> list[lighttree.Emitter]:
    rng = np.random.default_rng(seed)
    found = []
    for _ in range(n):
        at, axis = rng.uniform(-3, 3, 3), rng.normal(size=3)
        found.append(
            lighttree.Emitter(
                at, at + 0.1, axis / np.linalg.norm(axis), rng.uniform(0, 1), np.pi / 2, rng.uniform(0.1, 9)
            )
        )
    return found


@pytest.mark.parametrize("n", [1, 2, 7, 200])
def test_every_light_is_a_leaf_and_bounds_hold(n):
    lights = emitters(n)
    floats, links, trails = lighttree.build(lights, list(range(n)))
    assert len(links) == 2 * n - 1
    assert sorted(int(light) for child, light in links if child < 0) == list(range(n))
    assert floats[0, 11] == pytest.approx(sum(e.power for e in lights), rel=1e-5)
    for light, (trail, depth) in trails.items():
        node = 0
        for step in range(depth):
            e = lights[light]
            assert (floats[node, 0:3] <= e.low + 1e-5).all()
            assert (floats[node, 3:6] >= e.high - 1e-5).all()
            spread = np.arccos(np.clip(floats[node, 9], -1, 1))
            angle = np.arccos(np.clip(floats[node, 6:9] @ e.axis, -1, 1))
            assert spread >= min(angle + e.spread, np.pi) - 2e-3, "the cone of a node holds those below it"
            node = links[node][0] + (trail >> step & 1)
        assert links[node][1] == light


def test_an_empty_tree_has_one_dark_node():
    floats, _, trails = lighttree.build([], [])
    assert floats[0, 11] == 0
    assert trails == {}


def test_coincident_lights_do_not_run_out_of_trail():
    same = [lighttree.Emitter(np.zeros(3), np.zeros(3), np.array([0, 0, 1.0]), np.pi, np.pi / 2, 1.0)] * 300
    _, _, trails = lighttree.build(same, list(range(300)))
    assert max(depth for _, depth in trails.values()) < 31


def test_choosing_follows_the_chance_it_tells(engine):
    from nocturne.engine.kernels.lights import choose as kernels

    rng = np.random.default_rng(4)
    lamps = tuple(
        make_light(
            id=f"l{k}",
            kind=kind,
            unit="cd",
            power=float(rng.uniform(1, 9)),
            place=tuple(float(v) for v in rng.uniform(-2, 2, 3)),
            **(
                {"turn_deg": tuple(float(v) for v in rng.uniform(-180, 180, 3))}
                if issubclass(KINDS[kind], Turned)
                else {}
            ),
        )
        for k, kind in enumerate(("sphere", "rect", "spot", "point", "disc", "tube") * 4)
    )
    far = (make_light(id="d", kind="dome", unit="nit", power=1), make_light(id="s", kind="sun", unit="x", power=1))
    prepared = Preparer().prepare(Document(lights=(*lamps, *far)), Assets())
    f4 = np.float32

    @njit
    def choose(table, x, y, z, u):
        light, _, chance, _ = kernels.choose(table, (f4(x), f4(y), f4(z)), (f4(0), f4(0), f4(1)), False, f4(u))
        return light, chance

    @njit
    def chance_of(table, light, x, y, z):
        return kernels.chance_of(table, light, (f4(x), f4(y), f4(z)), (f4(0), f4(0), f4(1)), False)

    table = prepared.table.ctypes.data
    for point in ((0.0, 0.0, -1.0), (1.5, -0.5, 0.2)):
        chances = np.array([chance_of(table, k, *point) for k in range(26)])
        counts, lost, n = np.zeros(26), 0, 20000
        for u in (np.arange(n) + 0.5) / n:
            light, chance = choose(table, *point, u)
            if light < 0:
                lost += 1
                continue
            counts[light] += 1
            assert chance == pytest.approx(chances[light], rel=1e-3, abs=1e-6)
        assert counts / n == pytest.approx(chances, abs=2e-3)
        assert chances.sum() + lost / n == pytest.approx(1, abs=3e-3)
        assert chances[24] == chances[25] == pytest.approx(0.25)

"""Dispatchers made from tables, and that every entry of a registry is what its room asks for, and is tested."""

import numpy as np
import pytest
from numba import njit

from nocturne.engine.kernels.dispatch import by_kind, by_share, summed
from nocturne.engine.layout import scratch
from nocturne.scene.lights import KINDS as scene_kinds
from tests.engine.test_materials import SAMPLED, hit


@njit
def twice(x):
    return 2.0 * x


@njit
def square(x):
    return x * x


@njit
def minus_one(x):
    return -1.0


def test_a_kind_calls_its_entry_in_whatever_order_they_are_listed():
    call = by_kind({9: minus_one, 3: twice, 5: square})
    run = njit(lambda kind, x: call(kind, x))
    assert [run(kind, 7.0) for kind in (3, 5, 9)] == [14.0, 49.0, -1.0]
    with pytest.raises(ValueError, match="entry"):
        by_kind({})


def test_sums_are_taken_from_the_left():
    whole = summed([twice, square, minus_one])
    run = njit(lambda x: whole(x))
    x = np.float64(1e-9)
    assert run(x) == (2.0 * x + x * x) + -1.0
    with pytest.raises(ValueError, match="sum"):
        summed([])


def test_shares_divide_what_is_drawn():
    @njit
    def first(W):
        return W[0]

    @njit
    def second(W):
        return W[1]

    @njit
    def name_a(W):
        return 1

    @njit
    def name_b(W):
        return 2

    draw = by_share([first, second], [name_a, name_b])
    run = njit(lambda u, W: draw(u, W))
    shares = np.array([0.25, 0.75])
    drawn = [run(u, shares) for u in (np.arange(4000) + 0.5) / 4000]
    assert drawn.count(1) == 1000
    assert run(1.0, shares) == 2, "the last one takes what rounding leaves"
    with pytest.raises(ValueError, match="share"):
        by_share([first], [])


def test_every_kind_of_light_can_be_sampled_and_found_or_never_found(engine):
    from nocturne.engine.kernels.lights.units import KINDS, ROWS

    assert set(KINDS) == set(range(len(KINDS)))
    assert set(ROWS) == {name for name, kind in scene_kinds.items() if kind.gives_light}
    for kind in KINDS.values():
        assert hasattr(kind, "sample")
        assert not (hasattr(kind, "density") and hasattr(kind, "seen")), "near by, or at infinity"


def test_every_lobe_is_sampled_by_some_material_of_the_chi_square_test(engine):
    from nocturne.engine.kernels.lobes import below
    from nocturne.engine.kernels.lobes.surface import LOBES

    # What wanders below the surface has no density here: test_wandering follows it out.
    missing = {lobe.__name__ for lobe in LOBES} - {below.__name__}
    for material, ior in SAMPLED.values():
        _, row, ids, _keep = hit(material, 0.9, ior=ior)
        shares = [row[lobe.SHARE] for lobe in LOBES]
        assert sum(shares) == pytest.approx(1, abs=1e-6)
        assert not ids[scratch.IS_SHARP]
        missing -= {lobe.__name__ for lobe, share in zip(LOBES, shares) if share > 0}
    assert not missing

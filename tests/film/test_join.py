"""Films of one picture rendered in parts, by other threads or machines, are the film of the whole."""

import numpy as np
import pytest

from nocturne.engine.prepare import Preparer
from nocturne.engine.render import blank_film, render
from nocturne.film.join import joined
from nocturne.jobs import run
from nocturne.scene.materials import Material
from tests import sets


@pytest.fixture(scope="module")
def prepared(engine):
    glass = Material(id="g", name="Glass", transmission_weight=1.0, specular_roughness=0.2)
    parts = [(sets.BALL, glass, {}), (sets.PLANE, Material(id="f", name="Floor"), {"place": (0.0, 0.0, -1.0)})]
    document, assets = sets.many(parts, sets.white_dome(), camera=sets.view(size=(70, 40)), quality=sets.deep(8))
    return Preparer().prepare(document, assets)


def part(prepared, *, first: int = 0, samples: int = 8, region=None, threads: int = 2):
    """Return a film of some samples of a region."""
    film = blank_film(prepared)
    film.first = first
    return run(render(prepared, film, seed=4, samples=samples, noise=0.0, region=region, threads=threads))


def test_regions_joined_are_the_whole_to_the_last_bit(prepared):
    whole = part(prepared)
    regions = [(0, 0, 33, 17), (33, 0, 70, 17), (0, 17, 70, 40)]
    films = [part(prepared, region=region, threads=k % 2 + 1) for k, region in enumerate(regions)]
    out = joined(films[::-1])
    for name, array in whole.arrays.items():
        assert np.array_equal(getattr(out, name), array), name
    assert films[0].samples.min() == 0, "what was joined is as it was"


def test_ranges_of_samples_joined_are_the_whole_to_rounding(prepared):
    whole = part(prepared)
    out = joined([part(prepared, first=5, samples=3), part(prepared, samples=5)])
    assert np.array_equal(out.samples, whole.samples)
    for name in ("groups", "passes", "guides"):
        assert getattr(out, name) == pytest.approx(getattr(whole, name), rel=3e-6, abs=1e-6), name
    assert out.variance == pytest.approx(whole.variance, rel=1e-12)
    for which, names in ((0, whole.objects), (1, whole.materials)):
        for k in range(len(names)):
            assert out.matte(which, (k,)) == pytest.approx(whole.matte(which, (k,)), abs=1e-6)


def test_a_joined_film_goes_on_where_its_parts_ended(prepared):
    out = joined([part(prepared, samples=3), part(prepared, first=3, samples=2)])
    run(render(prepared, out, seed=4, samples=8, noise=0.0))
    assert out.beauty() == pytest.approx(part(prepared).beauty(), rel=3e-6, abs=1e-6)


def test_what_is_no_part_of_one_picture_is_refused(prepared):
    film = part(prepared, samples=1)
    with pytest.raises(ValueError, match="two of the films"):
        joined([film, part(prepared, samples=2)])
    with pytest.raises(ValueError, match="missing"):
        joined([film, part(prepared, first=2, samples=1)])
    beside = part(prepared, first=1, samples=1, region=(35, 0, 70, 40))
    with pytest.raises(ValueError, match="missing"):
        joined([part(prepared, samples=1, region=(0, 0, 35, 40)), beside])
    other = part(prepared, first=1, samples=1)
    other.objects = ("something else",)
    with pytest.raises(ValueError, match="one picture"):
        joined([film, other])
    with pytest.raises(ValueError, match="no film"):
        joined([])

"""Wear: what short rays find near edges and in corners, against integrals worked out apart."""

from types import SimpleNamespace

import numpy as np
import pytest

from nocturne.scene import solids as forms
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Curvature, Drips, Edges, Hollows, Occlusion
from nocturne.scene.patterns.wear import streaks
from nocturne.scene.shapes import joined
from tests import sets

RADIUS = 0.25


def across(way: float) -> tuple[float, float]:
    """Return (near, hits) beside a right angle at a distance from its edge: means over a cosine's directions."""
    rng = np.random.default_rng(3)
    u, turn = rng.uniform(size=400_000), rng.uniform(0, 2 * np.pi, 400_000)
    x = np.sqrt(u) * np.cos(turn)
    t = np.where(x > 0, way / np.maximum(x, 1e-12), np.inf)
    return float(np.where(t < RADIUS, 1 - t / RADIUS, 0).mean()), float((t < RADIUS).mean())


def seen(mesh, step, *, eye, target=(0, 0, 0)) -> np.ndarray:
    """Return (16, 64) of what a step puts out, in a picture 2 m wide."""
    material = Material(id="m", specular_weight=0, specular_ior=1, steps=(step,))
    camera = sets.view(eye=eye, target=target, size=(64, 16), projection="orthographic", span_m=2.0)
    document, assets = sets.one_thing(mesh, material, sets.white_dome(), camera=camera, quality=sets.deep(64))
    return sets.picture(document, assets).albedo[..., 0]


@pytest.mark.parametrize("kind", [Edges, Curvature])
def test_an_edge_of_a_box_is_found_as_far_as_the_radius_reaches(kind, engine):
    found = seen(forms.rounded_box((1.0, 1.0, 1.0), 1e-4), kind(radius=RADIUS, rays=16), eye=(0, 0, 5)).mean(0)
    x = (np.arange(64) + 0.5) / 64 * 2 - 1
    inside = np.abs(x) < 0.5 - 1 / 64
    expected = np.array([min(2 * across(0.5 - abs(v))[0], 1) for v in x[inside]])
    expected = expected if kind is Edges else 0.5 + 0.5 * expected
    assert found[inside] == pytest.approx(expected, abs=0.03)
    assert found[30:34] == pytest.approx(0.0 if kind is Edges else 0.5, abs=1e-3), (
        "the middle is further than the radius"
    )


def test_a_corner_that_goes_in_is_hollow_and_shaded(engine):
    floor = forms.panel([(-5, -5, 0), (0, -5, 0), (0, 5, 0), (-5, 5, 0)])
    wall = forms.panel([(0, -5, 0), (0, -5, 5), (0, 5, 5), (0, 5, 0)])
    corner = joined(floor, wall)
    x = (np.arange(64) + 0.5) / 64 * 2 - 1.5
    beside = x < -1 / 64
    found = seen(corner, Hollows(radius=RADIUS, rays=16), eye=(-0.5, 0, 4), target=(-0.5, 0, 0)).mean(0)
    assert found[beside] == pytest.approx([min(2 * across(-v)[0], 1) for v in x[beside]], abs=0.03)
    opened = seen(corner, Occlusion(radius=RADIUS, rays=16), eye=(-0.5, 0, 4), target=(-0.5, 0, 0)).mean(0)
    assert opened[beside] == pytest.approx([1 - across(-v)[1] for v in x[beside]], abs=0.03)
    flat = seen(corner, Edges(radius=RADIUS), eye=(-0.5, 0, 4), target=(-0.5, 0, 0)).mean(0)
    assert flat[beside].max() < 0.01, "a corner that goes in has no edge"


def test_a_cylinder_is_as_worn_all_around_as_its_curvature_says(engine):
    """Inside a cylinder of radius r, chords within the plane across are 2 r cos(angle to the inward normal) long."""
    r = 0.5
    found = seen(
        forms.lathe([(r, 0.0), (r, 4.0)], segments=256),
        Edges(radius=RADIUS, rays=16),
        eye=(0, -5, 2.0),
        target=(0, 0, 2.0),
    )
    rng = np.random.default_rng(4)
    u, turn = rng.uniform(size=400_000), rng.uniform(0, 2 * np.pi, 400_000)
    x, z = np.sqrt(u) * np.cos(turn), np.sqrt(1 - u)
    # Along y the cylinder is endless: a way t goes t (x, z) across, and ends where r is reached again.
    t = 2 * r * z / np.maximum(x**2 + z**2, 1e-12)
    # The outward normal where it comes out, against the way in: (0, -1) at the start becomes (x t, z t - r) / r.
    back = (z * t - r) / r
    counts = (t < RADIUS) & (back <= 0.7)
    expected = 2 * np.where(counts, 1 - t / RADIUS, 0).mean()
    assert found[:, 28:36].mean() == pytest.approx(expected, abs=0.02)


def test_a_thin_sheet_is_not_all_edge(engine):
    sheet = forms.rounded_box((1.0, 1.0, 0.02), 1e-4)
    assert seen(sheet, Edges(radius=RADIUS, rays=16), eye=(0, 0, 5))[6:10, 24:40].max() < 0.05


def fallen(step, *parts, eye=(0, -5, 0.0), target=(0, 0, 0.0)) -> np.ndarray:
    """Return (64, 64) of what a step puts out on the first of some meshes, in a picture 2 m wide."""
    material = Material(id="m", specular_weight=0, specular_ior=1, steps=(step,))
    plain = Material(id="p", base_color=(0, 0, 0))
    camera = sets.view(eye=eye, target=target, size=(64, 64), projection="orthographic", span_m=2.0)
    each = [(mesh, plain if k else material, {}) for k, mesh in enumerate(parts)]
    document, assets = sets.many(each, sets.white_dome(), camera=camera, quality=sets.deep(16))
    return sets.picture(document, assets).albedo[..., 0]


@pytest.mark.parametrize("from_ledge", [False, True])
def test_drips_run_down_from_an_edge_or_a_ledge_and_fade(from_ledge, engine):
    """A wall that ends at its top, or on which a ledge stands out: streaks begin there and are as long as they may."""
    wall = sets.shifted(forms.rounded_box((1.6, 0.2, 1.6), 1e-4), (0, 0, -0.8))
    step = Drips(radius=0.8, width=0.05, dripping=0.7, lip=0.01)
    parts, top = (wall,), 0.8
    if from_ledge:
        step = Drips(radius=0.6, width=0.05, dripping=0.7, lip=0.01)
        ledge = sets.shifted(forms.rounded_box((1.7, 0.1, 0.04), 1e-4), (0, -0.12, 0.18))
        parts, top = (wall, ledge), 0.18
    found = fallen(step, *parts)
    z = 1 - (np.arange(64) + 0.5) / 32
    across = slice(8, 56)
    strip = lambda low, high: found[(z > top - high) & (z < top - low), across]  # noqa: E731
    assert strip(0.02, 0.1).max() > 0.6, "they are strongest where they begin"
    assert strip(0.02, 0.1).mean() > 2 * strip(0.3, 0.4).mean() > 0
    assert strip(0.7 if from_ledge else 0.9, 0.97).max(initial=0) < 1e-3, "none is longer than the longest"
    assert strip(0.02, 0.1).std(1).mean() > 0.1, "they are streaks"
    few = fallen(step.model_copy(update={"dripping": 0.15}), *parts)
    assert few[:, across].mean() < 0.4 * found[:, across].mean()
    assert fallen(step, *parts, eye=(0, 0, 5), target=(0, 0, 0.0))[30:34, across].max() < 1e-3, "none on what lies flat"


def test_a_middle_of_a_wall_out_of_reach_has_no_drips(engine):
    wall = forms.panel([(-5, 0, -5), (5, 0, -5), (5, 0, 5), (-5, 0, 5)])
    assert fallen(Drips(radius=0.5), wall).max() == 0


def test_nothing_runs_along_what_hangs_flat(engine):
    ceiling = forms.panel([(-1, -1, 0), (-1, 1, 0), (1, 1, 0), (1, -1, 0)])
    found = fallen(Drips(radius=1.0, dripping=1.0), ceiling, eye=(0, 0, -5), target=(0, 0, 0))
    assert found.max() == 0


def test_a_surface_that_bends_gently_has_no_edge_that_drips(engine):
    ball = forms.ball(0.8, segments=192)
    assert fallen(Drips(radius=0.6, dripping=1.0, lip=0.004), ball)[8:56, 8:56].max() < 0.01


def test_drips_of_a_wall_are_what_numpy_makes_of_its_upper_edge(engine):
    wall = sets.shifted(forms.rounded_box((1.6, 0.2, 1.6), 1e-4), (0, 0, -0.8))
    step = Drips(radius=1.2, width=0.25, dripping=0.6, lip=0.01, seed=3)
    found = fallen(step, wall)[9:-9, 9:-9]
    at = (np.arange(64) + 0.5) / 32 - 1
    x, z = np.meshgrid(at[9:-9], -at[9:-9])
    edge = np.stack([x, np.full_like(x, -0.1), np.full_like(x, 0.8)], axis=-1)
    expected = streaks(SimpleNamespace(**{name: step.number_of(name) for name in step.own_fields()}), edge, z, 0.8 - z)
    assert np.abs(found - expected).mean() < 0.012
    assert expected.std() > 0.1

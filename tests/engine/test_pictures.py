"""Pictures as kernels read them: coarser levels keep the mean, tiles hold what was put in, wide rays see the mean."""

import numpy as np
import pytest
from numba import njit

from nocturne.engine import pictures
from nocturne.engine.kernels.patterns.image import texture
from nocturne.engine.layout import pattern
from nocturne.engine.pictures import LINE, Pictures
from nocturne.engine.prepare import Preparer
from nocturne.engine.texels import encoded, halved
from nocturne.scene.assets import Assets
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Picture
from tests import sets


@pytest.fixture
def rng():
    """Return numbers that are the same in every run."""
    return np.random.default_rng(5)


@njit
def looked_up(table, places, size):
    out = np.empty((len(places), 3), np.float32)
    for k in range(len(places)):
        out[k] = np.array(texture(table, 0, np.float32(places[k, 0]), np.float32(places[k, 1]), np.float32(size)))
    return out


def bilinear(image, places):
    """Return the bilinear value of a repeated picture, v upwards."""
    h, w = image.shape[:2]
    x, y = places[:, 0] % 1 * w - 0.5, (1 - places[:, 1] % 1) * h - 0.5
    x0, y0 = np.floor(x).astype(int), np.floor(y).astype(int)
    fx, fy = (x - x0)[:, None], (y - y0)[:, None]
    at = lambda dx, dy: image[(y0 + dy) % h, (x0 + dx) % w]  # noqa: E731
    return (at(0, 0) * (1 - fx) + at(1, 0) * fx) * (1 - fy) + (at(0, 1) * (1 - fx) + at(1, 1) * fx) * fy


def prepared(image):
    material = Material(id="m", steps=(Picture(parameter="base_color", path="p.png"),))
    document, assets = sets.one_thing(sets.PLANE, material, sets.white_dome())
    key = material.steps[0].picture
    return Preparer().prepare(document, Assets(assets.meshes, {key: image}))


@pytest.fixture
def image(rng):
    return rng.random((37, 51, 3)).astype(np.float32) ** 2


@pytest.mark.parametrize("shape", [(8, 8), (7, 12), (1, 9), (13, 1), (5, 5)])
def test_a_coarser_level_keeps_the_mean(rng, shape):
    image = rng.random((*shape, 3)).astype(np.float32)
    smaller = halved(image)
    assert smaller.shape[:2] == (max(shape[0] // 2, 1), max(shape[1] // 2, 1))
    assert smaller.mean((0, 1)) == pytest.approx(image.mean((0, 1)), rel=1e-5)
    flat = np.full((*shape, 3), 0.3, np.float32)
    assert halved(flat) == pytest.approx(np.full_like(smaller, 0.3), rel=1e-6), "no pixel counts more than another"


def test_each_place_is_the_pictures_bilinear_value(rng, image):
    ready = prepared(image)
    places = np.concatenate([rng.uniform(-3, 3, (4000, 2)), [(0, 0), (1, 1), (0, 1), (0.99999994, 1e-9), (-1e-9, 0)]])
    places = places.astype(np.float32)
    found = looked_up(ready.table.ctypes.data, places, 0)
    assert found == pytest.approx(bilinear(image.astype(float), places.astype(float)), abs=2e-4)


def test_no_coordinates_read_beside_the_picture(image):
    ready = prepared(image)
    odd = [np.nan, np.inf, -np.inf, 3e38, -3e38, 1e-45, -1e-45, 16777217.0]
    places = np.array([(u, v) for u in odd for v in odd], np.float32)
    for size in (0.0, 0.3, np.inf, np.nan):
        found = looked_up(ready.table.ctypes.data, places, size)
        assert (np.isnan(found) | ((found >= 0) & (found <= image.max() * 1.001))).all()


@pytest.mark.parametrize("level", [1, 2, 3])
def test_a_wide_ray_reads_the_level_whose_pixels_are_as_wide(rng, image, level):
    ready = prepared(image)
    coarse = image
    for _ in range(level):
        coarse = halved(coarse)
    places = rng.uniform(0, 1, (500, 2)).astype(np.float32)
    # Just above two to the level in pixels of the picture, and just below the next.
    for wide in (1.01, 1.99):
        size = 2**level * wide / np.sqrt(37 * 51)
        found = looked_up(ready.table.ctypes.data, places, size)
        assert found == pytest.approx(bilinear(coarse.astype(float), places.astype(float)), abs=2e-4)


def test_the_widest_ray_sees_the_mean_and_nothing_lies_across_two_lines(image):
    ready = prepared(image)
    found = looked_up(ready.table.ctypes.data, np.array([[0.2, 0.7]], np.float32), 1e6)[0]
    assert found == pytest.approx(image.mean((0, 1)), abs=1e-3)
    assert ready.arrays["texels"].ctypes.data % LINE == 0
    assert (ready.arrays["level_i"][:, pattern.FIRST_TEXEL] % 8 == 0).all()
    assert ready.arrays["corners"].ctypes.data % LINE == 0


def test_far_away_a_fine_picture_is_seen_without_speckle(engine):
    checks = (np.indices((512, 512)).sum(0) % 2).astype(np.float32)
    image = np.repeat(checks[..., None], 3, axis=2)
    step = Picture(parameter="base_color", path="p.png", repeat=(8, 8))
    material = Material(id="m", specular_weight=0, specular_ior=1, steps=(step,))
    camera = sets.view(eye=(0, 0, 60), target=(0, 0, 0), focal_mm=360, size=(24, 24))
    document, assets = sets.one_thing(sets.PLANE, material, sets.white_dome(), camera=camera, quality=sets.deep(1))
    albedo = sets.picture(document, Assets(assets.meshes, {step.picture: image})).albedo
    assert albedo == pytest.approx(np.full_like(albedo, 0.5), abs=0.02), "one sample already shows the mean"


@pytest.mark.parametrize("shape", [(8, 8), (7, 12), (1, 9), (13, 1), (2, 6)])
def test_texels_are_where_kernels_look_for_them(rng, shape):
    h, w = shape
    image = rng.normal(0.3, 0.3, (h, w, 3)).astype(np.float32)
    scale = float(image.max())
    y, x = np.mgrid[:h, :w]
    at = ((y // 2) * -(-w // 4) + x // 4) * 8 + (y % 2) * 4 + x % 4
    texels = encoded(image, scale)
    assert texels.shape == (-(-h // 2) * -(-w // 4) * 8, 4)
    roots = np.sqrt(np.maximum(image, 0).astype(float) / scale) * 65535
    assert np.abs(texels[at, :3] - roots).max() <= 0.51
    assert not texels[..., 3].any()
    assert not np.delete(texels, at.ravel(), axis=0).any()


def test_pictures_that_stay_are_not_encoded_again(image, monkeypatch):
    made, encoded = Pictures(), []
    monkeypatch.setattr(pictures, "_encoded", lambda one, real=pictures._encoded: encoded.append(one) or real(one))
    first = made.tables([image])
    other = np.ones((4, 4, 3), np.float32)
    both = made.tables([other, image])
    assert [one is two for one, two in zip(encoded, (image, other))] == [True, True]
    assert len(encoded) == 2
    row = both["tex_i"][1]
    at = both["level_i"][row[pattern.FIRST_LEVEL], pattern.FIRST_TEXEL]
    assert np.array_equal(both["texels"][at : at + len(first["texels"])], first["texels"])
    # What is kept for the next time is the table itself, so nothing is held twice.
    assert all(np.shares_memory(level, both["texels"]) for _, held in made._made.values() for level in held.levels)

"""Pictures that drive a material: the renderer shows what the small pictures show, by the share they count."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.ndimage import minimum_filter

from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Checker, Gradient, Picture, sampled
from tests import sets

# Looking straight down on the whole of a 10 m plane whose texture coordinates run from 0 to 1.
PLANE = replace(sets.PLANE, uvs=(sets.PLANE.vertices[:, :2] + 5) / 10)
ABOVE = sets.view(eye=(0, 0, 100), target=(0, 0, 0), focal_mm=360, size=(32, 32))
PLACED = Picture(parameter="base_color", path="p.png", repeat=(1.5, 0.7), offset=(0.2, 0.4), turn_deg=30)


@pytest.fixture(scope="module")
def image():
    """Return a small, smooth picture."""
    x, y = np.meshgrid(np.linspace(0, 1, 16, endpoint=False), np.linspace(0, 1, 16, endpoint=False))
    wave = [0.5 + 0.4 * np.sin(2 * np.pi * (x + k * y) + k) for k in range(3)]
    return np.stack(wave, axis=-1).astype(np.float32)


def albedo(image, *textures, **values) -> np.ndarray:
    """Return the (32, 32, 3) albedo of the plane seen from above."""
    material = Material(id="m", specular_weight=0, specular_ior=1, steps=textures, **values)
    document, assets = sets.one_thing(PLANE, material, sets.white_dome(), camera=ABOVE, quality=sets.deep(64))
    pictures = {texture.picture: image for texture in textures if texture.picture}
    return sets.picture(document, Assets(assets.meshes, pictures)).albedo


def small(texture, image) -> np.ndarray:
    """Return what the small picture shows, as coarse as the render."""
    return sampled(texture, {texture.picture: image}, 128).reshape(32, 4, 32, 4, 3).mean((1, 3))


def apart(a, b) -> float:
    """Return the mean difference, but for the rim, where the plane ends."""
    return float(np.abs(a - b)[2:-2, 2:-2].mean())


def test_a_picture_lies_on_the_surface_as_its_small_picture_shows(engine, image):
    assert apart(albedo(image, PLACED), small(PLACED, image)) < 0.02
    upside_down = edit.changed(PLACED, repeat=(1.5, -0.7))
    assert apart(albedo(image, upside_down), small(PLACED, image)) > 0.1, "the comparison sees a wrong placement"


def test_squares_lie_on_the_surface_as_their_small_picture_shows(engine):
    squares = Checker(
        parameter="base_color", first=(0.8, 0.1, 0.3), second=(0.1, 0.6, 0.9), repeat=(1.5, 2.0), turn_deg=20
    )
    shown = albedo(None, squares)
    assert apart(shown, small(squares, None)) < 0.02
    # A pixel and a half away from the edges it is the one colour or the other.
    fine = sampled(squares, {}, 128)
    for colour in (squares.first, squares.second):
        is_it = np.isclose(fine, colour).all(-1).astype(np.uint8)
        inside = minimum_filter(is_it, 16, mode="constant")[2::4, 2::4].astype(bool)
        assert inside.mean() > 0.08
        assert shown[inside] == pytest.approx(np.broadcast_to(colour, (inside.sum(), 3)), abs=1e-3)
    assert apart(albedo(None, edit.changed(squares, invert=True)), 1 - small(squares, None)) < 0.02


def test_amount_mixes_with_what_lies_under(engine, image):
    half = edit.changed(PLACED, amount=0.25)
    base = np.array((0.1, 0.5, 0.9))
    expected = base * 0.75 + small(PLACED, image) * 0.25
    assert apart(albedo(image, half, base_color=tuple(base)), expected) < 0.02
    none = albedo(image, edit.changed(PLACED, amount=0.0), base_color=tuple(base))
    assert none[16, 16] == pytest.approx(base, abs=1e-3)


def test_the_later_picture_lies_over_the_earlier(engine, image):
    inverted = edit.changed(PLACED, invert=True)
    assert apart(albedo(image, inverted), 1 - small(PLACED, image)) < 0.02
    over = albedo(image, inverted, edit.changed(PLACED, amount=0.5))
    assert over[2:-2, 2:-2] == pytest.approx(np.full((28, 28, 3), 0.5), abs=0.01), "half of a picture over its negative"


def test_a_muted_picture_is_as_if_it_were_not_there(engine, image):
    muted = albedo(image, edit.changed(PLACED, on=False), base_color=(0.3, 0.2, 0.1))
    assert np.array_equal(muted, albedo(image, base_color=(0.3, 0.2, 0.1)))


def test_a_glow_is_dimmed_by_the_share_of_its_picture(engine):
    dark = np.zeros((2, 2, 3), np.float32)
    texture = Picture(parameter="emission_color", path="g.png", amount=0.25, blend="multiply")
    material = Material(id="m", base_color=(0, 0, 0), specular_weight=0, emission_luminance=100, steps=(texture,))
    document, assets = sets.one_thing(PLANE, material, camera=ABOVE, quality=sets.deep(8))
    film = sets.picture(document, Assets(assets.meshes, {("g.png", "colour"): dark}))
    plain, _ = sets.one_thing(PLANE, edit.changed(material, steps=()), camera=ABOVE, quality=sets.deep(8))
    whole = sets.picture(plain, assets)
    assert film.beauty()[16, 16] == pytest.approx(whole.beauty()[16, 16] * 0.75, rel=1e-3)


def test_a_relief_tilts_the_surface_as_its_slope_does(engine):
    """A height that rises evenly by k turns the normal by its arctangent; seen from behind the other way."""
    rise = Gradient(parameter="geometry_height", where="solid", length=10.0, origin=(-5.0, 0.0, 0.0))
    material = Material(id="m", specular_weight=0, specular_ior=1, relief_depth=3.0, steps=(rise,))
    expected = np.array([-0.3, 0, 1]) / np.hypot(0.3, 1)
    for eye, sign in (((0, 0, 100), 1), ((0, 0, -100), -1)):
        camera = sets.view(eye=eye, target=(0, 0, 0), focal_mm=360, size=(16, 16))
        document, assets = sets.one_thing(PLANE, material, sets.white_dome(), camera=camera, quality=sets.deep(8))
        normal = sets.picture(document, assets).normal
        assert normal[8, 8] == pytest.approx(sign * expected, abs=2e-3)


def test_a_relief_of_a_picture_is_that_of_its_slopes(engine, image):
    """Heights from a picture tilt by its differences, wherever the ray is as wide as a pixel or wider."""
    waves = Picture(parameter="geometry_height", path="p.png", space="red")
    material = Material(id="m", specular_weight=0, specular_ior=1, relief_depth=1.0, steps=(waves,))
    document, assets = sets.one_thing(PLANE, material, sets.white_dome(), camera=ABOVE, quality=sets.deep(64))
    normal = sets.picture(document, Assets(assets.meshes, {waves.picture: image})).normal
    # 0.5 + 0.4 sin(2 pi x), x in pictures of 10 m; the picture's own first column is at x = half a pixel.
    x = (np.arange(32) + 0.5) / 32 - 0.5 / 16
    slope = 0.4 * 2 * np.pi * np.cos(2 * np.pi * x) / 10
    expected = -slope / np.hypot(slope, 1)
    assert normal[16, 2:-2, 0] == pytest.approx(expected[2:-2], abs=0.03)

"""Light sampling, material sampling and both together find the same picture, over kinds of lights and of materials."""

import math
from dataclasses import replace

import numpy as np
import pytest

from nocturne.scene import solids as forms
from nocturne.scene.assets import Assets
from nocturne.scene.lights import KINDS, make_light
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Picture
from tests import sets

WHITE = {"colour_from": "colour", "colour": (1.0, 1.0, 1.0)}
MATT = Material(id="matt", base_color=(1, 1, 1), specular_weight=0.0, specular_ior=1.0)
# One of each kind of light that there is; a kind without an example here fails below.
LIGHTS = {
    "rect": make_light(
        id="l", kind="rect", unit="nit", power=20, place=(1.5, -1, 3), turn_deg=(20, 25, 0), width=3, height=3
    ),
    "disc": make_light(id="l", kind="disc", unit="nit", power=25, place=(1.5, -1, 3), turn_deg=(20, 25, 0), radius=1.5),
    "sphere": make_light(id="l", kind="sphere", unit="nit", power=30, place=(-2, -1, 2), radius=1.2),
    "tube": make_light(
        id="l", kind="tube", unit="nit", power=40, place=(-1, -1.5, 2.2), turn_deg=(0, 20, 30), length=4, radius=0.5
    ),
    "point": make_light(id="l", kind="point", unit="cd", power=60, place=(2, -2, 3), bulb_radius=1.3),
    "spot": make_light(
        id="l", kind="spot", unit="cd", power=90, place=(2, -2, 4), turn_deg=(30, 25, 0), outer_deg=50, bulb_radius=1.3
    ),
    "distant": make_light(id="l", kind="distant", power=20, turn_deg=(25, 30, 0), angle_deg=50),
    "sky": make_light(id="l", kind="sky", unit="x", power=0.0005, elevation_deg=50, azimuth_deg=-60),
    "dome": make_light(id="l", kind="dome", unit="nit", power=2.0),
    "environment": make_light(id="l", kind="environment", image="e.exr", unit="nit", power=2.0, azimuth_deg=40),
}
# Kinds that no ray finds often enough to compare, see the test of those.
HARD = {"sun"}
MATERIALS = {
    "plastic": Material(id="m", base_color=(0.7, 0.5, 0.3), specular_roughness=0.3),
    "rough metal": Material(id="m", base_metalness=1, specular_roughness=0.5),
    "half a rough coat on a polished metal": Material(
        id="m", base_metalness=1, base_color=(0.9, 0.7, 0.4), specular_roughness=0, coat_weight=0.5, coat_roughness=0.3
    ),
    "coated plastic": Material(id="m", specular_roughness=0.5, coat_weight=0.7, coat_roughness=0.4),
    "rough glass": Material(id="m", transmission_weight=1, specular_roughness=0.6),
    "half sheet": Material(id="m", transmission_weight=0.5, geometry_thin_walled=True, specular_roughness=0),
    "rough sheet": Material(id="m", transmission_weight=0.8, geometry_thin_walled=True, specular_roughness=0.5),
    "brushed metal with a tail": Material(
        id="m", base_metalness=1, specular_roughness=0.5, specular_roughness_anisotropy=0.6, specular_tail=0.4
    ),
    "brushed coat with a tail on chalk": Material(
        id="m",
        base_diffuse_roughness=1,
        coat_weight=0.8,
        coat_roughness=0.4,
        coat_roughness_anisotropy=0.6,
        coat_tail=0.5,
        coat_levelling=0.5,
    ),
    "velvet with a film": Material(
        id="m",
        base_color=(0.4, 0.1, 0.1),
        fuzz_weight=1,
        fuzz_roughness=0.6,
        thin_film_weight=1,
        specular_roughness=0.5,
    ),
    "leaf": Material(id="m", subsurface_weight=1, geometry_thin_walled=True, specular_roughness=0.5),
    "half cut away": Material(id="m", geometry_opacity=0.5, specular_roughness=0.5),
    "wax": Material(id="m", subsurface_weight=1, subsurface_radius_mm=60, specular_roughness=0.5),
}
N = 1024


def films(document, assets, modes):
    return [sets.picture(document, assets, mode=mode, seed=k) for k, mode in enumerate(modes)]


def assert_same(a, b, what: str) -> None:
    """Compare the light of two films in units of their own error, over all and in each quarter of the picture."""
    half = a.size[0] // 2
    for rows, columns in (
        (slice(None), slice(None)),
        *((slice(y, y + half), slice(x, x + half)) for y in (0, half) for x in (0, half)),
    ):
        means, errors = [], []
        for film in (a, b):
            sums = film.variance[rows, columns] / N
            means.append(sums[..., 0].mean())
            errors.append(np.maximum(sums[..., 1] - sums[..., 0] ** 2, 0).sum() / N / sums[..., 0].size ** 2)
        assert means[0] == pytest.approx(means[1], rel=3e-3, abs=4 * math.sqrt(sum(errors))), what
        assert math.sqrt(sum(errors)) < 0.06 * max(means), f"{what}: too noisy to tell"


def environment() -> dict:
    picture = np.full((32, 64, 3), 0.2, np.float32)
    picture[6:10, 10:16] = (8, 6, 4)
    return {("e.exr", "colour"): picture}


def test_every_kind_of_light_has_its_example():
    assert set(LIGHTS) | HARD == {name for name, kind in KINDS.items() if kind.gives_light}


@pytest.mark.parametrize("light", LIGHTS)
def test_each_kind_of_light_is_found_the_same_either_way(engine, light):
    parts = [
        (sets.PLANE, MATT, {"place": (0.0, 0.0, -1.0)}),
        (sets.BALL, MATERIALS["coated plastic"], {}),
    ]
    camera = sets.view(eye=(0, -6, 2), focal_mm=60, size=(16, 16))
    quality = sets.deep(N, diffuse_bounces=1, bounces=2)
    document, assets = sets.many(parts, LIGHTS[light], camera=camera, quality=quality)
    mis, by_light, by_material = films(document, Assets(assets.meshes, environment()), ("mis", "light", "material"))
    assert_same(mis, by_light, f"{light} by light sampling")
    assert_same(mis, by_material, f"{light} by material sampling")


@pytest.mark.parametrize(
    "light",
    [
        make_light(id="l", kind="sun", unit="lx", power=20, elevation_deg=60, azimuth_deg=-70),
        make_light(id="l", kind="point", unit="cd", power=60, place=(2, -2, 3)),
        make_light(id="l", kind="spot", unit="cd", power=90, place=(2, -2, 4), turn_deg=(30, 25, 0), outer_deg=50),
    ],
    ids=["sun", "point", "spot"],
)
def test_lights_that_no_ray_finds_by_chance_are_sampled_the_same_with_both(engine, light):
    parts = [(sets.PLANE, MATT, {"place": (0.0, 0.0, -1.0)}), (sets.BALL, MATERIALS["plastic"], {})]
    camera = sets.view(eye=(0, -6, 2), focal_mm=60, size=(16, 16))
    document, assets = sets.many(parts, light, camera=camera, quality=sets.deep(N, diffuse_bounces=1, bounces=2))
    mis, by_light, by_material = films(document, assets, ("mis", "light", "material"))
    assert_same(mis, by_light, light.kind)
    # The sun's disc is hit now and then, what has no size never is.
    assert (by_material.beauty().max() > 0) == (light.kind == "sun")


@pytest.mark.parametrize("kind", MATERIALS)
def test_each_kind_of_material_finds_the_same_either_way(engine, kind):
    parts = [(sets.PLANE, MATT, {"place": (0.0, 0.0, -1.0)}), (sets.BALL, MATERIALS[kind], {})]
    camera = sets.view(eye=(0, -6, 2), focal_mm=60, size=(16, 16))
    lights = (LIGHTS["rect"], make_light(id="d", kind="dome", unit="nit", power=1.0))
    quality = sets.deep(N, diffuse_bounces=2, bounces=4)
    document, assets = sets.many(parts, *lights, camera=camera, quality=quality)
    mis, by_light, by_material = films(document, assets, ("mis", "light", "material"))
    assert_same(mis, by_light, f"{kind} by light sampling")
    assert_same(mis, by_material, f"{kind} by material sampling")


# ---- panes ---------------------------------------------------------------------------------------------------------

PANE = forms.panel([(-3, -3, 0), (3, -3, 0), (3, 3, 0), (-3, 3, 0)])
PANE = replace(PANE, uvs=(PANE.vertices[:, :2] + 3) / 6)


def under_a_pane(pane: Material, images: dict, mode: str) -> np.ndarray:
    """Return what a floor shows under a pane, lit from above by a large lamp, seen from below the pane."""
    lamp = make_light(id="l", kind="rect", unit="nit", power=50, place=(0, 0, 3), width=4, height=4, **WHITE)
    camera = sets.view(eye=(0.0, -4.0, 0.4), target=(0, 0, 0), focal_mm=1200, sensor_mm=12, size=(16, 16))
    parts = [(sets.PLANE, MATT, {}), (PANE, pane, {"place": (0.0, 0.0, 1.0)})]
    document, assets = sets.many(parts, lamp, camera=camera, quality=sets.deep(512, diffuse_bounces=0))
    return sets.middle(sets.picture(document, Assets(assets.meshes, images), mode=mode))


def test_a_pane_coloured_by_a_picture_casts_its_colour(engine):
    red = np.zeros((4, 4, 3), np.float32) + np.array([0.8, 0.1, 0.05], np.float32)
    glass = {"transmission_weight": 1, "geometry_thin_walled": True, "specular_roughness": 0}
    stained = Material(id="p", steps=(Picture(parameter="transmission_color", path="r.png"),), **glass)
    plain = Material(id="p", transmission_color=(0.8, 0.1, 0.05), **glass)
    expected = under_a_pane(plain, {}, "light")
    for mode, near in (("light", 0.01), ("material", 0.05), ("mis", 0.01)):
        seen = under_a_pane(stained, {("r.png", "colour"): red}, mode)
        assert seen == pytest.approx(expected, rel=near), mode


@pytest.mark.parametrize("weight", [0.0, 0.4, 1.0])
def test_a_picture_says_how_much_a_pane_lets_through(engine, weight):
    picture = np.full((4, 4, 3), weight, np.float32)
    texture = Picture(parameter="transmission_weight", path="w.png", space="data")
    values = {"geometry_thin_walled": True, "specular_roughness": 0, "base_color": (0, 0, 0)}
    driven = Material(id="p", transmission_weight=1 - weight, steps=(texture,), **values)
    plain = Material(id="p", transmission_weight=weight, **values)
    for mode in ("light", "mis"):
        expected = under_a_pane(plain, {}, mode)
        assert under_a_pane(driven, {("w.png", "data"): picture}, mode) == pytest.approx(expected, rel=0.02, abs=1e-6)
    assert (expected.max() > 1e-6) == (weight > 0)


def test_a_rough_pane_casts_no_sharp_light(engine):
    rough = Material(id="p", transmission_weight=1, geometry_thin_walled=True, specular_roughness=0.4)
    assert under_a_pane(rough, {}, "light").max() < 1e-6, "all of it is scattered, so no bounce finds it directly"


# ---- pictures that say more than can be ----------------------------------------------------------------------------


@pytest.mark.parametrize("invert", [False, True])
def test_pictures_above_one_make_no_light(engine, invert):
    bright = np.full((4, 4, 3), 5.0, np.float32)
    texture = Picture(parameter="base_color", path="b.exr", invert=invert)
    material = Material(id="m", specular_weight=0, specular_ior=1, steps=(texture,))
    document, assets = sets.one_thing(sets.BALL, material, sets.white_dome(), quality=sets.deep(64))
    film = sets.picture(document, Assets(assets.meshes, {("b.exr", "colour"): bright}))
    seen = film.beauty()[film.alpha > 0.999]
    assert seen.min() >= 0
    assert seen.mean() == pytest.approx(0.0 if invert else 1.0, abs=0.01)


# ---- passes and limits ---------------------------------------------------------------------------------------------


def in_a_box(material: Material, **limits):
    """Return the film of a ball in a matt room under a lamp."""
    room = forms.rounded_box((6, 6, 6), 0.01)
    lamp = make_light(id="l", kind="sphere", unit="nit", power=100, place=(1.5, -1.5, 2.2), radius=0.3, visible=False)
    parts = [(sets.BALL, material, {}), (room, MATT.model_copy(update={"base_color": (0.6, 0.6, 0.6)}), {})]
    parts[1][2]["place"] = (0.0, 0.0, -3.0)
    camera = sets.view(eye=(0, -2.8, 0), focal_mm=40, size=(16, 16))
    document, assets = sets.many(parts, lamp, camera=camera, quality=sets.deep(128, **limits))
    return sets.picture(document, assets)


def test_a_matt_thing_reflects_nothing_but_diffuse_light(engine):
    film = in_a_box(MATT)
    assert film.light_pass("indirect_diffuse").mean() > 0.1
    for name in ("direct_reflection", "indirect_reflection", "direct_transmission", "indirect_transmission"):
        assert film.light_pass(name).max() < 1e-12, name


def test_passes_are_the_shares_of_the_value_and_add_up(engine):
    plastic = Material(id="m", base_color=(0.8, 0.2, 0.1), specular_roughness=0.5)
    film = in_a_box(plastic, bounces=6)
    whole = sum(film.light_pass(name) for name in ("direct_diffuse", "indirect_diffuse", "direct_reflection"))
    whole = whole + sum(film.light_pass(n) for n in ("indirect_reflection", "emission", "background"))
    assert whole == pytest.approx(film.beauty(), rel=1e-3, abs=1e-4)
    # A black base leaves only the reflection, and the white one's reflection pass is just that.
    black = in_a_box(plastic.model_copy(update={"base_color": (0, 0, 0)}), bounces=6)
    ball = film.id_at(0, 8, 8)
    on_ball = (film.ids[:, :, 0, 0] == ball) & (film.coverage[:, :, 0, 0] > 127)
    alone = black.light_pass("direct_reflection")[on_ball].mean(0)
    assert film.light_pass("direct_reflection")[on_ball].mean(0) == pytest.approx(alone, rel=0.05)


def test_no_diffuse_bounce_means_none(engine):
    film = in_a_box(MATT, diffuse_bounces=0)
    assert film.light_pass("indirect_diffuse").max() == 0
    assert film.light_pass("direct_diffuse").mean() > 0.1
    plastic = Material(id="m", base_color=(0.8, 0.8, 0.8), specular_roughness=0.4)
    film = in_a_box(plastic, diffuse_bounces=0)
    assert film.light_pass("indirect_diffuse").max() == 0
    assert film.light_pass("indirect_reflection").max() > 0


def test_limits_leave_the_light_that_is_found_at_once(engine):
    # Light sampling sees lamps through a clear pane, so material sampling must, too, even past the last bounce.
    pane = Material(id="p", transmission_weight=1, geometry_thin_walled=True, specular_roughness=0)
    expected = under_a_pane(pane, {}, "light")
    assert under_a_pane(pane, {}, "material") == pytest.approx(expected, rel=0.05)
    assert under_a_pane(pane, {}, "mis") == pytest.approx(expected, rel=0.01)


def test_a_flat_mirror_reflects_straight_at_grazing_angles(engine):
    mirror = Material(id="m", base_metalness=1, base_color=(1, 1, 1), specular_roughness=0)
    # At 89.6 degrees from the normal: a wall far off must be seen where a ruler says.
    angle = math.radians(0.4)
    eye = (0.0, -4 * math.cos(angle), 4 * math.sin(angle))
    camera = sets.view(eye=eye, target=(0, 0, 0), focal_mm=1200, sensor_mm=4, size=(16, 16))
    lamp = make_light(
        id="l", kind="rect", unit="nit", power=7, place=(0, 8, 8 * math.tan(angle)), turn_deg=(-90, 0, 0), width=1,
        height=0.04, **WHITE,
    )  # fmt: skip
    document, assets = sets.one_thing(sets.PLANE, mirror, lamp, camera=camera, quality=sets.deep(16))
    assert sets.middle(sets.picture(document, assets), 2) == pytest.approx([7, 7, 7], rel=1e-3)

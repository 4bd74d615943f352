"""Light that wanders: below surfaces, through murk, through holes and through glass that parts colours."""

import math
from dataclasses import replace

import numpy as np
import pytest
from numba import njit

from nocturne.engine.kernels.media import waves
from nocturne.scene import solids as forms
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from tests import sets

WHITE = (1.0, 1.0, 1.0)
NO_SHINE = {"specular_weight": 0.0, "specular_ior": 1.0}


def ball_in_white(material: Material, samples: int = 128, size: int = 16) -> np.ndarray:
    """Return the mean colour of a ball of one metre under a white dome of 1 nit."""
    camera = sets.view(size=(size, size))
    document, assets = sets.one_thing(sets.BALL, material, sets.white_dome(), camera=camera, quality=sets.deep(samples))
    film = sets.picture(document, assets)
    return film.beauty()[film.alpha > 0.999].mean(0)


@pytest.mark.parametrize(("g", "radius"), [(0.0, 40.0), (0.0, 4.0), (0.0, 300.0), (0.9, 40.0), (-0.5, 20.0)])
def test_what_loses_nothing_below_gives_all_back(engine, g, radius):
    # Walks of any length count: ended at a thousand turns, 4 mm would give .96.
    wax = Material(
        id="m",
        subsurface_weight=1,
        subsurface_color=WHITE,
        subsurface_radius_mm=radius,
        subsurface_radius_scale=WHITE,
        subsurface_scatter_anisotropy=g,
        **NO_SHINE,
    )
    assert ball_in_white(wax, 2048).mean() == pytest.approx(1, abs=0.0045)


@pytest.mark.parametrize("g", [0.0, 0.6])
def test_a_deep_medium_has_the_colour_that_was_asked(engine, g):
    colour = (0.15, 0.5, 0.85)
    wax = Material(
        id="m",
        subsurface_weight=1,
        subsurface_color=colour,
        subsurface_radius_mm=4,
        subsurface_radius_scale=WHITE,
        subsurface_scatter_anisotropy=g,
        **NO_SHINE,
    )
    assert ball_in_white(wax, 256) == pytest.approx(colour, abs=0.02)


def test_light_comes_out_beside_where_it_went_in(engine):
    # A floor that is lit by a narrow line of light glows beside it, red farthest.
    wax = Material(
        id="m",
        subsurface_weight=1,
        subsurface_color=(0.9, 0.9, 0.9),
        subsurface_radius_mm=150,
        subsurface_radius_scale=(1.0, 0.5, 0.1),
        **NO_SHINE,
    )
    lamp = make_light(
        id="l", kind="rect", unit="nit", power=100, place=(0, 0, 0.05), width=0.02, height=4, visible=False
    )
    camera = sets.view(eye=(0, 0, 6), focal_mm=60, size=(48, 16))
    block = forms.rounded_box((6, 6, 2), 0.01)
    document, assets = sets.many(
        [(block, wax, {"place": (0.0, 0.0, -2.0)})], lamp, camera=camera, quality=sets.deep(256)
    )
    row = sets.picture(document, assets).beauty()[6:10].mean(0)
    near, far = row[22:26].mean(0), np.concatenate([row[12:15], row[33:36]]).mean(0)
    fall = far / near
    assert fall[0] > 1.5 * fall[1] > 3 * fall[2]


def test_a_thin_leaf_shares_light_between_its_sides(engine):
    leaf = Material(
        id="m",
        subsurface_weight=1,
        subsurface_color=(0.2, 0.8, 0.1),
        subsurface_scatter_anisotropy=0.5,
        geometry_thin_walled=True,
        **NO_SHINE,
    )
    lamp = make_light(
        id="l", kind="distant", unit="lx", power=math.pi, turn_deg=(0, 0, 0), colour_from="colour", colour=WHITE
    )
    for side, share in ((4, 0.25), (-4, 0.75)):
        document, assets = sets.one_thing(
            sets.PLANE,
            leaf,
            lamp,
            camera=sets.view(eye=(0, 0, side), focal_mm=200, size=(16, 16)),
            quality=sets.deep(64),
        )
        # Half of what is scattered stays on a side where nothing is preferred; by g, a half of that goes on.
        assert sets.middle(sets.picture(document, assets)) == pytest.approx(share * np.array((0.2, 0.8, 0.1)), rel=0.02)


# ---- holes ---------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("mode", ["mis", "light", "material"])
def test_what_is_cut_away_lets_light_and_sight_through(engine, mode):
    net = Material(id="n", geometry_opacity=0.3, base_color=(0, 0, 0), **NO_SHINE)
    floor = Material(id="f", base_color=WHITE, **NO_SHINE)
    parts = [(sets.PLANE, floor, {}), (sets.PLANE, net, {"place": (0.0, 0.0, 1.0)})]
    lamp = make_light(
        id="l", kind="rect", unit="nit", power=10, place=(0, 0, 3), width=40, height=40, colour_from="colour",
        colour=WHITE, visible=False,
    )  # fmt: skip
    below = sets.view(eye=(0.0, -3.0, 0.5), target=(0, 0, 0), focal_mm=1200, sensor_mm=12, size=(16, 16))
    document, assets = sets.many(parts, lamp, camera=below, quality=sets.deep(512, diffuse_bounces=0))
    under = sets.middle(sets.picture(document, assets, mode=mode))
    bare, _ = sets.many(parts[:1], lamp, camera=below, quality=sets.deep(512, diffuse_bounces=0))
    open_floor = sets.middle(sets.picture(bare, assets, mode=mode))
    assert under == pytest.approx(0.7 * open_floor, rel=0.03)
    above = sets.view(eye=(0, 0, 2.5), focal_mm=200, size=(16, 16))
    seen, _ = sets.many(parts[1:], lamp, camera=above, quality=sets.deep(256))
    film = sets.picture(seen, type(assets)({"mesh-0": sets.PLANE}), mode=mode)
    assert film.alpha.mean() == pytest.approx(0.3, abs=0.01)


def test_a_glow_is_cut_with_its_surface(engine):
    sign = Material(id="m", geometry_opacity=0.4, emission_luminance=50, base_color=(0, 0, 0), **NO_SHINE)
    camera = sets.view(eye=(0, 0, 4), focal_mm=200, size=(16, 16))
    document, assets = sets.one_thing(sets.PLANE, sign, camera=camera, quality=sets.deep(256))
    assert sets.middle(sets.picture(document, assets)) == pytest.approx([20] * 3, rel=0.02)
    floor = Material(id="f", base_color=WHITE, **NO_SHINE)
    parts = [(sets.PLANE, floor, {}), (sets.PLANE, sign, {"place": (0.0, 0.0, 1.0), "turn_deg": (180.0, 0.0, 0.0)})]
    below = sets.view(eye=(0.0, -3.0, 0.5), target=(0, 0, 0), focal_mm=1200, sensor_mm=12, size=(16, 16))
    document, assets = sets.many(parts, camera=below, quality=sets.deep(512, diffuse_bounces=0))
    seen = [sets.middle(sets.picture(document, assets, mode=mode)) for mode in ("mis", "light", "material")]
    assert seen[1] == pytest.approx(seen[0], rel=0.02)
    assert seen[2] == pytest.approx(seen[0], rel=0.03)


# ---- murk ----------------------------------------------------------------------------------------------------------


def test_murk_that_absorbs_nothing_keeps_all_light(engine):
    milk = Material(
        id="m",
        transmission_weight=1,
        specular_roughness=0.6,
        specular_ior=1.33,
        transmission_color=(0.2, 0.4, 0.6),
        transmission_depth=0.5,
        transmission_scatter=(0.9, 0.9, 0.5),
        transmission_scatter_anisotropy=0.5,
    )
    clear = milk.model_copy(update={"transmission_color": (math.exp(-0.9), math.exp(-0.9), math.exp(-0.5))})
    assert ball_in_white(clear, 192) == pytest.approx([1] * 3, abs=0.02)
    assert ball_in_white(milk, 192)[0] < 0.9


def test_what_murk_scatters_is_taken_from_what_goes_straight(engine):
    # A lamp seen through a slab whose murk throws hardly anything back: what arrives straight is Beer and Lambert's.
    colour, depth, thickness = (0.7, 0.5, 0.3), 0.5, 0.6
    murk = Material(
        id="g",
        specular_ior=1.0,
        specular_roughness=0,
        transmission_weight=1,
        transmission_color=colour,
        transmission_depth=depth,
        transmission_scatter=(0.3, 0.3, 0.3),
    )
    lamp = make_light(
        id="l", kind="rect", unit="nit", power=100, place=(0, 0, -60), turn_deg=(180, 0, 0), width=2, height=2,
        colour_from="colour", colour=WHITE,
    )  # fmt: skip
    camera = sets.view(eye=(0, 0, 8), focal_mm=1200, size=(16, 16))
    mesh = forms.rounded_box((1, 1, thickness), 1e-4)
    document, assets = sets.many([(mesh, murk, {})], lamp, camera=camera, quality=sets.deep(512))
    expected = 100 * np.array(colour) ** (thickness / depth)
    assert sets.middle(sets.picture(document, assets), 2) == pytest.approx(expected, rel=0.03)


# ---- colours that part ---------------------------------------------------------------------------------------------


@njit
def index(ior, amount, wave):
    return waves.dispersed_index(np.float32(ior), np.float32(amount), np.float32(wave))


@pytest.mark.parametrize("abbe", [20, 33, 64])
def test_the_abbe_number_is_what_it_is_defined_by(abbe):
    d, f, c = (index(1.6, 1 / abbe, wave) for wave in (0.5875618, 0.4861327, 0.6562725))
    assert d == pytest.approx(1.6, abs=1e-5)
    assert (d - 1) / (f - c) == pytest.approx(abbe, rel=1e-3)


def test_glass_that_parts_colours_loses_none(engine):
    glass = Material(
        id="m",
        transmission_weight=1,
        specular_roughness=0.6,
        transmission_dispersion_scale=1,
        transmission_dispersion_abbe_number=15,
    )
    assert ball_in_white(glass, 512) == pytest.approx([1] * 3, abs=0.02)


def test_a_prism_bends_blue_more_than_red(engine):
    # A lamp seen through a thin wedge stands where its index says: its blue farther off than its red.
    angle = math.radians(20)
    wedge = forms.rounded_box((4, 4, 1), 1e-4)
    up = wedge.vertices[:, 2] > 0.5
    vertices = wedge.vertices.copy()
    vertices[up, 2] += vertices[up, 0] * math.tan(angle)
    prism = forms.faceted(replace(wedge, vertices=vertices.astype(np.float32)))
    glass = Material(
        id="g",
        transmission_weight=1,
        specular_roughness=0,
        specular_ior=1.6,
        transmission_dispersion_scale=1,
        transmission_dispersion_abbe_number=12,
    )
    lamp = make_light(
        id="l", kind="rect", unit="nit", power=100, place=(4, 0, -20), turn_deg=(180, 0, 0), width=3, height=40,
        colour_from="colour", colour=WHITE,
    )  # fmt: skip
    camera = sets.view(eye=(0, 0, 8), focal_mm=60, size=(96, 16))
    document, assets = sets.many([(prism, glass, {})], lamp, camera=camera, quality=sets.deep(1024))
    row = sets.picture(document, assets).beauty()[6:10].mean(0)
    x = np.arange(len(row))
    red, green, blue = ((x * row[:, k]).sum() / row[:, k].sum() for k in range(3))
    assert abs(blue - red) > 0.5
    assert (red - green) * (green - blue) > 0
    assert row.sum(0) == pytest.approx([row.sum(0).mean()] * 3, rel=0.04)

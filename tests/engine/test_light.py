"""Lights against closed forms, and estimators against each other."""

import math

import numpy as np
import pytest

from nocturne.colour.spaces import luminance
from nocturne.engine.environment import directions, pixel_solid_angles, sky_picture
from nocturne.engine.layout import lamp, ray, scratch, vertex
from nocturne.engine.prepare import Preparer
from nocturne.engine.types import scratch_row
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.lights import Light, make_light
from nocturne.scene.materials import Material
from nocturne.scene.thing import Thing
from tests import sets
from tests.engine import units

# A matt white floor without any reflection shows irradiance divided by pi.
MATT = Material(id="matt", base_color=(1, 1, 1), specular_weight=0.0, specular_ior=1.0)
WHITE = {"colour_from": "colour", "colour": (1.0, 1.0, 1.0)}
DOWN = sets.view(eye=(0.0, -2.0, 3.0), target=(0, 0, 0), focal_mm=1200, sensor_mm=12, size=(16, 16))


def illuminance(*lights: Light, samples: int = 256, mode: str = "mis") -> float:
    """Return the illuminance, lx, at the origin of a floor."""
    document, assets = sets.one_thing(sets.PLANE, MATT, *lights, camera=DOWN, quality=sets.deep(samples))
    return float(luminance(sets.middle(sets.picture(document, assets, mode=mode)))) * math.pi


def test_point_light(engine):
    lamp = make_light(id="l", kind="point", unit="cd", power=100, place=(0.5, 0, 2), **WHITE)
    d2 = 0.25 + 4
    assert illuminance(lamp, samples=16) == pytest.approx(100 / d2 * 2 / math.sqrt(d2), rel=2e-3)


def test_spot_light_inside_and_outside_its_beam(engine):
    lamp = make_light(id="l", kind="spot", unit="cd", power=100, place=(0, 0, 2), inner_deg=10, outer_deg=20, **WHITE)
    assert illuminance(lamp, samples=16) == pytest.approx(25, rel=2e-3)
    assert illuminance(lamp.model_copy(update={"turn_deg": (30.0, 0.0, 0.0)}), samples=16) == 0


def test_sphere_light(engine):
    # A sphere wholly above the horizon: E = pi L (r / d)^2 cos, exactly, by the projected solid angle of a cone.
    r, d = 0.4, math.hypot(0.6, 2.0)
    lamp = make_light(id="l", kind="sphere", unit="nit", power=500, place=(0.6, 0, 2), radius=r, **WHITE)
    exact = math.pi * 500 * (r / d) ** 2 * (2 / d)
    for mode in ("mis", "light"):
        assert illuminance(lamp, mode=mode) == pytest.approx(exact, rel=5e-3)


@pytest.mark.parametrize("height", [0.5, 2.0, 30.0])
def test_rectangle_light(engine, height):
    # Four corner configuration factors of a parallel rectangle (Howell, C-11).
    a, b = 0.5, 0.3
    x, y = a / height, b / height
    factor = (
        x / math.hypot(1, x) * math.atan(y / math.hypot(1, x)) + y / math.hypot(1, y) * math.atan(x / math.hypot(1, y))
    ) / (2 * math.pi)
    lamp = make_light(
        id="l", kind="rect", unit="nit", power=1000, place=(0, 0, height), width=2 * a, height=2 * b, **WHITE
    )
    assert illuminance(lamp) == pytest.approx(1000 * math.pi * 4 * factor, rel=5e-3)


def test_lumens_arrive(engine):
    # All of a rectangle's flux falls on a large floor close below it.
    lamp = make_light(id="l", kind="rect", unit="lm", power=700, place=(0, 0, 0.05), width=4, height=4, **WHITE)
    assert illuminance(lamp) == pytest.approx(700 / 16, rel=0.02)


def test_dome_and_sun(engine):
    assert illuminance(sets.white_dome(10)) == pytest.approx(10 * math.pi, rel=2e-3)
    sun = make_light(id="s", kind="sun", unit="lx", power=1000, elevation_deg=30, azimuth_deg=200)
    assert illuminance(sun, samples=64) == pytest.approx(500, rel=5e-3)


def test_a_glowing_mesh_is_a_light(engine):
    glow = Material(id="glow", base_color=(0, 0, 0), specular_weight=0, emission_luminance=500)
    parts = [(sets.PLANE, MATT, {}), (sets.BALL, glow, {"place": (0.6, 0.0, 2.0), "size": (0.4,) * 3})]
    results = {}
    for mode in ("mis", "light", "material"):
        document, assets = sets.many(parts, camera=DOWN, quality=sets.deep(2048))
        results[mode] = float(luminance(sets.middle(sets.picture(document, assets, mode=mode)))) * math.pi
    d = math.hypot(0.6, 2.0)
    exact = math.pi * 500 * (0.4 / d) ** 2 * (2 / d)
    # About half of the triangles chosen face away: 130,000 samples leave half a per cent of noise.
    assert results["mis"] == pytest.approx(exact, rel=0.015)
    assert results["light"] == pytest.approx(exact, rel=0.015)
    assert results["material"] == pytest.approx(exact, rel=0.03)


def test_light_sampling_material_sampling_and_both_agree(engine):
    # A glossy and a matt thing under every kind of light with a size; each strategy alone must find the same picture.
    shiny = Material(
        id="shiny", base_color=(0.7, 0.5, 0.3), specular_roughness=0.45, coat_weight=0.5, coat_roughness=0.3
    )
    lights = (
        make_light(
            id="a", kind="rect", unit="nit", power=20, place=(1.5, -1, 3), turn_deg=(20, 25, 0), width=2, height=1.5
        ),
        make_light(id="b", kind="sphere", unit="nit", power=30, place=(-2, -1, 2), radius=0.8, kelvin=6000),
        make_light(id="c", kind="sky", unit="x", power=0.0005, elevation_deg=50, azimuth_deg=-60),
    )
    parts = [(sets.PLANE, MATT, {"place": (0.0, 0.0, -1.0)}), (sets.BALL, shiny, {})]
    camera = sets.view(eye=(0, -6, 2), focal_mm=60, size=(24, 24))
    quality = sets.deep(1024, diffuse_bounces=2, bounces=3)
    document, assets = sets.many(parts, *lights, camera=camera, quality=quality)
    films = {
        mode: sets.picture(document, assets, mode=mode, seed=k) for k, mode in enumerate(("mis", "light", "material"))
    }
    for other in ("light", "material"):
        a, b = films["mis"], films[other]
        difference = a.beauty().mean(-1) - b.beauty().mean(-1)
        error = [
            np.sqrt(np.maximum(f.variance[..., 1] / 1024 - (f.variance[..., 0] / 1024) ** 2, 0) / 1024) for f in (a, b)
        ]
        sigma = np.sqrt(error[0] ** 2 + error[1] ** 2) + 1e-3 * a.beauty().mean()
        z = difference / sigma
        assert abs(z.mean()) < 0.35, other
        assert np.mean(np.abs(z) > 4) < 0.02, other
        assert b.beauty().mean() == pytest.approx(a.beauty().mean(), rel=0.01)


def test_many_lamps_through_the_tree(engine):
    rng = np.random.default_rng(2)
    lamps = tuple(
        make_light(
            id=f"l{k}",
            kind="sphere",
            unit="cd",
            power=float(rng.uniform(1, 20)),
            radius=0.02,
            place=(float(rng.uniform(-4, 4)), float(rng.uniform(-4, 4)), float(rng.uniform(0.5, 3))),
            **WHITE,
        )
        for k in range(60)
    )
    exact = 0.0
    for light in lamps:
        d2 = sum(v * v for v in light.place)
        exact += light.power / d2 * light.place[2] / math.sqrt(d2)
    assert illuminance(*lamps, samples=1024, mode="light") == pytest.approx(exact, rel=0.01)


def environment(picture: np.ndarray):
    """Return the scene's table, a work row over a floor, and what keeps both alive, under an environment picture."""
    sky = make_light(id="e", kind="environment", image="sky.exr", unit="nit", power=1.0, azimuth_deg=25)
    document, assets = sets.one_thing(sets.PLANE, MATT, sky)
    prepared = Preparer().prepare(document, Assets(assets.meshes, {("sky.exr", "colour"): picture}))
    row = scratch_row()
    units.part(row, "LV", vertex.ROW, "NORMAL")[:] = (0, 0, 1)
    return (prepared.table.ctypes.data, row.ctypes.data), row, prepared


def looked_up(at, row, direction) -> tuple[float, float]:
    """Return the luminance and the density of sampling a direction."""
    row.view(np.uint32)[scratch.LIGHT] = 0
    units.part(row, "RAY", ray.ROW, "DIRECTION")[:] = direction
    units.call("infinite_hit", at)
    return float(luminance(units.part(row, "LAMP", lamp.ROW, "RADIANCE"))), float(row[scratch.LAMP + lamp.DENSITY])


def test_environment_directions_follow_the_bilinear_picture(engine):
    rng = np.random.default_rng(0)
    picture = rng.random((6, 9, 3)).astype(np.float32) ** 4
    picture[0] = picture[-1] = 0.3  # the poles, too
    at, row, _keep = environment(picture)
    fine = directions(180, 120)
    solid = pixel_solid_angles(180, 120)
    found = np.array([looked_up(at, row, d) for d in fine.reshape(-1, 3)]).reshape(120, 180, 2)
    assert (found[..., 1] * solid[:, None]).sum() == pytest.approx(1, rel=5e-3)
    # One sample's worth is nearly the same wherever it falls: only the sine within a cell is left out.
    whole = (found[..., 0] * solid[:, None]).sum()
    worth = found[..., 0] / np.maximum(found[..., 1], 1e-9) / whole
    assert np.sqrt((worth**2 * found[..., 1] * solid[:, None]).sum() - 1) < 0.25
    counts = np.zeros((6, 9))
    for u in units.points(16384):
        units.part(row, "RANDOM")[:3] = u[:3]
        units.call("sample_lamp", at)
        d, density = row[scratch.LAMP : scratch.LAMP + lamp.DISTANCE].copy(), float(row[scratch.LAMP + lamp.DENSITY])
        counts[int((d[2] * 0.49999 + 0.5) * 6), int((math.atan2(d[1], d[0]) / (2 * math.pi) + 0.5) * 9) % 9] += 1
        if counts.sum() % 64 == 0:
            assert looked_up(at, row, d)[1] == pytest.approx(density, rel=2e-3)
    expected = np.zeros((6, 9))
    z, phi = fine[..., 2], np.arctan2(fine[..., 1], fine[..., 0])
    cell = (((z * 0.49999 + 0.5) * 6).astype(int), ((phi / (2 * math.pi) + 0.5) * 9).astype(int) % 9)
    np.add.at(expected, cell, found[..., 1] * solid[:, None])
    # The fine grid does not end at the cells' edges, so what is compared is coarse; a wrong row or column is far off.
    assert counts / 16384 == pytest.approx(expected, abs=0.006)


def test_a_picture_with_a_sun_is_sampled_where_its_lookup_is_bright(engine):
    picture = np.full((64, 128, 3), 0.5, np.float32)
    picture[20, 40] = 60_000
    at, row, _keep = environment(picture)
    worth = []
    for u in units.points(8192):
        units.part(row, "RANDOM")[:3] = u[:3]
        units.call("sample_lamp", at)
        c = max(units.part(row, "LAMP", lamp.ROW, "DIRECTION")[2], 0)
        worth.append(
            float(luminance(units.part(row, "LAMP", lamp.ROW, "RADIANCE"))) * c / row[scratch.LAMP + lamp.DENSITY]
        )
    assert np.std(worth) / np.mean(worth) < 1.0


def test_negative_pixels_of_an_environment_are_black(engine):
    picture = np.full((16, 32, 3), 1.0, np.float32)
    picture[3:6, 8:12] = -50
    sky = make_light(id="e", kind="environment", image="sky.exr", unit="nit", power=1.0)
    document, assets = sets.one_thing(sets.PLANE, MATT, sky, camera=DOWN, quality=sets.deep(64))
    seen = sets.picture(document, Assets(assets.meshes, {("sky.exr", "colour"): picture})).beauty()
    black = sets.picture(document, Assets(assets.meshes, {("sky.exr", "colour"): np.maximum(picture, 0)})).beauty()
    assert np.array_equal(seen, black)


def test_a_black_environment_gives_nothing_and_stops_nothing(engine):
    sky = make_light(id="e", kind="environment", image="sky.exr", unit="nit", power=1.0)
    document, assets = sets.one_thing(sets.PLANE, MATT, sky, camera=DOWN, quality=sets.deep(4))
    film = sets.picture(document, Assets(assets.meshes, {("sky.exr", "colour"): np.zeros((4, 8, 3), np.float32)}))
    assert film.beauty().max() == 0


def test_environment_picture_lights_from_where_it_shows(engine):
    picture = np.zeros((32, 64, 3), np.float32)
    up = directions(64, 32)[..., 2] > 0.9
    picture[up] = 100.0
    exact = float(
        (luminance(picture) * pixel_solid_angles(64, 32)[:, None] * np.maximum(directions(64, 32)[..., 2], 0)).sum()
    )
    sky = make_light(id="e", kind="environment", image="sky.exr", unit="nit", power=1.0)
    document, assets = sets.one_thing(sets.PLANE, MATT, sky, camera=DOWN, quality=sets.deep(512))
    film = sets.picture(document, Assets(assets.meshes, {("sky.exr", "colour"): picture}))
    assert luminance(sets.middle(film)) * math.pi == pytest.approx(exact, rel=0.02)


def test_sky_ground_is_what_the_sky_lights():
    light = make_light(id="s", kind="sky", elevation_deg=40, ground=0.3)
    picture = sky_picture(light)
    assert np.ptp(picture[-10:], axis=(0, 1)).max() == 0
    assert np.isfinite(picture).all()
    assert picture.min() >= 0


def test_a_hidden_lamp_still_lights(engine):
    lamp = make_light(id="l", kind="rect", unit="nit", power=100, place=(0, 0, 1.0), width=3, height=3, **WHITE)
    camera = sets.view(eye=(0, 0, 0.3), target=(0, 0, 1), size=(16, 16))
    document = Document(
        things=(Thing(id="f", mesh="f", material="matt"),),
        materials=(MATT,),
        lights=(lamp,),
        views=(camera,),
        active_view="v",
        qualities=(sets.deep(4),),
        active_quality="q",
    )
    seen = sets.picture(document, Assets({"f": sets.PLANE}))
    assert luminance(sets.middle(seen)) == pytest.approx(100, rel=1e-4)
    hidden = document.model_copy(update={"lights": (lamp.model_copy(update={"visible": False}),)})
    assert sets.middle(sets.picture(hidden, Assets({"f": sets.PLANE}))).max() == 0
    assert illuminance(lamp.model_copy(update={"visible": False})) > 50


# ---- disc, tube, distant light, and lamps that may have a size -----------------------------------------------------


def test_a_disc_lights_as_its_formula_says(engine):
    # On its axis: pi L sin^2 of the half angle (uniform Lambertian disc).
    r, height = 0.8, 1.5
    lamp = make_light(id="l", kind="disc", unit="nit", power=1000, place=(0, 0, height), radius=r, **WHITE)
    assert illuminance(lamp) == pytest.approx(1000 * math.pi * r * r / (r * r + height * height), rel=5e-3)


def test_a_tube_lights_as_its_side_integrated(engine):
    r, length, height = 0.1, 2.0, 1.0
    lamp = make_light(
        id="l", kind="tube", unit="nit", power=500, place=(0, 0, height), length=length, radius=r, **WHITE
    )
    # Over the side that is seen from the origin, by the midpoint rule.
    a, x = np.meshgrid((np.arange(800) + 0.5) / 800 * 2 * np.pi, ((np.arange(800) + 0.5) / 800 - 0.5) * length)
    normal = np.stack([0 * a, np.cos(a), np.sin(a)], axis=-1)
    point = normal * r + np.stack([x, 0 * a, 0 * a + height], axis=-1)
    distance = np.linalg.norm(point, axis=-1)
    to_floor = -(normal * point).sum(-1) / distance
    at_floor = point[..., 2] / distance
    whole = np.where(to_floor > 0, to_floor * at_floor / distance**2, 0).mean() * 2 * np.pi * r * length
    assert illuminance(lamp) == pytest.approx(500 * whole, rel=5e-3)


@pytest.mark.parametrize("angle", [0.1, 0.5, 20.0])
def test_a_distant_light_gives_the_illuminance_it_says(engine, angle):
    down = make_light(id="l", kind="distant", power=700, angle_deg=angle, **WHITE)
    assert illuminance(down) == pytest.approx(700, rel=5e-3)
    slanting = make_light(id="l", kind="distant", power=700, angle_deg=angle, turn_deg=(60, 0, 0), **WHITE)
    assert illuminance(slanting) == pytest.approx(350, rel=1e-2)


@pytest.mark.parametrize("kind", ["point", "spot"])
def test_a_size_changes_the_shadows_and_not_the_light_far_off(engine, kind):
    lamp = make_light(id="l", kind=kind, unit="cd", power=400, place=(0, 0, 5), **WHITE)
    sized = lamp.model_copy(update={"bulb_radius": 0.1})
    assert illuminance(sized) == pytest.approx(illuminance(lamp), rel=3e-3)
    assert not lamp.can_be_seen
    assert sized.can_be_seen


@pytest.mark.parametrize("kind", ["rect", "disc", "sphere", "tube", "point", "spot"])
def test_watts_lumens_and_candela_of_one_lamp_are_the_same_light(kind):
    # Power over all directions comes back as the flux that was asked for.
    lamp = make_light(id="l", kind=kind, unit="lm", power=900)
    value = lamp.strength()
    if hasattr(lamp, "area"):
        assert value * math.pi * lamp.area == pytest.approx(900)
    elif kind == "point":
        assert value * 4 * math.pi == pytest.approx(900)
    else:
        # The flux of a spot, its profile integrated over the sphere by the midpoint rule.
        c = (np.arange(200_000) + 0.5) / 200_000
        inner, outer = (math.cos(math.radians(v)) for v in (lamp.inner_deg, lamp.outer_deg))
        t = np.clip((c - outer) / (inner - outer), 0, 1)
        assert value * 2 * math.pi * (t * t * (3 - 2 * t)).mean() == pytest.approx(900, rel=1e-4)
    if hasattr(lamp, "facing_area"):
        # From where it looks largest, a lamp of so many candela shows that intensity.
        candela = lamp.model_copy(update={"unit": "cd", "power": 40.0})
        assert candela.strength() * lamp.facing_area == pytest.approx(40)
    watts = lamp.model_copy(update={"unit": "W", "power": 900 / lamp.efficacy})
    assert watts.strength() == pytest.approx(value)


def test_a_spot_with_a_size_shines_where_its_profile_says(engine):
    spot = make_light(
        id="l",
        kind="spot",
        unit="cd",
        power=400,
        place=(0, 0, 5),
        inner_deg=10,
        outer_deg=30,
        bulb_radius=0.02,
        **WHITE,
    )
    # 20 degrees off the axis the cubic step of the cosine is known; the floor there is farther off and turned.
    angle = math.radians(20)
    inner, outer = math.cos(math.radians(10)), math.cos(math.radians(30))
    t = (math.cos(angle) - outer) / (inner - outer)
    expected = 400 * t * t * (3 - 2 * t) * math.cos(angle) ** 3 / 25
    moved = spot.model_copy(update={"place": (5 * math.tan(angle), 0.0, 5.0)})
    assert illuminance(moved) == pytest.approx(expected, rel=1e-2)

"""Glowing things: the power that they are given is the light that arrives, and how bright they look is set apart."""

import math

import numpy as np
import pytest

from nocturne.colour.blackbody import blackbody
from nocturne.colour.spaces import luminance
from nocturne.scene import edit, glowing
from nocturne.scene import solids as forms
from nocturne.scene.desk import Strip, gains
from nocturne.scene.glowing import mean_area, settled
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Checker, Facing, Ramp
from tests import sets

LUMENS, FAR = 800.0, 3.0
BULB = forms.ball(0.05, segments=96)
GLOW = Material(id="glow", base_color=(0, 0, 0), specular_weight=0, emission_unit="lm", emission_power=LUMENS)
CHALK = Material(id="chalk", base_color=(1, 1, 1), specular_weight=0)
# From above the lamp, on a small piece of the floor right below it.
BELOW = sets.view(eye=(0.4, 0, FAR), target=(0, 0, 0), focal_mm=1200, sensor_mm=12, size=(16, 16))
AT_LAMP = sets.view(eye=(0, -2, FAR), target=(0, 0, FAR), focal_mm=1200, sensor_mm=12, size=(16, 16))
CORE_AND_RIM = (
    Facing(parameter="emission_color", power=1.0),
    Ramp(parameter="emission_color", stops=((0.0, 1.0, 0.1, 0.02), (0.6, 1.0, 0.3, 0.1), (1.0, 1.0, 0.9, 0.8))),
)
DIM_RIMS = (Facing(parameter="emission_luminance", power=2.0, blend="multiply"),)
SPOTTED = tuple(
    Checker(parameter=name, repeat=(12, 12), first=(a,) * 3, second=(b,) * 3, blend="multiply")
    for name, a, b in (("emission_luminance", 0.9, 0.1), ("geometry_opacity", 0.0, 1.0), ("emission_color", 1.0, 0.4))
)


def lit_by(glow: Material, *, camera=BELOW, samples=256, size=1.0):
    lamp = {"place": (0, 0, FAR), "size": (size, size, size)}
    return sets.many(
        [(BULB, glow, lamp), (sets.PLANE, CHALK, {})], camera=camera, quality=sets.deep(samples, diffuse_bounces=1)
    )


def shown(glow: Material, **values) -> float:
    document, assets = lit_by(glow, **values)
    return float(luminance(sets.middle(sets.picture(document, assets))))


@pytest.mark.parametrize(
    ("name", "glow", "size"),
    [
        ("white", GLOW, 1.0),
        ("any size", GLOW, 3.0),
        ("red", GLOW.model_copy(update={"emission_color": (1.0, 0.2, 0.05)}), 1.0),
        ("kelvin", GLOW.model_copy(update={"emission_color_from": "kelvin", "emission_kelvin": 2200.0}), 1.0),
        ("watts", GLOW.model_copy(update={"emission_unit": "W", "emission_power": 10.0, "emission_efficacy": 80.0}), 1),
        ("a hot core", GLOW.model_copy(update={"steps": CORE_AND_RIM}), 1.0),
        ("half see-through", GLOW.model_copy(update={"geometry_opacity": 0.5}), 1.0),
        ("dim rims", GLOW.model_copy(update={"steps": DIM_RIMS}), 1.0),
        ("in spots", GLOW.model_copy(update={"steps": SPOTTED}), 1.0),
    ],
)
def test_a_ball_of_so_many_lumens_lights_the_floor_as_it_must(engine, name, glow, size):
    # Illuminance below a ball that shines alike all round, whatever each angle's colour is: flux / (4 pi d2).
    expected = LUMENS / (4 * math.pi * FAR**2) / math.pi
    assert shown(glow, size=size) == pytest.approx(expected, rel=0.012)


def test_the_hot_core_is_white_and_the_rim_red(engine):
    glow = GLOW.model_copy(update={"steps": CORE_AND_RIM})
    camera = sets.view(eye=(0, -2, FAR), target=(0, 0, FAR), focal_mm=600, size=(33, 33))
    document, assets = lit_by(glow, camera=camera, samples=32)
    picture = sets.picture(document, assets).beauty()
    row = picture[16]
    seen = np.flatnonzero(luminance(row) > 0.05 * luminance(row).max())
    core, rim = row[16], row[seen[0] + 1]
    assert core[2] / core[0] > 0.7
    assert rim[2] / rim[0] < 0.3 * core[2] / core[0]


def test_how_bright_it_looks_changes_nothing_of_what_it_gives(engine):
    dim = GLOW.model_copy(update={"emission_look_stops": -3.0})
    assert shown(dim) == pytest.approx(shown(GLOW), rel=0.012)
    assert shown(dim, camera=AT_LAMP, samples=16) == pytest.approx(
        shown(GLOW, camera=AT_LAMP, samples=16) / 8, rel=1e-4
    )


def test_a_mirror_shows_it_as_the_camera_does(engine):
    mirror = Material(id="mirror", base_color=(1, 1, 1), base_metalness=1.0, specular_roughness=0.0)
    camera = sets.view(eye=(0, -FAR, FAR), target=(0, -FAR / 2, 0), focal_mm=1200, sensor_mm=6, size=(16, 16))

    def seen(glow):
        parts = [(BULB, glow, {"place": (0, 0, FAR)}), (sets.PLANE, mirror, {})]
        document, assets = sets.many(parts, camera=camera, quality=sets.deep(16))
        return float(luminance(sets.middle(sets.picture(document, assets))))

    assert seen(GLOW) > 1000
    assert seen(GLOW.model_copy(update={"emission_look_stops": 1.0})) == pytest.approx(2 * seen(GLOW), rel=1e-3)


def test_each_thing_that_wears_it_gives_the_power():
    lamp = (BULB, GLOW, {"place": (0, 0, 1)})
    one, assets = sets.many([lamp])
    two, _ = sets.many([lamp, (BULB, GLOW, {"place": (2, 0, 1)})])
    assert mean_area(one, assets, "glow") == pytest.approx(4 * math.pi * 0.05**2, rel=2e-3)
    nits = [settled(d, assets).materials[0].emission_luminance for d in (one, two)]
    assert nits[0] == nits[1] == pytest.approx(LUMENS / (math.pi * 4 * math.pi * 0.05**2), rel=2e-3)


def test_the_area_of_what_is_turned_sized_and_partly_worn():
    rng = np.random.default_rng(3)
    mesh = forms.rounded_box((0.3, 0.5, 0.2), 0.03)
    turn = np.linalg.qr(rng.normal(size=(3, 3)))[0]
    for matrix in (np.eye(3), 3 * turn, -0.2 * turn, turn @ np.diag([1, 2, 3]), np.diag([1, 1, 0])):
        for worn in (None, rng.random(len(mesh.triangles)) < 0.4):
            chosen = mesh.triangles if worn is None else mesh.triangles[worn]
            p = mesh.vertices[chosen].astype(float) @ matrix.T
            expected = np.linalg.norm(np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]), axis=1).sum() / 2
            assert glowing._area(mesh, matrix, worn) == pytest.approx(expected, rel=1e-6)


def test_what_glows_in_nits_of_a_colour_is_left_as_it_is():
    glow = Material(id="glow", emission_luminance=100.0, emission_color=(1, 0.5, 0.2))
    document, assets = sets.many([(BULB, glow, {})])
    assert settled(document, assets) is document


def test_a_temperature_is_a_colour_of_luminance_1():
    glow = Material(
        id="glow",
        emission_luminance=100.0,
        emission_color_from="kelvin",
        emission_kelvin=1900.0,
        emission_color=(0, 0, 0),
    )
    assert glow.is_emitter
    document, assets = sets.many([(BULB, glow, {})])
    found = settled(document, assets).materials[0]
    assert np.allclose(found.emission_color, blackbody(1900.0))
    assert found.emission_luminance == 100.0


def test_what_nothing_wears_gives_nothing_and_refuses_nothing():
    document, assets = sets.many([(BULB, CHALK, {})])
    document = edit.changed(document, materials=(CHALK, GLOW))
    assert settled(document, assets).materials[1].emission_luminance == 0.0


def test_the_desk_given_to_the_lights_gives_the_same_light(engine):
    glow = GLOW.model_copy(update={"emission_color_from": "kelvin", "emission_group": "tube"})
    document, assets = lit_by(glow)
    mixed = edit.changed(document, desk=(Strip(group="tube", stops=1.0, tint=(1.0, 0.5, 0.25)),))
    baked = edit.desk_to_lights(mixed)
    before = np.array(sets.middle(sets.picture(document, assets)))
    after = np.array(sets.middle(sets.picture(baked, assets)))
    assert after == pytest.approx(before * gains(("tube",), mixed.desk)[0], rel=0.01)


def shares(steps: tuple) -> np.ndarray:
    """Return the mean colour of a ramp over the cosine, weighed by the cosine."""
    if not steps:
        return np.ones(3)
    stops = np.array(steps[-1].stops)
    cosine = (np.arange(10_000) + 0.5) / 10_000
    return np.array([2 * (np.interp(cosine, stops[:, 0], stops[:, k]) * cosine).mean() for k in (1, 2, 3)])


@pytest.mark.parametrize("mode", list(sets.MODES))
@pytest.mark.parametrize("steps", [(), CORE_AND_RIM], ids=["even", "hot core"])
def test_a_large_ball_nearby_lights_the_floor_in_closed_form(engine, mode, steps):
    # Much of what arrives leaves the ball at a grazing angle. Irradiance from a ball of an even luminance is
    # pi L (r / d)2 cos; of one whose colour hangs on the cosine, 2 times the integral of colour times cosine of that.
    radius, high, nits = 0.8, 1.2, 30.0
    glow = Material(id="glow", base_color=(0, 0, 0), specular_weight=0, emission_luminance=nits, steps=steps)
    matt = Material(id="matt", base_color=(0.5, 0.5, 0.5), specular_weight=0)
    camera = sets.view(eye=(2.5, 0, 1.0), target=(1.0, 0, 0), focal_mm=300, size=(16, 16))
    lamp = (forms.ball(radius, segments=192), glow, {"place": (0, 0, high)})
    document, assets = sets.many([lamp, (sets.PLANE, matt, {})], camera=camera, quality=sets.deep(1024))
    film = sets.picture(document, assets, mode=mode)
    to = np.array([0, 0, high]) - film.position.reshape(-1, 3)
    square = (to**2).sum(-1)
    even = float((0.5 * nits * radius**2 / square * to[:, 2] / np.sqrt(square)).mean())
    found = np.array(sets.middle(film, 8))
    assert found == pytest.approx(even * shares(steps), rel=0.01)

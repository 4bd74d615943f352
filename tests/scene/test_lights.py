"""Power in photometric units."""

import math

import numpy as np
import pytest

from nocturne.colour.spaces import luminance
from nocturne.errors import SceneError
from nocturne.scene.lights import KINDS, Light, beam_solid_angle, chroma, make_light, strength, with_unit


def light(**values) -> Light:
    return make_light(id="l", **values)


def test_lumens_of_an_area_light():
    assert strength(light(kind="rect", unit="lm", power=1000, width=2, height=0.5)) == pytest.approx(1000 / math.pi)


def test_watts_count_by_efficacy():
    a = strength(light(kind="point", unit="W", power=60, efficacy=15))
    assert a == pytest.approx(60 * 15 / (4 * math.pi))


def test_candela_and_nits_of_a_sphere_agree():
    s = light(kind="sphere", unit="cd", power=50, radius=0.1)
    assert strength(s) == pytest.approx(50 / (math.pi * 0.01))
    flux = with_unit(s, "lm").power
    assert flux == pytest.approx(4 * math.pi * 50)


def test_beam_solid_angle_is_the_integral_of_the_profile():
    inner, outer = math.radians(20), math.radians(35)
    theta = np.linspace(0, outer, 200001)
    t = np.clip((np.cos(theta) - math.cos(outer)) / (math.cos(inner) - math.cos(outer)), 0, 1)
    value = np.trapezoid(t * t * (3 - 2 * t) * 2 * np.pi * np.sin(theta), theta)
    assert beam_solid_angle(inner, outer) == pytest.approx(value, rel=1e-6)
    assert beam_solid_angle(math.pi / 2, math.pi / 2) == pytest.approx(2 * math.pi)


@pytest.mark.parametrize("kind", [k for k in KINDS if k != "sky"])
def test_changing_the_unit_keeps_the_light(kind):
    start = light(kind=kind, unit=KINDS[kind].units[0], power=3.0)
    for unit in KINDS[kind].units:
        back = with_unit(with_unit(start, unit), KINDS[kind].units[0])
        assert back.power == pytest.approx(3.0)


def test_changing_the_unit_stays_within_the_powers_limits():
    lamp = light(kind="rect", unit="lm", power=1e12, width=1e-4, height=1e-4)
    assert with_unit(lamp, "nit").power == 1e12


def test_a_unit_without_meaning_is_refused():
    with pytest.raises(SceneError, match="in lx"):
        strength(light(kind="point", unit="lx"))


def test_colour_keeps_the_brightness():
    for values in ({"kelvin": 2000}, {"kelvin": 9000}, {"colour_from": "colour", "colour": (0.1, 0.9, 0.3)}):
        assert luminance(chroma(light(**values))) == pytest.approx(1)

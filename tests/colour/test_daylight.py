"""The day's sky and sun."""

import math

import numpy as np
import pytest

from nocturne.colour.spaces import luminance
from nocturne.scene import daylight


def test_sun_is_as_bright_as_measured_and_reddens_when_low():
    noon = daylight.sun_colour(math.radians(60), 2.5)
    assert 80_000 < luminance(noon) < 115_000
    low = daylight.sun_colour(math.radians(4), 2.5)
    assert luminance(low) < 0.3 * luminance(noon)
    assert low[0] / low[2] > 3 * noon[0] / noon[2]
    assert daylight.air_mass(math.pi / 2) == pytest.approx(1, abs=1e-3)


def test_sky_is_brightest_round_the_sun_and_blue_away_from_it():
    sun = daylight.sun_direction(0.0, math.radians(35))
    zenith, near, away = daylight.sky_radiance(
        np.array(
            [
                [0, 0, 1.0],
                daylight.sun_direction(0.05, math.radians(38)),
                daylight.sun_direction(math.pi, math.radians(50)),
            ]
        ),
        sun=sun,
        turbidity=3.0,
    )
    assert luminance(near) > 3 * luminance(zenith)
    assert away[2] > 1.2 * away[0]
    assert 1000 < luminance(zenith) < 20000

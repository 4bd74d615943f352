"""Readings: stops, nits, shares of groups, bands of false colour, scopes."""

import numpy as np
import pytest

from nocturne.film.film import Film
from nocturne.finish import meter
from nocturne.finish.develop import Light, Mixer
from nocturne.scene.camera import View
from nocturne.scene.desk import Strip

VIEW = View(id="v", white_k=6000)


@pytest.fixture
def film():
    film = Film.blank(40, 20, ("key", "fill"))
    film.samples[:] = 4
    grey = 0.18 * VIEW.white_luminance
    film.groups[0] = 4 * 0.75 * grey
    film.groups[1] = 4 * 0.25 * grey
    film.groups[:, :, 20:] *= 4
    return film


def test_grey_reads_zero_stops_with_each_groups_share(film):
    found = meter.read(film, None, x=5, y=5, size=1, view=VIEW, desk=())
    assert found.stops == pytest.approx(0, abs=1e-4)
    assert found.nits == pytest.approx(0.18 * VIEW.white_luminance, rel=1e-4)
    assert found.rgb == pytest.approx((0.18,) * 3, rel=1e-4)
    assert found.shares == pytest.approx({"key": 0.75, "fill": 0.25})
    assert found.pixels == 1


def test_the_desk_counts_and_areas_are_means(film):
    desk = (Strip(group="key", on=False), Strip(group="fill", stops=3))
    found = meter.read(film, None, x=30, y=5, size=1, view=VIEW, desk=desk)
    assert found.stops == pytest.approx(3, abs=1e-3)
    assert found.shares == pytest.approx({"key": 0, "fill": 1})
    area = meter.read(film, None, x=20, y=10, size=5, view=VIEW, desk=())
    assert area.pixels == 25
    assert 2**area.stops == pytest.approx((2 * 1 + 3 * 4) / 5, rel=1e-3)
    corner = meter.read(film, None, x=0, y=0, size=9, view=VIEW, desk=())
    assert corner.pixels == 25


def test_clean_groups_are_read_if_given(film):
    clean = np.ones((2, 20, 40, 3), np.float32)
    assert meter.read(film, clean, x=1, y=1, size=3, view=VIEW, desk=()).nits == pytest.approx(2, rel=1e-4)


def test_false_colour_has_one_band_for_each_stop(film):
    stops = meter.stops_of(Mixer(Light.of(film)).mixed(()), VIEW)
    assert stops[0, 0] == pytest.approx(0, abs=1e-4)
    assert stops[0, 39] == pytest.approx(2, abs=1e-4)
    ramp = np.arange(meter.FALSE_LOW - 3, meter.FALSE_HIGH + 4, dtype=np.float32)[None]
    colours = meter.false_colour(ramp)[0]
    assert len(np.unique(colours.round(4), axis=0)) == meter.FALSE_HIGH - meter.FALSE_LOW + 3
    grey = colours[list(ramp[0]).index(0)]
    assert np.ptp(grey) == 0
    assert np.array_equal(meter.false_colour(ramp + 0.3), meter.false_colour(ramp))


def test_scopes_count_every_pixel():
    stops = np.tile(np.linspace(-7.9, 5.9, 300, dtype=np.float32), (200, 1))
    shown = np.repeat(np.linspace(0, 1, 300, dtype=np.float32)[None, :, None], 200, 0).repeat(3, 2)
    found = meter.scopes(stops, shown)
    assert found.stops.sum() == stops.size
    assert found.stops.std() < 0.4 * found.stops.mean(), "an even ramp is flat"
    assert found.waveform.sum() == stops.size
    rows = found.waveform.argmax(0)
    assert (np.diff(rows) <= 0).all(), "the waveform climbs with the ramp"
    assert found.clipped == pytest.approx(1 / 300, abs=1e-6)

"""Noise from running sums, against what was put in."""

import numpy as np
import pytest

from nocturne.film.film import Film
from nocturne.film.noise import picture_noise, tile_noise


def sampled(mean: float, deviation: float, n: int, size=(64, 48)) -> Film:
    rng = np.random.default_rng(0)
    film = Film.blank(*size, ("a",))
    values = rng.normal(mean, deviation, (n, size[1], size[0]))
    film.samples[:] = n
    film.variance[..., 0], film.variance[..., 1] = values.sum(0), (values**2).sum(0)
    return film


def test_noise_is_the_relative_error_at_95_per_cent():
    film = sampled(10.0, 4.0, 400)
    expected = 1.96 * 4.0 / np.sqrt(400) / (10.0 + 0.05 * 20.0)
    tiles = tile_noise(film, 20.0)
    assert tiles.shape == (2, 2)
    assert tiles == pytest.approx(expected, rel=0.02)
    assert picture_noise(tiles) == pytest.approx(expected, rel=0.02)


def test_what_was_not_sampled_twice_has_no_known_noise():
    film = sampled(1.0, 1.0, 4)
    film.samples[40, 50] = 1
    tiles = tile_noise(film, 1.0)
    assert np.isinf(tiles[1, 1])
    assert np.isfinite(tiles[0]).all()


def test_mattes_and_ids():
    film = Film.blank(4, 2, ("a",))
    film.samples[:] = 4
    film.ids[0, 1, 0, :2], film.coverage[0, 1, 0, :2] = (7, 3), (1, 3)
    assert film.id_at(0, 1, 0) == 3
    assert film.id_at(0, 0, 0) == -1
    assert film.matte(0, (7,))[0, 1] == 0.25
    assert film.matte(0, (3, 7))[0, 1] == 1.0
    film.clear()
    assert not film.coverage.any()

"""Noises by their statistics: even, of the size that is set, alike along every way, as strong as their sums say."""

import numpy as np
import pytest

from nocturne.scene.patterns import Cells, Fibres, Fractal, Noise, Scratches, Spot, Spots, driven_by
from nocturne.scene.patterns.hashing import hashed, noise
from nocturne.scene.patterns.noises import SPREAD

N = 60_000


def at(places: np.ndarray) -> Spot:
    up = np.broadcast_to([0.0, 0.0, 1.0], places.shape)
    return Spot(places[:, :2], places[:, :2], np.ones(places.shape), places, places, up, up, up, (0, 0, 0))


def asked(step, places: np.ndarray) -> np.ndarray:
    """Return (n, 3) of a step at places (n, 3)."""
    return driven_by((step,), np.zeros(3), at(places), {})


@pytest.fixture
def places():
    return np.random.default_rng(11).uniform(-200, 200, (N, 3))


def test_random_numbers_are_even_and_know_nothing_of_each_other():
    x, y = np.meshgrid(np.arange(-100, 100), np.arange(-100, 100))
    drawn = np.stack(hashed(x, y, 5 * np.ones_like(x)))
    for numbers in drawn:
        counts, _ = np.histogram(numbers, bins=20, range=(0, 1))
        expected = numbers.size / 20
        assert ((counts - expected) ** 2 / expected).sum() < 43.8, "chi-square, 19 degrees, one in a thousand"
        for by in ((0, 1), (1, 0), (1, 1)):
            beside = np.roll(numbers, by, (0, 1))
            assert abs(np.corrcoef(numbers.ravel(), beside.ravel())[0, 1]) < 0.02
    assert np.abs(np.corrcoef(drawn.reshape(3, -1)) - np.eye(3)).max() < 0.02


@pytest.mark.parametrize("style", ["gradient", "value"])
def test_lumps_are_grey_on_average_and_as_large_as_is_set(style, places):
    """Alike within a tenth of a lump, strangers from one and a half on, along every way alike."""
    size = 0.7
    step = Noise(scale=size, style=style)
    here = asked(step, places)[:, 0]
    assert here.mean() == pytest.approx(0.5, abs=0.005)
    assert 0.08 < here.std() < 0.3
    likeness = {}
    for way in np.eye(3).tolist() + [[0.577, 0.577, 0.577], [0.707, -0.707, 0]]:
        for far in (0.1, 0.5, 1.5, 2.5):
            there = asked(step, places + far * size * np.array(way))[:, 0]
            likeness.setdefault(far, []).append(np.corrcoef(here, there)[0, 1])
    assert min(likeness[0.1]) > 0.9
    assert np.abs(likeness[1.5]).max() < 0.16
    assert np.abs(likeness[2.5]).max() < 0.05
    assert np.ptp(likeness[0.5]) < 0.45


def test_a_flat_cut_through_noise_has_its_power_at_its_size():
    """The spectrum of a plane: little below half a lump's frequency and above twice of it."""
    n, per_lump = 256, 8
    x, y = np.meshgrid(np.arange(n) / per_lump, np.arange(n) / per_lump)
    plane = noise(np.stack([x, y, np.full_like(x, 0.37)], axis=-1))
    power = np.abs(np.fft.fft2(plane * np.outer(np.hanning(n), np.hanning(n)))) ** 2
    cycles = np.hypot(*np.meshgrid(np.fft.fftfreq(n) * per_lump, np.fft.fftfreq(n) * per_lump))
    assert power[(cycles > 0.25) & (cycles < 1.5)].sum() > 0.8 * power.sum()
    assert power[cycles > 2.5].sum() < 0.01 * power.sum()


@pytest.mark.parametrize("diminish", [0.35, 0.5, 0.7])
def test_sums_of_lumps_are_as_strong_as_their_octaves_say(diminish, places):
    """Octaves that know nothing of each other add up their variances."""
    step = Fractal(scale=0.9, octaves=5, diminish=diminish, lacunarity=2.13)
    weights = diminish ** np.arange(5)
    one = noise(places).var()
    expected = 0.25 * SPREAD[0] ** 2 * one * (weights**2).sum() / weights.sum() ** 2
    found = asked(step, places)[:, 0]
    assert found.mean() == pytest.approx(0.5, abs=0.005)
    assert found.var() == pytest.approx(expected, rel=0.06)


def test_there_is_a_cell_for_each_cube_of_the_size(places):
    """Cells are as many as cubes of their size, each as likely to be of any number, and edges lie between them."""
    size = 0.5
    x, y = np.meshgrid(np.linspace(0, 20, 700), np.linspace(0, 20, 700))
    plane = np.stack([x, y, np.full_like(x, 0.2)], axis=-1).reshape(-1, 3)
    number = asked(Cells(scale=size, output="id"), plane)[:, 0]
    seen = np.unique(np.round(number, 6))
    # A plane cuts those of about 1.5 layers (Miles 1972: of random cells 1.458 in a unit area).
    assert len(seen) / (20 / size) ** 2 == pytest.approx(1.4, abs=0.2)
    counts, _ = np.histogram(seen, bins=10, range=(0, 1))
    assert ((counts - counts.mean()) ** 2 / counts.mean()).sum() < 27.9, "chi-square, 9 degrees, one in a thousand"
    edge = asked(Cells(scale=size, output="edge"), plane)[:, 0].reshape(700, 700)
    parted = np.diff(number.reshape(700, 700), axis=1) != 0
    assert np.minimum(edge[:, 1:], edge[:, :-1])[parted].max() < 0.13


@pytest.mark.parametrize("kind", [Scratches, Fibres, Spots])
def test_marks_cover_more_the_more_there_are_and_none_where_there_are_none(kind):
    x, y = np.meshgrid(np.linspace(0, 2, 220), np.linspace(0, 2, 220))
    plane = np.stack([x, y, np.zeros_like(x)], axis=-1).reshape(-1, 3)
    cover = [asked(kind(where="flat", density=density), plane)[:, 0].mean() for density in (0.0, 0.2, 0.4)]
    assert cover[0] == 0
    assert cover[2] > 1.5 * cover[1] > 0

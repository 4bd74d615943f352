"""The sampler: a scrambled Sobol sequence, the same bits whoever asks."""

import numpy as np
import pytest
from numba import njit
from scipy.stats import qmc

from nocturne.engine.kernels import random as kernels
from nocturne.engine.kernels.lanes import LANES, draw_pairs


@njit
def second(i):
    return kernels.sobol_second(np.uint32(i))


@njit
def reverse(i):
    return kernels.reverse_bits(np.uint32(i))


@njit
def points(pixel, n, index):
    out = np.empty((n, 2), np.float32)
    for i in range(n):
        out[i, 0], out[i, 1] = kernels.pair(np.uint32(pixel), np.uint32(i), index)
    return out


def test_unscrambled_coordinates_are_sobols():
    expected = qmc.Sobol(2, scramble=False).random(256)
    made = [(reverse(i) / 2**32, second(i) / 2**32) for i in range(256)]
    assert sorted(map(tuple, expected)) == sorted(made)


@pytest.mark.parametrize(("pixel", "index"), [(1, 0), (77, 3), (2**31, 41)])
def test_every_elementary_interval_holds_one_point(pixel, index):
    p = points(pixel, 1024, index)
    for k in range(11):
        counts = np.histogram2d(p[:, 0], p[:, 1], bins=[2**k, 2 ** (10 - k)], range=[[0, 1], [0, 1]])[0]
        assert (counts == 1).all()


def test_pairs_do_not_follow_each_other():
    a, b = points(5, 4096, 0), points(5, 4096, 1)
    c = points(6, 4096, 0)
    for x, y in ((a[:, 0], b[:, 0]), (a[:, 1], b[:, 1]), (a[:, 0], c[:, 0]), (a[:, 0], a[:, 1])):
        assert abs(np.corrcoef(x, y)[0, 1]) < 0.06


@njit
def one(pixel, sample, index):
    return kernels.pair(np.uint32(pixel), np.uint32(sample), index)


@njit
def eight(address, pixel, sample, first):
    draw_pairs(address, np.uint32(pixel), np.uint32(sample), np.uint32(first))


@pytest.mark.parametrize(("pixel", "sample", "first"), [(1, 0, 0), (77, 31, 7), (2**32 - 1, 2**20 + 5, 482)])
def test_eight_pairs_at_once_are_those_drawn_one_by_one(pixel, sample, first):
    found = np.zeros((2, LANES), np.float32)
    eight(found.ctypes.data, pixel, sample, first)
    assert np.array_equal(found.T, np.array([one(pixel, sample, first + k) for k in range(LANES)], np.float32))

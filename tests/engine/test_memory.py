"""Blocks of memory: what kernels read by index is what an array holds there."""

import numpy as np
import pytest
from numba import njit
from numba.core.errors import TypingError

from nocturne.engine.kernels.access import make_accessor, make_row_view
from nocturne.engine.types import pack
from nocturne.rows import Field

FIELDS = (
    Field("first", "f4", (None, 3), "rows of a known width"),
    Field("second", "i4", (2, None, None), "a width that comes with the array"),
)
first = make_accessor(FIELDS[0], 0, is_constant=True)
second = make_accessor(FIELDS[1], 3, is_constant=False)
row_f4 = make_row_view("f4")


@pytest.fixture
def rng():
    """Return numbers that are the same in every run."""
    return np.random.default_rng(5)


@njit
def read(table, i, j, k):
    return first(table)[j, k], second(table)[i, j, k], first(table).shape[0], second(table).shape


@njit
def write(table, i, j, k):
    second(table)[i, j, k] += 5
    second(table)[i, j, np.uint32(k)] = np.float32(second(table)[i, j, k])


@njit
def fill(address):
    row_f4(address)[3] = 7
    return row_f4(address)[np.uint32(3)]


def test_blocks_read_and_write_what_arrays_hold(rng):
    arrays = {
        "first": rng.random((4, 3)).astype(np.float32),
        "second": rng.integers(-99, 99, (2, 4, 5)).astype(np.int32),
    }
    table = pack(FIELDS, arrays).ctypes
    for i, j, k in np.ndindex(2, 4, 3):
        a, b, rows, shape = read(table.data, i, j, k)
        assert (a, b, rows, shape) == (arrays["first"][j, k], arrays["second"][i, j, k], 4, (2, 4, 5))
    before = arrays["second"].copy()
    write(table.data, 1, 2, 3)
    before[1, 2, 3] += 5
    assert np.array_equal(arrays["second"], before), "nothing beside it is touched"
    row = np.zeros(4, np.float32)
    assert fill(row.ctypes.data) == 7 == row[3]


def test_what_stays_the_same_while_a_kernel_runs_is_not_written():
    @njit
    def spoil(table):
        first(table)[0, 0] = 1.0

    with pytest.raises(TypingError):
        spoil(0)

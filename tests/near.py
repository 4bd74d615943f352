"""Comparing large arrays: what `pytest.approx` says of numbers, without going over them one by one."""

import numpy as np
from numpy.typing import ArrayLike


def assert_near(found: ArrayLike, expected: ArrayLike, *, rel: float = 0.0, within: float = 0.0) -> None:
    """Assert that no entry is further off than a share of what is expected, or than `within` if that is more."""
    found, expected = np.asarray(found), np.asarray(expected)
    assert expected.ndim == 0 or found.shape == expected.shape
    near = np.isclose(found, expected, rtol=rel, atol=0) | np.isclose(found, expected, rtol=0, atol=within)
    if not near.all():
        wanted = np.broadcast_to(expected, found.shape)[~near]
        raise AssertionError(f"{len(wanted)} of {near.size} are off: {found[~near][:5]} instead of {wanted[:5]}")

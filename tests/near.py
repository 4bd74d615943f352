"""Comparing large arrays: what `pytest.approx` says of numbers, without going over them one by one."""

import numpy as np
from numpy.typing import ArrayLike


def assert_near(found: ArrayLike, expected: ArrayLike, *, rel: float = 0.0, within: float = 0.0) -> None:
    """Assert that no entry is further off than a share of what is expected and `within`; what is no number never is."""
    np.testing.assert_allclose(found, expected, rtol=rel, atol=within, equal_nan=False)

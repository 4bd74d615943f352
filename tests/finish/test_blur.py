"""Blurring against SciPy's."""

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter

from nocturne.finish.blur import gaussian


@pytest.mark.parametrize("shape", [(52, 92, 3), (130, 70), (7, 5, 3), (1, 9, 3)])
@pytest.mark.parametrize("sigma", [0.1, 0.7, 4.0, 30.0])
@pytest.mark.parametrize("reach", [2.5, 3.0])
def test_it_is_as_scipy_has_it(engine, shape, sigma, reach):
    picture = np.random.default_rng(1).exponential(size=shape).astype(np.float32)
    wanted = gaussian_filter(picture.astype(float), (sigma, sigma, 0)[: len(shape)], mode="nearest", truncate=reach)
    np.testing.assert_allclose(gaussian(picture, sigma, reach=reach), wanted, rtol=3e-6, atol=1e-6)

"""A picture without repeats: its colours, their spread, no seam, and no repeat."""

import numpy as np
import pytest

from nocturne.scene.patterns.image import looked_up
from nocturne.scene.patterns.tiling import even_of, laid, patches


@pytest.fixture(scope="module")
def image():
    """Return a picture with skewed values: rare bright spots on coloured, cloudy ground."""
    rng = np.random.default_rng(2)
    waves = np.fft.rfft2(rng.normal(size=(128, 128, 3)), axes=(0, 1))
    k = np.hypot(np.fft.fftfreq(128)[:, None], np.fft.rfftfreq(128)[None]) * 128
    cloud = np.fft.irfft2(waves / (1 + k[..., None] ** 1.5), axes=(0, 1))
    cloud = (cloud - cloud.min()) / np.ptp(cloud)
    return (cloud**3 * (1.0, 0.6, 0.3)).astype(np.float32)


def spread_out(image, *, patch=0.3, turn=0.0, size=400, units=12.0):
    at = (np.arange(size) + 0.5) / size * units
    u, v = np.meshgrid(at, at)
    return laid(even_of(image), looked_up, u, v, np.asarray(patch), np.asarray(turn))


def test_the_way_back_undoes_the_spread(image):
    even = even_of(image)
    large = np.tile(image, (3, 2, 1))
    assert even_of(large) is even_of(large), "it is made once"
    at = np.linspace(0, 1, 256)
    along = np.stack([np.interp(even.spread[..., k], at, even.table[3:259, k]) for k in range(3)], axis=-1)
    again = along @ even.table[:3, :3].T + even.table[:3, 3]
    assert np.abs(again - image).mean() < 0.004
    flat = even.spread.reshape(-1, 3)
    assert flat.mean(0) == pytest.approx([0.5] * 3, abs=0.01)
    assert flat.std(0) == pytest.approx([1 / 6] * 3, abs=0.01)
    coarsest = even.table[-256:, :3][127:129].mean(0) @ even.table[:3, :3].T + even.table[:3, 3]
    assert coarsest == pytest.approx(image.mean((0, 1)), abs=0.02), "from far away it is the mean, not the median"


def test_shares_of_patches_add_up_and_leave_no_seam():
    rng = np.random.default_rng(1)
    u, v = rng.uniform(-5, 5, (2, 4000))
    found = patches(u, v, np.asarray(3.0))
    assert sum(w for *_, w in found) == pytest.approx(np.ones(4000))
    assert min(w.min() for *_, w in found) >= -1e-9
    # A hair further on the same patches have nearly the same shares: none ends before its share is nothing.
    for k in range(4000):
        here = {(x[k], y[k]): w[k] for x, y, w in found}
        there = patches(u[k : k + 1] + 1e-6, v[k : k + 1], np.asarray(3.0))
        beside = {(x[0], y[0]): w[0] for x, y, w in there}
        for key in here.keys() | beside.keys():
            assert here.get(key, 0) == pytest.approx(beside.get(key, 0), abs=1e-4)


@pytest.mark.parametrize("turn", [0.0, 1.0])
def test_colours_keep_their_spread(image, turn):
    made = spread_out(image, turn=turn)
    flat, whole = made.reshape(-1, 3), image.reshape(-1, 3)
    assert flat.mean(0) == pytest.approx(whole.mean(0), rel=0.06)
    assert flat.std(0) == pytest.approx(whole.std(0), rel=0.1)
    for share in (0.1, 0.5, 0.9, 0.99):
        assert np.quantile(flat, share, axis=0) == pytest.approx(np.quantile(whole, share, axis=0), rel=0.12, abs=0.01)
    mixed = np.corrcoef(flat.T) - np.corrcoef(whole.T)
    assert np.abs(mixed).max() < 0.1, "colours go together as they did"


def test_what_repeated_does_so_no_longer(image):
    def alike(made, by) -> float:
        a, b = made[:, :-by, 0].ravel(), made[:, by:, 0].ravel()
        return float(np.corrcoef(a, b)[0, 1])

    at = (np.arange(384) + 0.5) / 32
    u, v = np.meshgrid(at, at)
    plain = looked_up(image, u, v)
    made = laid(even_of(image), looked_up, u, v, np.asarray(0.3), np.asarray(0.0))
    assert alike(plain, 32) > 0.99
    assert abs(alike(made, 32)) < 0.1

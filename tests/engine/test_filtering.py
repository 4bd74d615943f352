"""Patterns seen by wide rays, against many narrow ones: no brighter, no darker, and where it pays far less noisy."""

import numpy as np
import pytest

from nocturne.engine.layout import mat
from nocturne.scene.materials import Material
from nocturne.scene.patterns import KINDS, Spot
from tests.engine import test_steps as steps

N, ACROSS = 200, 5
# How many times nearer to the mean of narrow rays a ray is, as wide as a tenth of what shows the pattern.
GAINS = {"image": 2.0, "checkerboard": 1.6, "brick": 1.6, "tile": 1.6, "brushed": 2.0}
PLACED = [k for k, m in KINDS.items() if m.is_placed and not (m.asks_shape or m.needs_under)]


def spot_at(places: np.ndarray) -> Spot:
    """Return places (n, 2) on the floor."""
    place = np.concatenate([places, np.zeros((len(places), 1))], axis=1)
    up = np.broadcast_to([0.0, 0.0, 1.0], place.shape)
    return Spot(places, places, np.ones(place.shape), place, place, up, up, up, (0, 0, 0))


@pytest.mark.parametrize("kind", PLACED)
def test_a_wide_ray_finds_the_mean_of_narrow_ones(kind, engine, monkeypatch):
    rng = np.random.default_rng(3)
    step = KINDS[kind](where="flat", anchor="set", **steps.LARGE.get(kind, {}))
    images = {("p.png", "colour"): rng.random((32, 32, 3)).astype(np.float32)}
    material = Material(id="m", base_color=steps.BASE, steps=(step,))
    reach = 0.1 * step.extent
    corner = rng.uniform(0, 20 * step.extent, (N, 2))
    at = (
        np.stack(np.meshgrid(*[np.arange(ACROSS)] * 2), -1).reshape(-1, 1, 2) + rng.random((ACROSS**2, N, 2))
    ) / ACROSS

    def seen(places, wide):
        monkeypatch.setattr(steps, "N", len(places))
        return steps.by_kernel(material, spot_at(places), images, mat.BASE, reach=wide)[0][:, 0]

    narrow = seen((corner + (at - 0.5) * reach).reshape(-1, 2), 0.0).reshape(-1, N).mean(0)
    wide, alone = seen(corner, reach), seen(corner, 0.0)
    error, before = (np.sqrt(((v - narrow) ** 2).mean()) for v in (wide, alone))
    assert wide.mean() - narrow.mean() == pytest.approx(0, abs=3 * error / np.sqrt(N) + 0.004)
    assert error <= before * 1.02 + 0.002
    assert error * GAINS.get(kind, 0) <= before


@pytest.mark.parametrize("kind", ["checkerboard", "brick", "tile"])
def test_far_from_the_origin_it_is_no_coarser(kind, engine, monkeypatch):
    """Half a kilometre out a ray of a millimetre still finds shares of pieces, the same on average."""
    rng = np.random.default_rng(4)
    monkeypatch.setattr(steps, "N", 2000)
    material = Material(id="m", base_color=steps.BASE, steps=(KINDS[kind](where="flat", anchor="set"),))
    near, far = (
        steps.by_kernel(material, spot_at(rng.uniform(0, 8, (2000, 2)) + by), {}, mat.BASE, reach=0.001)[0][:, 0]
        for by in (0.0, 512.0)
    )
    assert far.min() >= -1e-3
    assert far.max() <= 1 + 1e-3
    assert far.mean() == pytest.approx(near.mean(), abs=0.04)

"""What a rough boundary returns at first, by which it is made good, against an independent integral."""

import math

import numpy as np
import pytest
from scipy.stats import qmc

from nocturne.engine.layout import scratch
from nocturne.scene.materials import Material
from tests.engine.units import Hit

POINTS = qmc.Sobol(2, seed=1).random(1 << 16)


def fresnel(c: np.ndarray, eta: float) -> np.ndarray:
    """Return the unpolarised reflectance of a smooth boundary, 1 where nothing gets through."""
    inside = 1 - (1 - c * c) / eta**2
    t = np.sqrt(np.maximum(inside, 0))
    s, p = (c - eta * t) / (c + eta * t), (eta * c - t) / (eta * c + t)
    return np.where(inside <= 0, 1, (s * s + p * p) / 2)


def returned(x: float, y: float, eta: float, wo: np.ndarray) -> tuple[float, float]:
    """Return what facets of widths x and y reflect and let through of light from wo, over the normals that it sees.

    Heitz 2018, Sampling the GGX distribution of visible normals, in the form of a cap (Dupuy and Benyoub 2023);
    height-correlated masking of reflection and refraction (Heitz 2014, eq. 99).
    """

    def shaded(w):
        return (np.sqrt(1 + ((w[..., 0] * x) ** 2 + (w[..., 1] * y) ** 2) / w[..., 2] ** 2) - 1) / 2

    v = wo * (x, y, 1)
    v /= np.linalg.norm(v)
    turn, z = 2 * np.pi * POINTS[:, 0], (1 - POINTS[:, 1]) * (1 + v[2]) - v[2]
    flat = np.sqrt(np.maximum(1 - z * z, 0))
    h = np.stack([(flat * np.cos(turn) + v[0]) * x, (flat * np.sin(turn) + v[1]) * y, z + v[2]], axis=1)
    h /= np.linalg.norm(h, axis=1, keepdims=True)
    c = h @ wo
    reflected, own = fresnel(c, eta), 1 + shaded(wo)
    out = 2 * c[:, None] * h - wo
    t = np.sqrt(np.maximum(1 - (1 - c * c) / eta**2, 0))
    through = (c / eta - t)[:, None] * h - wo / eta
    gets_out = np.where(out[:, 2] > 0, own / (own + shaded(out)), 0)
    gets_through = np.where(through[:, 2] < 0, own / (own + shaded(through)), 0)
    return float((reflected * gets_out).mean()), float(((1 - reflected) * gets_through).mean())


@pytest.mark.parametrize(("clear", "is_inside"), [(1.0, False), (1.0, True), (0.5, True)])
@pytest.mark.parametrize("stretch", [0.0, 0.4, 0.8])
def test_what_a_boundary_returns_is_its_integral(engine, stretch, clear, is_inside):
    for roughness in (0.1, 0.3, 0.6, 1.0):
        values = {"specular_roughness": roughness, "specular_roughness_anisotropy": stretch}
        hit = Hit(Material(id="m", transmission_weight=clear, **values), inside=is_inside)
        for angle in (0, 40, 45, 80):
            c = math.cos(math.radians(angle))
            for turn in (0.0, 0.7, math.pi / 2):
                flat = math.sqrt(1 - c * c)
                wo = np.array([flat * math.cos(turn), flat * math.sin(turn), c])
                row = hit.see_along(wo).row
                x, y, eta = (float(row[at]) for at in (scratch.ALPHA, scratch.ALPHA + 1, scratch.ETA))
                both = float(row[scratch.GLASS_ALL])
                reflected, through = returned(x, y, eta, wo)
                where = roughness, angle, turn
                assert both == pytest.approx(reflected + through, rel=0.006), where
                # From inside of nothing but glass a table, coarse near the angle beyond which all is reflected: there
                # it decides only which way is gone how often, else also what is left for the opaque part.
                near = 0.08 if is_inside and clear == 1 else 0.006
                assert row[scratch.GLASS_REFL] * both == pytest.approx(reflected, abs=near), where

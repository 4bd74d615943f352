"""Fresnel, Snell and GGX against closed forms."""

import math

import numpy as np
import pytest
from numba import njit

from nocturne.engine import albedo, brushed
from nocturne.engine.kernels import microfacet as m
from nocturne.engine.kernels.albedos import table_brushed
from nocturne.engine.prepare import Preparer
from nocturne.scene.materials import Material
from tests import sets
from tests.near import assert_near

f4 = np.float32


@njit
def dielectric(c, eta):
    return m.fresnel_dielectric(f4(c), f4(eta))


@njit
def conductor(c, n, k):
    return m.fresnel_conductor(f4(c), f4(n), f4(k))


@njit
def edge(c, f0, tint):
    return m.fresnel_edge_tint(f4(c), f4(f0), f4(tint))


@njit
def normals(x, y, wo, us):
    out = np.empty((len(us), 3), np.float32)
    for i in range(len(us)):
        h = m.sample_visible_normal(f4(x), f4(y), (wo[0], wo[1], wo[2]), us[i, 0], us[i, 1])
        out[i] = h
    return out


@njit
def masking(x, y, wo):
    return m.ggx_lambda(f4(x), f4(y), (wo[0], wo[1], wo[2]))


@njit
def widths(rough, stretch):
    return m.ggx_widths(f4(rough), f4(stretch))


def test_dielectric_values():
    assert dielectric(1.0, 1.5) == pytest.approx(0.04, abs=1e-6)
    assert dielectric(1.0, 1 / 1.5) == pytest.approx(0.04, abs=1e-6)
    brewster = math.cos(math.atan(1.5))
    assert dielectric(brewster, 1.5) == pytest.approx(0.0739645, abs=1e-5)  # ((1.5^2-1)/(1.5^2+1))^2 / 2
    critical = math.cos(math.asin(1 / 1.5))
    assert dielectric(critical - 0.01, 1 / 1.5) == 1
    assert dielectric(critical + 0.05, 1 / 1.5) < 1


def test_conductor_values_against_the_complex_formula():
    for c, n, k in ((1.0, 0.2, 3.4), (0.6, 1.1, 2.4), (0.15, 2.9, 3.1)):
        eta = complex(n, k)
        cos_t = np.sqrt(1 - (1 - c * c) / eta**2)
        rs = abs((c - eta * cos_t) / (c + eta * cos_t)) ** 2
        rp = abs((eta * c - cos_t) / (eta * c + cos_t)) ** 2
        assert conductor(c, n, k) == pytest.approx((rs + rp) / 2, abs=2e-6)


def test_edge_tint_meets_its_three_points():
    assert edge(1.0, 0.7, 0.5) == pytest.approx(0.7, abs=1e-6)
    assert edge(0.0, 0.7, 0.5) == pytest.approx(1.0, abs=1e-6)
    schlick = 0.7 + 0.3 * (1 - 1 / 7) ** 5
    assert edge(1 / 7, 0.7, 0.5) == pytest.approx(0.5 * schlick, abs=1e-5)


@pytest.mark.parametrize(
    ("x", "y", "mu"), [(0.05, 0.05, 0.9), (0.3, 0.3, 0.4), (0.8, 0.8, 0.7), (1.0, 1.0, 0.1), (0.5, 0.15, 0.4)]
)
def test_visible_normals_follow_their_density(x, y, mu):
    rng = np.random.default_rng(3)
    wo = np.array([0.8 * math.sqrt(1 - mu * mu), 0.6 * math.sqrt(1 - mu * mu), mu], f4)
    h = normals(x, y, wo, rng.random((200_000, 2)).astype(f4)).astype(float)
    assert_near(np.linalg.norm(h, axis=1), 1, within=1e-3)
    # The density of visible normals, G1 max(wo.h, 0) D(h) / mu (Heitz 2018, eq. 1), integrated on a grid.
    cos, phi = np.meshgrid((np.arange(4000) + 0.5) / 4000, (np.arange(200) + 0.5) / 200 * 2 * np.pi)
    sin = np.sqrt(1 - cos * cos)
    across = sin * np.cos(phi) * wo[0] + sin * np.sin(phi) * wo[1] + cos * wo[2]
    d = 1 / (np.pi * x * y * ((sin * np.cos(phi) / x) ** 2 + (sin * np.sin(phi) / y) ** 2 + cos**2) ** 2)
    density = np.maximum(across, 0) * d / (1 + masking(x, y, wo)) / mu * (2 * np.pi / cos.size)
    assert density.sum() == pytest.approx(1, rel=5e-3)
    for of_samples, of_grid in ((h[:, 2], cos), (h[:, 0], sin * np.cos(phi)), (h[:, 1] ** 2, (sin * np.sin(phi)) ** 2)):
        assert of_samples.mean() == pytest.approx((of_grid * density).sum(), abs=4e-3)


def test_shipped_albedo_tables_are_the_integrals_they_say():
    metal, glass = albedo.tables()
    for i, k in ((8, 40), (18, 63), (22, 63), (32, 16), (63, 63)):
        whole = albedo.albedo(albedo.FINE_MU[k], albedo.FINE_ROUGHNESS[i], None, n=1 << 17)[0]
        assert metal[i, k] == pytest.approx(whole, abs=8e-4)
    for j, i, k in ((22, 12, 20), (10, 20, 25), (28, 31, 10), (17, 9, 31)):
        both = albedo.albedo(albedo.MU[k], albedo.ROUGHNESS[i], albedo.IOR[j], n=1 << 17)
        assert glass[j, i, k] == pytest.approx(both, abs=8e-4)


@pytest.mark.parametrize(("rough", "stretch"), [(0.3, 0.0), (0.5, 0.4), (0.9, 0.9)])
def test_stretching_keeps_the_mean_of_squared_widths(rough, stretch):
    x, y = widths(rough, stretch)
    assert (x * x + y * y) / 2 == pytest.approx(rough**4, rel=1e-5)  # OpenPBR 1.1, microfacet model
    assert y == pytest.approx((1 - stretch) * x, rel=1e-5)


def test_shipped_albedos_of_brushed_facets_are_the_integrals_they_say():
    table = brushed.table()
    assert np.abs(table[1:, 0] - 1).max() < 1e-3, "what is not stretched returns what even facets do, whatever its turn"
    for i, j, k, n in ((7, 5, 0, 5), (12, 10, 11, 12), (20, 15, 5, 3), (16, 13, 3, 20)):
        at = brushed.MU[n], brushed.SEEN[k], brushed.ROUGHNESS[i], brushed.STRETCH[j]
        assert table[i, j, k, n] == pytest.approx(brushed.over_even(*at, n=1 << 16), rel=3e-3)


@njit
def brushed_by_table(scene, places):
    out = np.empty(len(places), np.float32)
    for k in range(len(places)):
        rough, stretch, across, mu = places[k]
        out[k] = table_brushed(scene, rough, stretch, across, mu)
    return out


def test_between_entries_brushed_facets_return_what_their_integral_says(engine):
    rng = np.random.default_rng(9)
    places = rng.random((300, 4)).astype(np.float32)
    places[:, 2] = np.sin(np.pi / 2 * places[:, 2])
    degrees = np.where(np.arange(300) % 2, 89 * places[:, 3], 80 + 9 * places[:, 3])
    places[:, 3] = np.cos(np.radians(degrees))
    document, assets = sets.one_thing(sets.PLANE, Material(id="m"), sets.white_dome())
    ready = Preparer().prepare(document, assets)  # which keeps what its table points to
    found = brushed_by_table(ready.table.ctypes.data, places)
    wanted = [brushed.brushed_albedo(mu, across, rough, stretch, n=1 << 12) for rough, stretch, across, mu in places]
    off = np.abs(found / wanted - 1)
    assert off.max() < 0.01
    assert np.quantile(off, 0.95) < 0.004

"""The surface: energy, and sampling against its own density."""

import math

import numpy as np
import pytest

from nocturne.engine.layout import lamp, onward, scratch
from nocturne.engine.layout import value as layout
from nocturne.engine.prepare import Preparer
from nocturne.engine.types import scratch_row
from nocturne.scene.materials import Material
from tests import sets
from tests.engine import units
from tests.near import assert_near

WHITE = (1.0, 1.0, 1.0)
FURNACES = {
    "metal": lambda r: Material(id="m", base_color=WHITE, base_metalness=1, specular_roughness=r),
    "glass": lambda r: Material(id="m", transmission_weight=1, specular_roughness=r),
    "plastic": lambda r: Material(id="m", base_color=WHITE, specular_roughness=r),
    "coat": lambda r: Material(id="m", base_color=WHITE, specular_roughness=0.4, coat_weight=1, coat_roughness=r),
    # Inside a smooth ball, light past the critical angle never leaves again, so this one is rough.
    "half glass": lambda r: Material(id="m", base_color=WHITE, transmission_weight=0.5, specular_roughness=max(r, 0.6)),
}


@pytest.mark.parametrize("roughness", [0.0, 0.25, 0.6, 1.0])
@pytest.mark.parametrize("kind", FURNACES)
def test_white_furnace(engine, kind, roughness):
    camera = sets.view(size=(24, 24))
    document, assets = sets.one_thing(
        sets.BALL, FURNACES[kind](roughness), sets.white_dome(), camera=camera, quality=sets.deep(256)
    )
    film = sets.picture(document, assets)
    inside = film.alpha > 0.999
    assert film.beauty()[inside].mean() == pytest.approx(1, abs=0.01)
    assert film.beauty()[film.alpha == 0] == pytest.approx(1, abs=1e-5)


def test_darker_materials_return_less(engine):
    grey = Material(
        id="m", base_color=(0.5, 0.5, 0.5), base_metalness=1, specular_color=(0.6, 0.6, 0.6), specular_roughness=0.5
    )
    document, assets = sets.one_thing(sets.BALL, grey, sets.white_dome(), quality=sets.deep(128))
    film = sets.picture(document, assets)
    assert 0.4 < film.beauty()[film.alpha > 0.999].mean() < 0.7


def hit(material: Material, mu: float, *, ior: float):
    """Return the scene's table, a work row at a hit of the material seen at cosine mu, and what keeps both alive."""
    document, assets = sets.one_thing(sets.BALL, material, sets.white_dome())
    prepared = Preparer().prepare(document, assets)
    row = scratch_row()
    ids = row.view(np.uint32)
    ids[scratch.MATERIAL] = 1
    units.part(row, "N")[:] = units.part(row, "G")[:] = (0, 0, 1)
    units.part(row, "DPDU")[:] = (1, 0, 0)
    units.part(row, "WO")[:] = (math.sqrt(1 - mu * mu), 0, mu)
    at = prepared.table.ctypes.data, row.ctypes.data
    units.call("read_material", at)
    row[scratch.ETA], row[scratch.OUTSIDE], row[scratch.RANDOM] = ior, 1, 0
    units.call("derive_material", at)
    return at, row, ids, prepared


SAMPLED = {
    "rough metal": (Material(id="m", base_metalness=1, specular_roughness=0.6), 1.5),
    "coated plastic": (Material(id="m", specular_roughness=0.5, coat_weight=0.8, coat_roughness=0.35), 1.5),
    "rough glass": (Material(id="m", transmission_weight=1, specular_roughness=0.6), 1.5),
    "rough glass from inside": (Material(id="m", transmission_weight=1, specular_roughness=0.6), 1 / 1.5),
    "brushed metal with a tail": (
        Material(
            id="m",
            base_metalness=1,
            specular_roughness=0.5,
            specular_roughness_anisotropy=0.6,
            specular_rotation_deg=30,
            specular_tail=0.4,
            specular_tail_roughness=0.8,
        ),
        1.5,
    ),
    "brushed coat with a tail on chalk": (
        Material(
            id="m",
            base_diffuse_roughness=0.8,
            specular_roughness=0.6,
            coat_weight=1,
            coat_roughness=0.5,
            coat_roughness_anisotropy=0.5,
            coat_tail=0.5,
            coat_tail_roughness=0.8,
        ),
        1.5,
    ),
    "velvet": (Material(id="m", specular_roughness=0.6, fuzz_weight=1, fuzz_color=(0.9, 0.5, 0.4)), 1.5),
    "film": (Material(id="m", specular_roughness=0.6, thin_film_weight=1, thin_film_ior=2.0), 1.5),
    "brushed glass with a film": (
        Material(
            id="m",
            transmission_weight=1,
            specular_roughness=0.6,
            specular_roughness_anisotropy=0.5,
            thin_film_weight=1,
        ),
        1.5,
    ),
    "leaf": (
        Material(
            id="m",
            specular_roughness=0.6,
            subsurface_weight=0.7,
            subsurface_scatter_anisotropy=0.3,
            geometry_thin_walled=True,
        ),
        1.5,
    ),
    "mixture": (Material(id="m", base_metalness=0.4, transmission_weight=0.5, specular_roughness=0.55), 1.5),
}


@pytest.mark.parametrize("mu", [0.9, 0.35])
@pytest.mark.parametrize("kind", SAMPLED)
def test_samples_follow_their_density(engine, kind, mu):
    material, ior = SAMPLED[kind]
    at, row, _ids, _keep = hit(material, mu, ior=ior)
    rng = np.random.default_rng(5)
    n, bins_z, bins_phi = 24_000, 10, 8
    counts, weights, dropped, densities = np.zeros((bins_z, bins_phi)), np.zeros(3), 0, []
    for u in rng.random((n, 4)).astype(np.float32):
        units.part(row, "RANDOM")[:] = u
        units.call("sample_material", at)
        if row[scratch.SAMPLE + onward.DENSITY] <= 0:
            dropped += 1
            continue
        x, y, z = row[scratch.SAMPLE : scratch.SAMPLE + onward.WEIGHT]
        counts[
            min(int((z + 1) / 2 * bins_z), bins_z - 1),
            int((math.atan2(y, x) / (2 * math.pi) + 0.5) * bins_phi) % bins_phi,
        ] += 1
        weights += units.part(row, "SAMPLE", onward.ROW, "WEIGHT")
        # What evaluation says of this direction is what sampling said.
        row[scratch.LAMP : scratch.LAMP + lamp.DISTANCE] = (x, y, z)
        units.call("evaluate_material", at)
        densities.append((row[scratch.EVAL + layout.DENSITY], row[scratch.SAMPLE + onward.DENSITY]))
    evaluated, sampled = np.array(densities).T
    assert_near(evaluated, sampled, rel=2e-3)
    expected, albedo = np.zeros_like(counts), np.zeros(3)
    fine = 14
    for i in range(bins_z * fine):
        z = (i + 0.5) / (bins_z * fine) * 2 - 1
        for j in range(bins_phi * fine):
            phi = ((j + 0.5) / (bins_phi * fine) - 0.5) * 2 * math.pi
            s = math.sqrt(1 - z * z)
            row[scratch.LAMP : scratch.LAMP + lamp.DISTANCE] = (s * math.cos(phi), s * math.sin(phi), z)
            units.call("evaluate_material", at)
            solid = 4 * math.pi / (bins_z * fine * bins_phi * fine)
            expected[i // fine, j // fine] += row[scratch.EVAL + layout.DENSITY] * solid
            value = units.part(row, "EVAL")[: layout.DENSITY].reshape(3, 3).sum(0)
            albedo += value * solid if row[scratch.EVAL + layout.DENSITY] > 0 else 0
    expected *= n
    enough = expected > 40
    chi2 = ((counts - expected)[enough] ** 2 / expected[enough]).sum()
    assert chi2 < 2.2 * enough.sum() + 30
    assert counts.sum() == pytest.approx(expected.sum(), rel=0.02)
    # Two estimators of the reflected and transmitted share of light: over samples, and over directions.
    assert weights / n == pytest.approx(albedo, rel=0.03, abs=5e-3)
    assert dropped < 0.35 * n


def test_a_mirror_is_exact(engine):
    at, row, ids, _keep = hit(
        Material(id="m", base_metalness=1, base_color=(0.9, 0.6, 0.3), specular_roughness=0), 0.6, ior=1.5
    )
    units.part(row, "RANDOM")[:] = (0.99, 0.3, 0.4, 0.2)
    units.call("sample_material", at)
    assert ids[scratch.SAMPLE + onward.IS_DELTA] == 1
    assert row[scratch.SAMPLE : scratch.SAMPLE + onward.WEIGHT] == pytest.approx((-0.8, 0, 0.6), abs=1e-6)
    assert row[scratch.SAMPLE + onward.WEIGHT] == pytest.approx(0.9 + 0.1 * 0.4**5, rel=0.01)


def test_refraction_obeys_snell(engine):
    at, row, ids, _keep = hit(Material(id="m", transmission_weight=1, specular_roughness=0), 0.6, ior=1.5)
    units.part(row, "RANDOM")[:] = (0.99, 0.3, 0.4, 0.999)
    units.call("sample_material", at)
    d = row[scratch.SAMPLE : scratch.SAMPLE + onward.WEIGHT]
    assert ids[scratch.SAMPLE + onward.KIND] == 2
    assert 1.5 * math.hypot(d[0], d[1]) == pytest.approx(0.8, abs=1e-5)
    assert d[2] < 0

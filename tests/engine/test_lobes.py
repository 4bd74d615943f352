"""The lobes against what they are defined by: other integrations, complex amplitudes, the layer of fibres itself."""

import math

import numpy as np
import pytest

from nocturne.colour.spectrum import WAVELENGTHS_NM, channels, reflectance_to_working
from nocturne.engine import fuzz, spectrum
from nocturne.scene.materials import Material
from tests.engine.units import Hit

WHITE = (1.0, 1.0, 1.0)


def airy(c1: float, n1: float, n2: float, n3: complex, thickness_nm: float) -> np.ndarray:
    """Return the (3,) reflectance of a film, from complex amplitudes at each wavelength (Born and Wolf, 14.4)."""
    sine = n1 * math.sqrt(1 - c1 * c1)
    c2, c3 = np.sqrt(1 - (sine / n2) ** 2 + 0j), np.sqrt(1 - (sine / n3) ** 2 + 0j)
    wave = np.exp(1j * 4 * np.pi * n2 * c2 * thickness_nm / WAVELENGTHS_NM)
    seen = 0.0
    for a, b in (
        ((n1 * c1 - n2 * c2) / (n1 * c1 + n2 * c2), (n2 * c2 - n3 * c3) / (n2 * c2 + n3 * c3)),
        ((n2 * c1 - n1 * c2) / (n2 * c1 + n1 * c2), (n3 * c2 - n2 * c3) / (n3 * c2 + n2 * c3)),
    ):
        seen = seen + np.abs((a + b * wave) / (1 + a * b * wave)) ** 2 / 2
    return seen @ channels()


@pytest.mark.parametrize("thickness", [0.0, 120.0, 380.0, 1100.0])
@pytest.mark.parametrize("mu", [1.0, 0.6, 0.15])
@pytest.mark.parametrize("film", [1.33, 2.2])
def test_a_film_on_glass_is_what_amplitudes_of_every_wavelength_say(engine, film, mu, thickness):
    material = Material(
        id="m",
        specular_roughness=0,
        base_color=(0, 0, 0),
        thin_film_weight=1,
        thin_film_thickness_nm=thickness,
        thin_film_ior=film,
    )
    assert Hit(material).see(mu).albedo(64) == pytest.approx(airy(mu, 1, film, 1.5, thickness), abs=2e-3)


@pytest.mark.parametrize("thickness", [40.0, 250.0, 600.0])
@pytest.mark.parametrize("mu", [1.0, 0.5])
def test_a_film_on_metal_is_what_amplitudes_of_every_wavelength_say(engine, mu, thickness):
    n, k = (2.9, 2.8, 2.5), (3.1, 2.9, 2.5)
    material = Material(
        id="m",
        specular_roughness=0,
        base_metalness=1,
        metal_from="nk",
        metal_n=n,
        metal_k=k,
        thin_film_weight=1,
        thin_film_thickness_nm=thickness,
        thin_film_ior=2.1,
    )
    exact = [airy(mu, 1, 2.1, complex(n[j], k[j]), thickness)[j] for j in range(3)]
    assert Hit(material).see(mu).albedo(64) == pytest.approx(exact, abs=4e-3)


def test_a_soap_film_in_air_is_one_film(engine):
    material = Material(
        id="m",
        specular_roughness=0,
        specular_ior=1.0,
        transmission_weight=1,
        geometry_thin_walled=True,
        thin_film_weight=1,
        thin_film_thickness_nm=300,
        thin_film_ior=1.33,
    )
    hit = Hit(material).see(0.7)
    assert 1 - hit.straight == pytest.approx(airy(0.7, 1, 1.33, 1.0, 300), abs=2e-3)


def test_films_and_wavelengths_are_white_together():
    assert spectrum.film_table()[0] == pytest.approx([1, 1, 1, 0, 0, 0], abs=1e-6)
    u = (np.arange(100_000) + 0.5) / 100_000
    table = spectrum.wave_table().astype(float)
    mean = [np.interp(u, np.linspace(0, 1, len(table)), table[:, k]).mean() for k in (1, 2, 3)]
    assert mean == pytest.approx([1, 1, 1], abs=1e-4)
    assert reflectance_to_working(np.array([400.0, 700.0]), np.array([0.4, 0.4])) == pytest.approx([0.4] * 3)


def test_a_wavelength_has_the_colour_that_the_observer_sees():
    table = spectrum.wave_table()
    # A narrow band at each of three wavelengths: mostly red, green, blue.
    for wave, most in ((0.63, 0), (0.54, 1), (0.45, 2)):
        at = np.argmin(np.abs(table[:, 0] - wave))
        assert np.argmax(table[at, 1:]) == most


@pytest.mark.parametrize(("i", "j"), [(6, 4), (12, 12), (12, 23), (23, 2), (20, 18)])
def test_shipped_fuzz_is_what_paths_through_its_fibres_say(i, j):
    share, directions = fuzz.scattered(fuzz.MU[j], fuzz.ROUGHNESS[i], n=60_000, seed=99)
    a, b, shipped = fuzz.table()[i, j]
    assert shipped == pytest.approx(share, abs=0.01)
    # The fit tells where the light goes: its mean direction, and how much goes near the horizon.
    n = 200_000
    rng = np.random.default_rng(1)
    u = rng.random((n, 2))
    r, z = np.sqrt(u[:, 0]), np.sqrt(1 - u[:, 0])
    w = np.stack([(r * np.cos(2 * np.pi * u[:, 1]) - b * z) / a, r * np.sin(2 * np.pi * u[:, 1]) / a, z], 1)
    w /= np.linalg.norm(w, axis=1, keepdims=True)
    assert w.mean(0) == pytest.approx(directions.mean(0), abs=0.08)
    assert (w[:, 2] < 0.3).mean() == pytest.approx((directions[:, 2] < 0.3).mean(), abs=0.08)


def test_chalk_is_flatter_than_even_matt(engine):
    def seen(roughness: float, wi: float) -> float:
        material = Material(
            id="m", base_color=(0.5,) * 3, specular_weight=0, specular_roughness=1, base_diffuse_roughness=roughness
        )
        hit = Hit(material).see(math.cos(math.radians(60)))
        angle = math.radians(wi)
        return hit.evaluate((math.sin(angle), 0, math.cos(angle)))[0][0, 1] / math.cos(angle)

    # Towards the light it is brighter than even matt, away from it darker.
    assert seen(0, 60) == pytest.approx(0.5 / math.pi, rel=1e-5)
    assert seen(1, 60) > 1.2 * seen(0, 60)
    assert seen(1, -60) < 0.9 * seen(0, 60)


def test_brushing_draws_highlights_out_along_the_stretch(engine):
    def width(turn: float) -> float:
        metal = Material(
            id="m",
            base_metalness=1,
            specular_roughness=0.4,
            specular_roughness_anisotropy=0.8,
            specular_rotation_deg=turn,
        )
        hit = Hit(metal).see(1.0)
        at_side = hit.evaluate((math.sin(0.4), 0, math.cos(0.4)))[0][1, 1]
        across = hit.evaluate((0, math.sin(0.4), math.cos(0.4)))[0][1, 1]
        return at_side / across

    assert width(0) > 3
    assert width(90) == pytest.approx(1 / width(0), rel=1e-3)
    assert width(45) == pytest.approx(1, rel=1e-3)


def test_a_levelling_coat_has_a_normal_of_its_own(engine):
    def peak(levelling: float) -> float:
        lacquer = Material(
            id="m",
            base_color=(0, 0, 0),
            specular_weight=0,
            coat_weight=1,
            coat_roughness=0.2,
            coat_levelling=levelling,
        )
        hit = Hit(lacquer)
        hit.bend(0.3)
        hit.see(1.0)
        angles = np.linspace(-1.2, 1.2, 241)
        values = [hit.evaluate((math.sin(a), 0, math.cos(a)))[0][1, 1] for a in angles]
        return float(angles[int(np.argmax(values))])

    assert peak(1.0) == pytest.approx(0, abs=0.03)
    assert peak(0.0) == pytest.approx(2 * math.atan(0.3), abs=0.06)


RECIPROCAL = {
    "metal": {"base_metalness": 1, "specular_weight": 1},
    "brushed metal": {"base_metalness": 1, "specular_roughness_anisotropy": 0.7, "specular_rotation_deg": 20},
    "chalk": {"specular_weight": 0, "base_diffuse_roughness": 0.8},
}


@pytest.mark.parametrize("kind", RECIPROCAL)
def test_single_lobes_are_reciprocal(engine, kind):
    material = Material(id="m", specular_roughness=0.25, **RECIPROCAL[kind])
    rng = np.random.default_rng(7)
    for _ in range(6):
        z = rng.uniform(0.25, 0.95, 2)
        phi = rng.uniform(0, 2 * np.pi, 2)
        flat = np.sqrt(1 - z * z)
        a, b = (np.array([flat[i] * np.cos(phi[i]), flat[i] * np.sin(phi[i]), z[i]]) for i in range(2))
        there = Hit(material).see_along(a).evaluate(b)[0].sum(0) / b[2]
        back = Hit(material).see_along(b).evaluate(a)[0].sum(0) / a[2]
        # What the tables give back of light scattered twice is added by the viewer's direction alone.
        assert there == pytest.approx(back, rel=0.02)

"""Energy of the surface: white furnaces over lobes and pairs of lobes, layers against their exact sums."""

import math

import numpy as np
import pytest

from nocturne.engine import albedo
from nocturne.scene.materials import Material
from tests.engine.units import Hit

WHITE = (1.0, 1.0, 1.0)
# Each returns all the light it gets, whatever its roughness and from wherever it is seen.
LOSSLESS = {
    "metal": {"base_color": WHITE, "base_metalness": 1},
    "plastic": {"base_color": WHITE},
    "plastic of a low index": {"base_color": WHITE, "specular_ior": 1.05},
    "glass": {"transmission_weight": 1},
    "plastic and glass": {"base_color": WHITE, "transmission_weight": 0.5},
    "metal, plastic and glass": {"base_color": WHITE, "base_metalness": 0.5, "transmission_weight": 0.3},
    "coat on plastic": {"base_color": WHITE, "coat_weight": 1, "coat_roughness": 0.2},
    "coat on metal": {"base_color": WHITE, "base_metalness": 1, "coat_weight": 1},
    "coat on glass": {"base_color": (0.05,) * 3, "transmission_weight": 1, "coat_weight": 1},
    "rough coat on part of it": {"base_color": WHITE, "coat_weight": 0.3, "coat_roughness": 0.3},
    "sheet": {"transmission_weight": 1, "geometry_thin_walled": True},
    "sheet that is half plastic": {"base_color": WHITE, "transmission_weight": 0.5, "geometry_thin_walled": True},
    "coated sheet": {
        "base_color": WHITE,
        "transmission_weight": 0.7,
        "coat_weight": 0.6,
        "geometry_thin_walled": True,
    },
}
ANGLES = (0, 45, 75, 89)


@pytest.mark.parametrize("roughness", [0.0, 0.1, 0.3, 0.6, 1.0])
@pytest.mark.parametrize("kind", LOSSLESS)
def test_what_is_white_returns_all_light(engine, kind, roughness):
    hit = Hit(Material(id="m", specular_roughness=roughness, **LOSSLESS[kind]))
    found = [hit.see(math.cos(math.radians(angle))).albedo(1024)[1] for angle in ANGLES]
    assert found == pytest.approx([1] * len(ANGLES), abs=0.01)


# Every base under every layer: each pair returns all light, and so do all of them together.
BASES = {
    "metal": {"base_color": WHITE, "base_metalness": 1},
    "plastic": {"base_color": WHITE},
    "chalk": {"base_color": WHITE, "base_diffuse_roughness": 1.0},
    "glass": {"transmission_weight": 1},
    "sheet": {"transmission_weight": 1, "geometry_thin_walled": True},
    "leaf": {
        "base_color": WHITE,
        "subsurface_weight": 0.7,
        "subsurface_color": WHITE,
        "subsurface_scatter_anisotropy": 0.4,
        "geometry_thin_walled": True,
    },
    "mixture": {"base_color": WHITE, "base_metalness": 0.5, "transmission_weight": 0.3},
}
BRUSHED = {"specular_roughness_anisotropy": 0.8, "specular_rotation_deg": 30}
LAYERS = {
    "brushed": BRUSHED,
    "brushed across": {"specular_roughness_anisotropy": 0.6, "specular_rotation_deg": 90},
    "tail": {"specular_tail": 0.4},
    "film": {"thin_film_weight": 1, "thin_film_thickness_nm": 400.0, "thin_film_ior": 1.7},
    "half a film": {"thin_film_weight": 0.5, "thin_film_thickness_nm": 250.0, "thin_film_ior": 1.33},
    "hardly a coat": {"coat_weight": 0.05, "coat_roughness": 0.1},
    "a little coat": {"coat_weight": 0.25, "coat_roughness": 0.2, "coat_ior": 2.0},
    "brushed coat": {"coat_weight": 0.7, "coat_roughness": 0.5, "coat_roughness_anisotropy": 0.7},
    "coat with a tail": {"coat_weight": 1, "coat_roughness": 0.1, "coat_tail": 0.5},
    "fuzz": {"fuzz_weight": 1},
    "all": {"fuzz_weight": 0.5, "coat_weight": 0.5, "coat_tail": 0.3, "thin_film_weight": 0.7, **BRUSHED},
}


@pytest.mark.parametrize("layer", LAYERS)
@pytest.mark.parametrize("base", BASES)
def test_every_pair_of_lobes_returns_all_light(engine, base, layer):
    for roughness in (0.0, 0.1, 0.45, 1.0):
        hit = Hit(Material(id="m", specular_roughness=roughness, **BASES[base], **LAYERS[layer]))
        for angle in ANGLES:
            # Chalk at grazing angles is brightest where it is seldom sampled.
            n = 8192 if base == "chalk" and angle >= 75 else 1024
            found = hit.see(math.cos(math.radians(angle))).albedo(n)
            assert found == pytest.approx([1] * 3, abs=0.008), (roughness, angle)


INSIDE = ("brushed", "tail", "film", "half a film", "all")


@pytest.mark.parametrize("layer", ["", *INSIDE])
def test_glass_keeps_its_energy_from_inside(engine, layer):
    for roughness in (0.1, 0.3, 0.6, 1.0):
        values = {"transmission_weight": 1, "specular_roughness": roughness, **LAYERS.get(layer, {})}
        hit = Hit(Material(id="m", **values), inside=True)
        for angle in ANGLES:
            found = hit.see(math.cos(math.radians(angle))).albedo(8192)
            assert found == pytest.approx([1] * 3, abs=0.006), (roughness, angle)


@pytest.mark.parametrize("layer", ["", "film", "brushed", "fuzz"])
def test_what_is_partly_glass_keeps_its_energy_from_inside(engine, layer):
    for clear, roughness in [(0.0, 0.1), (0.2, 0.1), (0.5, 0.1), (0.5, 0.3), (0.8, 0.1), (0.8, 0.6), (0.5, 1.0)]:
        values = {"base_color": WHITE, "transmission_weight": clear, "specular_roughness": roughness}
        hit = Hit(Material(id="m", **values, **LAYERS.get(layer, {})), inside=True)
        # About 42 degrees everything begins to be reflected.
        for angle in (0, 38, 40, 42, 50, 89):
            found = hit.see(math.cos(math.radians(angle))).albedo(8192)
            assert found == pytest.approx([1] * 3, abs=0.006), (clear, roughness, angle)


@pytest.mark.parametrize("base", ["metal", "glass", "plastic"])
def test_the_most_brushed_facets_return_all_light_at_grazing_angles(engine, base):
    for roughness in (0.25, 0.7, 0.9):
        values = {"specular_roughness": roughness, "specular_roughness_anisotropy": 0.95}
        hit = Hit(Material(id="m", **BASES[base], **values))
        for angle in (75, 86, 89):
            c = math.cos(math.radians(angle))
            flat = math.sqrt(1 - c * c)
            for turn in (0.0, 1.4, 1.53, math.pi / 2):
                found = hit.see_along((flat * math.cos(turn), flat * math.sin(turn), c)).albedo(2048)[1]
                assert found == pytest.approx(1, abs=0.012), (roughness, angle, turn)


@pytest.mark.parametrize("stretch", [0.4, 0.8])
def test_brushed_glass_keeps_its_energy_from_inside(engine, stretch):
    for roughness in (0.2, 0.5, 1.0):
        values = {"specular_roughness": roughness, "specular_roughness_anisotropy": stretch}
        hit = Hit(Material(id="m", transmission_weight=1, **values), inside=True)
        for angle in ANGLES:
            c = math.cos(math.radians(angle))
            for turn in (0.0, 0.6, math.pi / 2):
                flat = math.sqrt(1 - c * c)
                found = hit.see_along((flat * math.cos(turn), flat * math.sin(turn), c)).albedo(8192)[1]
                # Half of it and more is shaded by other facets, so that even so many samples are off by 0.007.
                assert found == pytest.approx(1, abs=0.01), (roughness, angle, turn)


@pytest.mark.parametrize("weight", [0.25, 0.5, 0.9, 0.999, 1.0])
def test_a_sheet_lets_through_its_share(engine, weight):
    # Of light on a sheet with two faces of reflectance r, (1 - r) / (1 + r) goes through in the end.
    hit = Hit(Material(id="m", transmission_weight=weight, geometry_thin_walled=True, specular_roughness=0)).see(1.0)
    r = ((1.5 - 1) / (1.5 + 1)) ** 2
    assert hit.straight == pytest.approx([weight * (1 - r) / (1 + r)] * 3, rel=1e-5)


def test_a_rough_sheet_scatters_what_it_lets_through(engine):
    hit = Hit(Material(id="m", transmission_weight=1, geometry_thin_walled=True, specular_roughness=0.4)).see(0.8)
    assert hit.straight == pytest.approx([0, 0, 0])
    value, density = hit.evaluate((-0.5, 0.1, -math.sqrt(1 - 0.26)))
    assert value[2].min() > 0
    assert density > 0


def exact_stack(coat: float, base: np.ndarray) -> np.ndarray:
    """Return the reflectance of a smooth coat over a smooth base, all orders of reflection between both added."""
    return coat + (1 - coat) ** 2 * base / (1 - coat * base)


@pytest.mark.parametrize("unused", [0.05, 0.95])
def test_lacquer_over_smooth_metal_is_the_exact_stack(engine, unused):
    n, k, coat = np.array([0.18, 0.42, 1.38]), np.array([3.43, 2.35, 1.77]), 1.6
    under = ((n / coat - 1) ** 2 + (k / coat) ** 2) / ((n / coat + 1) ** 2 + (k / coat) ** 2)
    exact = exact_stack(((coat - 1) / (coat + 1)) ** 2, under)
    gold = Material(
        id="m",
        base_color=(unused,) * 3,
        base_metalness=1,
        metal_from="nk",
        metal_n=tuple(n),
        metal_k=tuple(k),
        specular_roughness=0,
        coat_weight=1,
        coat_ior=coat,
    )
    assert Hit(gold).see(1.0).albedo(1024) == pytest.approx(exact, abs=1e-3)
    coloured = Material(
        id="m", base_color=(0.9, 0.6, 0.3), base_metalness=1, specular_roughness=0, coat_weight=1, coat_ior=coat
    )
    exact = exact_stack(((coat - 1) / (coat + 1)) ** 2, np.array([0.9, 0.6, 0.3]))
    assert Hit(coloured).see(1.0).albedo(1024) == pytest.approx(exact, abs=1e-3)


def test_a_coat_is_only_darkened_by_what_counts_under_it(engine):
    def seen(**values) -> np.ndarray:
        return Hit(Material(id="m", coat_weight=1, **values)).see(0.9).albedo(1024)

    clear = {"transmission_weight": 1, "specular_roughness": 0.2}
    assert seen(base_color=(0.05,) * 3, **clear) == pytest.approx(seen(base_color=(0.95,) * 3, **clear), rel=1e-6)
    # What does count is darkened: a grey base gives less than it would without its coat's inner reflections.
    assert seen(base_color=(0.5,) * 3)[1] < seen(base_color=(0.5,) * 3, coat_darkening=0)[1] - 0.1


def test_specular_weight_dims_metals_too(engine):
    def seen(weight: float) -> np.ndarray:
        material = Material(id="m", base_color=WHITE, base_metalness=1, specular_weight=weight, specular_roughness=0)
        return Hit(material).see(0.7).albedo(256)

    assert seen(0.25) == pytest.approx(seen(1.0) * 0.25, rel=1e-3)


@pytest.mark.parametrize(("roughness", "mu"), [(0.1, 0.9), (0.3, 1.0), (0.355, 1.0), (0.7, 0.3)])
def test_albedo_tables_meet_an_integration_of_another_kind(roughness, mu):
    # Over outgoing directions, not over visible normals: D G2 / (4 mu), GGX and height-correlated Smith.
    alpha = roughness**2
    # Half vectors, so that the peak of a smooth surface is resolved: dω_i = 4 (wo·h) dω_h.
    edges = np.linspace(0, 1, 6001) ** 3
    phi = (np.arange(400) + 0.5)[None, :] / 400 * 2 * np.pi
    weight = np.diff(edges)[:, None] * 2 * np.pi / 400
    cos_h = 1 - ((edges[1:] + edges[:-1]) / 2)[:, None] + 0 * phi
    sin_h = np.sqrt(1 - cos_h**2)
    across = sin_h * np.cos(phi) * math.sqrt(1 - mu * mu) + cos_h * mu
    mi = 2 * across * cos_h - mu
    d = alpha**2 / (np.pi * (cos_h**2 * (alpha**2 - 1) + 1) ** 2)

    def masking(c):
        return 0.5 * (np.sqrt(1 + alpha**2 * (1 - c**2) / c**2) - 1)

    safe = np.where(mi > 1e-6, mi, 1.0)
    value = np.where((mi > 1e-6) & (across > 0), d / (1 + masking(mu) + masking(safe)) / (4 * mu) * 4 * across, 0)
    assert albedo.albedo(mu, roughness, None)[0] == pytest.approx(float((value * weight).sum()), abs=1.5e-3)


def any_material(rng: np.random.Generator) -> Material:
    """Return a material with anything in any parameter of its surface, each part often left out or whole."""
    values = {}
    for name, info in Material.model_fields.items():
        about = info.json_schema_extra
        if not name.startswith(
            ("base", "specular", "coat", "fuzz", "thin_film", "transmission_w", "transmission_c", "subs")
        ):
            continue
        if about["kind"] in ("colour", "channels"):
            values[name] = tuple(rng.random(3).tolist())
        elif about["kind"] == "number":
            low, high = about["low"], about["soft_high"] or about["high"]
            ends = (low, float(info.default), min(high, 1.0) if low == 0 else high)
            values[name] = float(rng.choice(ends) if rng.random() < 0.6 else rng.uniform(low, high))
    thin = bool(rng.random() < 0.3)
    return Material(
        id="m", geometry_thin_walled=thin, metal_from=str(rng.choice(["colour", "plain", "table"])), **values
    )


def test_no_material_gives_back_more_than_it_gets(engine):
    rng = np.random.default_rng(11)
    for _ in range(40):
        material = any_material(rng)
        hit = Hit(material, inside=bool(rng.random() < 0.2))
        if rng.random() < 0.3:
            hit.bend(float(rng.uniform(-0.6, 0.6)))
        for angle in (5, 60, 85):
            turn, c = rng.uniform(0, 2 * np.pi), math.cos(math.radians(angle))
            flat = math.sqrt(1 - c * c)
            found = hit.see_along((flat * math.cos(turn), flat * math.sin(turn), c)).albedo(512)
            assert np.isfinite(found).all(), material
            assert -1e-3 < found.min(), material
            assert found.max() < 1.02, material

"""Materials out and in by glTF and OpenUSD: the whole model, parameter by parameter."""

from pathlib import Path

import numpy as np
import pytest

from nocturne.io.models import glb, read, usdout
from nocturne.io.models.outgoing import Outgoing
from nocturne.io.models.surfaces import OPENPBR
from nocturne.scene.bringing import Wanted, brought
from nocturne.scene.document import Document
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Picture
from tests import sets

pytestmark = pytest.mark.usefixtures("usd_here")

TINT = (0.3, 0.6, 0.2)  # within what Rec.709 can show, as glTF's colours are
KINDS = {
    "brushed": {"base_metalness": 1, "specular_roughness_anisotropy": 0.6, "specular_rotation_deg": 30},
    "velvet": {"fuzz_weight": 0.7, "fuzz_color": TINT, "fuzz_roughness": 0.4},
    "soap": {
        "thin_film_weight": 0.9,
        "thin_film_thickness_nm": 320,
        "thin_film_ior": 1.35,
        "transmission_weight": 1,
        "geometry_thin_walled": True,
    },
    "flint": {
        "transmission_weight": 1,
        "transmission_depth": 0.2,
        "transmission_color": TINT,
        "transmission_dispersion_scale": 1,
        "transmission_dispersion_abbe_number": 31,
        "specular_ior": 1.7,
    },
    "leaf": {
        "subsurface_weight": 0.6,
        "subsurface_color": TINT,
        "geometry_thin_walled": True,
        "subsurface_scatter_anisotropy": 1.0,
    },
    "net": {"geometry_opacity": 0.4, "base_color": TINT},
    "lacquer": {"coat_weight": 0.5, "coat_roughness": 0.2, "coat_ior": 1.5, "coat_darkening": 0},
    "tinted": {"specular_weight": 0.5, "specular_color": TINT},
}
ONLY_OPENPBR = {
    "wax": {"subsurface_weight": 1, "subsurface_color": TINT, "subsurface_radius_mm": 7},
    "milk": {
        "transmission_weight": 1,
        "transmission_depth": 0.1,
        "transmission_color": (0.5, 0.5, 0.5),
        "transmission_scatter": TINT,
        "transmission_scatter_anisotropy": 0.4,
    },
    "chalk": {"base_diffuse_roughness": 0.8, "base_weight": 0.6},
    "varnish": {"coat_weight": 1, "coat_color": TINT, "coat_roughness_anisotropy": 0.4, "coat_ior": 1.7},
}


def sent(tmp_path: Path, suffix: str, *materials: Material) -> tuple[list[Material], tuple[str, ...], tuple[str, ...]]:
    """Return materials after they went out and came back, and what was lost on each way."""
    parts = [(sets.BALL, material, {"place": (3.0 * i, 0.0, 0.0)}) for i, material in enumerate(materials)]
    document, assets = sets.many(parts)
    path = tmp_path / f"set{suffix}"
    lost = (glb if suffix == ".glb" else usdout).write(path, Outgoing.of(document, assets, tmp_path))
    arrival = read.read(path)
    again, _ = brought(Document(), arrival, Wanted.all_of(arrival), base=path.name, name="x", named=str)
    found = [next(m for m in again.materials if m.name == material.name) for material in materials]
    return found, lost, arrival.lost


def assert_alike(new: Material, old: Material, names) -> None:
    for name in names:
        got, wanted = getattr(new, name), getattr(old, name)
        assert got == pytest.approx(wanted, abs=2e-5, rel=1e-4), (old.name, name)


@pytest.mark.parametrize("suffix", [".glb", ".usda"])
def test_what_both_formats_have_comes_back_equal(tmp_path, suffix):
    old = [Material(id=name, name=name, **values) for name, values in KINDS.items()]
    new, out, back = sent(tmp_path, suffix, *old)
    told = {words for words in (*out, *back) if "turned" not in words}
    assert told == set()
    for a, b in zip(new, old):
        names = set(KINDS[b.name]) | {"specular_roughness", "base_metalness", "specular_ior"}
        if suffix != ".glb":
            names -= {"specular_rotation_deg"}  # a tangent, not a number: it is told
        elif b.fuzz_weight:
            names -= {"fuzz_weight", "fuzz_color"}  # glTF has both as one number
            both = [np.array(m.fuzz_color) * m.fuzz_weight for m in (a, b)]
            assert both[0] == pytest.approx(both[1], abs=1e-5)
        assert_alike(a, b, names)


def test_a_stage_keeps_the_whole_model(tmp_path):
    kinds = {**KINDS, **ONLY_OPENPBR}
    old = [Material(id=name, name=name, **values) for name, values in kinds.items()]
    new, _out, back = sent(tmp_path, ".usdc", *old)
    assert back == ()
    for a, b in zip(new, old):
        assert_alike(a, b, {about.parameter for about in OPENPBR.values() if about.kind != "normal"})


def test_glb_tells_what_it_has_not(tmp_path):
    old = [Material(id=name, name=name, **values) for name, values in ONLY_OPENPBR.items()]
    _new, out, _back = sent(tmp_path, ".glb", *old)
    for name in ONLY_OPENPBR:
        assert any(f"“{name}”" in words for words in out), name


@pytest.mark.parametrize("suffix", [".glb", ".usda"])
def test_layers_and_rounding_are_told(tmp_path, suffix):
    top = Material(id="t", name="Top", layer_over="below", rounding_mm=1.0)
    _new, out, _back = sent(tmp_path, suffix, top, Material(id="below", name="Below"))
    assert {words for words in out if "Top" in words} == {
        "“Top”: what it lies over, where it does not cover it",
        "“Top”: the rounding of its edges",
    }


@pytest.mark.parametrize("suffix", [".glb", ".usda"])
def test_measured_metals_go_out_by_their_colours(tmp_path, suffix):
    gold = Material(id="g", name="Gold", base_metalness=1, metal_from="table", metal_name="gold")
    (new,), out, _back = sent(tmp_path, suffix, gold)
    assert new.base_color == pytest.approx((0.906, 0.753, 0.418), abs=0.03)  # Rec.709 ends there
    assert any("n and k" in words for words in out)


def test_a_leaf_with_alpha_keeps_its_outline(tmp_path):
    import OpenImageIO as oiio

    from nocturne.io import image

    writer = oiio.ImageOutput.create("leaf.png")
    writer.open(str(tmp_path / "leaf.png"), oiio.ImageSpec(8, 8, 4, "uint8"))
    writer.write_image(np.dstack([np.full((8, 8, 3), 0.5), np.tri(8)]).astype(np.float32))
    writer.close()
    steps = (
        Picture(parameter="base_color", path="leaf.png", wrap="clamp"),
        Picture(parameter="geometry_opacity", path="leaf.png", space="alpha", wrap="clamp"),
    )
    old = Material(id="l", name="Leaf", steps=steps)
    (new,), out, back = sent(tmp_path, ".glb", old)
    assert (out, back) == ((), ())
    assert {(s.parameter, s.space, s.wrap) for s in new.steps} == {(s.parameter, s.space, s.wrap) for s in steps}
    step = next(s for s in new.steps if s.parameter == "geometry_opacity")
    taken = image.read(tmp_path / f"set.glb{step.path}", space="alpha")
    assert taken[..., 0] == pytest.approx(np.tri(8), abs=1e-6)


@pytest.mark.parametrize("levelling", [0.0, 1.0])
@pytest.mark.parametrize("suffix", [".glb", ".usda"])
def test_a_coat_keeps_whether_it_follows_the_normal_map(tmp_path, suffix, levelling):
    from nocturne.io import picture

    picture.write(tmp_path / "n.png", np.full((4, 4, 3), 0.5))
    step = Picture(parameter="geometry_normal", path="n.png", space="data")
    values = {"coat_weight": 1.0, "coat_ior": 1.5, "coat_darkening": 0.0, "coat_levelling": levelling}
    (new,), out, back = sent(tmp_path, suffix, Material(id="c", name="Coated", steps=(step,), **values))
    assert (out, back) == ((), ())
    assert new.coat_levelling == levelling
    half = Material(id="h", name="Half", steps=(step,), **{**values, "coat_levelling": 0.4})
    _new, out, _back = sent(tmp_path, suffix, half)
    assert out == ("“Half”: how far its coat lies smooth",)


def test_lengths_of_a_material_are_in_the_stages_unit(tmp_path):
    from pxr import Usd, UsdGeom

    milk = Material(
        id="m",
        name="Milk",
        transmission_weight=1,
        transmission_depth=0.2,
        subsurface_weight=1,
        subsurface_radius_mm=4,
    )
    (metres,), _out, _back = sent(tmp_path, ".usda", milk)
    stage = Usd.Stage.Open(str(tmp_path / "set.usda"))
    UsdGeom.SetStageMetersPerUnit(stage, 0.01)
    stage.GetRootLayer().Save()
    (centimetres,) = read.read(tmp_path / "set.usda").materials
    for name in ("transmission_depth", "subsurface_radius_mm"):
        assert getattr(metres, name) == pytest.approx(getattr(milk, name))
        assert getattr(centimetres, name) == pytest.approx(getattr(milk, name) / 100)


def test_a_mask_cuts_at_its_value(tmp_path):
    from tests.io.test_models import TRIANGLE, gltf

    tree = {
        "nodes": [{"mesh": 0}],
        "scenes": [{"nodes": [0]}],
        "images": [{"uri": "a.png"}],
        "samplers": [{"wrapS": 33648, "wrapT": 33648}],
        "textures": [{"source": 0, "sampler": 0}],
        "materials": [
            {
                "name": "Cut",
                "alphaMode": "MASK",
                "alphaCutoff": 0.25,
                "pbrMetallicRoughness": {"baseColorTexture": {"index": 0}},
            },
            {
                "name": "Screen",
                "pbrMetallicRoughness": {"baseColorFactor": [1, 0, 0, 1]},
                "extensions": {"KHR_materials_unlit": {}},
            },
        ],
        "meshes": [{"primitives": [{"attributes": {"POSITION": {"@": "p"}}, "material": i}]} for i in (0, 1)],
    }
    tree["nodes"].append({"mesh": 1})
    tree["scenes"][0]["nodes"].append(1)
    cut, screen = read.read(gltf(tmp_path, tree, {"p": TRIANGLE})).materials
    alpha, levels = (step for step in cut.steps if step.parameter == "geometry_opacity")
    assert (alpha.space, alpha.wrap) == ("alpha", "mirror")
    assert (levels.kind, levels.inhigh) == ("range", 0.25)
    assert screen.is_emitter
    assert (screen.base_color, screen.specular_weight) == ((0.0, 0.0, 0.0), 0.0)

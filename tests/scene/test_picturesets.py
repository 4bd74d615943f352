"""Sets of pictures by how their names end, and what drives what then."""

import pytest

from nocturne.scene.materials import Material
from nocturne.scene.patterns import Fractal
from nocturne.scene.picturesets import held_by, sets_of, wired


@pytest.mark.parametrize(
    ("file", "name", "what"),
    [
        ("oak_planks_Color.png", "oak planks", "colour"),
        ("OakPlanks_2K_BaseColor.jpg", "Oak Planks", "colour"),
        ("wall-albedo-4096x4096.exr", "wall", "colour"),
        ("rust_base_color_1k.png", "rust", "colour"),
        ("tiles01_NormalGL.tif", "tiles01", "normal"),
        ("tiles01_nor_dx_2k.png", "tiles01", "normal, green down"),
        ("Concrete-Rough.png", "Concrete", "roughness"),
        ("steel.Glossiness.png", "steel", "gloss"),
        ("moss AO.png", "moss", "occlusion"),
        ("moss_ambient_occlusion.png", "moss", "occlusion"),
        ("moss_disp.exr", "moss", "height"),
        ("sign_emissive.png", "sign", "emission"),
        ("leaf_alpha.png", "leaf", "opacity"),
        ("metal_plate_metallic.png", "metal plate", "metalness"),
        ("holiday.jpg", "holiday", ""),
        ("somewhere/brick/normal.png", "brick", "normal"),
    ],
)
def test_what_a_picture_holds_is_told_by_its_name(file, name, what):
    found = held_by(file)
    assert (found[0].lower(), found[1]) == (name.lower(), what)


def test_pictures_of_one_name_are_a_set():
    names = ["a/oak_color.png", "a/oak_rough_2k.png", "a/oak_Normal.png", "a/ash_color.png", "a/me.jpg"]
    sets, unknown = sets_of(names)
    assert [found.name for found in sets] == ["oak", "ash"]
    assert sets[0].pictures == {"colour": names[0], "roughness": names[1], "normal": names[2]}
    assert unknown == ["a/me.jpg"]


def test_each_picture_drives_what_it_holds_and_is_read_as_it_should_be():
    ends = ("color", "gloss", "normal_dx", "height", "metallic", "ao", "opacity", "emissive")
    (found,), _ = sets_of([f"old_sign_{end}.png" for end in ends])
    before = Material(id="m", steps=(Fractal(parameter="base_color"), Fractal(parameter="coat_roughness")))
    item, told = wired(before, found, lambda path: f"pictures/{path}")
    by = {(step.parameter, step.path.rpartition("_")[2].removesuffix(".png")): step for step in item.steps[1:]}
    assert item.steps[0].parameter == "coat_roughness", "what drives something else stays"
    assert {key: step.space for key, step in by.items()} == {
        ("base_color", "color"): "colour",
        ("base_color", "ao"): "data",
        ("specular_roughness", "gloss"): "data",
        ("base_metalness", "metallic"): "data",
        ("geometry_normal", "dx"): "data",
        ("geometry_height", "height"): "data",
        ("emission_color", "emissive"): "colour",
    }
    assert by["specular_roughness", "gloss"].invert
    assert by["base_color", "ao"].blend == "multiply"
    assert by["geometry_normal", "dx"].green_down
    assert item.emission_luminance > 0
    assert told == ["old_sign_opacity.png"]
    assert Material.model_validate(item.model_dump()) == item


def test_a_set_of_tiles_says_what_it_holds_as_one_picture_does():
    for name in ("oak_normal.<UDIM>.exr", "oak_normal_<UDIM>.exr", "oak_<UDIM>_normal.exr", "oak_normal.1001.exr"):
        assert held_by(f"a/{name}") == ("oak", "normal"), name

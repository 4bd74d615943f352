"""Projects of older formats open as they looked."""

import json

import pytest

from nocturne.io import project
from nocturne.io.migrate import migrated
from nocturne.scene.document import FORMAT_VERSION, Document
from nocturne.scene.materials import Material


def test_a_finish_of_format_1_becomes_the_same_stack(tmp_path):
    old = {
        "format": "nocturne-project",
        "version": 1,
        "name": "Old",
        "finish": {"exposure": 0.5, "bloom": 0.3, "bloom_size": 0.1, "vignette": 0.0, "contrast": 1.2, "view": "plain"},
    }
    (tmp_path / "old.nocturne").write_text(json.dumps(old))
    document = project.read_document(tmp_path / "old.nocturne")
    assert document.version == FORMAT_VERSION
    assert document.finish.view == "plain"
    assert [step.kind for step in document.finish.steps] == ["bloom", "exposure", "tone"]
    bloom, exposure, tone = document.finish.steps
    assert (bloom.bloom, bloom.size, exposure.stops, tone.contrast) == pytest.approx((0.3, 0.1, 0.5, 1.2))
    assert project.read_document(project.save_document(tmp_path / "new.nocturne", document)) == document


@pytest.mark.parametrize("raw", [{"version": 1}, {"version": 1, "finish": 3}, {}, {"version": "x"}, 3, []])
def test_what_is_no_old_project_is_left_to_validation(raw):
    out = migrated(raw, FORMAT_VERSION)
    if isinstance(raw, dict) and raw.get("version") == 1 and "finish" not in raw:
        assert Document.model_validate(out).finish.steps == ()


def test_pictures_of_format_2_count_whole_but_for_the_strength_of_normal_maps():
    old = {
        "version": 2,
        "materials": [
            {
                "id": "wood",
                "textures": [
                    {"parameter": "base_color", "path": "c.png", "amount": 0.6},
                    {"parameter": "geometry_normal", "path": "n.png", "amount": 0.6},
                ],
            },
            {"id": "plain"},
        ],
    }
    document = Document.model_validate(migrated(old, FORMAT_VERSION))
    assert [texture.amount for texture in document.find("materials", "wood").steps] == [1.0, 0.6]


def test_lights_of_format_4_keep_what_their_kind_has():
    whole = {
        "name": "Old", "group": "light", "on": True, "power": 7.0, "unit": "lm", "radius": 0.05, "width": 0.5,
        "height": 0.5, "inner_deg": 20.0, "outer_deg": 35.0, "image": "", "azimuth_deg": 3.0, "elevation_deg": 30.0,
        "turbidity": 3.0, "ground": 0.2, "together": True, "place": [1.0, 2.0, 3.0], "turn_deg": [0.0, 10.0, 0.0],
        "visible": False, "kelvin": 4000.0, "colour_from": "kelvin", "colour": [1.0, 1.0, 1.0], "efficacy": 20.0,
    }  # fmt: skip
    kinds = ("rect", "sphere", "spot", "point", "environment", "dome", "sun", "sky")
    old = {"version": 4, "lights": [{"id": kind, "kind": kind, **whole} for kind in kinds] + [{"id": "plain"}]}
    document = Document.model_validate(migrated(old, FORMAT_VERSION))
    assert [light.kind for light in document.lights] == [*kinds, "rect"]
    for light in document.lights[:-1]:
        for name, value in whole.items():
            if name in type(light).model_fields:
                assert getattr(light, name) == (tuple(value) if isinstance(value, list) else value), (light.kind, name)
    assert document.find("lights", "point").bulb_radius == 0, "what was a point stays one"
    assert document.find("lights", "spot").bulb_radius == 0
    with pytest.raises(ValueError, match="sparkle"):
        Document.model_validate(migrated({"version": 4, "lights": [{"id": "x", "sparkle": 1}]}, FORMAT_VERSION))


def test_what_drove_a_parameter_before_there_were_other_steps_is_a_picture():
    old = {
        "format": "nocturne-project",
        "version": 5,
        "materials": [{"id": "m", "textures": [{"path": "a.png", "amount": 0.5}]}, {"id": "bare"}],
    }
    document = Document.model_validate(migrated(old, FORMAT_VERSION))
    (step,) = document.materials[0].steps
    assert (step.kind, step.path, step.amount) == ("image", "a.png", 0.5)
    assert migrated({"version": 5, "materials": "damaged"}, FORMAT_VERSION)["materials"] == "damaged"
    odd = {"version": 6, "materials": [{"id": "m", "textures": [{"kind": "sparkle"}]}]}
    with pytest.raises(ValueError, match="sparkle"):
        Document.model_validate(migrated(odd, FORMAT_VERSION))


def test_steps_of_format_7_hold_steps_since_then():
    old = {
        "version": 7,
        "materials": [
            {
                "id": "m",
                "textures": [
                    {"kind": "picture", "path": "a.png", "multiply": True, "repeat": [2.0, 3.0]},
                    {"kind": "checker", "parameter": "emission_color", "multiply": False},
                    {"kind": "colours", "parameter": "coat_color"},
                    {"kind": "picture", "parameter": "specular_roughness", "path": "r.png", "space": "data"},
                ],
            },
            {"id": "odd", "textures": "damaged"},
        ],
    }
    told = migrated(old, FORMAT_VERSION)["materials"]
    assert told[1] == {"id": "odd", "steps": "damaged"}
    steps = Material.model_validate(told[0]).steps
    assert [s.kind for s in steps] == ["image", "checkerboard", "geomcolor", "image"]
    assert [s.blend for s in steps] == ["multiply", "multiply", "replace", "replace"], "a glow was always multiplied"
    assert (steps[0].repeat, steps[3].space) == ((2.0, 3.0), "data")


def test_steps_too_deep_or_of_no_kind_are_told():
    step = {"kind": "constant", "parameter": "value"}
    for _ in range(400):
        step = {"kind": "constant", "parameter": "value", "steps": [step]}
    for wrong, told in ((step, "deep"), ({"kind": "sparkle"}, "sparkle"), ({"kind": ["a"]}, "kind"), (7, "step")):
        with pytest.raises(ValueError, match=told):
            Material.model_validate({"id": "m", "steps": [wrong]})

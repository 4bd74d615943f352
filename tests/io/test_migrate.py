"""Projects of older formats open as they looked."""

import json

import pytest

from nocturne.io import project
from nocturne.io.migrate import migrated
from nocturne.scene.document import FORMAT_VERSION, Document


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
    assert [texture.amount for texture in document.find("materials", "wood").textures] == [1.0, 0.6]

"""Ready materials: that they are what they say, plausible, and come into a set whole; own ones that are kept."""

import numpy as np
import pytest

from nocturne.errors import FileError
from nocturne.io import picture, project
from nocturne.jobs import run
from nocturne.scene import edit
from nocturne.scene.document import Document
from nocturne.scene.layering import by_id, chain
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Picture, every
from nocturne.scene.stocking import alone, stocked
from nocturne.scene.thing import Thing
from nocturne.stock import sheet, shelf
from nocturne.stock.library import kinds, shipped
from tests import sets

WHITE = sets.view(size=(24, 24))


def test_there_are_many_of_every_kind():
    ready = shipped()
    assert len(ready) >= 80
    assert len({one.name for one in ready.values()}) == len(ready)
    counted = {kind: sum(one.kind == kind for one in ready.values()) for kind in kinds()}
    assert len(counted) >= 14
    assert min(counted.values()) >= 5, counted
    assert any(one.matches("brass old") for one in ready.values())
    assert not any(one.matches("no such thing") for one in ready.values())


def test_they_need_no_files_and_can_be_written_and_read():
    for one in shipped().values():
        for material in one.materials:
            assert Material.model_validate_json(material.model_dump_json()) == material
            assert not any(isinstance(step, Picture) for step in every(material.steps)), one.name
        assert chain(by_id(one.materials), one.materials[0].id) == one.materials, one.name


def test_they_are_plausible():
    for one in shipped().values():
        for m in one.materials:
            if m.base_metalness < 1 and not m.transmission_weight and not m.is_emitter:
                assert 0.001 < max(m.base_color) < 0.95, m.name
            assert m.specular_ior == 1.0 or 1.3 <= m.specular_ior <= 2.5, m.name
            if m.is_medium:
                assert m.transmission_depth > 0 or m.specular_ior == 1.0, m.name


def test_none_gives_back_more_than_it_gets(engine):
    mean, most = [], {}
    for one in shipped().values():
        if any(m.is_emitter for m in one.materials):
            continue
        document, assets = sets.many(
            [(sets.BALL, one.materials[0], {})], sets.white_dome(), camera=WHITE, quality=sets.deep(12)
        )
        document = edit.changed(document, materials=one.materials)
        found = sets.picture(document, assets).beauty()
        inside = found[8:16, 8:16].reshape(-1, 3)
        mean.append(inside.mean())
        most[one.name] = float(inside.mean(0).max())
    worst = max(most, key=most.get)
    assert most[worst] < 1.03, worst
    assert np.std(mean) > 0.15, "they look different"


def test_the_sheet_of_swatches_is_of_these_materials():
    old = sheet.old(shipped())
    assert not old, f"run tools/swatches.py: {old}"
    assert list(sheet.places()) == list(shipped())
    assert sheet.PICTURE.stat().st_size > 100_000


def test_one_comes_into_a_set_with_what_it_lies_over():
    one = shipped()["old-brass"]
    document, id = stocked(Document(), one.materials)
    top, below = chain(by_id(document.materials), id)
    assert (top.name, below.name) == ("Old brass", "Polished brass")
    again, same = stocked(document, one.materials)
    assert again.materials == document.materials
    assert same == id
    # Once it was changed, the ready one is another.
    changed = edit.alter(document, "materials", id, specular_roughness=0.9)
    more, other = stocked(changed, one.materials)
    assert other != id
    assert len(more.materials) == len(document.materials) + 1
    assert more.find("materials", other).name == "Old brass 2"


def test_what_glows_gets_a_light_group_of_its_own():
    one = shipped()["red-gas-tube"]
    document, id = stocked(Document(), one.materials)
    assert document.find("materials", id).emission_group == "Red gas tube"
    assert "Red gas tube" in document.light_groups
    assert len(stocked(document, one.materials)[0].materials) == 1


def test_own_ones_are_kept_with_their_pictures_and_survive_damage(tmp_path):
    home, folder = tmp_path / "work", tmp_path / "shelf"
    home.mkdir()
    picture.write(home / "map.png", np.full((4, 4, 3), 0.5, np.float32))
    lower = Material(id="below", name="Iron", base_metalness=1.0)
    upper = Material(
        id="top",
        name="My paint",
        layer_over="below",
        layer_cover=0.5,
        steps=(Picture(parameter="base_color", path="map.png"),),
    )
    thing = Thing(id="t", name="Thing", material="top")
    document = Document(things=(thing,), materials=(Material(id="other"), lower, upper))
    kept, missing = run(shelf.keep(alone(document, "top"), home, folder))
    assert not missing
    assert [m.name for m in kept.materials] == ["My paint", "Iron"]
    (home / "map.png").unlink()
    own, refused = shelf.own(folder)
    assert not refused
    assert [m.name for m in own[0].materials] == ["My paint", "Iron"]
    assert own[0].kind == shelf.KIND
    assets = run(project.load_assets(project.read_document(own[0].folder), own[0].folder))
    assert not assets.problems
    assert len(assets.images) == 1
    shelf.rename(own[0], "Blue paint")
    assert [one.name for one in shelf.own(folder)[0]] == ["Blue paint"]
    damaged = folder / "Broken"
    damaged.mkdir()
    (damaged / project.INSIDE_FOLDER).write_text("{}")
    own, refused = shelf.own(folder)
    assert len(own) == 1
    assert refused
    shelf.remove(own[0])
    assert shelf.own(folder)[0] == []


def test_a_shelf_that_cannot_be_written_is_told(tmp_path):
    (tmp_path / "file").write_text("")
    document = Document(name="A", materials=(Material(id="a"),))
    with pytest.raises(FileError, match="could not be made"):
        run(shelf.keep(document, tmp_path, tmp_path / "file"))

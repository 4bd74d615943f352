"""Pieces: what is shipped, what is taken from a set and kept, and how it stands where it is put."""

import numpy as np
import pytest

from nocturne.colour.spaces import encode_srgb, working_to_rec709
from nocturne.errors import SceneError
from nocturne.finish.develop import Light, develop
from nocturne.io import picture, project
from nocturne.io.models import glb
from nocturne.jobs import run
from nocturne.pieces import shelf
from nocturne.pieces.portrait import portrait
from nocturne.pieces.shipped import GREY, PATCHES, shipped
from nocturne.rendering.render import render_request
from nocturne.rendering.request import RenderRequest
from nocturne.scene import edit, navigate
from nocturne.scene import solids as forms
from nocturne.scene.assets import Assets
from nocturne.scene.cutaway import Cutaway
from nocturne.scene.document import Document
from nocturne.scene.forms.box import Box
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Mix, Nearness, Picture
from nocturne.scene.piecework import placed, taken
from nocturne.scene.scatter import Scatter, Source
from nocturne.scene.scattering import copies_of
from nocturne.scene.thing import Thing

NO_FILES = Assets()
AT = np.array((3.0, -2.0, 0.75))


def top(document: Document) -> Thing:
    return next(thing for thing in document.things if not thing.parent)


def test_shipped_pieces_stand_on_the_floor_about_their_middle():
    pieces = shipped()
    assert len(pieces) >= 12
    assert len({p.id for p in pieces}) == len({p.name for p in pieces}) == len(pieces)
    for piece in pieces:
        document = Document.model_validate_json(piece.document.model_dump_json())
        low, high = navigate.bounds_of(document, NO_FILES, top(document).id)
        assert low[2] == pytest.approx(0.0, abs=1e-6), piece.name
        assert np.abs((low + high)[:2] / 2).max() < 0.1, piece.name
        assert piece.matches(piece.kind[:4])
        assert not piece.matches("no such thing")
    chart = next(p for p in pieces if p.id == "shipped-chart")
    worn = {t.name: chart.document.find("materials", t.material) for t in chart.document.things}
    for rgb in (patch for row in PATCHES for patch in row):
        colour = worn[f"Patch {rgb[0]} {rgb[1]} {rgb[2]}"].base_color
        assert encode_srgb(working_to_rec709() @ np.array(colour)) * 255 == pytest.approx(rgb, abs=0.01)
        assert all(0 <= v <= 1 for v in colour)
    grey = next(p for p in pieces if p.id == "shipped-grey-ball").document.materials[0]
    assert grey.base_color == (GREY,) * 3


def test_a_portrait_shows_the_piece_well_lit(engine):
    piece = next(p for p in shipped() if p.id == "shipped-chair")
    document = portrait(piece.document, NO_FILES, width=48, height=36, samples=8)
    done = run(render_request(RenderRequest(document, NO_FILES, 48, 36), threads=1))
    shown = develop(Light.of(done.film, None), view=document.view, desk=(), finish=document.finish)
    assert 0.15 < np.clip(shown, 0, 1).mean() < 0.85
    rim = np.concatenate([shown[:2].reshape(-1, 3), shown[-2:].reshape(-1, 3)])
    assert (np.abs(shown - np.median(rim, axis=0)).max(-1) > 0.1).mean() > 0.1, "it fills the picture"


@pytest.fixture
def kept_set(tmp_path):
    """Return (document, assets, folder): a group with lamp, picture, cut, and a scatter whose source is elsewhere."""
    picture.write(tmp_path / "p.png", np.full((4, 4, 3), 0.5))
    glb.write_glb(tmp_path / "m.glb", {"ball": forms.ball(0.5, segments=16)})
    worn = Material(id="w", name="Worn", steps=(Picture(parameter="base_color", path="p.png"),))
    bead = Material(id="b", name="Bead", base_color=(0.1, 0.2, 0.3))
    things = (
        Thing(id="room", name="Room", place=(10.0, 5.0, 1.0), turn_deg=(0, 0, 30)),
        Thing(id="g", name="Stand", parent="room", turn_deg=(0, 0, 45)),
        Thing(id="a", name="Ball", parent="g", mesh="m.glb#ball", material="w", place=(0, 0, 2)),
        Thing(id="s", name="Beads", parent="g", scatter=Scatter(sources=(Source(thing="x"),), counts=(3, 2, 1))),
        Thing(id="c", name="Cut", parent="g", cutaway=Cutaway(of=("a", "y"))),
        Thing(id="x", name="Bead", form=Box(width=0.1, depth=0.1, height=0.1), material="b", place=(50.0, 0, 0)),
        Thing(id="y", name="Else", form=Box()),
    )
    lamp = make_light(id="l", kind="point", name="Lamp", parent="g", place=(0, 0, 3), group="lamp")
    document = Document(name="Whole", things=things, materials=(worn, bead), lights=(lamp,), groups=("lamp",))
    project.save_document(tmp_path / "set.nocturne", document)
    return document, run(project.load_assets(document, tmp_path)), tmp_path


def stands(document: Document, assets: Assets, group: str) -> dict[str, np.ndarray]:
    """Return where the corners of what is in a group lie, by the names of the things in it."""
    inside = document.with_members((group,))
    found = {}
    for thing in document.things:
        if thing.id in inside and thing.visible and (thing.has_shape or thing.scatter is not None):
            found[thing.name] = np.stack(navigate.bounds_of(document, assets, thing.id))
    return found


def test_what_is_taken_kept_and_placed_is_as_it_was(kept_set, tmp_path, monkeypatch):
    document, assets, folder = kept_set
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    piece = taken(document, assets, ("g", "a"), "My stand")
    low, high = navigate.bounds_of(piece, assets, top(piece).id)
    assert (*((low + high) / 2)[:2], low[2]) == pytest.approx((0, 0, 0), abs=1e-5)
    assert piece.find("things", "y") is None
    assert piece.find("things", "c").cutaway.of == ("a",)
    assert piece.find("things", "x").visible is False
    kept, missing = run(shelf.keep(piece, folder))
    assert missing == []
    (again,), refused = shelf.own()
    assert refused == []
    assert (again.name, again.document) == ("My stand", kept.document)
    loaded = run(project.load(again.folder))
    assert not loaded.assets.problems
    # Into another set, twice.
    other = Document(name="Other")
    moved = {"p.png": "q/p.png", **{name: f"q/{name}" for name in ("models/m.glb", "pictures/p.png")}}
    there, first = placed(other, loaded.document, AT, moved=lambda name: moved[name])
    there, second = placed(there, loaded.document, AT + 5, moved=lambda name: moved[name])
    assert len(there.materials) == 2, "both share their materials"
    assert len({t.id for t in there.things}) == len(there.things) == 2 * len(piece.things)
    assert {light.parent for light in there.lights} <= there.with_members((first, second))
    assert len({light.group for light in there.lights}) == 2
    meshes = Assets({f"q/{name}": mesh for name, mesh in loaded.assets.meshes.items()})
    before, after = stands(piece, assets, top(piece).id), stands(there, meshes, first)
    for name, box in before.items():
        key = name if name in after else "My stand"
        assert after[key] == pytest.approx(box + AT, abs=1e-4), name
    scatter = next(t for t in there.things if t.scatter is not None)
    assert sum(len(part.matrices) for part in copies_of(there, meshes, scatter)) == 6
    cut = next(t for t in there.things if t.cutaway is not None)
    assert there.find("things", cut.cutaway.of[0]).name == "Ball"
    assert edit.remove(there, "things", first) is not there


def test_the_shelf_names_removes_and_survives_what_is_damaged(kept_set, tmp_path):
    document, assets, folder = kept_set
    place = tmp_path / "shelf"
    for _ in range(2):
        run(shelf.keep(taken(document, assets, ("y",), "Box / 1"), folder, place))
    pieces, _ = shelf.own(place)
    assert [p.name for p in pieces] == ["Box / 1"] * 2
    assert len({p.id for p in pieces}) == 2
    shelf.rename(pieces[0], "Crate")
    assert {p.name for p in shelf.own(place)[0]} == {"Crate", "Box / 1"}
    (place / "bad").mkdir()
    (place / "bad" / project.INSIDE_FOLDER).write_text("{")
    pieces, refused = shelf.own(place)
    assert (len(pieces), len(refused)) == (2, 1)
    files = {path for path in pieces[0].folder.rglob("*") if path.name != project.INSIDE_FOLDER}
    shelf.remove(pieces[0])
    left, refused = shelf.own(place)
    assert (len(left), len(refused)) == (1, 1)
    assert files <= set(pieces[0].folder.rglob("*")), "sets that it was put into still name them"
    with pytest.raises(SceneError, match="shape"):
        taken(document, assets, ("c",), "Nothing")


def test_what_asks_for_the_distance_to_a_thing_asks_the_one_it_came_with():
    wet = Material(id="wet", steps=(Mix(steps=(Nearness(parameter="mix", thing="ball"),)),))
    things = (
        Thing(id="top", name="Puddle"),
        Thing(id="dish", name="Dish", parent="top", form=Box(), material="wet"),
        Thing(id="ball", name="Ball", parent="top", form=Box()),
    )
    document = Document(things=things, materials=(wet,))
    twice, piece = document, Document(things=things, materials=(wet,))
    for shift in (1.0, 2.0):
        twice, _ = placed(twice, piece, np.array((shift, 0, 0)), moved=str)
    dishes = [thing for thing in twice.things if thing.name.startswith("Dish")]
    asked = [twice.find("materials", dish.material).steps[0].steps[0].thing for dish in dishes]
    parents = [twice.find("things", id).parent for id in asked]
    assert parents == [dish.parent for dish in dishes]
    assert len(set(asked)) == 3

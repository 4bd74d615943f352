"""Preflight: each fault is found, nothing else is, and each mend mends it."""

import numpy as np
import pytest

from nocturne.engine import relief
from nocturne.io import picture
from nocturne.jobs import run
from nocturne.preflight.check import check
from nocturne.scene import edit, grading
from nocturne.scene.assets import Assets
from nocturne.scene.camera import View
from nocturne.scene.cutaway import Cutaway
from nocturne.scene.document import Document
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Fractal, Nearness, Picture
from nocturne.scene.thing import Thing
from tests import sets

CLAY = Material(id="clay", name="Clay")
GLASS = Material(id="glass", name="Glass", transmission_weight=1.0, specular_ior=1.5, precedence=2)
WATER = Material(id="water", name="Water", transmission_weight=1.0, specular_ior=1.33, precedence=1)
ASSETS = Assets({"ball": sets.BALL, "box": sets.BOX, "huge": sets.BOX})


def sound(**values) -> Document:
    """Return a document with nothing wrong, and some parts replaced."""
    fields = {
        "things": (Thing(id="t", name="Ball", mesh="ball", material="clay"),),
        "materials": (CLAY, GLASS, WATER),
        "lights": (make_light(id="key", name="Key", place=(0, -2, 3)),),
        "views": (View(id="v", name="View", eye=(0, -8, 1), target=(0, 0, 0)),),
        "active_view": "v",
        **values,
    }
    return Document(**fields)


def found(document, folder, assets=ASSETS):
    return run(check(document, assets, folder))


@pytest.fixture
def folder(tmp_path):
    for name in ("ball", "box", "huge"):
        (tmp_path / name).write_text("")
    return tmp_path


def mended(finding, document, folder, i=0):
    after = finding.mends[i].edit(document)
    assert after is not document
    left = [f for f in found(after, folder) if (f.check, f.id) == (finding.check, finding.id)]
    assert not left
    return after


def test_a_sound_project_and_the_demo_have_nothing_wrong(folder, demo):
    assert found(sound(), folder) == []
    wrong = run(check(demo.document, demo.assets, demo.path.parent))
    assert [f.words for f in wrong] == []


def test_missing_files_are_found_elsewhere_or_left_out(folder):
    (folder / "more").mkdir()
    picture.write(folder / "more" / "Wood.PNG".lower(), np.zeros((2, 2, 3)))
    texture = Picture(parameter="base_color", path="wood.png")
    unchosen = Picture(parameter="specular_roughness", path="", space="data")
    document = sound(
        materials=(edit.changed(CLAY, steps=(texture,)), edit.changed(GLASS, steps=(unchosen,)), WATER),
        things=(Thing(id="t", name="Ball", mesh="gone.glb#ball", material="clay"),),
    )
    findings = found(document, folder)
    assert [f.check for f in findings] == ["missing files"] * 2
    by_part = {f.part: f for f in findings}
    after = mended(by_part["materials"], document, folder)
    assert after.materials[0].steps[0].path == "more/wood.png"
    assert mended(by_part["materials"], document, folder, 1).materials[0].steps == ()
    hidden = by_part["things"].mends[-1].edit(document)
    assert hidden.things[0].visible is False


def test_missing_tables_are_found_elsewhere_or_left_out(folder):
    document = grading.add_step(sound(), "lut")[0]
    (step,) = (s for s in document.finish.steps if s.kind == "lut")
    assert found(document, folder) == [], "a step that names no table yet misses none"
    document = grading.alter_step(document, step.id, path="looks/dusk.cube")
    (finding,) = found(document, folder)
    assert "looks/dusk.cube" in finding.words
    assert not mended(finding, document, folder).finish.step(step.id).on
    (folder / "else").mkdir()
    (folder / "else" / "Dusk.cube").write_text("")
    (finding,) = found(document, folder)
    assert mended(finding, document, folder).finish.step(step.id).path == "else/Dusk.cube"


def test_data_read_as_colour(folder):
    picture.write(folder / "rough.png", np.zeros((2, 2, 3)))
    wrong = Picture(parameter="specular_roughness", path="rough.png", space="colour")
    document = sound(materials=(edit.changed(CLAY, steps=(wrong,)), GLASS, WATER))
    (finding,) = found(document, folder)
    assert finding.check == "pictures read wrongly"
    after = mended(finding, document, folder)
    assert after.materials[0].steps[0].space == "data"


def test_doubled_environments(folder):
    lights = (
        make_light(id="sky", kind="sky", unit="x", power=1),
        make_light(id="dome", kind="dome", unit="nit", power=40),
        make_light(id="sun", kind="sun", unit="x", power=1),
        make_light(id="sun2", kind="sun", unit="x", power=1),
    )
    document = sound(lights=lights)
    assert [(f.check, f.id) for f in found(document, folder)] == [("doubled light", "dome"), ("doubled light", "sun2")]
    for finding in found(document, folder):
        for i in range(len(finding.mends)):
            finding_left = [f.id for f in found(finding.mends[i].edit(document), folder)]
            assert finding.id not in finding_left


def test_odd_powers(folder):
    lights = (
        make_light(id="bright", name="Bright", kind="point", unit="lm", power=9e6),
        make_light(id="none", name="None", kind="rect", power=0),
        make_light(id="spot", kind="spot", unit="cd", power=1e5),
        make_light(id="rect", kind="rect", unit="lm", power=20_000),
    )
    document = sound(lights=lights)
    findings = found(document, folder)
    assert {f.id for f in findings} == {"bright", "none"}
    for finding in findings:
        mended(finding, document, folder)
    dark = sound(lights=())
    (finding,) = found(dark, folder)
    assert finding.check == "no light"
    mended(finding, dark, folder)


def test_things_without_material_and_of_odd_size(folder):
    document = sound(
        things=(
            Thing(id="bare", name="Bare", mesh="ball"),
            Thing(id="huge", name="Huge", mesh="huge", material="clay", size=(20_000.0,) * 3, place=(0, 9e4, 0)),
        )
    )
    findings = {f.check: f for f in found(document, folder)}
    assert set(findings) == {"no material", "odd sizes"}
    assert mended(findings["no material"], document, folder).things[0].material
    sized = mended(findings["odd sizes"], document, folder)
    assert max(sized.things[1].size) < 100


def test_a_camera_inside_a_thing(folder):
    document = sound(views=(View(id="v", name="In", eye=(0.1, 0, 0), target=(0.1, 3, 0.5)),))
    (finding,) = found(document, folder)
    assert finding.check == "camera inside"
    after = mended(finding, document, folder)
    eye, target = np.array(after.view.eye), np.array(after.view.target)
    assert np.linalg.norm(eye) > 1
    ahead = (target - eye) / np.linalg.norm(target - eye)
    assert ahead == pytest.approx(np.array([0, 3, 0.5]) / np.linalg.norm([0, 3, 0.5]), abs=1e-3)
    assert mended(finding, document, folder, 1).things[0].visible is False


def test_walls_of_glass_and_liquid_in_one_place(folder):
    # A liquid that ends exactly where the glass begins, beside one that overlaps as it should.
    touching = Thing(id="liquid", name="Liquid", mesh="box", material="water", place=(2.0, 0, 0))
    glass = Thing(id="glass", name="Glass", mesh="box", material="glass")
    document = sound(things=(glass, touching))
    findings = found(document, folder)
    assert [f.check for f in findings] == ["walls in one place"]
    mended(findings[0], document, folder)
    apart = sound(things=(glass, edit.changed(touching, place=(1.85, 0.05, 0.02), size=(0.9, 0.9, 0.9))))
    assert found(apart, folder) == []


def test_lamps_without_a_size_behind_glass_are_told_and_given_one(folder):
    things = (
        Thing(id="t", name="Ball", mesh="ball", material="clay"),
        Thing(id="jar", name="Jar", mesh="box", material="glass", place=(5, 0, 0)),
    )
    point = make_light(id="bulb", name="Bulb", kind="point", unit="lm", power=700, place=(0, -2, 3))
    document = sound(things=things, lights=(point,))
    (finding,) = [f for f in found(document, folder) if f.check == "lamps without a size"]
    assert "Bulb" in finding.words
    assert "Glass" in finding.words
    after = finding.mends[0].edit(document)
    assert (after.lights[0].bulb_radius, after.lights[0].power, after.lights[0].unit) == (0.01, 700, "lm")
    assert not [f for f in found(after, folder) if f.check == "lamps without a size"]
    assert not [f for f in found(sound(lights=(point,)), folder) if f.check == "lamps without a size"]


def test_negative_light_in_a_picture_is_told(folder):
    image = np.ones((4, 8, 3), np.float32)
    image[1, 2, 0] = -7
    sky = make_light(id="sky", name="Sky", kind="environment", image="e.exr", unit="nit", power=1)
    (folder / "e.exr").write_text("")
    assets = Assets(ASSETS.meshes, {("e.exr", "colour"): image})
    (finding,) = [f for f in found(sound(lights=(sky,)), folder, assets) if f.check == "negative light"]
    assert "1 pixels of e.exr are below zero, -7" in finding.words


def test_lamps_and_windows_behind_closed_glass_are_found_and_let_through(folder):
    bulb = make_light(id="bulb", name="Bulb", kind="sphere", radius=0.05, place=(0, 0, 0.1))
    shell = Thing(id="t", name="Shell", mesh="ball", material="glass")
    polished = (edit.changed(GLASS, specular_roughness=0.0), CLAY)
    document = sound(things=(shell,), lights=(bulb,), materials=polished)
    (finding,) = [f for f in found(document, folder) if f.check == "light behind glass"]
    assert "Shell" in finding.words
    assert "Bulb" in finding.words
    after = finding.mends[0].edit(document)
    assert after.find("materials", "glass").light_passes
    assert not [f for f in found(after, folder) if f.check == "light behind glass"]
    beside = edit.alter(document, "lights", "bulb", place=(0.0, 0.0, 3.0))
    assert not [f for f in found(beside, folder) if f.check == "light behind glass"]
    # A pane in a window that a portal marks, and one that stands elsewhere.
    pane = Thing(id="t", name="Pane", mesh="box", material="glass", size=(1.0, 0.01, 1.0))
    for y, there in ((0.3, True), (2.0, False)):
        window = make_light(id="w", name="Window", kind="portal", place=(0, y, 1.0), turn_deg=(-90, 0, 0))
        room = sound(things=(pane,), lights=(make_light(id="sky", kind="dome"), window), materials=polished)
        assert bool([f for f in found(room, folder) if f.check == "light behind glass"]) == there


def test_glass_that_a_cutaway_leaves_open_is_told_and_closed(folder):
    flask = Thing(id="t", name="Flask", mesh="ball", material="glass", parent="g")
    cut = Thing(id="c", name="Cut", cutaway=Cutaway(of=("g",), kind="plane", closed=False))
    document = sound(things=(Thing(id="g", name="Group"), flask, cut))
    (finding,) = [f for f in found(document, folder) if f.check == "open glass"]
    assert "Flask" in finding.words
    mended(finding, document, folder)
    for other in ({"closed": True}, {"of": ("x",)}):
        calm = edit.alter(document, "things", "c", cutaway=edit.changed(cut.cutaway, **other))
        assert not [f for f in found(calm, folder) if f.check == "open glass"]
    assert not [
        f for f in found(edit.alter(document, "things", "t", material="clay"), folder) if f.check == "open glass"
    ]


def test_relief_that_would_be_too_large_is_told_and_made_coarser(folder, monkeypatch):
    monkeypatch.setattr(relief, "MOST_TRIANGLES", 200_000)
    lumps = Fractal(parameter="geometry_height", scale=0.3, where="solid")
    clay = edit.changed(CLAY, relief_style="surface", relief_depth=0.02, relief_pixels=1.0, steps=(lumps,))
    document = sound(materials=(clay,))
    (finding,) = found(document, folder)
    assert not finding.is_wrong
    assert "200,000" in finding.words or "199," in finding.words
    for _ in range(3):
        document = finding.mends[0].edit(document)
        told = found(document, folder)
        if not told:
            break
        (finding,) = told
    assert not told, "larger triangles are fewer"
    assert document.materials[0].relief_pixels > 1.0


def test_a_distance_to_a_thing_that_is_gone_is_told_and_left_out(folder):
    step = Nearness(thing="gone")
    document = sound(materials=(edit.changed(CLAY, steps=(step, Fractal())),))
    (finding,) = [f for f in found(document, folder) if f.check == "distances"]
    assert "not in the set" in finding.words
    assert [s.kind for s in finding.mends[0].edit(document).materials[0].steps] == ["fractal3d"]
    there = edit.alter(
        document, "materials", CLAY.id, steps=(step.model_copy(update={"thing": document.things[0].id}),)
    )
    assert not [f for f in found(there, folder) if f.check == "distances"]


def test_wax_and_glass_with_holes_are_found(folder):
    sheet = Thing(id="s", name="Sheet", mesh="sheet", material="wax")
    assets = Assets({**ASSETS.meshes, "sheet": sets.PLANE})
    (folder / "sheet").write_text("")
    wax = Material(id="wax", name="Wax", subsurface_weight=1.0, subsurface_color=(0.8, 0.6, 0.3))
    document = sound(things=(sheet,), materials=(wax,))
    (finding,) = found(document, folder, assets)
    assert "“Sheet” is open" in finding.words
    for mend in finding.mends:
        assert not found(mend.edit(document), folder, assets), mend.label
    # Closed shapes are none, and what lies below another material is looked at, too.
    closed = sound(things=(Thing(id="b", name="Ball", mesh="ball", material="wax"),), materials=(wax,))
    assert not found(closed, folder, assets)
    paint = Material(id="paint", name="Paint", layer_over="wax", layer_cover=0.5)
    layered = sound(things=(edit.changed(sheet, material="paint"),), materials=(paint, wax))
    assert [f.check for f in found(layered, folder, assets)] == ["open inside"]


def test_glass_and_liquid_of_one_precedence_that_overlap_are_unsettled(folder):
    same = [edit.changed(m, precedence=0) for m in (GLASS, WATER)]
    things = tuple(
        Thing(id=m.id, name=m.name, mesh="ball", material=m.id, place=(x, 0, 0)) for m, x in zip(same, (0.0, 0.3))
    )
    document = sound(things=things, materials=(CLAY, *same))
    told = [f for f in found(document, folder) if f.check == "unsettled media"]
    assert len(told) == 1
    after = mended(told[0], document, folder)
    assert len({m.precedence for m in after.materials if m.is_medium}) == 2
    apart = edit.alter(document, "things", "water", place=(9.0, 0.0, 0.0))
    assert not [f for f in found(apart, folder) if f.check == "unsettled media"], "what does not meet needs no order"

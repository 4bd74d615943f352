"""J1: a set is brought together: models told before they are placed; shapes, groups, sizes, several at once."""

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest

from nocturne.io import picture
from nocturne.io.models import read
from nocturne.io.models.glb import write_glb
from nocturne.scene import edit, faces, placing, projection, solids
from nocturne.scene.forms import form_mesh
from nocturne.scene.materials import Material
from nocturne.ui import files
from nocturne.ui.commands import COMMANDS
from tests import sets
from tests.ui.test_faults import wait_for_print
from tests.ui.test_widgets import type_into
from tests.ui.waiting import stand_still

LEFT = Qt.MouseButton.LeftButton
BY_ID = {command.id: command for command in COMMANDS}


def run(window, id: str) -> None:
    """Run a command by its id."""
    window.run_command(BY_ID[id])


def thing(window, name: str):
    """Return a thing by its name."""
    return next(t for t in window.session.document.things if t.name == name)


def model(folder: Path) -> Path:
    """Write a model of two objects in millimetres with a picture that lies elsewhere."""
    (folder / "a.mtl").write_text("newmtl wood\nKd 1 1 1\nmap_Kd lost/wood.png\nnewmtl brass\nPm 1\nPr 0.2\n")
    corners = "".join(f"v {x} {y} {z}\n" for x in (0, 1200) for y in (0, 750) for z in (0, 600))
    faces = "usemtl wood\nf 1 2 4 3\nf 5 7 8 6\nusemtl brass\nf 1 5 6 2\no Foot\nf 3 4 8 7\n"
    (folder / "a.obj").write_text(f"mtllib a.mtl\n{corners}o Table\n{faces}")
    return folder / "a.obj"


def test_a_model_is_told_before_it_is_placed_and_makes_a_picture_at_once(qtbot, make_window, tmp_path, monkeypatch):
    window = make_window()
    monkeypatch.setattr(files, "ask_open_files", lambda *_: [str(model(tmp_path))])
    window.projects.ask_model()
    sheet = window.bring_sheet
    qtbot.waitUntil(lambda: bool(sheet.blocks), timeout=120000)
    assert sheet.isVisibleTo(window)
    assert window.session.document.things == ()
    (block,) = sheet.blocks
    assert block.size.text() == "1.2 km × 600 m × 750 m"
    assert block.odd.isVisibleTo(block), "a model of a kilometre is asked about"
    block.unit.setCurrentIndex(block.unit.findText("Millimetres"))
    block.unit.activated.emit(block.unit.currentIndex())
    assert block.size.text() == "1.2 m × 60 cm × 75 cm"
    assert not block.odd.isVisibleTo(block)
    assert "2 parts" in block.facts.text()
    assert "lost/wood.png" in block.missing.text()
    picture.write(tmp_path / "elsewhere" / "wood.png", np.full((4, 4, 3), 0.5))
    monkeypatch.setattr(files, "ask_folder", lambda *_: str(tmp_path / "elsewhere"))
    qtbot.mouseClick(block.folder, LEFT)
    qtbot.waitUntil(lambda: not block.missing.isVisibleTo(block), timeout=120000)
    qtbot.mouseClick(sheet.go, LEFT)
    document = window.session.document
    assert {t.name for t in document.things} == {"a", "Table", "Foot", "Ground"}
    assert {light.kind for light in document.lights} == {"sky", "sun"}
    table = thing(window, "Table")
    assert np.ptp(window.session.assets.shape(table).bounds, axis=0) * table.size == pytest.approx((1.2, 0.75, 0.6))
    assert [document.find("materials", face.material).name for face in table.faces] == ["brass"]
    qtbot.waitUntil(lambda: len(window.session.assets.images) == 1, timeout=120000)
    assert window.session.assets.problems == ()
    low = placing.centre(document, "things", thing(window, "Ground").id)[2]
    assert low == pytest.approx(0, abs=0.01)


def test_models_dropped_from_the_desktop_land_under_the_pointer(qtbot, make_window, small_demo, tmp_path):
    window = make_window(small_demo)
    wait_for_print(qtbot, window)
    stand_still(qtbot, window)
    write_glb(tmp_path / "box.glb", {"box": sets.BOX})
    at = QPointF(window.picture.rect().center())
    under = window.picture.hit_at(at).point
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(tmp_path / "box.glb")), QUrl.fromLocalFile(str(tmp_path / "no.txt"))])
    for kind in (QEvent.Type.DragEnter, QEvent.Type.Drop):
        event = QDropEvent(at, Qt.DropAction.CopyAction, data, LEFT, Qt.KeyboardModifier.NoModifier, kind)
        (window.picture.dragEnterEvent if kind == QEvent.Type.DragEnter else window.picture.dropEvent)(event)
    qtbot.waitUntil(lambda: len(window.bring_sheet.blocks) == 1, timeout=120000)
    qtbot.mouseClick(window.bring_sheet.go, LEFT)
    matrix = window.session.document.placement(thing(window, "box").id)
    corners = sets.BOX.vertices @ matrix[:3, :3].T + matrix[:3, 3]
    low, high = corners.min(0), corners.max(0)
    assert ((low + high) / 2)[:2] == pytest.approx(under[:2], abs=1e-3)
    assert low[2] == pytest.approx(under[2], abs=1e-3)
    window.session.undo()
    assert window.session.document == small_demo.document


def test_shapes_are_built_grouped_found_and_edited_several_at_once(qtbot, make_window, monkeypatch, tmp_path):
    window = make_window()
    window.start_page.hide()
    session, sheet, outline = window.session, window.sheets["set"], window.lists["set"]
    for kind in ("box", "ball", "turned", "room"):
        run(window, f"things.add-{kind}")
    assert {"Box", "Ball", "Turned shape", "Room", "Ground"} == {t.name for t in session.document.things}
    session.choose("things", thing(window, "Box").id)
    form = sheet.forms["box"]
    type_into(qtbot, form.editors["width"].entry, "120 cm")
    type_into(qtbot, form.editors["edge"].entry, "3 mm")
    box = thing(window, "Box").form
    assert (box.width, box.edge) == (pytest.approx(1.2), pytest.approx(0.003))
    assert np.ptp(form_mesh(box).bounds, axis=0)[0] == pytest.approx(1.2)
    # A profile is drawn with the mouse.
    session.choose("things", thing(window, "Turned shape").id)
    profile = sheet.forms["turned"].editors["profile"]
    start = profile.at(profile.points[2]).toPoint()
    QTest.mousePress(profile, LEFT, Qt.KeyboardModifier.NoModifier, start)
    QTest.mouseMove(profile, start + QPoint(20, 0))
    QTest.mouseRelease(profile, LEFT, Qt.KeyboardModifier.NoModifier, start + QPoint(20, 0))
    new = thing(window, "Turned shape").form.profile
    assert new[2][0] > 0.1
    assert new[2][1] == pytest.approx(0.1, abs=0.01)
    # A room gets a door.
    session.choose("things", thing(window, "Room").id)
    openings = sheet.forms["room"].editors["openings"]
    qtbot.mouseClick(openings.add, LEFT)
    type_into(qtbot, openings.rows[1].numbers.fields[1].entry, "0")
    assert [o.sill for o in thing(window, "Room").form.openings] == [0.9, 0.0]
    # Several at once: what differs says so, and a relative entry applies to each.
    ids = tuple(thing(window, name).id for name in ("Ball", "Box"))
    session.choose_many("things", ids)
    place = sheet.form.editors["place"]
    type_into(qtbot, place.fields[0].entry, "2")
    session.choose("things", ids[0])
    type_into(qtbot, place.fields[0].entry, "3")
    session.choose_many("things", ids)
    assert place.fields[0].entry.text() == ""
    assert place.fields[0].entry.placeholderText() == "differ"
    type_into(qtbot, place.fields[0].entry, "+0.5")
    assert [session.document.find("things", i).place[0] for i in ids] == [3.5, 2.5]
    type_into(qtbot, place.fields[0].entry, "x2")
    assert [session.document.find("things", i).place[0] for i in ids] == [7.0, 5.0]
    type_into(qtbot, place.fields[2].entry, "10 cm")
    assert [session.document.find("things", i).place for i in ids] == [(7.0, 0.0, 0.1), (5.0, 0.0, 0.1)]
    sheet.form.editors["smoothing"].setCurrentIndex(2)
    sheet.form.editors["smoothing"].activated.emit(2)
    assert {session.document.find("things", i).smoothing for i in ids} == {"flat"}
    # Grouped, named in place, found, locked, seen alone.
    run(window, "things.group")
    group = session.chosen["things"]
    assert {t.name for t in session.document.children(group)} == {"Ball", "Box"}
    index = outline.model.index_of(group)
    assert outline.model.setData(index, "Balls and boxes")
    assert session.document.find("things", group).name == "Balls and boxes"
    qtbot.keyClicks(outline.find, "tur")
    assert session.chosen["things"] == thing(window, "Turned shape").id
    run(window, "things.only")
    shown = {t.name for t in session.document.things if session.document.placements[t.id][1]}
    assert shown == {"Turned shape"}
    run(window, "things.only")
    assert all(session.document.placements[t.id][1] for t in session.document.things)
    session.choose("things", group)
    run(window, "things.lock")
    window.choice.remove()
    assert session.document.find("things", group) is not None, "what is locked stays"
    run(window, "things.lock")
    outline.model.dropped.emit((thing(window, "Room").id,), group, "")
    assert thing(window, "Room").parent == group
    run(window, "things.ungroup")
    assert {t.parent for t in session.document.things} == {""}
    # Out again, as one file.
    monkeypatch.setattr(files, "ask_save_file", lambda *_: str(tmp_path / "set.usda"))
    run(window, "project.export-set")
    qtbot.waitUntil((tmp_path / "set.usda").is_file, timeout=120000)
    assert {t.name for t in read.read(tmp_path / "set.usda").parts} >= {"Ball", "Box", "Room", "Turned shape", "Ground"}
    while session.history.undo_label:
        session.undo()
    assert session.document.things == ()


def test_lights_and_materials_are_edited_several_at_once(qtbot, make_window, small_demo):
    window = make_window(small_demo)
    session = window.session
    session.go_to("light")
    lights = [light for light in session.document.lights if light.gives_light and light.unit == "lm"][:2]
    if len(lights) < 2:
        lights = [light for light in session.document.lights if light.gives_light][:2]
    session.choose_many("lights", tuple(light.id for light in lights))
    sheet = window.sheets["light"]
    type_into(qtbot, sheet.form.editors["power"].entry, "x3")
    for light in lights:
        assert session.document.find("lights", light.id).power == pytest.approx(3 * light.power)
    session.go_to("materials")
    view = window.lists["materials"].view
    view.setCurrentRow(0)
    view.item(2).setSelected(True)
    ids = session.all_chosen("materials")
    assert len(ids) == 2
    type_into(qtbot, window.sheets["materials"].form.editors["specular_roughness"].entry, "0.77")
    assert {session.document.find("materials", id).specular_roughness for id in ids} == {0.77}


def test_thousands_are_scattered_over_a_ground_by_numbers(qtbot, make_window, tmp_path, monkeypatch):
    """J2: a lot is made of a little."""
    window = make_window()
    window.start_page.hide()
    session, sheet = window.session, window.sheets["set"]
    for kind in ("ground", "box", "ball"):
        run(window, f"things.add-{kind}")
    ground, box, ball = (thing(window, name) for name in ("Ground", "Box", "Ball"))
    session.choose_many("things", (box.id, ball.id, ground.id))
    run(window, "things.scatter-on")
    made = session.document.find("things", session.chosen["things"])
    assert made.scatter.on == ground.id
    editor = sheet.scatter
    type_into(qtbot, editor.form.editors["number"].entry, "5000")
    type_into(qtbot, editor.form.editors["apart"].entry, "5 cm")
    type_into(qtbot, editor.form.editors["smallest"].entry, "0.02")
    type_into(qtbot, editor.form.editors["largest"].entry, "0.04")
    type_into(qtbot, editor.sources.rows[0].findChildren(type(editor.form.editors["apart"].entry))[0], "3")
    editor.clear.add.setCurrentIndex(editor.clear.add.findText("Box"))
    editor.clear.add.activated.emit(editor.clear.add.currentIndex())
    scatter = session.document.find("things", made.id).scatter
    assert [s.weight for s in scatter.sources] == [3.0, 1.0]
    assert (scatter.number, scatter.keep_out) == (5000, (box.id,))
    assert "copies" in editor.told.text()
    wait_for_print(qtbot, window)
    frame = window.picture.print.frame
    seen = {frame.prepared.object_ids[i] for i in np.unique(frame.film.first_seen) if i >= 0}
    assert made.id in seen
    editor.form.editors["over"].setCurrentIndex(2)
    editor.form.editors["over"].activated.emit(2)
    (tmp_path / "p.csv").write_text("0 0 0\n1 1 0\n2 0 0\n")
    monkeypatch.setattr(files, "ask_open_file", lambda *_: str(tmp_path / "p.csv"))
    qtbot.mouseClick(editor.file, LEFT)
    assert len(session.document.find("things", made.id).scatter.points) == 3
    qtbot.mouseClick(editor.real, LEFT)
    assert len(list(session.document.children(made.id))) == 2, "the box is still kept clear of"
    session.undo()
    assert session.document.find("things", made.id).scatter is not None


def project_to(window, point) -> QPoint:
    """Return where a point of the set lies in the picture's widget."""
    (u, v), _ = projection.project(window.session.document.view, np.array(point, float))
    rect = window.picture.image_rect()
    return QPointF(rect.left() + u * rect.width(), rect.top() + v * rect.height()).toPoint()


def test_lengths_are_measured_and_faces_dressed_in_the_picture(qtbot, make_window, tmp_path):
    """J3, and a material for the chosen faces only."""
    window = make_window()
    window.start_page.hide()
    session, picture = window.session, window.picture
    run(window, "things.add-box")
    box = thing(window, "Box")
    session.edit(edit.alter, "views", session.document.view.id, eye=(2.5, -3.5, 2.2), target=(0, 0, 0.5), label="View")
    view = session.document.view
    qtbot.waitUntil(lambda: picture.print is not None and picture.print.frame.prepared.view == view, timeout=60000)
    stand_still(qtbot, window)

    def click(point, keys=Qt.KeyboardModifier.NoModifier) -> None:
        qtbot.mouseClick(picture, LEFT, keys, project_to(window, point))

    run(window, "things.measure")
    click((0.47, -0.5, 0.97))
    click((-0.47, -0.5, 0.97))
    assert window.setwork.length == pytest.approx(1.0, abs=0.012), "corners catch"
    assert picture.drawn[-1].words
    run(window, "proof.live")
    assert picture.mode == "choose"
    session.choose("things", box.id)
    width = window.sheets["set"].forms["box"].editors["width"]
    width.entry.setFocus()
    width._note_length()
    window.setwork.length = 0.75
    run(window, "things.send-length")
    assert thing(window, "Box").form.width == pytest.approx(0.75)
    session.undo()
    run(window, "proof.live")
    assert picture.drawn == ()
    # Faces: the front, then the top with it, get a material; the rest keeps its own.
    session.edit(edit.put, "materials", Material(id="red", name="Red", base_color=(0.8, 0.1, 0.1)), label="Red")
    picture.setFocus()
    run(window, "things.faces")
    click((0.0, -0.5, 0.5))
    click((0.0, 0.0, 1.0), Qt.KeyboardModifier.ControlModifier)
    mesh = session.assets.shape(thing(window, "Box"))
    mask = window.setwork.faces.mask
    normals = mesh.normals[mesh.triangles[mask]].mean(1)
    assert set(np.abs(normals).argmax(1)) == {1, 2}
    assert picture.drawn
    window.choice.give_to("red", (box.id,))
    dressed = thing(window, "Box")
    ids, of_face = faces.worn(dressed, mesh)
    assert set(ids) == {"", "red"}
    assert ((of_face == ids.index("red")) == mask).all()
    session.undo()
    assert thing(window, "Box").faces == ()


def test_a_model_that_changed_on_disk_is_read_again_in_its_place(qtbot, make_window, tmp_path):
    window = make_window()
    session = window.session
    write_glb(tmp_path / "m.glb", {"ball": sets.BALL, "box": sets.BOX})
    window.bring.bring_in(tmp_path / "m.glb")
    qtbot.waitUntil(lambda: len(session.assets.meshes) == 2, timeout=120000)
    session.edit(edit.alter, "things", thing(window, "ball").id, place=(3, 0, 0), label="Move")
    before = session.document
    assert window.bring.changed_on_disk() == ()
    larger = solids.moved(sets.BALL, np.diag((2.0, 2, 2, 1)))
    write_glb(tmp_path / "m.glb", {"ball": larger, "cone": sets.BOX})
    said = []
    session.said.connect(lambda words, _: said.append(words))
    qtbot.waitUntil(lambda: not window.runner.is_busy("Bring in"), timeout=120000)
    window.bring.notice()
    assert "changed on disk" in said[-1]
    run(window, "project.reload")
    key = thing(window, "ball").mesh
    qtbot.waitUntil(lambda: np.ptp(session.assets.meshes[key].bounds[:, 0]) > 3.9, timeout=120000)
    assert session.document is before, "places and edits stay"
    assert "box" in said[-1]
    assert "cone" in said[-1]
    assert len(session.assets.meshes[thing(window, "box").mesh].triangles) == len(sets.BOX.triangles)
    assert window.bring.changed_on_disk() == ()


def test_a_material_and_its_placing_are_picked_up_given_and_replaced_everywhere(qtbot, make_window):
    """J4: a picture lies as it should on each thing."""
    window = make_window()
    window.start_page.hide()
    session, sheet = window.session, window.sheets["set"]
    for id in ("oak", "ash"):
        session.edit(edit.put, "materials", Material(id=id, name=id.capitalize()), label="Wood")
    for kind in ("box", "ball", "cone"):
        run(window, f"things.add-{kind}")
    box, ball, cone = (thing(window, name).id for name in ("Box", "Ball", "Cone"))
    for id, material in ((box, "oak"), (ball, "ash"), (cone, "ash")):
        session.edit(edit.alter, "things", id, material=material, label="Wood")
    session.choose("things", box)
    type_into(qtbot, sheet.form.editors["uv_size"].entry, "0.2")
    window.picture.setFocus()
    run(window, "edit.turn-pictures")
    run(window, "edit.take-material")
    session.choose("things", ball)
    run(window, "edit.give-placing")
    assert thing(window, "Ball").uv_placing == (0.2, 90.0, (0.0, 0.0))
    assert thing(window, "Ball").material == "ash", "the placing alone"
    run(window, "edit.fit-pictures")
    assert np.ptp(session.assets.shape(thing(window, "Ball")).uvs, axis=0).max() == pytest.approx(1)
    run(window, "edit.replace-material")
    assert {t.material for t in session.document.things if t.id in (box, ball, cone)} == {"oak"}
    session.undo()
    assert thing(window, "Cone").material == "ash"

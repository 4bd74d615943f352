"""Materials in the window: swatches come in the background, a material is dragged onto a thing in the picture."""

import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt
from PySide6.QtGui import QDragEnterEvent, QDragLeaveEvent, QDragMoveEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from nocturne.scene import edit
from nocturne.scene.forms import KINDS as FORMS
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Fractal
from nocturne.scene.thing import Thing
from nocturne.ui.view.hands.dropping import MATERIAL_MIME
from tests.ui.test_widgets import drag, type_into
from tests.ui.test_window import place_of, wait_for_picture
from tests.ui.waiting import stand_still

COPY, LEFT, NONE = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def test_swatches_are_made_for_those_who_look(qtbot, make_window, demo):
    window = make_window(demo)
    wait_for_picture(qtbot, window)
    made = []
    window.swatches.made.connect(lambda id, _: made.append(id))
    stand_still(qtbot, window)
    assert not made, "nobody looks at materials yet"
    assert not window.swatches._wanted
    window.session.choose("materials", "brass")
    window.session.go_to("materials")
    qtbot.waitUntil(lambda: "brass" in made, timeout=120000)
    stand = window.sheets["materials"].stand
    assert not stand.picture.pixmap().isNull()
    made.clear()
    stand.stand.setCurrentIndex(1)
    stand.stand.activated.emit(1)
    qtbot.waitUntil(lambda: "brass" in made, timeout=120000)


def test_a_material_is_dropped_on_a_thing(qtbot, make_window, demo):
    window = make_window(demo)
    wait_for_picture(qtbot, window)
    window.session.go_to("materials")
    materials = window.lists["materials"].view
    row = next(i for i in range(materials.count()) if materials.item(i).data(Qt.ItemDataRole.UserRole) == "copper")
    carried: QMimeData = materials.mimeData([materials.item(row)])
    assert bytes(carried.data(MATERIAL_MIME)) == b"copper"
    at = QPointF(place_of(window, "mug-body").toPoint())
    window.session.choose("things", "orrery-planet-5")
    over = (
        QDragEnterEvent(at.toPoint(), COPY, carried, LEFT, NONE),
        QDragMoveEvent(at.toPoint(), COPY, carried, LEFT, NONE),
    )
    for event in over:
        QApplication.sendEvent(window.picture, event)
        assert event.isAccepted()
    assert window.picture.ids == ("mug-body",)
    QApplication.sendEvent(window.picture, QDragLeaveEvent())
    assert window.picture.ids == ("orrery-planet-5",), "carried away again, what is chosen is outlined"
    for event in (*over, QDropEvent(at, COPY, carried, LEFT, NONE)):
        QApplication.sendEvent(window.picture, event)
        assert event.isAccepted()
    assert window.picture.ids == ("orrery-planet-5",)
    assert window.session.document.find("things", "mug-body").material == "copper"
    window.session.undo()
    assert window.session.document.find("things", "mug-body").material != "copper"


def with_wood(qtbot, make_window, demo) -> tuple:
    """Return a window on a material of three pictures, and that material."""
    window = make_window(demo)
    wait_for_picture(qtbot, window)
    wood = next(m for m in window.session.document.materials if len(m.steps) == 3)
    window.session.choose("materials", wood.id)
    window.session.go_to("materials")
    return window, wood


def test_a_checker_drives_a_parameter_as_a_picture_does(qtbot, make_window, demo):
    window, wood = with_wood(qtbot, make_window, demo)
    session, sheet = window.session, window.sheets["materials"]

    def steps():
        return session.document.find("materials", wood.id).steps

    before = len(sheet.rows)
    kind_in(sheet.outline.kinds_menu(), "Checker").trigger()
    assert len(sheet.rows) == before + 1
    step = steps()[-1]
    row = next(row for row in sheet.rows if row.step is step)
    assert step.kind == "checkerboard"
    assert step.parameter not in {other.parameter for other in steps()[:-1]}, "one that nothing drives yet"
    assert row.kind.isVisible()
    assert not row.file.isVisible()
    assert "Choose another picture…" not in [action.text() for action in row.menu().actions()]
    seen = row.picture.image.copy()
    row.picture.click()
    row.form.editors["second"].committed.emit((0.2, 0.4, 0.6), None)
    assert steps()[-1].second == (0.2, 0.4, 0.6)
    assert row.picture.image != seen
    session.undo()
    session.undo()
    assert steps() == wood.steps
    assert sheet.rows[0].file.isVisible(), "the row that is left shows its own kind"


def test_pictures_are_muted_mixed_placed_ordered_and_copied(qtbot, make_window, demo):
    window, wood = with_wood(qtbot, make_window, demo)
    session, sheet = window.session, window.sheets["materials"]

    def textures():
        return session.document.find("materials", wood.id).steps

    bottom = sheet.rows[0]
    assert [row.step for row in sheet.rows] == list(wood.steps), "by what they drive"
    assert len({row.picture.image.cacheKey() for row in sheet.rows}) == 3
    seen = bottom.picture.image.copy()

    bottom.dot.click()
    assert not textures()[0].on
    session.undo()
    assert bottom.dot.isChecked()

    label = bottom.amount.label
    drag(label, label.rect().center(), label.rect().center() - QPoint(40, 0))
    pulled = textures()[0].amount
    assert pulled < 1
    session.undo()
    assert textures()[0].amount == 1, "one drag is one step"
    session.redo()
    assert textures()[0].amount == pulled
    assert bottom.isVisible(), "the row under the pointer stays"
    type_into(qtbot, bottom.amount.entry, "25")
    assert textures()[0].amount == pytest.approx(0.25)

    assert bottom.form is None
    bottom.picture.click()
    assert bottom.form.isVisible()
    type_into(qtbot, bottom.form.editors["repeat"].fields[0].entry, "3")
    type_into(qtbot, bottom.form.editors["turn_deg"].entry, "90")
    bottom.form.editors["invert"].click()
    now = textures()[0]
    assert (now.repeat[0], now.turn_deg, now.invert) == (3.0, 90.0, True)
    assert bottom.picture.image != seen, "the small picture shows the placement"

    act(bottom, "Copy it")
    assert len(sheet.rows) == 4
    assert textures()[:2] == (now, now)
    type_into(qtbot, sheet.rows[0].amount.entry, "40")
    assert [s.amount for s in textures()[:2]] == [pytest.approx(0.25), pytest.approx(0.4)], (
        "the topmost row is the last"
    )
    act(sheet.rows[0], "Move it down")
    assert [s.amount for s in textures()[:2]] == [pytest.approx(0.4), pytest.approx(0.25)]
    assert sheet.rows[0].step == now
    act(sheet.rows[1], "Remove it")
    assert len(textures()) == len(sheet.rows) == 3
    assert textures()[0] == now

    rough = next(row for row in sheet.rows if row.step.parameter == "specular_roughness")
    rough.parameter.activated.emit(rough.parameter.findData("coat_color"))
    changed = next(t for t in textures() if t.parameter == "coat_color")
    assert changed.space == "colour", "a colour is not read as data"
    assert (changed.path, "colour") not in demo.assets.images
    qtbot.waitUntil(lambda: (changed.path, "colour") in session.assets.images, timeout=120000)
    rough = next(row for row in sheet.rows if row.step.parameter == "coat_color")
    assert rough.picture.image is not None, "the file is read anew, as a colour"
    session.edit(edit.alter, "materials", wood.id, steps=(edit.changed(changed, path="gone.png"),), label="Lose it")
    (row,) = sheet.rows
    assert row.picture.image is None
    assert "missing" in row.file.toolTip()


def test_typing_in_a_row_that_goes_away_harms_nothing(qtbot, make_window, demo):
    window, wood = with_wood(qtbot, make_window, demo)
    session, sheet = window.session, window.sheets["materials"]
    row = sheet.rows[2]  # the rows that are there serve the steps that are left; the last one goes
    entry = row.amount.entry
    entry.setFocus()
    entry.selectAll()
    QTest.keyClicks(entry, "30")
    session.edit(edit.alter, "materials", wood.id, steps=wood.steps[:1], label="Remove two")
    row.committed.emit(edit.changed(row.step, amount=0.3), None)  # as its entry does when it loses the keyboard
    window.picture.setFocus()
    qtbot.waitUntil(lambda: len(sheet.rows) == 1, timeout=120000)
    assert session.document.find("materials", wood.id).steps == wood.steps[:1]


def kind_in(menu, title: str):
    """Return the action of a menu of kinds that has a title."""
    found = [action for family in menu.actions() if family.menu() for action in family.menu().actions()]
    return next(action for action in found if action.text() == title)


def act(row, words: str) -> None:
    """Do what a row's menu offers."""
    next(action for action in row.menu().actions() if action.text() == words).trigger()


def test_relief_becomes_geometry_and_the_sheet_says_how_large(qtbot, make_window):
    window = make_window()
    window.start_page.hide()
    session = window.session
    box = Thing(id="a", name="A", form=FORMS["box"](), material="m")
    lumps = Fractal(parameter="geometry_height", scale=0.2, where="solid")
    document = edit.changed(session.document, things=(box,), materials=(Material(id="m", steps=(lumps,)),))
    view = edit.changed(document.view, eye=(2.0, -3.0, 2.0), target=(0.0, 0.0, 0.4), focal_mm=40)
    session.push(edit.put(document, "views", view), "Set")
    session.go_to("materials")
    session.choose("materials", "m")
    form = window.sheets["materials"].form
    assert not form.rows["relief_pixels"].isVisibleTo(form), "it counts for nothing yet"
    style = form.editors["relief_style"]
    style.activated.emit(style.findData("surface"))
    type_into(qtbot, form.editors["relief_pixels"].entry, "6")
    assert session.document.find("materials", "m").relief_style == "surface"
    wait_for_picture(qtbot, window)
    qtbot.waitUntil(lambda: "triangles in the picture." in form._notes["relief_pixels"].text(), timeout=60000)
    style.activated.emit(style.findData("shading"))
    assert not form.rows["relief_pixels"].isVisibleTo(form)
    wait_for_picture(qtbot, window)
    assert window.picture.print.frame.prepared.moved == ()

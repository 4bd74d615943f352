"""Lists, sheets and bars, each on its own."""

import pytest
from PySide6.QtCore import QItemSelection, QItemSelectionModel, Qt
from PySide6.QtTest import QAbstractItemModelTester, QTest

from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.lights import KINDS, make_light
from nocturne.scene.materials import Material
from nocturne.scene.outputs import Quality
from nocturne.scene.thing import Thing
from nocturne.ui.choice import Choice
from nocturne.ui.panels import lists
from nocturne.ui.panels.desk import LightDesk
from nocturne.ui.panels.outline import Outline, OutlineModel
from nocturne.ui.panels.sheets.light import LightSheet
from nocturne.ui.panels.sheets.render import RenderSheet
from nocturne.ui.panels.sheets.thing import ThingSheet
from nocturne.ui.session import Session
from tests import sets
from tests.ui.sheets import material_sheet
from tests.ui.test_widgets import LEFT, type_into


@pytest.fixture
def session(qtbot):
    made = Session()
    document = Document(
        things=(
            Thing(id="g", name="Group"),
            Thing(id="b", name="Ball", parent="g", mesh="ball", material="m"),
            Thing(id="c", name="Other", mesh="gone"),
        ),
        materials=(Material(id="m", name="Clay"), Material(id="n", name="Lamp", emission_luminance=5)),
        lights=tuple(
            make_light(id=k, name=k, kind=k, unit=u)
            for k, u in ((kind, light.units[0]) for kind, light in KINDS.items())
        ),
    )
    made.open(document, Assets({"ball": sets.BALL}), None)
    return made


def shown_rows(form) -> set[str]:
    return {name for name, row in form.rows.items() if row.isVisibleTo(form)}


def test_outline_shows_groups_hides_things_and_follows_the_choice(qtbot, session):
    outline = Outline(session, "things", "The set", "Nothing here yet.")
    qtbot.addWidget(outline)
    outline.resize(240, 300)
    outline.show()
    outline.show_document(session.document)
    QAbstractItemModelTester(outline.model, QAbstractItemModelTester.FailureReportingMode.Fatal)
    tree, model = outline.view, outline.model
    assert model.rowCount() == 2
    session.choose("things", "b")
    ball = tree.currentIndex()
    assert ball.data() == "Ball"
    assert tree.isExpanded(ball.parent())
    eye = tree.visualRect(model.index_of("b", 1)).center()
    QTest.mouseClick(tree.viewport(), LEFT, Qt.KeyboardModifier.NoModifier, eye)
    assert not session.document.find("things", "b").visible
    assert model.index_of("b", 1).data(Qt.ItemDataRole.AccessibleTextRole) == "hidden"
    assert tree.currentIndex().siblingAtColumn(0) == model.index_of("b"), "a hidden thing stays chosen"
    outline.copy()
    assert session.document.find("things", session.chosen["things"]).name == "Ball 2"
    assert tree.currentIndex().data() == "Ball 2"
    assert tree.isExpanded(tree.currentIndex().parent()), "groups stay open"
    both = QItemSelection()
    for id in ("b", session.chosen["things"]):
        both.select(model.index_of(id), model.index_of(id))
    tree.selectionModel().select(
        both, QItemSelectionModel.SelectionFlag.ClearAndSelect | QItemSelectionModel.SelectionFlag.Rows
    )
    assert len(session.all_chosen("things")) == 2
    outline.copy()
    assert [t.name for t in session.document.things] == ["Group", "Ball", "Ball 3", "Ball 2", "Ball 4", "Other"]
    assert len(session.all_chosen("things")) == 2, "the copies are chosen"
    outline.remove()
    assert [t.name for t in session.document.things] == ["Group", "Ball", "Ball 2", "Other"], "all that was chosen goes"
    session.choose("things", "g")
    outline.remove()
    assert [t.id for t in session.document.things] == ["c"], "a group goes with what is in it"
    session.undo()
    assert len(session.document.things) == 4


def test_what_was_chosen_and_undone_is_neither_copied_nor_removed(qtbot, session):
    panel = lists.LightList(session, "lights", "Lights", "It is dark.")
    qtbot.addWidget(panel)
    document, id = edit.duplicate(session.document, "lights", session.document.lights[0].id)
    session.push(document, "Copy")
    session.choose("lights", id)
    session.undo()
    before, said = session.document, []
    session.said.connect(lambda words, wrong: said.append((words, wrong)))
    panel.copy()
    panel.remove()
    assert session.document is before
    assert [words for words, wrong in said if wrong] == ["Choose what to copy first.", "Choose what to remove first."]


def test_things_that_are_in_each_other_are_still_listed(qtbot):
    things = tuple(Thing(id=id, name=id, parent=above) for id, above in (("a", "b"), ("b", "a"), ("c", "a"), ("d", "")))
    model = OutlineModel()
    QAbstractItemModelTester(model, QAbstractItemModelTester.FailureReportingMode.Fatal)
    model.show(things)
    seen, waiting = set(), [model.index(i, 0) for i in range(model.rowCount())]
    while waiting:
        index = waiting.pop()
        seen.add(model.item(index).id)
        waiting += [model.index(i, 0, index) for i in range(model.rowCount(index))]
    assert seen == {"a", "b", "c", "d"}


def test_an_empty_list_says_what_would_be_there(qtbot):
    session = Session()
    panel = lists.LightList(session, "lights", "Lights", "It is dark. Add a light to begin.")
    qtbot.addWidget(panel)
    panel.show()
    panel.show_document(session.document)
    assert panel.empty.isVisible()
    session.push(edit.put(session.document, "lights", make_light(id="l", name="Key")), "Add")
    assert not panel.empty.isVisible()
    assert panel.view.item(0).text() == "Key"


def test_a_light_sheet_shows_what_its_kind_has(qtbot, session):
    sheet = LightSheet(session, lambda: "")
    qtbot.addWidget(sheet)
    sheet.show()
    for kind in KINDS:
        session.choose("lights", kind)
        rows = shown_rows(sheet.form)
        assert set(KINDS[kind].own) <= rows, kind
        others = {name for k in KINDS for name in KINDS[k].own} - set(KINDS[kind].own)
        assert not others & rows, kind
    session.choose("lights", "point")
    assert "lx at 2 m" in sheet.reading.text()


def test_a_lights_power_is_typed_in_any_unit_it_can_have(qtbot, session):
    lamp = make_light(id="lamp", name="Lamp", kind="rect", unit="lm", power=800)
    session.push(edit.put(session.document, "lights", lamp), "Add")
    session.choose("lights", "lamp")
    sheet = LightSheet(session, lambda: "")
    qtbot.addWidget(sheet)
    sheet.show()
    power = sheet.form.editors["power"]
    steps = len(session.history.steps)

    def typed(text):
        type_into(qtbot, power.entry, text)
        light = session.document.find("lights", "lamp")
        return light.power, light.unit, power.unit

    assert typed("60 W") == (60, "W", "W")
    assert not sheet.form.editors["efficacy"].isHidden()
    assert len(session.history.steps) == steps + 1
    assert power.entry.text() == "60"
    assert typed("1,600 nit") == (1600, "nit", "nit")
    assert typed("2*300") == (600, "nit", "nit")
    assert typed("5 lx") == (600, "nit", "nit"), "a lamp with a surface has no illuminance"
    assert power.entry.property("wrong")


def test_a_material_sheet_leaves_out_what_has_no_effect(qtbot, session):
    sheet = material_sheet(session, lambda: "wood.png")
    qtbot.addWidget(sheet)
    sheet.show()
    session.choose("materials", "m")
    assert "transmission_depth" not in shown_rows(sheet.form)
    type_into(qtbot, sheet.form.editors["transmission_weight"].entry, "1")
    assert "transmission_depth" in shown_rows(sheet.form)
    type_into(qtbot, sheet.form.editors["base_metalness"].entry, "1")
    assert "metal_n" not in shown_rows(sheet.form)
    sheet.form.committed.emit("metal_from", "nk", None)
    assert "metal_n" in shown_rows(sheet.form)
    qtbot.mouseClick(sheet.outline.add, LEFT)
    texture = session.document.find("materials", "m").steps[0]
    assert (texture.path, texture.parameter, texture.space) == ("wood.png", "base_color", "colour")
    row = sheet.rows[0]
    row._switch(row.parameter.findData("specular_roughness"))
    texture = session.document.find("materials", "m").steps[0]
    assert (texture.parameter, texture.space) == ("specular_roughness", "data"), "numbers are not read as colour"
    sheet.rows[0].asked.emit("remove", None)
    assert not session.document.find("materials", "m").steps


def test_a_thing_sheet_tells_size_triangles_and_what_is_missing(qtbot, session):
    sheet = ThingSheet(session, Choice(session, {"set": "things"}), lambda: None, str)
    qtbot.addWidget(sheet)
    sheet.show()
    session.choose("things", "b")
    assert sheet.measures.value == pytest.approx((2, 2, 2))
    assert f"{len(sets.BALL.triangles):,} triangles" in sheet.facts.text()
    sheet.form.committed.emit("size", (0.5, 0.5, 1.0), None)
    assert sheet.measures.value == pytest.approx((1, 1, 2))
    type_into(qtbot, sheet.measures.fields[2].entry, "500 mm")
    assert session.document.find("things", "b").size == pytest.approx((0.125, 0.125, 0.25))
    sheet.in_proportion.setChecked(False)
    type_into(qtbot, sheet.measures.fields[0].entry, "1 m")
    assert session.document.find("things", "b").size == pytest.approx((0.5, 0.125, 0.25))
    session.choose("things", "c")
    assert "could not be loaded" in sheet.facts.text()
    session.choose("things", "g")
    assert sheet.facts.text() == "A group of 1 thing."
    session.choose("things", "")
    assert sheet.empty.isVisible()


def test_quality_levels_are_edited_in_their_units(qtbot, session):
    sheet = RenderSheet(session)
    qtbot.addWidget(sheet)
    sheet.show()
    sheet.show_document(session.document)
    type_into(qtbot, sheet.form.editors["noise"].entry, "2.5")
    assert session.document.quality.noise == pytest.approx(0.025)
    type_into(qtbot, sheet.form.editors["minutes"].entry, "1.5 h")
    assert session.document.quality.minutes == 90
    assert isinstance(session.document.quality, Quality)


def test_the_desk_follows_the_groups(qtbot, session):
    desk = LightDesk(session)
    qtbot.addWidget(desk)
    desk.show()
    desk.show_document(session.document)
    assert tuple(desk.strips) == ("light",)
    session.edit(edit.alter, "lights", "rect", group="key", label="Group")
    assert tuple(desk.strips) == ("key", "light")
    session.edit(edit.rename_group, "key", "main", label="Rename")
    assert tuple(desk.strips) == ("main", "light")

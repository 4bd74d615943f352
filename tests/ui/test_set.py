"""The window's tools for a set: outline, locks, cards, faces, scatters, lights in groups, what is clicked twice."""

import json
from functools import partial

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QModelIndex, QPoint, Qt
from PySide6.QtTest import QAbstractItemModelTester, QTest
from PySide6.QtWidgets import QLabel

from nocturne.engine.pick import Hit
from nocturne.scene import edit, placing
from nocturne.scene.forms import KINDS as FORMS
from nocturne.scene.forms import Opening
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.thing import FaceMaterial, Thing
from nocturne.ui.commands import COMMANDS
from nocturne.ui.panels import cards
from nocturne.ui.panels.array import ArrayCard
from nocturne.ui.panels.outline import THINGS_MIME, OutlineModel
from nocturne.ui.widgets.openings import OpeningsEditor
from nocturne.ui.widgets.profile import ProfileEditor
from tests.ui.test_widgets import type_into

LEFT, RIGHT, NONE = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton, Qt.KeyboardModifier.NoModifier
BY_ID = {command.id: command for command in COMMANDS}


@pytest.fixture
def window(make_window):
    """Return a window with three boxes, a group and a lamp, its live picture at rest."""
    made = make_window()
    made.live.pause()
    made.start_page.hide()
    box = FORMS["box"]
    things = (
        Thing(id="g", name="Group", place=(0, 0, 1)),
        Thing(id="a", name="A", form=box(), parent="g", material="m"),
        Thing(id="b", name="B", form=box(width=2.0), place=(4, 0, 0), material="m"),
        Thing(id="c", name="C", form=box(height=3.0), place=(9, 2, 0), material="m"),
    )
    lamp = make_light(id="l", name="Lamp", kind="point", place=(0, 0, 3))
    document = edit.changed(
        made.session.document, things=things, lights=(lamp,), materials=(Material(id="m", name="M"),)
    )
    made.session.push(document, "Set")
    return made


def run(window, id: str) -> None:
    """Run a command by its id."""
    window.run_command(BY_ID[id])


def place(window, id: str) -> np.ndarray:
    """Return where a thing stands in the set."""
    return window.session.document.placement(id)[:3, 3]


def hit(id: str) -> Hit:
    """Return a hit of a thing."""
    return Hit(id, id.upper(), False, 1.0, np.zeros(3))


def test_rows_are_dragged_into_groups_and_lights_are_listed_in_theirs(window):
    session, model = window.session, OutlineModel()
    QAbstractItemModelTester(model, QAbstractItemModelTester.FailureReportingMode.Fatal)
    model.dropped.connect(window.lists["set"]._drop)
    model.show(session.document.things, session.document.lights)
    data = model.mimeData([model.index_of("b"), model.index_of("b", 1)])
    assert json.loads(bytes(data.data(THINGS_MIME)).decode()) == ["b"]
    before = place(window, "b")
    assert not model.dropMimeData(data, Qt.DropAction.MoveAction, -1, 0, model.index_of("g")), "no row is moved here"
    assert session.document.find("things", "b").parent == "g"
    assert place(window, "b") == pytest.approx(before)
    assert not model.flags(model.index_of("c")) & Qt.ItemFlag.ItemIsDropEnabled, "only groups take others in"
    model.dropMimeData(QMimeData(), Qt.DropAction.MoveAction, 0, 0, QModelIndex())
    said = []
    session.said.connect(lambda words, wrong: wrong and said.append(words))
    window.lists["set"]._drop(("g",), "g", "")
    assert "in itself" in said[-1]
    # A light that moves with a group stands in the tree, and its eye switches it.
    session.go_to("light")
    session.choose("lights", "l")
    window.sheets["light"].show_document(session.document)
    window.sheets["light"].form.committed.emit("parent", "g", None)
    lamp = session.document.find("lights", "l")
    assert (lamp.parent, lamp.place) == ("g", pytest.approx((0, 0, 2)))
    assert session.document.standing(lamp).place == pytest.approx((0, 0, 3)), "it stays where it stood"
    outline = window.lists["set"]
    outline.show_document(session.document)
    row = outline.model.index_of("l", 1, "lights")
    assert row.parent() == outline.model.index_of("g")
    outline._clicked(row)
    assert not session.document.find("lights", "l").on
    assert row.data(Qt.ItemDataRole.AccessibleTextRole) == "hidden"
    outline._clicked(outline.model.index_of("g", 2))
    assert session.document.find("things", "g").locked
    assert outline.model.index_of("g", 2).data(Qt.ItemDataRole.AccessibleTextRole) == "locked"


def test_what_is_locked_is_neither_chosen_in_the_picture_nor_moved_nor_removed(window):
    session, choice = window.session, window.choice
    session.edit(edit.alter, "things", "g", locked=True, label="Lock")
    choice.pick(hit("a"), "one")
    assert session.chosen.get("things", "") == ""
    choice.box(("a", "b"))
    assert session.all_chosen("things") == ("b",)
    choice.pick(hit("b"), "one")
    assert session.chosen["things"] == "b"
    session.choose_many("things", ("a", "b", "c"))
    run(window, "things.align-z-low sides")
    assert place(window, "a")[2] == 1
    choice.remove()
    assert [t.id for t in session.document.things] == ["g", "a"]


def test_things_are_lined_up_spread_mirrored_and_arrayed_by_commands(window):
    session = window.session
    session.choose_many("things", ("a", "b", "c"))
    run(window, "things.align-y-middles")
    assert {round(float(place(window, id)[1]), 5) for id in "abc"} == {2.0}
    run(window, "things.distribute-x")
    edges = sorted((place(window, id)[0] - w / 2, place(window, id)[0] + w / 2) for id, w in zip("abc", (1, 2, 1)))
    assert edges[1][0] - edges[0][1] == pytest.approx(edges[2][0] - edges[1][1], abs=1e-5)
    session.choose("things", "b")
    run(window, "things.mirror-x")
    assert np.linalg.det(session.document.placement("b")[:3, :3]) < 0
    n = len(session.document.things)
    made = []
    card = ArrayCard(window, lambda how, **k: made.append((how.keywords, k)), lambda: None)
    card.how.setCurrentIndex(card.how.findData("ring"))
    card.number.committed.emit(6.0, None)
    card.number.show_value(6)
    assert card.angle.value == pytest.approx(60)
    card.make.click()
    (asked, unique) = made[0]
    assert (asked["n"], tuple(asked["step"]), tuple(asked["about"])) == (6, (0, 0, pytest.approx(60)), (0, 0, 0))
    assert unique == {"makes_unique": False}
    window.choice.array(partial(placing.in_array, n=3, step=np.array((0.0, 5.0, 0.0))))
    assert len(session.document.things) == n + 2
    assert len(session.all_chosen("things")) == 3
    session.undo()
    assert len(session.document.things) == n


def test_cards_tell_measures_and_materials_are_made_ones_own(window):
    session = window.session
    session.choose("things", "b")
    rows = [("The choice", "2 m × 1 m × 1 m"), ("Things", "3")]
    card = cards.FactsCard(window, "Measures", rows)
    assert {label.text() for label in card.findChildren(QLabel)} >= {"The choice", "2 m × 1 m × 1 m", "3"}
    card.close()
    run(window, "things.unique")
    own = session.document.find("things", "b").material
    assert own != "m"
    assert session.document.find("materials", own).name == "M 2"
    run(window, "things.unique")
    assert session.document.find("things", "b").material == own, "it is its own already"


def test_sets_of_faces_have_rows_of_their_own(window):
    session, sheet = window.session, window.sheets["set"]
    session.edit(edit.put, "materials", Material(id="n", name="N"), label="N")
    room = Thing(id="r", name="Room", form=FORMS["room"](), faces=(FaceMaterial(runs=(0, 1), material="m"),))
    session.edit(edit.put, "things", room, label="Room")
    session.choose("things", "r")
    labels = [form.rows["material"].layout().itemAt(0).widget().text() for form in sheet.sets[:5]]
    assert labels == ["Floor", "Outside", "Ceiling", "Walls", "1 faces"]
    sheet.sets[3].committed.emit("material", "n", None)
    sheet.sets[4].committed.emit("material", "n", None)
    faces = session.document.find("things", "r").faces
    assert [(f.set, f.material) for f in faces] == [("Walls", "n"), ("", "n")]
    assert sheet.sets[3].editors["material"].currentData() == "n"
    session.choose("things", "b")
    assert not any(form.isVisibleTo(sheet) for form in sheet.sets)


def test_profiles_and_openings_are_edited_in_place(qtbot):
    profile = ProfileEditor("Profile")
    qtbot.addWidget(profile)
    profile.resize(260, 190)
    profile.show_value(((0.0, 0.0), (0.1, 0.0), (0.1, 0.2), (0.0, 0.2)))
    got = []
    profile.committed.connect(lambda points, _: got.append(points))
    QTest.mouseClick(profile, RIGHT, NONE, profile.at((0.1, 0.2)).toPoint())
    assert got[-1] == ((0.0, 0.0), (0.1, 0.0), (0.0, 0.2))
    middle = (profile.at((0.0, 0.0)) + profile.at((0.1, 0.0))) / 2
    QTest.mouseClick(profile, LEFT, NONE, middle.toPoint())
    assert len(got[-1]) == 4
    assert got[-1][1][0] == pytest.approx(0.05, abs=0.005)
    QTest.mouseClick(profile, LEFT, NONE, QPoint(0, int(profile.at((0, 0.1)).y())))
    assert all(r >= 0 for r, _ in got[-1]), "nothing lies beyond the axis"

    openings = OpeningsEditor("Openings")
    qtbot.addWidget(openings)
    openings.show_value((Opening(), Opening(wall="left")))
    got = []
    openings.committed.connect(lambda value, _: got.append(value))
    type_into(qtbot, openings.rows[1].numbers.fields[2].entry, "80 cm")
    assert got[-1] == (Opening(), Opening(wall="left", width=0.8))
    openings.rows[0].removed.emit(0)
    assert got[-1] == (Opening(wall="left"),)
    openings.show_value(got[-1])
    assert len(openings.rows) == 1


def test_a_click_that_misses_or_has_nothing_to_do_says_so(window):
    session, said = window.session, []
    session.said.connect(lambda words, wrong: wrong and said.append(words))
    window.choice.ungroup()
    session.choose("things", "b")
    for act, words in (
        (window.choice.ungroup, "group first"),
        (window.choice.make_real, "scatter first"),
        (lambda: window.choice.scatter(on_last=True), "last the thing"),
        (window.choice.replace_material, "Pick up"),
        (window.choice.give_placing, "Pick up"),
        (window.setwork.send_length, "Measure something"),
        (lambda: window.choice.distribute(0), "three things"),
        (lambda: window.choice.align(0, 0), "two things"),
    ):
        before = session.document
        act()
        assert words in said[-1], act
        assert session.document is before
    assert window.setwork.with_material(session.document, "m", ("b",)) is None, "no faces are chosen"
    session.choose("things", "")
    window.choice.only()
    assert "alone" in said[-1]

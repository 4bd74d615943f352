"""What is half typed is taken before anything is done with it, for what it was typed for; several are edited alike."""

from dataclasses import replace

import pytest
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QApplication

from nocturne.io import project
from nocturne.jobs import run
from nocturne.scene import edit, grading
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.forms import KINDS as FORMS
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.thing import Thing
from nocturne.ui import files
from nocturne.ui.commands import COMMANDS
from nocturne.ui.widgets import entry as typing
from nocturne.ui.widgets.numberfield import NumberField
from tests.ui.test_every_command import put_away
from tests.ui.test_widgets import LEFT, type_into

_LEAVE = ("project.quit", "project.demo", "project.new")


def small() -> project.Project:
    """Return three boxes, two glowing materials, and lights of different units: quick to render."""
    boxes = [
        Thing(
            id=f"b{i}", name=f"Box {i}", form=FORMS["box"](width=0.1 * (i + 1)), place=(i, 0, 0), material=f"m{i % 2}"
        )
        for i in range(3)
    ]
    materials = [
        Material(id=f"m{i}", name=f"M{i}", emission_luminance=10.0 + i, emission_power=5.0 + i, emission_unit="lm")
        for i in range(2)
    ]
    lights = [
        make_light(kind="point", id="l0", name="L0", unit="lm", power=800.0, place=(0, 0, 3)),
        make_light(kind="point", id="l1", name="L1", unit="W", power=9.0, place=(1, 0, 3)),
        make_light(kind="distant", id="l2", name="L2", unit="lx", power=100.0),
    ]
    document = edit.changed(
        Document(name="Small"), things=tuple(boxes), materials=tuple(materials), lights=tuple(lights)
    )
    document = edit.alter(document, "views", document.view.id, width=64, height=36)
    return project.Project(document, None, Assets())


@pytest.fixture
def window(make_window, tmp_path, monkeypatch):
    """Return a window on three boxes, nothing asked by dialogs answered."""
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    monkeypatch.chdir(tmp_path)
    for name in ("ask_open_file", "ask_save_file", "ask_folder"):
        monkeypatch.setattr(files, name, lambda *_: "")
    monkeypatch.setattr(files, "ask_open_files", lambda *_: [])
    monkeypatch.setattr(files, "ask_unsaved", lambda *_: "stay")
    made = make_window(small())
    made.room.folder = tmp_path / "sheet.proofs"
    made.start_page.hide()
    return made


def half_type(qtbot, entry, text) -> None:
    """Type into a field without Enter."""
    entry.setFocus()
    entry.selectAll()
    qtbot.keyClicks(entry, text)


def command(id):
    return next(command for command in COMMANDS if command.id == id)


def drag_label(field, *xs, ended=True):
    """Drag across a number field's label through places, from 0."""
    label, button = field.label, Qt.MouseButton.LeftButton

    def send(kind, x):
        at = QPointF(x, 3)
        held = button if kind != QEvent.Type.MouseButtonRelease else Qt.MouseButton.NoButton
        QApplication.sendEvent(
            label, QMouseEvent(kind, at, label.mapToGlobal(at), button, held, Qt.KeyboardModifier(0))
        )

    send(QEvent.Type.MouseButtonPress, 0)
    for x in xs:
        send(QEvent.Type.MouseMove, x)
    if ended:
        send(QEvent.Type.MouseButtonRelease, xs[-1])


@pytest.mark.parametrize("selected", [(), ("b0",), ("b0", "b1", "b2")])
def test_every_command_meets_what_was_typed(qtbot, window, selected):
    s = window.session
    s.choose_many("things", selected)
    exposure = window.picture_bar.exposure
    for i, one in enumerate(COMMANDS):
        if not one.finishes_typing:
            continue
        met = []
        value = round(0.01 * (i + 1), 3)
        half_type(qtbot, exposure.entry, str(value))
        probe = replace(one, needs=None, run=lambda w, met=met: met.append(w.session.document.finish.exposure))
        window.do_command(probe)
        assert met == [value], f"{one.id} goes by without what is typed"
        assert typing.half_typed() is None
    half_type(qtbot, exposure.entry, "abc")
    met = []
    window.do_command(replace(command("project.save"), run=lambda _: met.append(1)))
    assert not met, "what makes no sense is not passed over"
    assert "abc" in window.state_line.message.text() or "abc" in window.state_line.message.toolTip()
    typing.give_up()


def state_nothing(qtbot, window):
    window.session.choose_many("things", ())


def state_several(qtbot, window):
    window.session.choose_many("things", ("b0", "b1", "b2"))


def state_typing(qtbot, window):
    window.session.choose_many("things", ("b1",))
    if window.session.stage == "set":
        half_type(qtbot, window.sheets["set"].form.editors["place"].fields[0].entry, "0.5")


def state_proof(qtbot, window):
    window.session.choose_many("things", ("b0",))
    if not window.room.proofs:
        edit_quick(window)
        window.do_command(command("render.start"))
        qtbot.waitUntil(lambda: bool(window.room.proofs), timeout=120000)
    window.showing.show(window.room.proofs[0].id)
    qtbot.waitUntil(lambda: window.showing.proof() is not None, timeout=120000)


def state_final(qtbot, window):
    window.session.choose_many("things", ("b0",))
    if all(final.is_stopped for final in window.finals.queue):
        level = window.session.document.quality.id
        window.session.edit(edit.alter, "qualities", level, samples=10**6, noise=0.0, label="Long")
        window.do_command(command("render.start"))
    assert window.finals.queue


def edit_quick(window):
    window.session.edit(
        edit.alter, "qualities", window.session.document.quality.id, samples=1, noise=0.0, denoise="off", label="Quick"
    )


def test_nothing_raises_whatever_state_it_meets(qtbot, window):
    """Each command, in each state: it runs, or says why it does not; the document stays sound."""
    window.thumbs.close()
    window.setUpdatesEnabled(False)
    said = []
    window.session.said.connect(lambda text, wrong: said.append(text))
    for state in (state_nothing, state_several, state_typing):
        for one in COMMANDS:
            if one.id in _LEAVE or one.menu == "Render":
                continue
            window.session.open(small().document, Assets(), None)
            window.session.go_to("set")
            state(qtbot, window)
            said.clear()
            is_met, document = one.enabled(window), window.session.document
            window.do_command(one)
            put_away()
            after = window.session.document
            where = f"{one.id}, {state.__name__}"
            if not is_met:
                assert said, f"{where}: nothing happens, and nothing is said"
                if state is not state_typing:
                    assert after is document, where
            assert Document.model_validate_json(after.model_dump_json()) == after, where
            typing.give_up()
    assert typing.half_typed() is None


@pytest.mark.parametrize("state", [state_proof, state_final])
def test_nothing_raises_over_a_proof_or_a_final(qtbot, window, state):
    window.thumbs.close()
    window.setUpdatesEnabled(False)
    said = []
    window.session.said.connect(lambda text, wrong: said.append(text))
    for one in COMMANDS:
        if one.id in _LEAVE:
            continue
        if state is state_proof or window.session.document.find("things", "b0") is None:
            window.session.open(small().document, Assets(), None)
        state(qtbot, window)
        said.clear()
        is_met = one.enabled(window)
        window.do_command(one)
        put_away()
        assert is_met or said, f"{one.id}: nothing happens, and nothing is said"
        after = window.session.document
        assert Document.model_validate_json(after.model_dump_json()) == after, one.id
    window.renders.stop()


def test_shortcuts_live_on_after_a_menu(qtbot, window):
    for menu in window.menuBar().actions():
        menu.menu().aboutToShow.emit()
        if menu.text() == "Edit":
            assert not window.actions_by_id["edit.undo"].isEnabled(), "it is shown that there is nothing to undo"
        menu.menu().aboutToHide.emit()
    window.session.edit(edit.set_strip, "light", stops=1.0, label="Up")
    window.session.choose("things", "b0")
    for id in ("edit.undo", "edit.floor", "edit.hide"):
        assert window.actions_by_id[id].isEnabled()
    before = window.session.history.at
    window.picture.setFocus()
    qtbot.keyClick(window.picture, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert window.session.history.at == before - 1


def test_a_command_that_cannot_run_says_why(window):
    window.session.choose("things", "")
    said = []
    window.session.said.connect(lambda text, wrong: said.append(text))
    window.do_command(command("things.group"))
    assert said == ["Select a thing first: click it in the picture or in the outline."]


def test_what_is_typed_is_saved_and_rendered(qtbot, window, tmp_path):
    window.session.go_to("camera")
    width = window.sheets["camera"].form.editors["width"]
    half_type(qtbot, width.entry, "48")
    path = tmp_path / "p.nocturne"
    window.session.mark_saved(window.session.document, project.save_document(path, window.session.document))
    assert not window.session.history.is_dirty
    qtbot.keyClick(width.entry, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: project.read_document(path).view.width == 48, timeout=60000)
    half_type(qtbot, width.entry, "56")
    edit_quick(window)
    window.do_command(command("render.start"))
    assert window.session.document.view.width == 56
    qtbot.waitUntil(lambda: bool(window.room.proofs), timeout=120000)
    assert window.room.proofs[0].width == 56


def test_closing_asks_about_what_is_typed(qtbot, window, monkeypatch):
    window.session.history.mark_saved(window.session.document)
    half_type(qtbot, window.picture_bar.exposure.entry, "1.5")
    asked = []
    monkeypatch.setattr(files, "ask_unsaved", lambda *_: asked.append(1) or "stay")
    assert not window.close()
    assert asked


def test_a_value_reaches_what_it_was_typed_for(qtbot, window):
    s = window.session
    s.choose("things", "b0")
    field = window.sheets["set"].form.editors["place"].fields[0]
    half_type(qtbot, field.entry, "0.25")
    qtbot.keyClick(field.entry, Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier)
    copy = s.document.find("things", s.chosen["things"])
    assert copy.id != "b0"
    assert s.document.find("things", "b0").place[0] == 0.25
    half_type(qtbot, field.entry, "0.75")
    s.choose("things", "b1")
    assert s.document.find("things", copy.id).place[0] == 0.75
    assert s.document.find("things", "b1").place[0] == 1.0


def test_a_press_on_what_takes_no_keyboard_finishes_the_typing(qtbot, window):
    half_type(qtbot, window.picture_bar.exposure.entry, "1.5")
    qtbot.mouseClick(window.picture_bar.stops, LEFT)
    assert window.session.document.finish.exposure == 1.5


def test_undo_takes_the_typing_back_and_leaves_what_can_be_done_again(qtbot, window):
    s = window.session
    s.edit(edit.set_strip, "light", stops=1.0, label="Up")
    s.undo()
    assert s.history.redo_label == "Up"
    before, exposure = s.document, window.picture_bar.exposure
    half_type(qtbot, exposure.entry, "2")
    qtbot.mouseClick(window.picture_bar.undo, LEFT) if window.picture_bar.undo.isEnabled() else s.undo()
    qtbot.keyClick(exposure.entry, Qt.Key.Key_Tab)
    assert s.document is before
    assert s.history.redo_label == "Up"
    assert exposure.entry.text() == "0"


@pytest.mark.parametrize("where", ["finish", "set"])
def test_removing_while_typing(qtbot, window, where):
    s = window.session
    if where == "finish":
        s.go_to("finish")
        document, _ = grading.add_step(s.document, "saturation")
        s.push(document, "Add a step")
        step = s.document.finish.steps[0]
        s.choose("steps", step.id)
    else:
        s.go_to("set")
        s.choose("things", "b0")
    fields = [f for f in window.sheets[where].findChildren(NumberField) if f.isVisibleTo(window.sheets[where])]
    half_type(qtbot, fields[0].entry, "0.5")
    window.do_command(command("edit.remove"))
    qtbot.keyClick(fields[0].entry, Qt.Key.Key_Tab)
    left = [t.id for t in s.document.things] if where == "set" else [x.id for x in s.document.finish.steps]
    assert ("b0" if where == "set" else step.id) not in left


def test_ctrl_z_reaches_the_document_from_a_field(qtbot, window):
    s = window.session
    s.edit(edit.set_strip, "light", stops=1.0, label="Up")
    entry = window.picture_bar.exposure.entry
    entry.setFocus()
    qtbot.keyClick(entry, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert s.history.redo_label == "Up"
    half_type(qtbot, entry, "3")
    qtbot.keyClick(entry, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert entry.text() != "3", "the field's own undo"
    assert s.history.redo_label == "Up"


# ---- several --------------------------------------------------------------------------------------------------------


def widths(s):
    return [pytest.approx(t.form.width) for t in s.document.things]


def test_several_shapes_change_each_by_itself(qtbot, window):
    s = window.session
    s.choose_many("things", ("b0", "b1", "b2"))
    width = window.sheets["set"].forms["box"].editors["width"]
    assert (width.entry.text(), width.entry.placeholderText()) == ("", "differ")
    type_into(qtbot, width.entry, "+0.1")
    assert widths(s) == [0.2, 0.3, 0.4]
    qtbot.keyClick(width.entry, Qt.Key.Key_Up)
    after = [t.form.width for t in s.document.things]
    assert len(set(after)) == 3, "a step steps each"
    assert after > [0.2, 0.3, 0.4]
    at = s.history.at
    before = [t.form.width for t in s.document.things]
    drag_label(width, 10, 20, 40)
    assert s.history.at == at + 1, "a drag is one step"
    now = [t.form.width for t in s.document.things]
    steps = [b - a for a, b in zip(before, now)]
    assert len(set(now)) == 3
    assert steps == [pytest.approx(steps[0])] * 3 or all(b > a for a, b in zip(before, now))
    length = window.sheets["set"].measures.fields[0]
    assert length.entry.placeholderText() == "differ"
    type_into(qtbot, length.entry, "x2")
    assert [t.size[0] for t in s.document.things] == [pytest.approx(2.0)] * 3
    type_into(qtbot, length.entry, "0.5")
    assert [t.size[0] * t.form.width for t in s.document.things] == [pytest.approx(0.5)] * 3


def test_several_lights_take_a_power_and_a_unit(qtbot, window):
    s = window.session
    s.go_to("light")
    s.choose_many("lights", ("l2", "l0", "l1"))
    form = window.sheets["light"].form
    type_into(qtbot, form.editors["power"].entry, "60 W")
    found = [(light.unit, light.power) for light in s.document.lights]
    assert found == [("W", 60.0), ("W", 60.0), ("lx", 100.0)], "whoever has that unit"
    s.undo()
    unit = form.editors["unit"]
    i = unit.findData("cd")
    unit.setCurrentIndex(i)
    unit.activated.emit(i)
    assert [light.unit for light in s.document.lights] == ["cd", "cd", "lx"]
    s.undo()
    type_into(qtbot, form.editors["power"].entry, "+1 stop")
    assert [light.power for light in s.document.lights] == [1600.0, 18.0, 200.0]


def test_several_glows_take_a_power(qtbot, window):
    s = window.session
    s.go_to("materials")
    s.choose_many("materials", ("m0", "m1"))
    power = window.sheets["materials"].form.editors["emission_power"]
    assert power.entry.placeholderText() == "differ"
    type_into(qtbot, power.entry, "60 W")
    assert [(m.emission_unit, m.emission_power) for m in s.document.materials] == [("W", 60.0)] * 2


# ---- drags ----------------------------------------------------------------------------------------------------------


def test_a_label_dragged_and_brought_back_leaves_the_value(qtbot):
    field = NumberField("Width", unit="m", low=0, high=5000, default=1150, kind="whole")
    qtbot.addWidget(field)
    said = []
    field.edited.connect(lambda value, merge: said.append((value, merge)))
    field.committed.connect(lambda value, merge: said.append((value, merge)))
    drag_label(field, 5, 1, 0.4, 0)
    assert field.value == 1150
    assert said[-1][0] == 1150
    first = said[-1][1]
    drag_label(field, 5, 9)
    assert said[-1][1] != first, "another drag is another step"


# ---- another project ------------------------------------------------------------------------------------------------


def test_edits_made_while_a_project_is_read_are_asked_about(qtbot, window, tmp_path, monkeypatch):
    other = project.save_document(tmp_path / "o.nocturne", Document(name="Other"))
    window.session.history.mark_saved(window.session.document)
    loaded = run(project.load(other))
    window.projects.is_opening = True
    window.session.edit(edit.set_strip, "light", stops=1.0, label="Meanwhile")
    asked = []
    monkeypatch.setattr(files, "ask_unsaved", lambda *_: asked.append(1) or "stay")
    window.projects._opened(loaded)
    assert asked == [1]
    assert window.session.document.name == "Small"
    monkeypatch.setattr(files, "ask_unsaved", lambda *_: "drop")
    window.projects._opened(loaded)
    assert window.session.document.name == "Other"


def test_an_export_goes_where_it_says(qtbot, window, tmp_path):
    qtbot.waitUntil(lambda: window.picture.print is not None, timeout=120000)
    (tmp_path / "one").mkdir()
    (tmp_path / "two").mkdir()
    sheet, s = window.export_sheet, window.session
    s.mark_saved(s.document, project.save_document(tmp_path / "one" / "p.nocturne", s.document))
    window.delivery.ask_export()
    sheet.type.setCurrentIndex(sheet.type.findData("png"))
    sheet.template.setText("{view}")
    assert sheet.names() == [tmp_path / "one" / "out" / f"{s.document.view.name}.png"]
    # The view's name changes while the sheet is open: what is announced follows.
    s.edit(edit.alter, "views", s.document.view.id, name="Other", label="Rename")
    qtbot.waitUntil(lambda: sheet.names() == [tmp_path / "one" / "out" / "Other.png"], timeout=120000)
    # A picture that the sheet has not been told of is not written under a name nobody saw.
    announced = sheet.names()
    sheet.show_for(edit.alter(s.document, "views", s.document.view.id, name="Stale"), sheet.film)
    said = []
    s.said.connect(lambda text, wrong: said.append(text))
    qtbot.mouseClick(sheet.go, LEFT)
    assert sheet.names() == announced
    assert any("names" in text for text in said)
    assert not list((tmp_path / "one").rglob("*.png"))
    # In another project it is the other one's folder.
    path = project.save_document(tmp_path / "two" / "q.nocturne", small().document)
    window.session.history.mark_saved(s.document)
    window.projects.open(path)
    qtbot.waitUntil(lambda: s.path == path and window.picture.print.document.name == "Small", timeout=120000)
    window.delivery.ask_export()
    assert {name.parent for name in sheet.names()} == {tmp_path / "two" / "out"}

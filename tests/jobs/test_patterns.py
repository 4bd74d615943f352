"""J7 to J9 through the real window: break perfection, hide repeats, wear; each step alone, before and after."""

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu

from nocturne.io import picture
from nocturne.scene import edit, projection
from nocturne.scene.forms import KINDS as FORMS
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Edges, Fractal, Levels, Picture, every
from nocturne.scene.patterns.step import MOST_DEEP
from nocturne.scene.thing import Thing
from nocturne.ui import files
from nocturne.ui.commands import COMMANDS
from tests.ui.test_materials import kind_in
from tests.ui.test_widgets import type_into
from tests.ui.test_window import wait_for_picture

BY_ID = {command.id: command for command in COMMANDS}


@pytest.fixture
def window(qtbot, make_window):
    """Return a window that looks at a red box under a dome, its material chosen."""
    window = make_window()
    window.start_page.hide()
    session = window.session
    box = Thing(id="a", name="A", form=FORMS["box"](), material="m")
    red = Material(id="m", name="Red", base_color=(0.6, 0.05, 0.05), specular_weight=0.0)
    document = edit.changed(session.document, things=(box,), materials=(red,))
    view = edit.changed(document.view, eye=(2.0, -3.0, 2.0), target=(0.0, 0.0, 0.4), focal_mm=40)
    session.push(edit.put(document, "views", view), "Set")
    session.go_to("materials")
    session.choose("materials", "m")
    return window


def menu(row, *words: str) -> None:
    """Do what a row's menu offers, menu by menu."""
    found = row.menu()
    for word in words:
        found.aboutToShow.emit()
        action = next(a for a in found.actions() if a.text() == word)
        found = action.menu() or found
    action.trigger()


def steps(window):
    return window.session.document.find("materials", "m").steps


def test_a_too_perfect_surface_is_broken(qtbot, window):
    outline = window.sheets["materials"].outline
    kind_in(outline.kinds_menu(), "Fractal noise").trigger()
    (row,) = outline.rows
    row.parameter.setCurrentIndex(row.parameter.findText("Roughness"))
    row.parameter.activated.emit(row.parameter.currentIndex())
    kind_in(outline.kinds_menu(), "Levels").trigger()
    levels = next(row for row in outline.rows if isinstance(row.step, Levels))
    levels.parameter.activated.emit(levels.parameter.findText("Roughness"))
    assert [type(row.step) for row in outline.rows] == [Levels, Fractal], "the topmost first"
    outline.rows[0].picture.click()
    type_into(qtbot, outline.rows[0].form.editors["outlow"].entry, "0.4")
    type_into(qtbot, outline.rows[0].form.editors["outhigh"].entry, "0.7")
    noise, levels = steps(window)
    assert (noise.parameter, levels.parameter) == ("specular_roughness",) * 2
    assert (levels.outlow, levels.outhigh) == (0.4, 0.7)
    note = window.sheets["materials"].form._notes["specular_roughness"]
    assert note.text() == "Driven by levels, fractal noise."


def test_wear_is_a_mask_broken_by_noise_and_goes_along_to_other_parameters(qtbot, window):
    outline = window.sheets["materials"].outline
    kind_in(outline.kinds_menu(), "Colour").trigger()
    menu(outline.rows[0], "Drive one of its numbers with", "Amount", "Wear", "Edges")
    menu(outline.rows[0], "Drive one of its numbers with", "Amount", "Noises", "Fractal noise")
    menu(outline.rows[0], "Drive one of its numbers with", "Amount", "Colours and numbers", "Levels")
    assert [row.depth for row in outline.rows] == [0, 1, 1, 1]
    assert [type(s) for s in steps(window)[0].steps] == [Edges, Fractal, Levels]
    menu(outline.rows[0], "Take it along")
    outline.kinds_menu().actions()[-1].trigger()
    assert len(steps(window)) == 2
    menu(outline.rows[4], "Mix it with another by a mask")
    assert sum(step.kind == "mix" for step in steps(window)) == 1
    window.session.undo()
    menu(outline.rows[0], "Remove it")
    assert len(list(every(steps(window)))) == 4
    for _ in range(6):
        window.session.undo()
    assert steps(window) == ()


def test_one_step_alone_and_before_and_after_at_a_key(qtbot, window):
    session = window.session
    noise = Fractal(parameter="base_color", scale=0.2)
    session.edit(edit.alter, "materials", "m", steps=(noise,), label="Noise")

    window.run_command(BY_ID["picture.step-alone"])
    assert session.looked_at == ("m", (0,))
    assert window.sheets["materials"].outline.rows[0].picture.is_alone
    alone = session.seen.find("materials", "m")
    assert alone.emission_luminance > 0
    window.run_command(BY_ID["picture.before-patterns"])
    assert session.seen.find("materials", "m").steps == ()
    assert session.document.find("materials", "m").steps == (noise,), "the document is as it was"
    window.run_command(BY_ID["proof.live"])
    assert session.looked_at is None
    assert session.seen is session.document


def test_repeats_are_hidden_by_one_tick(qtbot, window):
    outline = window.sheets["materials"].outline
    session = window.session
    session.edit(edit.alter, "materials", "m", steps=(Picture(path="p.png"),), label="Picture")
    row = outline.rows[0]
    row.picture.click()
    row.form.editors["hide_repeats"].click()
    assert steps(window)[0].hide_repeats
    index = row.form.editors["where"].findData("sides")
    row.form.editors["where"].activated.emit(index)
    assert steps(window)[0].where == "sides"
    assert row.form.rows["spread"].isVisibleTo(row), "a soft edge between sides"
    assert not row.form.rows["uv_set"].isVisibleTo(row)


def test_what_a_step_cannot_be_is_told_and_changes_nothing(qtbot, window):
    outline, session, told = window.sheets["materials"].outline, window.session, []
    session.edit(edit.alter, "materials", "m", steps=(Picture(path="p.png", where="sides"),), label="Picture")
    session.said.connect(lambda words, is_wrong: told.append((words, is_wrong)))
    row = outline.rows[0]
    row.picture.click()
    before = steps(window)
    row.form.editors["size"].committed.emit((0.0, 1.0, 1.0), None)
    assert steps(window) == before
    assert "between" in told[-1][0]
    assert told[-1][1]
    for _ in range(8):
        menu(outline.rows[-1], "Drive one of its numbers with", "Amount", "Noises", "Noise")
    assert max(row.depth for row in outline.rows) == MOST_DEEP - 1
    assert "deep" in told[-1][0]


def pictures_of_oak(folder):
    """Write a set of pictures, 4 x 4."""
    for end, value in (("color", 0.3), ("roughness", 0.6), ("normal", 0.5)):
        picture.write(folder / f"oak_{end}.png", np.full((4, 4, 3), value, np.float32))
    return [str(folder / f"oak_{end}.png") for end in ("color", "roughness", "normal")]


def test_a_set_of_pictures_is_wired_at_once(qtbot, window, tmp_path, monkeypatch):
    names = pictures_of_oak(tmp_path)
    monkeypatch.setattr(files, "ask_open_files", lambda *_: names)
    window.sheets["materials"].outline.add_set.click()
    assert [(s.parameter, s.space) for s in steps(window)] == [
        ("base_color", "colour"),
        ("specular_roughness", "data"),
        ("geometry_normal", "data"),
    ]
    qtbot.waitUntil(lambda: len(window.session.assets.images) == 3, timeout=30000)
    window.session.undo()
    assert steps(window) == (), "one step back"


def test_pictures_dropped_on_a_thing_are_its_material(qtbot, window, tmp_path):
    names, session, told = pictures_of_oak(tmp_path), window.session, []
    session.said.connect(lambda words, is_wrong: told.append((words, is_wrong)))
    wait_for_picture(qtbot, window)
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(name) for name in names])
    x, y = projection.project(session.document.view, np.array([[0.0, 0.0, 0.5]]))[0][0]
    rect = window.picture.image_rect()
    at = QPointF(rect.left() + x * rect.width(), rect.top() + y * rect.height())
    copy, left, none = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    window.picture.dragEnterEvent(QDragEnterEvent(at.toPoint(), copy, data, left, none))
    window.picture.dropEvent(QDropEvent(at, copy, data, left, none))
    made = session.document.find("materials", session.document.find("things", "a").material)
    assert made.name == "oak"
    assert len(made.steps) == 3
    data.setUrls([QUrl.fromLocalFile(str(tmp_path / "holiday.png"))])
    before = session.document
    window.picture.dropEvent(QDropEvent(at, copy, data, left, none))
    assert session.document is before
    assert "does not say what it holds" in told[-1][0]


def test_a_pattern_is_kept_for_other_projects(qtbot, window, tmp_path):
    session, outline = window.session, window.sheets["materials"].outline
    picture.write(tmp_path / "mask.png", np.full((4, 4, 3), 0.5, np.float32))
    inner = Picture(parameter="amount", path=str(tmp_path / "mask.png"), space="data")
    worn = Fractal(parameter="specular_roughness", scale=0.07, steps=(inner,))
    session.edit(edit.alter, "materials", "m", steps=(worn,), label="Noise")
    menu(outline.rows[0], "Keep it as own pattern")
    qtbot.waitUntil(lambda: len(window.patterns.patterns) == 1, timeout=10000)
    session.edit(edit.alter, "materials", "m", steps=(), label="Clear")
    assert window.patterns.patterns[0].name == "Red, fractal noise"

    kind_in(outline.kinds_menu(), "Red, fractal noise").trigger()
    assert steps(window) == (worn,), "with what is inside of it, its picture found again"
    off = next(a.menu() for a in outline.kinds_menu().actions() if a.text() == "Own patterns")
    gone = next(a.menu() for a in off.actions() if a.menu())
    gone.actions()[0].trigger()
    qtbot.waitUntil(lambda: not window.patterns.patterns, timeout=10000)


def test_rows_are_dragged_among_those_that_drive_the_same(qtbot, window):
    session, outline = window.session, window.sheets["materials"].outline
    three = tuple(Fractal(parameter="base_color", scale=scale) for scale in (0.1, 0.2, 0.3))
    other = Levels(parameter="specular_roughness")
    session.edit(edit.alter, "materials", "m", steps=(*three, other), label="Steps")
    assert [row.step.parameter for row in outline.rows] == ["base_color"] * 3 + ["specular_roughness"]

    def drag(row, to):
        label = row.kind.geometry().center()
        end = row.mapFromGlobal(to.mapToGlobal(QPoint(4, to.height() - 2)))
        QTest.mousePress(row, Qt.MouseButton.LeftButton, pos=label)
        QTest.mouseMove(row, QPoint(label.x(), (label.y() + end.y()) // 2))
        QTest.mouseMove(row, QPoint(label.x(), end.y()))
        assert outline.mark.isVisibleTo(outline) == (to is not row)
        QTest.mouseRelease(row, Qt.MouseButton.LeftButton, pos=QPoint(label.x(), end.y()))
        assert not outline.mark.isVisibleTo(outline)

    drag(outline.rows[0], outline.rows[2])  # the topmost below all others of its own
    assert [step.scale for step in steps(window)[:3]] == [0.3, 0.1, 0.2]
    drag(outline.rows[2], outline.rows[2])
    drag(outline.rows[0], outline.rows[3])  # past what drives something else it is the lowest of its own
    assert [step.scale for step in steps(window)[:3]] == [0.2, 0.3, 0.1]
    assert steps(window)[3] == other
    session.undo()
    assert [step.scale for step in steps(window)[:3]] == [0.3, 0.1, 0.2], "one step back"


def key(window, id: str) -> None:
    """Press the key of a command of the Patterns menu."""
    command = BY_ID[f"patterns.{id}"]
    assert command.keys
    window.run_command(command)


def test_all_that_a_row_does_has_a_key(qtbot, window, tmp_path, monkeypatch):
    """Three noises are taken in hand in turn, muted, moved, mixed, copied, taken along, put and removed."""
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    outline, session = window.sheets["materials"].outline, window.session
    noises = tuple(Fractal(scale=scale) for scale in (0.1, 0.2, 0.3))
    session.edit(edit.alter, "materials", "m", steps=noises, label="Noises")
    in_hand = lambda: next(p.step for p in outline._places if p.path == outline.path_in_hand())  # noqa: E731
    window.activateWindow()
    key(window, "next")
    qtbot.waitUntil(lambda: outline.rows[1].picture.hasFocus())
    assert in_hand() == noises[1], "rows go from the topmost down"
    key(window, "mute")
    assert [step.on for step in steps(window)] == [True, False, True]
    key(window, "mute")
    key(window, "up")
    assert [step.scale for step in steps(window)] == [0.1, 0.3, 0.2]
    assert in_hand().scale == 0.2, "what was moved stays in hand"
    key(window, "down")
    key(window, "down")
    assert [step.scale for step in steps(window)] == [0.2, 0.1, 0.3]
    key(window, "last")
    key(window, "open")
    assert next(row for row in outline.rows if row.step is in_hand()).picture.isChecked()
    key(window, "copy")
    assert len(steps(window)) == 4
    key(window, "take")
    key(window, "put")
    assert len(steps(window)) == 5
    assert steps(window)[-1].scale == session.held_step.scale
    key(window, "remove")
    assert len(steps(window)) == 4
    key(window, "mix")
    assert sum(step.kind == "mix" for step in steps(window)) == 1
    key(window, "menu")
    key(window, "add")
    assert any(isinstance(widget, QMenu) for widget in QApplication.topLevelWidgets())
    for widget in QApplication.topLevelWidgets():
        if isinstance(widget, QMenu):
            widget.close()


def test_keys_of_patterns_do_nothing_elsewhere(window):
    window.session.edit(edit.alter, "materials", "m", steps=(Fractal(),), label="Noise")
    window.session.go_to("set")
    of_patterns = [command for command in COMMANDS if command.menu == "Patterns"]
    assert len(of_patterns) >= 16
    window.session.held_step = Fractal()
    assert not any(command.enabled(window) for command in of_patterns)
    window.session.go_to("materials")
    assert all(command.enabled(window) for command in of_patterns)
    assert len({c.keys for c in COMMANDS if c.keys}) == sum(bool(c.keys) for c in COMMANDS)

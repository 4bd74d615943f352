"""J7 and J4 through the real window: tiles and frames, pictures thrown from a camera, curves, distance to a thing."""

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from nocturne.io import picture
from nocturne.scene import edit
from nocturne.scene.forms import KINDS as FORMS
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Picture
from nocturne.scene.thing import Thing
from nocturne.ui import files
from tests.jobs.test_patterns import menu, steps
from tests.ui.test_materials import kind_in


@pytest.fixture
def window(qtbot, make_window):
    """Return a window that looks at a box beside a ball, the box's material chosen."""
    window = make_window()
    window.start_page.hide()
    session = window.session
    box = Thing(id="a", name="Box", form=FORMS["box"](), material="m")
    ball = Thing(id="b", name="Ball", form=FORMS["ball"](), material="m", place=(1.5, 0, 0))
    plain = Material(id="m", name="Plain")
    session.push(edit.changed(session.document, things=(box, ball), materials=(plain,)), "Set")
    session.go_to("materials")
    session.choose("materials", "m")
    return window


def write(path, value: float = 0.5) -> str:
    picture.write(path, np.full((4, 4, 3), value, np.float32))
    return str(path)


def texts(row) -> list[str]:
    return [action.text() for action in row.menu().actions()]


def test_a_tile_that_is_chosen_brings_its_set(qtbot, window, tmp_path, monkeypatch):
    said = []
    window.session.said.connect(lambda words, wrong: said.append(words))
    for number in (1001, 1002, 1011):
        write(tmp_path / f"wall.{number}.png", number / 2000)
    monkeypatch.setattr(files, "ask_open_file", lambda *_: str(tmp_path / "wall.1002.png"))
    outline = window.sheets["materials"].outline
    outline.add.click()
    (step,) = steps(window)
    assert step.path.endswith("wall.<UDIM>.png")
    assert any("one of 3 tiles" in words for words in said)
    qtbot.waitUntil(lambda: step.picture in window.session.assets.images)
    assert window.session.assets.images[step.picture].shape == (2, 2, 4, 4, 3)
    menu(outline.rows[0], "Read it as one picture")
    assert steps(window)[0].path.endswith("wall.1001.png")
    menu(outline.rows[0], "Read it as a set of tiles")
    assert steps(window) == (step,)


def test_a_sequence_shows_the_frame_that_is_typed(qtbot, window, tmp_path, monkeypatch):
    for number in (1, 2, 3):
        write(tmp_path / f"fire.{number:02d}.png", number / 4)
    monkeypatch.setattr(files, "ask_open_file", lambda *_: str(tmp_path / "fire.02.png"))
    outline = window.sheets["materials"].outline
    outline.add.click()
    (row,) = outline.rows
    row.picture.click()
    assert not row.form.rows["frame_number"].isVisibleTo(row.form)
    menu(row, "Read it as a sequence of frames")
    assert (steps(window)[0].frame_number, steps(window)[0].path[-11:]) == (2, "fire.##.png")
    assert row.form.rows["frame_number"].isVisibleTo(row.form)
    row.form.editors["frame_number"].committed.emit(3, None)
    step = steps(window)[0]
    qtbot.waitUntil(lambda: step.picture in window.session.assets.images)
    assert step.picture[0].endswith("fire.03.png")
    menu(row, "Read it as one picture")
    assert steps(window)[0].path.endswith("fire.03.png")


def test_a_picture_is_thrown_from_where_the_view_stands(window, tmp_path):
    path = write(tmp_path / "paint.png")
    window.session.edit(edit.alter, "materials", "m", steps=(Picture(path=path),), label="Picture")
    outline = window.sheets["materials"].outline
    menu(outline.rows[0], "Throw it from this view's camera")
    step, view = steps(window)[0], window.session.document.view
    assert (step.where, step.anchor, step.wrap) == ("camera", "set", "under")
    assert step.origin == pytest.approx(view.eye)
    window.session.edit(edit.alter, "views", view.id, projection="panorama", label="Panorama")
    said = []
    window.session.said.connect(lambda words, wrong: said.append((words, wrong)))
    menu(outline.rows[0], "Throw it from this view's camera")
    assert steps(window) == (step,)
    assert said[-1][1]


def test_a_curve_is_drawn_by_hand(qtbot, window):
    outline = window.sheets["materials"].outline
    kind_in(outline.kinds_menu(), "Curve").trigger()
    (row,) = outline.rows
    row.picture.click()
    editor = row.form.editors["points"]
    editor.resize(200, 160)
    at = editor.at((0.5, 0.5))
    QTest.mousePress(editor, Qt.MouseButton.LeftButton, pos=at.toPoint())
    QTest.mouseMove(editor, editor.at((0.5, 0.8)).toPoint())
    QTest.mouseRelease(editor, Qt.MouseButton.LeftButton, pos=editor.at((0.5, 0.8)).toPoint())
    (_, middle, _) = steps(window)[0].points
    assert middle == pytest.approx((0.5, 0.8), abs=0.03)
    QTest.mouseDClick(editor, Qt.MouseButton.LeftButton, pos=editor.at(middle).toPoint())
    assert len(steps(window)[0].points) == 2
    QTest.keyClick(editor, Qt.Key.Key_Up)
    assert steps(window)[0].points[0] == pytest.approx((0, 0.05))
    assert editor.at((0, 0)) == QPointF(editor._room().left(), editor._room().bottom())


def test_the_thing_whose_distance_is_asked_is_chosen_by_its_name(window):
    outline = window.sheets["materials"].outline
    kind_in(outline.kinds_menu(), "Distance to a thing").trigger()
    (row,) = outline.rows
    row.picture.click()
    choice = row.form.editors["thing"]
    assert [choice.itemText(i) for i in range(choice.count())] == ["Nothing", "Box", "Ball"]
    choice.activated.emit(choice.findText("Ball"))
    assert steps(window)[0].thing == "b"


def test_sets_of_tiles_are_wired_by_how_their_names_end(qtbot, window, tmp_path):
    paths = [tmp_path / f"oak_{end}.{number}.png" for end in ("color", "normal") for number in (1001, 1002)]
    for path in paths:
        write(path)
    window.sheets["materials"].wiring.wire("m", paths)
    assert [(step.parameter, step.path.rpartition("/")[2]) for step in steps(window)] == [
        ("base_color", "oak_color.<UDIM>.png"),
        ("geometry_normal", "oak_normal.<UDIM>.png"),
    ]

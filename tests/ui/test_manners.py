"""What the window does without being asked twice: dropped files, messages, strips, what is picked and remembered."""

import numpy as np
import pytest
from PySide6.QtCore import QCoreApplication, QEvent, QMimeData, QPoint, QPointF, QSettings, Qt, QUrl
from PySide6.QtGui import QDropEvent, QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from nocturne.io import project
from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.desk import Strip
from nocturne.scene.document import Document
from nocturne.ui import files
from tests.ui.test_typing import small

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def window(make_window, tmp_path, monkeypatch):
    """Return a window on a small set, closed to dialogs."""
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    monkeypatch.chdir(tmp_path)
    monkeypatch.setattr(files, "ask_unsaved", lambda *_: "drop")
    made = make_window(small())
    made.start_page.hide()
    return made


def drop(window, *paths) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    at = QPointF(window.picture.rect().center())
    action, keys = Qt.DropAction.CopyAction, Qt.KeyboardModifier.NoModifier
    window.picture.dropEvent(QDropEvent(at, action, data, LEFT, keys))


def test_a_dropped_project_opens(qtbot, window, tmp_path):
    project.save_document(tmp_path / "other.nocturne", Document(name="Other"))
    drop(window, tmp_path / "other.nocturne")
    qtbot.waitUntil(lambda: window.session.document.name == "Other", timeout=60000)


def test_a_picture_dropped_while_light_is_set_is_an_environment(window, tmp_path):
    for name in ("one.png", "two.png"):
        QImage(16, 8, QImage.Format.Format_RGB32).save(str(tmp_path / name))
    window.session.go_to("light")
    drop(window, tmp_path / "one.png")
    light = window.session.document.lights[-1]
    assert (light.kind, light.image.rpartition("/")[2]) == ("environment", "one.png")
    n = len(window.session.document.lights)
    drop(window, tmp_path / "two.png")
    assert len(window.session.document.lights) == n, "the one there is shines as the other picture does"
    assert window.session.document.lights[-1].image.endswith("two.png")


def test_a_sentence_too_long_for_the_line_is_read_whole_and_the_last_twenty_are_kept(window):
    line = window.state_line
    long = "What was brought in has materials whose pictures are missing, lights that nobody knows, and more. " * 4
    window.session.said.emit(long, False)
    assert line.messages.isVisible()
    assert long in line.messages.words()
    window.session.said.emit("Short.", False)
    assert not line.messages.isVisible()
    for i in range(30):
        window.session.said.emit(f"Sentence {i}.", False)
    QTest.mouseClick(line.log, LEFT)
    words = line.messages.words()
    assert [f"Sentence {i}." in words for i in (9, 10, 29)] == [False, True, True]
    QTest.mouseClick(line.log, LEFT)
    assert not line.messages.isVisible()


def test_strips_stay_while_others_come_and_what_was_picked_for_one_that_went_is_told(window):
    desk = window.desk
    strip = desk.strips["light"]
    window.pick_colour(strip.tint)
    window.choice.add_light("rect")
    assert desk.strips["light"] is strip
    window._on_colour_picked((0.5, 0.2, 0.1))
    assert window.session.document.strip("light").tint == (0.5, 0.2, 0.1)

    chip = desk.strips["rectangle"].tint if "rectangle" in desk.strips else list(desk.strips.values())[-1].tint
    window.pick_colour(chip)
    window.session.undo()
    window.session.undo()
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    window._on_colour_picked((0.1, 0.2, 0.1))
    assert "not shown any more" in window.state_line.message.words()


def test_a_new_project_has_no_strips_until_there_is_light(window):
    window.session.open(Document(), Assets(), None)
    assert not window.desk.strips
    window.choice.add_light("rect")
    assert list(window.desk.strips) == [window.session.document.lights[0].group]


def test_undo_ends_a_blend(qtbot, window):
    desk, session = window.desk, window.session
    session.edit(edit.set_strip, "light", label="Fader", stops=2.0)
    desk.keep()
    desk.reset()
    desk.seconds.show_value(30.0)
    desk.recall(session.document.cues[-1].id)
    qtbot.waitUntil(lambda: session.document.strip("light").stops > 0, timeout=60000)
    session.undo()
    assert not desk._clock.isActive()
    assert session.document.strip("light") == Strip(group="light")


def test_keys_move_no_camera_that_is_not_shown(qtbot, window, monkeypatch):
    qtbot.waitUntil(lambda: window.picture.print is not None, timeout=120000)
    eye = window.session.document.view.eye
    frame = window.picture.print.frame
    object.__setattr__(frame, "prepared", None)
    window.picture.setFocus()
    QTest.keyClick(window.picture, Qt.Key.Key_Left)
    assert window.session.document.view.eye == eye


def test_lamps_stand_beside_each_other(window):
    for _ in range(3):
        window.choice.add_light("sphere")
    places = {light.place for light in window.session.document.lights[-3:]}
    assert len(places) == 3


def test_a_room_is_seen_from_inside(window):
    window.session.open(Document(), Assets(), None)
    window.choice.add_form("room")
    view, room = window.session.document.view, window.session.document.things[0].form
    assert abs(view.eye[0]) < room.width / 2
    assert abs(view.eye[1]) < room.depth / 2
    assert 0 < view.eye[2] < room.height
    sun = next(light for light in window.session.document.lights if light.kind == "sun")
    # It stands before the wall with the window, the back one: towards +y.
    assert 20 < sun.azimuth_deg < 160


def test_a_first_thing_is_lit_over_the_shoulder(window):
    window.session.open(Document(), Assets(), None)
    window.choice.add_form("box")
    document = window.session.document
    view, sun = document.view, next(light for light in document.lights if light.kind == "sun")
    back = np.subtract(view.eye, view.target)[:2]
    towards = np.array((np.cos(np.radians(sun.azimuth_deg)), np.sin(np.radians(sun.azimuth_deg))))
    assert back @ towards / np.linalg.norm(back) > 0.5
    ground = next(thing for thing in document.things if thing.form.kind == "ground")
    assert ground.form.width > 100


def test_stage_and_what_is_folded_come_back(make_window):
    first = make_window()
    first.session.go_to("light")
    first.fold("foot")
    first.close()
    second = make_window()
    assert second.session.stage == "light"
    assert second.parts["foot"].isHidden()
    assert not second.parts["list"].isHidden()


def test_the_window_fits_the_screen(window):
    room = window.screen().availableGeometry()
    window.resize(room.width() + 300, room.height() + 300)
    window.move(QPoint(50, 50))
    window.fit_to_screen()
    assert room.contains(window.frameGeometry()) or window.width() <= max(room.width(), window.minimumWidth())
    assert window.height() <= max(room.height(), window.minimumHeight())


def test_recent_projects_are_in_the_menu(window, tmp_path):
    project.save_document(tmp_path / "shop.nocturne", Document(name="Shop"))
    window.projects._remember(tmp_path / "shop.nocturne")
    menu = next(a.menu() for a in window.menuBar().actions()[0].menu().actions() if a.text() == "Recent projects")
    menu.aboutToShow.emit()
    assert menu.actions()[0].text().startswith("shop")


def test_dialogs_begin_where_something_was_chosen_last(window, tmp_path, monkeypatch):
    monkeypatch.undo()
    began = []
    (tmp_path / "here").mkdir()

    def ask(parent, title, start, pattern):
        began.append(start)
        return str(tmp_path / "here" / "a.png"), ""

    monkeypatch.setattr(QFileDialog, "getOpenFileName", ask)
    for _ in range(2):
        files.ask_open_file(window, "Choose a picture", "*", "/")
    assert began == ["/", str(tmp_path / "here")]
    QSettings("Nocturne", "Nocturne").clear()


def test_lights_are_turned_on_and_off_in_their_list(window):
    window.session.go_to("light")
    panel, session = window.lists["light"], window.session
    row = panel.view.item(0)
    assert row.checkState() == Qt.CheckState.Checked
    row.setCheckState(Qt.CheckState.Unchecked)
    assert not session.document.lights[0].on
    session.choose_many("lights", ("l0", "l1", "l2"))
    panel.view.item(0).setCheckState(Qt.CheckState.Checked)
    panel.view.item(1).setCheckState(Qt.CheckState.Unchecked)
    assert not any(light.on for light in session.document.lights), "of several chosen ones all"
    session.undo()
    assert panel.view.item(1).checkState() == Qt.CheckState.Checked


def test_all_passes_at_once(window):
    sheet = window.export_sheet
    QTest.mouseClick(sheet.all_passes, LEFT, Qt.KeyboardModifier.NoModifier, QPoint(8, 8))
    n = sheet.passes.count()
    assert all(sheet.passes.item(i).checkState() == Qt.CheckState.Checked for i in range(n))
    sheet.passes.item(2).setCheckState(Qt.CheckState.Unchecked)
    assert not sheet.all_passes.isChecked()

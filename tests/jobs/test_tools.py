"""J1, J4 and the cutaway through the real window: pivots, snapping, pictures by hand, cuts, facing, pieces, views."""

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt
from PySide6.QtGui import QDropEvent

from nocturne.engine.pick import pick
from nocturne.io import picture
from nocturne.pieces import shelf
from nocturne.scene import edit, placing, projection
from nocturne.scene.forms import KINDS as FORMS
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Picture
from nocturne.scene.thing import Thing
from nocturne.ui import files, live
from nocturne.ui.commands import COMMANDS
from nocturne.ui.panels.array import ArrayCard
from nocturne.ui.view.hands.dropping import PIECE_MIME
from tests.ui.test_widgets import drag
from tests.ui.waiting import stand_still

LEFT, CTRL = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier
BY_ID = {command.id: command for command in COMMANDS}


def run(window, id: str) -> None:
    window.run_command(BY_ID[id])


def at(window, point) -> QPoint:
    """Return where a point of the set lies in the picture's widget."""
    (u, v), _ = projection.project(window.session.document.view, np.array(point, float))
    rect = window.picture.image_rect()
    return QPointF(rect.left() + u * rect.width(), rect.top() + v * rect.height()).toPoint()


@pytest.fixture
def window(qtbot, make_window):
    """Return a window that looks down on two boxes, its picture at rest."""
    window = make_window()
    window.start_page.hide()
    session, box = window.session, FORMS["box"]
    things = (
        Thing(id="a", name="A", form=box(), material="m"),
        Thing(id="b", name="B", form=box(), place=(2.0, 0.0, 0.0), material="m"),
    )
    step = Picture(parameter="base_color", path="p.png")
    document = edit.changed(session.document, things=things, materials=(Material(id="m", steps=(step,)),))
    view = edit.changed(document.view, eye=(1.0, -5.0, 4.0), target=(1.0, 0.0, 0.4), focal_mm=40)
    session.push(edit.put(document, "views", view), "Set")
    shown(qtbot, window)
    return window


def shown(qtbot, window) -> None:
    """Wait until what is seen is of the document as it is now."""
    window.renders.request()
    things, view = window.session.document.things, window.session.document.view

    def is_there() -> bool:
        prepared = window.picture.print.frame.prepared if window.picture.print is not None else None
        return prepared is not None and prepared.view == view and prepared.document.things == things

    qtbot.waitUntil(is_there, timeout=120000)
    stand_still(qtbot, window)


def test_pivots_are_set_and_what_is_dragged_is_caught(qtbot, window):
    session = window.session
    session.choose("things", "a")
    run(window, "things.pivot")
    qtbot.mouseClick(window.picture, LEFT, Qt.KeyboardModifier.NoModifier, at(window, (0.5, -0.5, 1.0)))
    assert placing.centre(session.document, "things", "a") == pytest.approx((0.5, -0.5, 1.0), abs=0.01), "the corner"
    assert session.document.placement("a")[:3, 3] == pytest.approx((0, 0, 0), abs=0.01)
    # Dragged by its ring with Ctrl, the pivot is caught by a corner of the other box.
    drag(window.picture, at(window, (0.5, -0.5, 1.0)), at(window, (1.5, -0.5, 1.0)) + QPoint(4, 3), modifier=CTRL)
    assert placing.centre(session.document, "things", "a") == pytest.approx((1.5, -0.5, 1.0), abs=0.01)
    session.undo()
    run(window, "things.pivot-floor")
    assert session.document.find("things", "a").pivot == pytest.approx((0, 0, 0), abs=1e-6)
    sheet = window.sheets["set"]
    sheet.show_document(session.document)
    session.edit(sheet.change, "a", pivot=(0.0, 0.0, 0.5), label="Pivot")
    assert session.document.placement("a")[:3, 3] == pytest.approx((0, 0, 0), abs=1e-6)


def test_an_array_along_points_and_faces_turned_over_and_shown(qtbot, window, tmp_path, monkeypatch):
    monkeypatch.setattr(live, "MOST_PIXELS", 30_000)  # so that the small things cover some
    session = window.session
    session.choose("things", "b")
    (tmp_path / "line.csv").write_text("0 3 0\n6 3 0\n")
    monkeypatch.setattr(files, "ask_open_file", lambda *_: str(tmp_path / "line.csv"))
    card = ArrayCard(window, window.choice.array, window.projects.ask_points)
    card.how.setCurrentIndex(card.how.findData("points"))
    assert not card.make.isEnabled()
    card.file.click()
    card.number.show_value(4)
    card.unique.setChecked(True)
    card.make.click()
    assert len(session.document.things) == 5
    assert {round(float(session.document.placement(t.id)[0, 3]), 4) for t in session.document.things[1:]} == {
        0,
        2,
        4,
        6,
    }
    assert len({t.material for t in session.document.things}) == 5 - 1, "three have one of their own"
    session.undo()
    session.choose("things", "a")
    run(window, "things.turn-over")
    run(window, "picture.facing")
    shown(qtbot, window)

    def veiled(point) -> bool:
        image, rect = window.picture.behind, window.picture.image_rect()
        there = at(window, point) - rect.topLeft().toPoint()
        x, y = there.x() * image.width() / rect.width(), there.y() * image.height() / rect.height()
        return image.pixelColor(int(x), int(y)).alpha() > 0

    # What it was before it was turned over may be looked at first.
    qtbot.waitUntil(lambda: window.picture.behind is not None and veiled((0.0, -0.5, 0.4)), timeout=60000)
    assert not veiled((2.0, -0.5, 0.4))
    run(window, "picture.facing")
    assert window.picture.behind is None


def test_pictures_are_moved_turned_and_sized_by_hand(qtbot, window, tmp_path):
    session, hand = window.session, window.picture.laying
    picture.write(tmp_path / "p.png", np.zeros((4, 4, 3)))
    run(window, "things.lay-pictures")

    def uv(point) -> np.ndarray:
        """Return the first box's texture coordinates at a point of its top."""
        mesh = session.assets.shape(session.document.find("things", "a"))
        corners = mesh.vertices[mesh.triangles].astype(float)
        top = np.flatnonzero((corners[..., 2] > 0.999).all(1))
        for t in top:
            p = corners[t]
            w = np.linalg.solve(np.vstack([p[:, :2].T, np.ones(3)]), (*point[:2], 1.0))
            if (w > -1e-6).all():
                return w @ mesh.uvs[mesh.triangles[t]]
        raise AssertionError(point)

    start, end = np.array((-0.1, 0.1, 1.0)), np.array((0.2, 0.0, 1.0))
    before = uv(start)
    drag(window.picture, at(window, start), at(window, end))
    assert uv(end) == pytest.approx(before, abs=0.02), "the picture keeps to the pointer"
    assert hand.spot is not None
    assert len(window.picture.drawn) == 7
    spot, anchor = hand.spot, uv(hand.spot.point)
    turn_dot, size_dot = hand._dots()
    drag(window.picture, at(window, turn_dot), at(window, spot.point + spot.up * np.linalg.norm(turn_dot - spot.point)))
    assert abs(abs(session.document.find("things", "a").uv_turn_deg) - 90.0) < 4
    assert uv(spot.point) == pytest.approx(anchor, abs=0.02)
    size_dot = hand._dots()[1]
    drag(window.picture, at(window, size_dot), at(window, hand.spot.point + (size_dot - hand.spot.point) * 1.5))
    assert session.document.find("things", "a").uv_size == pytest.approx(1.5, rel=0.06)
    run(window, "proof.live")
    assert (window.picture.mode, window.picture.drawn) == ("choose", ())
    for _ in range(3):
        session.undo()
    assert session.document.find("things", "a").uv_size == 1.0


def test_the_choice_is_cut_open_from_where_the_camera_is(qtbot, window):
    session = window.session
    session.choose("things", "a")
    run(window, "things.cut-box")
    cut = session.document.find("things", session.chosen["things"])
    assert cut.cutaway.of == ("a",)
    shown(qtbot, window)
    prepared = window.picture.print.frame.prepared

    def seen(point):
        rect, there = window.picture.image_rect(), at(window, point)
        u, v = (there.x() - rect.left()) / rect.width(), (there.y() - rect.top()) / rect.height()
        return pick(prepared, u * prepared.width, v * prepared.height)

    hit = seen((0.0, 0.0, 0.5))
    assert hit.id == "a"
    assert hit.point[1] == pytest.approx(0.0, abs=0.03), "the near half is gone: its cut face is seen"
    assert seen((2.0, -0.5, 0.5)).point[1] == pytest.approx(-0.5, abs=0.03)
    editor = window.sheets["set"].cutaway
    assert editor.isVisibleTo(window)
    closed = editor.form.editors["closed"]
    closed.click()
    assert not session.document.find("things", cut.id).cutaway.closed
    editor.cut.add.setCurrentIndex(editor.cut.add.findText("B"))
    editor.cut.add.activated.emit(editor.cut.add.currentIndex())
    assert session.document.find("things", cut.id).cutaway.of == ("a", "b")
    kind = editor.form.editors["kind"]
    kind.setCurrentIndex(kind.findData("ball"))
    kind.activated.emit(kind.currentIndex())
    assert editor.form.rows["radius"].isVisibleTo(window)
    assert not editor.form.rows["width"].isVisibleTo(window)


def test_pieces_are_found_dropped_kept_and_named(qtbot, window):
    session, strip = window.session, window.feet["pieces"]
    run(window, "things.pieces")
    strip.words.setText("grey ball")
    assert strip.view.count() == 1
    data = strip.view.mimeData([strip.view.item(0)])
    assert bytes(data.data(PIECE_MIME)).decode() == "shipped-grey-ball"

    def drop(data: QMimeData, point) -> None:
        actions, button = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton
        there = QPointF(at(window, point))
        event = QDropEvent(there, actions, data, button, Qt.KeyboardModifier.NoModifier, QEvent.Type.Drop)
        window.picture.dropEvent(event)

    drop(data, (2.0, 0.0, 1.0))
    ball = session.document.find("things", session.chosen["things"])
    assert ball.place == pytest.approx((2.0, 0.0, 1.0), abs=0.03), "upright on what was under the pointer"
    qtbot.waitUntil(lambda: window.thumbs.known("piece shipped-grey-ball") is not None, timeout=120000)
    assert not strip.view.item(0).icon().isNull()
    strip.words.setText("")
    # Two things are kept as one piece, named, put in again, and taken off the shelf.
    session.choose_many("things", ("a", "b"))
    run(window, "things.keep-piece")
    qtbot.waitUntil(lambda: any(p.is_own for p in window.pieces.pieces.values()), timeout=60000)
    own = next(p for p in window.pieces.pieces.values() if p.is_own)
    assert own.name == "B"
    item = next(i for i in map(strip.view.item, range(strip.view.count())) if i.text() == "B")
    item.setText("Pair")
    qtbot.waitUntil(lambda: any(p.name == "Pair" for p in window.pieces.pieces.values()), timeout=60000)
    n = len(session.document.things)
    strip.used.emit(own.id)
    qtbot.waitUntil(lambda: len(session.document.things) == n + 3, timeout=60000)
    strip.used.emit(own.id)
    qtbot.waitUntil(lambda: len(session.document.things) == n + 6, timeout=60000)
    boxes = [t for t in session.document.things if t.form is not None and t.form.kind == "box"]
    assert len(boxes) == 6
    assert len({t.material for t in boxes[2:]}) == 1, "copies of one piece share their material"
    strip.removed.emit(own.id)
    qtbot.waitUntil(lambda: not any(p.is_own for p in window.pieces.pieces.values()), timeout=60000)
    assert shelf.own()[0] == []


def test_views_show_what_they_see_and_are_parallel_or_all_around(qtbot, window):
    session = window.session
    session.go_to("camera")
    list_ = window.lists["camera"]

    def shown() -> int:
        return list_.view.item(0).icon().actualSize(list_.view.iconSize()).width()

    qtbot.waitUntil(lambda: shown() > 40, timeout=120000)
    before = window.thumbs.known(f"view {session.document.view.id}")
    sheet = window.sheets["camera"]
    kind = sheet.form.editors["projection"]
    for name, shown_field in (("orthographic", "span_m"), ("panorama", "width"), ("perspective", "focal_mm")):
        kind.setCurrentIndex(kind.findData(name))
        kind.activated.emit(kind.currentIndex())
        assert session.document.view.projection == name
        assert sheet.form.rows[shown_field].isVisibleTo(sheet)
    assert not sheet.form.rows["span_m"].isVisibleTo(sheet)
    session.edit(edit.alter, "things", "a", place=(0.0, 0.0, 1.0), label="Move")
    qtbot.waitUntil(lambda: window.thumbs.known(f"view {session.document.view.id}") is not before, timeout=120000)
    # The focus keeps to what is in the middle, wherever the view goes.
    session.edit(edit.alter, "views", session.document.view.id, depth_of_field=True, label="Blur")
    sheet.form.editors["focus_middle"].click()
    assert session.document.view.focus_middle
    assert not sheet.form.rows["focus_m"].isVisibleTo(sheet)

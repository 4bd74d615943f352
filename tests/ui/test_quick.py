"""What keeps the interface quick: layers, pages that wait, threads that give way."""

import os
import threading
from contextlib import suppress

import pytest
from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from nocturne.jobs import Update, give_way
from nocturne.scene import edit
from nocturne.scene.finish import STEPS
from nocturne.ui.readying import Readier, paint_in_turn
from nocturne.ui.widgets.layer import Layer
from tests.ui.test_window import pixels, wait_for_picture
from tests.ui.waiting import stand_still


def canvas(ratio: int = 1) -> QImage:
    """Return a black image of 40 x 30 points."""
    image = QImage(40 * ratio, 30 * ratio, QImage.Format.Format_RGB32)
    image.setDevicePixelRatio(ratio)
    image.fill(QColor("#000000"))
    return image


@pytest.mark.parametrize("ratio", [1, 2])
def test_a_layer_is_drawn_once_and_lies_where_it_should(qtbot, ratio):
    layer, drawn = Layer(), []

    def paint(painter: QPainter) -> None:
        drawn.append(1)
        painter.fillRect(QRectF(12, 8, 6, 4), QColor("#ffffff"))
        painter.fillRect(QRectF(0, 0, 5, 5), QColor("#ff0000"))  # outside of the area

    def shown(key: object) -> QImage:
        image = canvas(ratio)
        painter = QPainter(image)
        layer.draw(painter, QRectF(10, 5, 20, 15), key, paint)
        painter.end()
        return image

    first = pixels(shown("a")) > 128
    assert first[8 * ratio : 12 * ratio, 12 * ratio : 18 * ratio].all()
    assert first[..., 1].sum() == 24 * ratio**2
    assert not first[: 5 * ratio, : 5 * ratio].any(), "what lies outside of the area is cut"
    assert (pixels(shown("a")) > 128).tolist() == first.tolist()
    assert len(drawn) == 1
    shown("b")
    assert len(drawn) == 2
    image = canvas()
    painter = QPainter(image)
    layer.draw(painter, QRectF(50, 50, 0, 0), "c", paint)
    painter.end()
    assert len(drawn) == 2, "nothing is drawn where there is no room"


def test_unseen_pages_get_their_dress_bit_by_bit(qtbot):
    holder, page = QWidget(), QWidget()
    qtbot.addWidget(holder)
    page.setParent(holder)
    page.hide()
    column = QVBoxLayout(page)
    for i in range(300):
        column.addWidget(QLabel(f"Row {i}"))
    holder.resize(300, 400)
    holder.show()
    labels = page.findChildren(QLabel)
    assert len({label.y() for label in labels}) == 1, "nothing is laid out yet"
    readier = Readier(holder, [page])
    readier.start()
    qtbot.waitUntil(lambda: not readier._timer.isActive(), timeout=120000)
    assert len({label.y() for label in labels}) == 300
    assert page.size() == holder.size()
    assert not page.isVisible()


def test_pages_wait_for_the_first_picture(qtbot, make_window, demo):
    window = make_window(demo)
    assert not window._readier._timer.isActive(), "it would compete with the picture"
    wait_for_picture(qtbot, window)
    assert window._readier._has_begun


def test_a_closed_window_makes_nothing_ready(qtbot, make_window, demo):
    first = make_window(demo)
    first.close()
    second = make_window(demo)
    wait_for_picture(qtbot, second)
    first._on_print(second.picture.print)  # as one that was on its way while the window was closed
    assert not first._readier._timer.isActive()


def test_forms_of_finishing_steps_are_there_before_they_are_wanted(qtbot, make_window, demo):
    window = make_window(demo)
    wait_for_picture(qtbot, window)
    sheet = window.sheets["finish"]
    qtbot.waitUntil(lambda: set(sheet.forms) == set(STEPS), timeout=120000)
    assert not any(form.isVisibleTo(sheet) for form in sheet.forms.values())
    window.session.go_to("finish")
    step = window.session.document.finish.steps[-1]
    window.session.choose("steps", step.id)
    shown = [kind for kind, form in sheet.forms.items() if form.isVisibleTo(sheet)]
    assert shown == [step.kind]


def test_parts_of_a_window_are_painted_one_after_another_and_all_of_them(qtbot):
    painted = []

    class Part(QWidget):
        def paintEvent(self, event) -> None:
            painted.append(self.objectName())

    holder = QWidget()
    qtbot.addWidget(holder)
    row = QHBoxLayout(holder)
    parts = []
    for name in "abc":
        part = Part()
        part.setObjectName(name)
        part.setMinimumSize(40, 40)
        row.addWidget(part)
        parts.append(part)
    holder.show()
    qtbot.waitUntil(lambda: set(painted) == set("abc"), timeout=120000)
    painted.clear()
    paint_in_turn(parts)
    holder.update()
    qtbot.waitUntil(lambda: len(set(painted)) == 3, timeout=120000)
    assert sorted(set(painted), key=painted.index) == list("abc")
    assert all(part.updatesEnabled() for part in parts)


def test_a_sheet_that_is_not_seen_is_filled_when_it_is_opened(qtbot, make_window, demo):
    window = make_window(demo)
    wait_for_picture(qtbot, window)
    window.session.choose("lights", "bulb")
    window.session.go_to("light")
    entry = window.sheets["light"].form.editors["power"].entry
    before = entry.text()
    window.session.go_to("set")
    window.session.edit(edit.alter, "lights", "bulb", power=321.0, label="Power")
    assert entry.text() == before, "nobody sees it"
    window.session.go_to("light")
    assert entry.text() == "321"
    window.session.undo()
    assert entry.text() == before


def test_threads_give_way_but_not_the_interface(qtbot, make_window, demo):
    window = make_window(demo)
    wait_for_picture(qtbot, window)
    assert os.getpriority(os.PRIO_PROCESS, threading.get_native_id()) == 0
    nice: dict[str, int] = {}

    def tiles() -> list[int]:
        for thread in threading.enumerate():
            with suppress(ProcessLookupError):  # one that has just ended
                nice[thread.name] = os.getpriority(os.PRIO_PROCESS, thread.native_id or 0)
        return [value for name, value in nice.items() if name.startswith("nocturne-tile")]

    # They are there only while something renders, and begin as the thread that starts them.
    window.session.edit(edit.alter, "lights", "bulb", power=900.0, label="Power")
    qtbot.waitUntil(lambda: any(value > nice["nocturne-denoise"] for value in tiles()), timeout=120000)
    assert nice["nocturne-darkroom"] < nice["nocturne-live"] < nice["nocturne-denoise"]
    said = []

    def work():
        said.append(os.getpriority(os.PRIO_PROCESS, threading.get_native_id()))
        yield Update(1, 1)

    window.runner.submit("Test", work())
    qtbot.waitUntil(lambda: bool(said), timeout=120000)
    assert said == [5]


def test_giving_way_by_nothing_changes_nothing():
    before = os.getpriority(os.PRIO_PROCESS, threading.get_native_id())
    give_way(0)
    assert os.getpriority(os.PRIO_PROCESS, threading.get_native_id()) == before


def test_a_picture_in_its_first_pass_has_no_holes(qtbot, make_window, demo):
    window = make_window(demo)
    wait_for_picture(qtbot, window)
    stand_still(qtbot, window)
    film = window.renders.last_frame.film
    whole = pixels(window.picture.print.image).astype(int)
    # As it is half-way through the first pass of every pixel: the lower half has only every second one.
    half = film.size[1] // 2
    film.samples[half::2] = 0
    film.samples[half:, ::2] = 0
    film.samples[half - half % 4 :: 4, ::4] = 1
    window.session.choose("things", "mug")
    window.darkroom.hand_in(window.renders.last_frame)
    old = window.picture.print
    qtbot.waitUntil(lambda: window.picture.print is not old, timeout=120000)
    shown = pixels(window.picture.print.image).astype(int)
    assert window.picture.print.outline is None, "no outline of what is only seen in dots"
    assert shown[half + 8 :].mean() > 0.5 * whole[half + 8 :].mean(), "no black dots between what is there"

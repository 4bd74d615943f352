"""Portals in the window: found in one press, shown before they are taken, measured; on a face; left."""

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from nocturne.scene import edit
from nocturne.scene.lights.portal import Portal
from tests import sets
from tests.engine.test_openings import WINDOW, W, room
from tests.ui.test_widgets import LEFT
from tests.ui.test_window import pixels, wait_for_picture


@pytest.fixture
def window(make_window):
    document, assets = room()
    view = sets.view(eye=(0.8, -2.2, 1.4), target=(-0.3, 3, 1.4), focal_mm=24, size=(320, 200))
    made = make_window()
    made.session.open(edit.changed(document, views=(view,), groups=("light",)), assets, None)
    made.session.go_to("light")
    return made


def portals(window) -> list[Portal]:
    return [light for light in window.session.document.lights if isinstance(light, Portal)]


def test_an_opening_is_found_shown_taken_measured_and_undone(qtbot, window):
    wait_for_picture(qtbot, window)
    offer, view = window.portals.offer, window.picture
    assert not offer.isVisible()
    window.portals.find()
    qtbot.waitUntil(offer.isVisible, timeout=60000)
    assert offer.words.text() == "One opening found"
    assert portals(window) == [], "it is shown, not yet taken"
    # Its edge is drawn over the picture.
    shown = pixels(view.grab().toImage())
    before, view.offered = view.offered, ()
    assert (np.abs(pixels(view.grab().toImage()).astype(int) - shown) > 40).any(-1).sum() > 100
    view.set_offered(before)
    QTest.mouseClick(offer.take, LEFT)
    (portal,) = portals(window)
    assert portal.place == pytest.approx(((WINDOW[0] + WINDOW[1]) / 2, W, (WINDOW[2] + WINDOW[3]) / 2), abs=0.03)
    assert not offer.isVisible()
    assert view.offered == ()
    assert window.session.document.light_groups == ("light",), "no fader for what gives no light"
    sheet = window.sheets["light"]
    assert sheet.measure.isVisible()
    assert "power" not in {name for name, row in sheet.form.rows.items() if row.isVisibleTo(sheet.form)}
    QTest.mouseClick(sheet.measure, LEFT)
    qtbot.waitUntil(lambda: "Measured in this view" in sheet.reading.text(), timeout=120000)
    assert sheet.measure.isEnabled()
    window.session.edit(edit.alter, "lights", portal.id, width=0.5, label="Narrow")
    assert "before the last edits" in sheet.reading.text()
    # What has its portal is not offered again.
    window.session.undo()
    window.portals.find()
    qtbot.waitUntil(lambda: not window.runner.is_busy("Look for openings"), timeout=60000)
    assert not offer.isVisible()
    window.session.undo()
    assert portals(window) == []


def test_an_offer_is_left_by_escape_and_by_an_edit(qtbot, window):
    offer = window.portals.offer
    for leave in (
        lambda: QTest.keyClick(offer.take, Qt.Key.Key_Escape),
        lambda: QTest.mouseClick(offer.leave, LEFT),
        lambda: window.session.edit(edit.alter, "lights", "dome", power=3.0, label="Brighter"),
    ):
        window.portals.find()
        qtbot.waitUntil(offer.isVisible, timeout=60000)
        leave()
        assert not offer.isVisible()
        assert window.picture.offered == ()
    assert portals(window) == []


def test_a_portal_is_laid_on_the_chosen_things_face(qtbot, window):
    window.session.choose("things", "")
    window.portals.on_face()
    assert not window.portals.offer.isVisible()
    window.session.choose("things", "thing-2")  # the wall at the left, 6 m by 2.6 m
    window.portals.on_face()
    qtbot.waitUntil(window.portals.offer.isVisible, timeout=60000)
    QTest.mouseClick(window.portals.offer.take, LEFT)
    (portal,) = portals(window)
    assert sorted((portal.width, portal.height)) == pytest.approx([2.6, 6.0], abs=0.01)
    assert portal.place == pytest.approx((-W, 0, 1.3), abs=0.01)

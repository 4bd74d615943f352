"""J21: the light desk during and after a render, its cues, a saved render without its scene, back to the lights."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLineEdit

from nocturne.io import exr
from nocturne.scene import edit
from tests.ui.test_widgets import LEFT, drag, type_into
from tests.ui.test_window import pixels, wait_for_picture
from tests.ui.waiting import stand_still


def cue_at(window, i: int) -> QPoint:
    return window.desk.cues.visualItemRect(window.desk.cues.item(i)).center()


def test_the_desk_mixes_keeps_and_recalls(qtbot, small_window):
    window = small_window
    wait_for_picture(qtbot, window, samples=2)
    window.session.go_to("light")
    assert window.foot.currentWidget() is window.desk
    desk, film = window.desk, window.renders.last_frame.film
    strip = desk.strips["lamp"]
    qtbot.waitUntil(lambda: strip.thumb.image is not None, timeout=120000)

    # A fader, a tint by kelvin, power, solo: all without a new render.
    drag(strip.fader, strip.fader.rect().center(), strip.fader.rect().center() - QPoint(0, 20))
    assert window.session.document.strip("lamp").stops > 1
    strip.tint.open()
    type_into(qtbot, strip.tint.chooser.kelvin.entry, "2000")
    tint = window.session.document.strip("lamp").tint
    assert tint[0] > tint[1] > tint[2]
    strip.tint.chooser.hide()
    qtbot.mouseClick(desk.strips["tube"].solo, LEFT)
    assert window.session.document.strip("tube").solo
    for words, check in (("All off", False), ("All on", True)):
        button = next(b for b in desk.findChildren(type(window.proof_sheet.part)) if b.text() == words)
        qtbot.mouseClick(button, LEFT)
        strips = [window.session.document.strip(g) for g in window.session.document.light_groups]
        assert all(s.on is check for s in strips)
        assert not any(s.solo for s in strips)
    assert window.renders.last_frame.film is film, "nothing was rendered anew"

    # Cues: kept, named, ordered, with small pictures, blended in time.
    n = desk.cues.count()
    desk.keep()
    assert desk.cues.count() == n + 1
    item = desk.cues.item(n)
    desk.cues.setCurrentItem(item)
    desk.cues.editItem(item)
    editor = desk.cues.viewport().findChild(QLineEdit)
    editor.selectAll()
    qtbot.keyClicks(editor, "Golden")
    qtbot.keyClick(editor, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: window.session.document.cues[-1].name == "Golden", timeout=120000)
    golden = window.session.document.cues[-1]
    qtbot.waitUntil(lambda: golden.id in desk._thumbs, timeout=120000)
    window.session.edit(edit.move, "cues", golden.id, 0, label="Move")
    assert desk.cues.item(0).text() == "Golden"
    desk.reset()
    assert window.session.document.strip("lamp").stops == 0
    type_into(qtbot, desk.seconds.entry, "0.4")
    before = len(window.session.history.steps)
    QTest.mouseClick(desk.cues.viewport(), LEFT, Qt.KeyboardModifier.NoModifier, cue_at(window, 0))
    seen = set()
    qtbot.waitUntil(
        lambda: seen.add(round(window.session.document.strip("lamp").stops, 3)) or not desk._clock.isActive(),
        timeout=120000,
    )
    assert window.session.document.desk == golden.strips
    assert len(seen) > 3, "it came over time"
    assert len(window.session.history.steps) == before + 1, "one undo step"


def test_the_desk_is_written_to_the_lights_and_back(qtbot, small_window):
    window = small_window
    wait_for_picture(qtbot, window)
    window.session.edit(edit.set_strip, "lamp", stops=1.0, label="Fader")
    before = window.session.document
    window.desk.apply_to_lights()
    after = window.session.document
    assert after.find("lights", "bulb").power == pytest.approx(2 * before.find("lights", "bulb").power)
    assert after.strip("lamp").stops == 0
    window.session.undo()
    assert window.session.document is before


def test_a_group_is_renamed_on_its_strip(qtbot, small_window):
    window = small_window
    window.session.go_to("light")
    thumb = window.desk.strips["globe"].thumb
    QTest.mouseDClick(thumb, LEFT, Qt.KeyboardModifier.NoModifier, thumb.rect().center())
    thumb.entry.setText("paper moon")
    qtbot.keyClick(thumb.entry, Qt.Key.Key_Return)
    assert "paper moon" in window.session.document.light_groups
    assert "globe" not in window.desk.strips


def test_a_saved_render_is_mixed_days_later_without_its_scene(qtbot, make_window, small_window, tmp_path):
    window = small_window
    wait_for_picture(qtbot, window, samples=2)
    stand_still(qtbot, window)
    film, document = window.renders.last_frame.film, window.session.document
    path = tmp_path / "render.exr"
    exr.write_film(path, film, document)
    beauty = film.beauty()

    later = make_window()
    later.projects.open_render(path)
    qtbot.waitUntil(lambda: later.showing.fixed is not None and later.picture.print is not None, timeout=120000)
    qtbot.waitUntil(lambda: later.picture.print.frame.prepared is None, timeout=120000)
    assert later.session.document.things == ()
    assert set(later.desk.strips) == set(document.light_groups)
    assert [c.name for c in later.session.document.cues] == [c.name for c in document.cues]
    assert later.picture.print.frame.film.beauty() == pytest.approx(beauty, rel=1e-4)
    bright = pixels(later.picture.print.image).mean()
    for group in document.light_groups:
        if group != "tube":
            qtbot.mouseClick(later.desk.strips[group].power, LEFT)
    qtbot.waitUntil(lambda: later.picture.print.document is later.session.document, timeout=120000)
    dim = pixels(later.picture.print.image)
    assert dim.mean() < 0.6 * bright
    assert dim[..., 0].mean() > 1.5 * dim[..., 1].mean(), "only the red tube is left"

    # Every cue goes out as its own picture.
    later.delivery.ask_export()
    sheet = later.export_sheet
    sheet.folder.setText(str(tmp_path / "cues"))
    sheet.type.setCurrentIndex(sheet.type.findData("png"))
    sheet.beauty.setChecked(False)
    for i in range(sheet.cues.count()):
        sheet.cues.item(i).setCheckState(Qt.CheckState.Checked)
    assert sheet.go.text() == f"Export {len(document.cues)} files"
    with qtbot.waitSignal(later.runner.finished, timeout=120000, check_params_cb=lambda kind, _: kind == "Export"):
        qtbot.mouseClick(sheet.go, LEFT)
    assert len(list((tmp_path / "cues").glob("*.png"))) == len(document.cues)
    assert np.isfinite(dim).all()

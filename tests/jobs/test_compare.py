"""J31: renders are kept with their settings, compared in every way, gone back to, and there again after a restart."""

from dataclasses import replace

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from nocturne.io import project, proofs
from nocturne.scene import edit, grading
from tests.ui.test_widgets import LEFT, drag, type_into
from tests.ui.test_window import pixels, wait_for_picture


def finals(qtbot, window) -> int:
    """Render the view to its end and wait until it lies on the contact sheet; return how many there are."""
    before = len(window.room.proofs)
    qtbot.keyClick(window, Qt.Key.Key_R, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: len(window.room.proofs) == before + 1, timeout=120000)
    return before + 1


def apart(image, other: np.ndarray) -> float:
    """Return how far two pictures differ, in the mean if they are of different sizes."""
    these = pixels(image).astype(float)
    return float(np.abs(these - other).mean() if these.shape == other.shape else abs(these.mean() - other.mean()))


def card(window, i: int):
    """Return the middle of a card on the sheet, the newest first."""
    return window.contact.view.visualRect(window.contact.model.index(i)).center()


def test_compare_and_go_back(qtbot, small_window):
    window = small_window
    wait_for_picture(qtbot, window)
    finals(qtbot, window)
    first = window.room.proofs[0]
    assert first.seconds > 0
    assert (first.width, first.height, first.quality, first.view) == (192, 108, "Review", "Wide")
    assert first.denoised
    before = window.session.document

    # Change the light and the finish, and render again.
    window.session.go_to("light")
    window.session.choose("lights", "bulb")
    type_into(qtbot, window.sheets["light"].form.editors["kelvin"].entry, "6500")
    window.session.choose("views", "wide")
    window.session.go_to("finish")
    window.lists["finish"].view.setFocus()
    qtbot.keyClick(window, Qt.Key.Key_Delete)
    changed = window.session.document
    assert len(changed.finish.steps) == len(before.finish.steps) - 1
    finals(qtbot, window)
    assert window.room.is_stale(first)
    assert not window.room.is_stale(window.room.proofs[1])

    # Show the first one, then compare the second with it.
    window.show_foot("proofs")
    view = window.contact.view.viewport()
    QTest.mouseClick(view, LEFT, Qt.KeyboardModifier.NoModifier, card(window, 1))
    qtbot.waitUntil(lambda: window.showing.first is not None and window.showing.first[0] == first.id, timeout=120000)
    qtbot.waitUntil(lambda: window.picture.print.document is window.showing.first[1].document, timeout=120000)
    assert window.sheet_stack.currentWidget() is window.proof_sheet
    qtbot.waitUntil(lambda: window.darkroom.is_idle, timeout=120000)
    shown = pixels(window.picture.print.image)
    assert shown.shape == (108, 192, 3)
    QTest.mouseClick(view, LEFT, Qt.KeyboardModifier.NoModifier, card(window, 0))
    qtbot.waitUntil(lambda: window.showing.first[1].name != first.name, timeout=120000)
    window.contact.compare_wanted.emit(first.id)
    qtbot.waitUntil(lambda: window.picture.print.second is not None, timeout=120000)
    second = pixels(window.picture.print.second)
    assert np.abs(second.astype(int) - shown).mean() < 1, "B is the first proof as it was shown"

    # Wipe by its knob: left of it the one, right of it the other.
    assert window.picture.compare == "wipe"
    clip = window.picture.rects()[1][0]
    knob = QPointF(clip.left() + 0.5 * clip.width(), clip.center().y())
    drag(window.picture, knob.toPoint(), (knob - QPointF(0.3 * clip.width(), 0)).toPoint())
    assert abs(window.picture.wipe - 0.2) < 0.03
    # Flip, side by side, difference.
    qtbot.keyClick(window.picture, Qt.Key.Key_V)
    assert window.picture.compare == "flip"
    assert window.picture.flipped
    qtbot.mouseClick(window.proof_sheet.modes["side"], LEFT)
    rects, _ = window.picture.rects()
    assert rects[0].width() == rects[1].width()
    window.picture.set_zoom(4, rects[0].center())
    rects, _ = window.picture.rects()
    assert rects[0].size() == rects[1].size(), "zoomed in lockstep"
    window.picture.zoom_whole()
    qtbot.mouseClick(window.proof_sheet.modes["difference"], LEFT)
    qtbot.waitUntil(lambda: window.picture.print.difference is not None, timeout=120000)
    apart = pixels(window.picture.print.difference).astype(int)
    expected = np.minimum(np.abs(pixels(window.picture.print.image).astype(int) - second) * 4, 255)
    assert np.abs(apart - expected).max() <= 1

    # What differs is listed, and a part is taken over.
    tree = window.proof_sheet.tree
    parts = [tree.topLevelItem(i).text(0).split(" (")[0] for i in range(tree.topLevelItemCount())]
    assert parts == ["Lights", "Finish"]
    row = tree.topLevelItem(0).child(0)
    assert [row.text(c) for c in (1, 2)] == ["2750 K", "6500 K"]
    tree.topLevelItem(0).setCheckState(0, Qt.CheckState.Checked)
    qtbot.mouseClick(window.proof_sheet.part, LEFT)
    assert window.session.document.lights == before.lights
    assert window.session.document.finish == changed.finish
    window.contact.show_wanted.emit(first.id)
    qtbot.waitUntil(lambda: window.showing.first is not None, timeout=120000)
    qtbot.mouseClick(window.proof_sheet.whole, LEFT)
    assert window.session.document.finish == before.finish
    assert window.showing.is_live, "a changed document goes back to the live picture"
    window.session.undo()
    assert window.session.document.finish == changed.finish


def test_star_filter_name_note_remove_and_restart(qtbot, make_window, small_demo, tmp_path):
    path = project.save_document(tmp_path / "mine.nocturne", small_demo.document)
    window = make_window()
    window.open_path(path)
    qtbot.waitUntil(lambda: window.session.path == path, timeout=120000)
    wait_for_picture(qtbot, window)
    for name in ("One", "Two", "Three"):
        n = len(window.room.proofs)
        window.proofs.keep()
        qtbot.waitUntil(lambda n=n: len(window.room.proofs) == n + 1, timeout=120000)
        window.room.alter(window.room.proofs[-1].id, name=name)
    one, two, three = window.room.proofs
    window.room.alter(two.id, starred=True)
    window.contact.starred.setChecked(True)
    assert [p.name for p in window.contact.model.shown] == ["Two"]
    window.contact.starred.setChecked(False)
    window.contact.words.setText("thr")
    assert [p.name for p in window.contact.model.shown] == ["Three"]
    window.contact.words.clear()
    window.contact.show_wanted.emit(one.id)
    qtbot.waitUntil(lambda: window.showing.first is not None, timeout=120000)
    note = window.proof_sheet.note
    note.setFocus()
    qtbot.keyClicks(note, "too dark on the left")
    qtbot.keyClick(note, Qt.Key.Key_Return)
    assert window.room.find(one.id).note == "too dark on the left"
    window.room.remove(three.id)
    assert len(window.contact.model.shown) == 2
    window.room.bring_back()
    assert len(window.contact.model.shown) == 3
    window.room.remove(three.id)
    window.session.history.mark_saved(window.session.document)
    window.close()

    # Another window on the same project has the same sheet.
    again = make_window()
    again.open_path(path)
    qtbot.waitUntil(lambda: len(again.room.proofs) == 2, timeout=120000)
    assert [(p.name, p.note, p.starred) for p in again.room.proofs] == [
        ("One", "too dark on the left", False),
        ("Two", "", True),
    ]
    assert set(again.room.thumbs) == {one.id, two.id}
    assert not [p for p in proofs.folder_of(path).iterdir() if p.name.startswith(".")], "what was removed is gone"
    again.showing.show(one.id)
    qtbot.waitUntil(
        lambda: again.picture.print is not None and again.picture.print.frame.prepared is None, timeout=120000
    )


def test_proofs_of_an_unsaved_project_come_along_when_it_is_saved(qtbot, small_window, tmp_path, monkeypatch):
    window = small_window
    window.session.path = None
    window.room.follow(None, is_new=True)
    wait_for_picture(qtbot, window)
    window.proofs.keep()
    qtbot.waitUntil(lambda: len(window.room.proofs) == 1, timeout=120000)
    old = window.room.folder
    document = edit.changed(window.session.document, things=(), materials=(), lights=())
    window.session.push(document, "Empty")
    from nocturne.ui import files

    monkeypatch.setattr(files, "ask_save_file", lambda *_: str(tmp_path / "new.nocturne"))
    window.projects.save()
    qtbot.waitUntil(lambda: window.room.folder == tmp_path / "new.proofs", timeout=120000)
    qtbot.waitUntil(lambda: not old.exists() and len(window.room.proofs) == 1, timeout=120000)
    assert (tmp_path / "new.proofs" / window.room.proofs[0].id / proofs.LIGHT).is_file()


def test_a_proof_being_kept_is_not_lost_and_stays_with_its_project(qtbot, make_window, small_demo, tmp_path):
    """Keep a proof and open another project, and close the window, before it is written."""
    folders = {}
    for name in ("one", "two"):
        path = project.save_document(tmp_path / f"{name}.nocturne", small_demo.document)
        folders[name] = proofs.folder_of(path)
    window = make_window()
    window.open_path(tmp_path / "one.nocturne")
    qtbot.waitUntil(lambda: window.session.path is not None, timeout=120000)
    wait_for_picture(qtbot, window)
    window.proofs.keep()
    window.open_path(tmp_path / "two.nocturne")
    qtbot.waitUntil(lambda: window.session.path == tmp_path / "two.nocturne", timeout=120000)
    qtbot.waitUntil(lambda: len(proofs.listed(folders["one"])[0]) == 1, timeout=120000)
    assert window.room.proofs == ()
    assert not window.room.can_bring_back
    wait_for_picture(qtbot, window)
    window.proofs.keep()
    window.session.history.mark_saved(window.session.document)
    window.close()
    assert len(proofs.listed(folders["one"])[0]) == 1
    assert len(proofs.listed(folders["two"])[0]) == 1


def test_a_proof_shows_its_table_after_the_project_has_let_it_go(qtbot, small_window, tmp_path):
    window = small_window
    wait_for_picture(qtbot, window)
    session = window.session
    table = tmp_path / "negative.cube"
    rows = [f"{1 - r} {1 - g} {1 - b}" for b in (0, 1) for g in (0, 1) for r in (0, 1)]
    table.write_text("LUT_3D_SIZE 2\n" + "\n".join(rows) + "\n")
    plain = session.document
    with_table, id = grading.add_step(plain, "lut")
    with_table = grading.alter_step(with_table, id, path=str(table))
    session.push(with_table, "Table")
    qtbot.waitUntil(lambda: str(table) in session.assets.luts, timeout=120000)
    finals(qtbot, window)
    window.showing.show(window.room.proofs[0].id)
    qtbot.waitUntil(lambda: window.showing.first is not None, timeout=120000)
    qtbot.waitUntil(lambda: window.picture.print.document is window.showing.first[1].document, timeout=120000)
    kept = pixels(window.picture.print.image)
    window.showing.show_live()
    session.push(plain, "No table")
    window.room._read.clear()
    session.assets = replace(session.assets, luts={})  # as after a restart
    qtbot.waitUntil(lambda: apart(window.picture.print.image, kept) > 30, timeout=120000)

    window.showing.compare_with(window.room.proofs[0].id)
    qtbot.waitUntil(lambda: window.picture.print.second is not None, timeout=120000)
    assert np.abs(pixels(window.picture.print.second) - kept).mean() < 0.5, "as it was kept"
    assert apart(window.picture.print.image, kept) > 30, "the live picture has no table"
    window.showing.show_live()
    window.showing.show(window.room.proofs[0].id)
    qtbot.waitUntil(lambda: apart(window.picture.print.image, kept) < 0.5, timeout=120000)

    # Going back to its settings loads the table again.
    assert not session.assets.luts
    window.contact.show_wanted.emit(window.room.proofs[0].id)
    qtbot.mouseClick(window.proof_sheet.whole, LEFT)
    assert session.document.finish == with_table.finish
    qtbot.waitUntil(lambda: str(table) in session.assets.luts, timeout=120000)
    qtbot.waitUntil(lambda: apart(window.picture.print.image, kept) < 15, timeout=120000)

    # A table that is gone is told; the proof is shown all the same.
    table.unlink()
    window.room._read.clear()
    session.assets = replace(session.assets, luts={})
    said = []
    window.room.said.connect(lambda words, _: said.append(words))
    window.showing.show(window.room.proofs[0].id)
    qtbot.waitUntil(lambda: window.showing.first is not None, timeout=120000)
    assert any("negative.cube" in words for words in said)


def test_a_cards_menu_shows_compares_stars_and_takes_off(qtbot, small_window):
    window = small_window
    wait_for_picture(qtbot, window)
    for n in (1, 2):
        qtbot.keyClick(window, Qt.Key.Key_P, Qt.KeyboardModifier.AltModifier)
        qtbot.waitUntil(lambda n=n: len(window.room.proofs) == n, timeout=120000)
    first, second = window.room.proofs

    def choose(id, words):
        menu = window.contact.menu_for(id)
        next(action for action in menu.actions() if action.text() == words).trigger()
        menu.deleteLater()

    choose(first.id, "Show it")
    qtbot.waitUntil(lambda: window.showing.first is not None, timeout=120000)
    assert window.showing.first[0] == first.id
    choose(second.id, "Compare with it")
    qtbot.waitUntil(lambda: window.showing.second is not None, timeout=120000)
    assert window.showing.second[0] == second.id
    choose(first.id, "Star it")
    assert window.room.find(first.id).starred
    choose(first.id, "Take its star away")
    assert not window.room.find(first.id).starred
    choose(second.id, "Take it off the sheet")
    assert [proof.id for proof in window.room.proofs] == [first.id]
    assert window.showing.second is None, "what is gone is not compared with any more"

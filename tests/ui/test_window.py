"""The whole way through the real window: see, choose, change, mix, focus, render, export, save, undo."""

import shutil
import time
from pathlib import Path

import numpy as np
import OpenEXR
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QImage, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from nocturne.io import image, project
from nocturne.jobs import run
from nocturne.scene import edit
from nocturne.scene.assets import Named
from nocturne.scene.document import Document
from nocturne.ui import files
from nocturne.ui.commands import COMMANDS, MENUS
from nocturne.ui.live import MOST_PIXELS, live_size
from tests.ui.test_widgets import LEFT, drag, type_into
from tests.ui.waiting import rest, stand_still


def pixels(picture: QImage) -> np.ndarray:
    """Return (h, w, 3) bytes of an image."""
    picture = picture.convertToFormat(QImage.Format.Format_RGBX8888)
    rows = np.frombuffer(picture.constBits(), np.uint8).reshape(picture.height(), picture.bytesPerLine())
    return rows[:, : 4 * picture.width()].reshape(picture.height(), picture.width(), 4)[..., :3].copy()


def wait_for_picture(qtbot, window, *, samples=1, timeout=120000):
    """Wait until the picture of the document as it is now has been developed."""

    def there() -> bool:
        shown, document = window.picture.print, window.session.document
        if shown is None or shown.document is not document:
            return False
        now = shown.frame.progress
        request = shown.frame.request  # a final has none
        is_wanted = request is None or request.key() == window.live._wanted.key()
        return is_wanted and now.samples >= samples and now.step == 1

    qtbot.waitUntil(there, timeout=timeout)
    return pixels(window.picture.print.image)


def place_of(window, id: str) -> QPointF:
    """Return a point of the picture widget at which a thing is seen."""
    shown = window.picture.print
    film, prepared = shown.frame.film, shown.frame.prepared
    number = prepared.object_ids.index(id)
    rows, columns = np.nonzero((film.ids[:, :, 0, 0] == number) & (film.coverage[:, :, 0, 0] == film.samples))
    assert len(rows), f"{id} is not in the picture"
    middle = np.argmin((rows - np.median(rows)) ** 2 + (columns - np.median(columns)) ** 2)
    rect = window.picture.frame_rect()
    return QPointF(
        rect.left() + (columns[middle] + 0.5) / prepared.width * rect.width(),
        rect.top() + (rows[middle] + 0.5) / prepared.height * rect.height(),
    )


def click(window, at: QPointF):
    QTest.mouseClick(window.picture, LEFT, Qt.KeyboardModifier.NoModifier, at.toPoint())


def test_commands_are_whole():
    ids, keys = [c.id for c in COMMANDS], [c.keys for c in COMMANDS if c.keys]
    assert len(set(ids)) == len(ids)
    assert len(set(keys)) == len(keys)
    assert {c.menu for c in COMMANDS} == set(MENUS)


def test_a_fresh_window_shows_the_demo_live(qtbot, make_window, demo):
    window = make_window(demo)
    picture = wait_for_picture(qtbot, window)
    assert picture.std() > 20, "there is something to see"
    assert "samples" in window.state_line.state.text()
    window.show_foot("desk")
    qtbot.waitUntil(lambda: window.desk.strips["lamp"].thumb.image is not None, timeout=120000)


def test_what_is_shown_is_clean_from_the_first_picture_of_an_edit_on(qtbot, make_window, demo):
    window = make_window(demo)
    wait_for_picture(qtbot, window)
    shown, view = [], window.session.document.view
    qtbot.waitUntil(lambda: window.picture.print.is_denoised, timeout=120000)
    window.darkroom.developed.connect(shown.append)
    for label, part, id, values in (
        ("Lens", "views", view.id, {"focal_mm": view.focal_mm + 3}),
        ("Lamp", "lights", "bulb", {"power": 500.0}),
        ("Moved", "things", "mug", {"place": (-0.2, -0.1, 0.8)}),
    ):
        window.session.edit(edit.alter, part, id, label=label, **values)
        document, since = window.session.document, len(shown)
        qtbot.waitUntil(
            lambda since=since, document=document: any(
                p.frame.document is document and p.frame.progress.samples >= 1 for p in shown[since:]
            ),
            timeout=120000,
        )
        own = [p for p in shown[since:] if p.frame.document is document]
        assert own[0].frame.progress.step > 1, "a coarse picture comes first"
        assert own[0].image.width() == own[0].frame.film.size[0], "as large as the film, so that what is picked fits"
    assert all(p.is_denoised for p in shown)
    window.session.go_to("render")
    note = window.sheets["render"].form._notes["clamp"]
    qtbot.waitUntil(lambda: note.text().endswith("of the light."), timeout=120000)
    # Switched off, the samples are seen as they are.
    window.picture_bar.denoise.click()
    qtbot.waitUntil(lambda: not shown[-1].is_denoised, timeout=120000)
    window.session.edit(edit.alter, "views", view.id, label="Lens", focal_mm=view.focal_mm)
    document = window.session.document
    qtbot.waitUntil(lambda: shown[-1].frame.document is document, timeout=120000)
    assert not shown[-1].is_denoised
    assert shown[-1].frame.sight is None, "nothing is looked at that nobody wants"


def test_click_choose_and_change_a_material(qtbot, make_window, demo):
    window = make_window(demo)
    before = wait_for_picture(qtbot, window)
    click(window, place_of(window, "mug-body"))
    assert window.session.chosen["things"] == "mug-body"
    assert window.sheets["set"].title.text() == "Body"
    window.session.go_to("materials")
    assert window.session.chosen["materials"] == "ceramic"
    sheet = window.sheets["materials"]
    chip = sheet.form.editors["base_color"]
    chip.take((0.9, 0.02, 0.02))
    type_into(qtbot, sheet.form.editors["coat_weight"].entry, "0")
    assert window.session.document.find("materials", "ceramic").base_color[0] == 0.9
    after = wait_for_picture(qtbot, window)
    frame = window.picture.frame_rect()
    at = place_of(window, "mug-body") - frame.topLeft()
    y, x = int(at.y() / frame.height() * after.shape[0]), int(at.x() / frame.width() * after.shape[1])
    patch = (slice(y - 2, y + 2), slice(x - 2, x + 2))
    assert after[patch][..., 0].mean() > after[patch][..., 1].mean() * 1.5
    assert before[patch][..., 0].mean() < before[patch][..., 1].mean() * 1.5
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert window.session.document is demo.document


def test_a_thing_is_placed_by_number(qtbot, make_window, demo):
    window = make_window(demo)
    wait_for_picture(qtbot, window)
    window.session.choose("things", "mug")
    before = place_of(window, "mug-body")
    fields = window.sheets["set"].form.editors["place"].fields
    type_into(qtbot, fields[0].entry, "-60 cm")
    assert window.session.document.find("things", "mug").place[0] == pytest.approx(-0.6)
    wait_for_picture(qtbot, window)
    assert place_of(window, "mug-body").x() < before.x() - 10
    window.lists["set"].remove()
    assert window.session.document.find("things", "mug") is None


def test_a_lamp_is_changed_and_one_is_added(qtbot, make_window, demo):
    window = make_window(demo)
    wait_for_picture(qtbot, window)
    window.session.go_to("light")
    window.session.choose("lights", "bulb")
    sheet = window.sheets["light"]
    type_into(qtbot, sheet.form.editors["power"].entry, "+3 stops")
    assert window.session.document.find("lights", "bulb").power == pytest.approx(1150 * 8)
    brighter = wait_for_picture(qtbot, window)
    sheet.form.committed.emit("unit", "W", None)
    assert window.session.document.find("lights", "bulb").power == pytest.approx(1150 * 8 / 15)
    assert sheet.form.editors["power"].unit == "W"
    sheet.form.committed.emit("on", False, None)
    darker = wait_for_picture(qtbot, window)
    assert brighter.mean() > darker.mean() + 10
    type_into(qtbot, sheet.form.editors["group"].lineEdit(), "practicals")
    assert window.session.document.find("lights", "bulb").group == "practicals"
    assert "practicals" in window.desk.strips
    window.choice.add_light("rect")
    assert window.session.document.lights[-1].kind == "rect"
    assert window.session.chosen["lights"] == window.session.document.lights[-1].id


def test_the_desk_mixes_without_a_new_render(qtbot, make_window, demo):
    window = make_window(demo)
    wait_for_picture(qtbot, window, samples=2)
    window.picture_bar.denoise.setChecked(False)
    stand_still(qtbot, window)
    film = window.renders.last_frame.film
    strip = window.desk.strips["lamp"]
    before = wait_for_picture(qtbot, window)
    drag(strip.fader, strip.fader.rect().center(), strip.fader.rect().center() + QPointF(0, -18).toPoint())
    brighter = wait_for_picture(qtbot, window)
    assert brighter.mean() > before.mean() + 3
    assert len(window.session.history.steps) == 2, "one drag is one step"
    qtbot.mouseClick(window.desk.strips["tube"].solo, LEFT)
    solo = wait_for_picture(qtbot, window)
    assert solo.mean() < before.mean()
    assert window.renders.last_frame.film is film, "the film was not touched"
    window.desk.reset()
    qtbot.waitUntil(lambda: window.picture.print.document is window.session.document)
    assert np.abs(pixels(window.picture.print.image).astype(int) - before).mean() < 1.5


def test_cues_are_kept_and_recalled(qtbot, make_window, demo):
    window = make_window(demo)
    desk = window.desk
    window.session.edit(edit.set_strip, "sky", stops=2.5, label="x")
    there = len(demo.document.cues)
    desk.keep()
    assert desk.cues.count() == there + 1
    desk.recall("night")
    assert not window.session.document.strip("sun").on
    assert desk.strips["sky"].fader.stops == -4.5
    desk.recall(window.session.document.cues[-1].id)
    assert desk.strips["sky"].fader.stops == 2.5
    desk.cues.setCurrentRow(there)
    desk.remove()
    assert desk.cues.count() == there


def test_the_view_moves_by_mouse_and_keys(qtbot, make_window, demo):
    window = make_window(demo)
    wait_for_picture(qtbot, window)
    start = window.session.document.view
    centre = window.picture.frame_rect().center()
    drag(window.picture, centre.toPoint(), (centre + QPointF(80, 10)).toPoint())
    orbited = window.session.document.view
    assert orbited.eye != start.eye
    assert len(window.session.history.steps) == 2
    drag(
        window.picture,
        centre.toPoint(),
        (centre + QPointF(40, 0)).toPoint(),
        modifier=Qt.KeyboardModifier.ShiftModifier,
    )
    panned = window.session.document.view
    assert np.subtract(panned.eye, orbited.eye) == pytest.approx(np.subtract(panned.target, orbited.target), abs=2e-4)
    wheel = QWheelEvent(
        centre,
        centre,
        QPointF().toPoint(),
        QPointF(0, 120).toPoint(),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(window.picture, wheel)
    assert window.session.document.view.eye != panned.eye
    QTest.keyClick(window.picture, Qt.Key.Key_Left)
    wait_for_picture(qtbot, window)
    while window.session.history.undo_label:
        window.session.undo()
    assert window.session.document.view == start


def test_focus_is_picked_and_views_are_kept(qtbot, make_window, demo):
    window = make_window(demo)
    wait_for_picture(qtbot, window)
    window.session.go_to("camera")
    window.camera.pick_focus()
    click(window, place_of(window, "orrery-sun"))
    view = window.session.document.view
    assert view.depth_of_field
    assert 1.5 < view.focus_m < 2.5
    type_into(qtbot, window.sheets["camera"].form.editors["f_number"].entry, "f/2")
    assert window.session.document.view.f_number == 2
    assert "EV" in window.sheets["camera"].reading.text()
    window.choice.keep_view()
    assert len(window.session.document.views) == len(demo.document.views) + 1
    window.session.choose("views", "flask")
    assert window.session.document.view.name == "Flask close-up"
    wait_for_picture(qtbot, window)


def test_exposure_white_balance_and_finish_need_no_new_render(qtbot, make_window, demo):
    window = make_window(demo)
    wait_for_picture(qtbot, window, samples=2)
    window.live.pause()
    window.picture_bar.denoise.setChecked(False)
    film = window.renders.last_frame.film
    before = wait_for_picture(qtbot, window)
    window.session.go_to("camera")
    type_into(qtbot, window.sheets["camera"].form.editors["iso"].entry, "+2 stops")
    assert window.session.document.view.iso == 3200
    brighter = wait_for_picture(qtbot, window)
    assert brighter.mean() > before.mean() + 20
    window.session.go_to("finish")
    for step, name, value in (
        ("tone-1", "contrast", "1.6"),
        ("vignette-1", "strength", "1"),
        ("bloom-1", "bloom", "1"),
    ):
        window.session.choose("steps", step)
        type_into(qtbot, window.sheets["finish"].forms[step[:-2]].editors[name].entry, value)
    graded = wait_for_picture(qtbot, window)
    assert np.abs(graded.astype(int) - brighter).mean() > 2
    bar = window.picture_bar
    bar.views.activated.emit(bar.views.findData("plain"))
    plain = wait_for_picture(qtbot, window)
    assert np.abs(plain.astype(int) - graded).mean() > 2
    assert window.renders.last_frame.film is film


def test_passes_are_shown(qtbot, make_window, demo):
    window = make_window(demo)
    beauty = wait_for_picture(qtbot, window)
    bar = window.picture_bar
    seen = [beauty]
    for name in ("normal", "depth", "indirect_diffuse", "albedo"):
        bar.passes.activated.emit(bar.passes.findData(name))
        qtbot.waitUntil(lambda name=name: window.picture.print.shown == name, timeout=120000)
        seen.append(pixels(window.picture.print.image))
        assert all(np.abs(seen[-1].astype(int) - other).mean() > 4 for other in seen[:-1]), name


def test_final_render_stops_goes_on_and_is_exported(qtbot, make_window, demo, tmp_path):
    document = edit.alter(demo.document, "views", "wide", width=160, height=90)
    document = edit.alter(document, "qualities", "review", samples=6, noise=0.0, denoise="fast")
    window = make_window(project.Project(document, demo.path, demo.assets))
    wait_for_picture(qtbot, window)
    window.session.go_to("render")
    qtbot.mouseClick(window.sheets["render"].start, LEFT)
    final = window.showing.final
    qtbot.waitUntil(lambda: final.frame is not None, timeout=120000)
    assert (final.prepared.width, final.prepared.height) == (160, 90)
    qtbot.mouseClick(window.sheets["render"].stop, LEFT)
    rest(qtbot, window)
    held = final.film.samples.sum()
    assert final.is_stopped
    assert "stopped" in window.state_line.state.text()
    window.session.edit(edit.set_strip, "lamp", label="Fader", stops=0.5)
    rest(qtbot, window)
    assert final.film.samples.sum() == held
    qtbot.mouseClick(window.sheets["render"].on, LEFT)
    qtbot.waitUntil(lambda: final.result is not None, timeout=120000)
    rest(qtbot, window)
    assert "done" in window.state_line.state.text()
    assert (final.film.samples == 6).all()
    assert window.picture.print.clean is final.result.clean
    sheet = window.export_sheet
    for kind in ("exr", "png"):
        window.delivery.ask_export()
        sheet.folder.setText(str(tmp_path))
        sheet.template.setText("out")
        sheet.type.setCurrentIndex(sheet.type.findData(kind))
        with qtbot.waitSignal(window.runner.finished, timeout=120000, check_params_cb=lambda kind, _: kind == "Export"):
            qtbot.mouseClick(sheet.go, LEFT)
    with OpenEXR.File(str(tmp_path / "out.exr"), separate_channels=True) as file:
        assert {"R", "denoised.R", "group.lamp.R"} <= set(file.channels())
    shown = image.read(tmp_path / "out.png", space="data")
    qtbot.waitUntil(lambda: window.picture.print.is_denoised and window.picture.print.frame.is_done, timeout=120000)
    assert np.abs(shown * 255 - pixels(window.picture.print.image)).mean() < 1.0, "the export is what is on screen"


def test_an_edit_is_answered_while_rendering_and_the_interface_does_not_wait(qtbot, make_window, demo):
    window = make_window(demo)
    wait_for_picture(qtbot, window)
    gaps, last = [], time.perf_counter()
    for k in range(12):
        window.session.edit(edit.alter, "lights", "bulb", power=500.0 + 100 * k, label="Power", merge="drag")
        for _ in range(10):
            QApplication.processEvents()
            now = time.perf_counter()
            gaps.append(now - last)
            last = now
            time.sleep(0.002)
            last = time.perf_counter()
    wait_for_picture(qtbot, window)
    assert np.median(gaps) < 0.03
    assert len(window.session.history.steps) == 2


def opened_copy(qtbot, make_window, demo_file, tmp_path):
    """Return a window on a copy of the demo, opened as a user does, and its folder."""
    home = tmp_path / "home"
    shutil.copytree(demo_file.parent, home)
    window = make_window()
    window.open_path(home / "project.nocturne")
    qtbot.waitUntil(lambda: window.session.document.name == "The Orrery Workshop", timeout=120000)
    return window, home


def test_open_save_bring_in_and_leave(qtbot, make_window, demo_file, tmp_path, monkeypatch):
    window, home = opened_copy(qtbot, make_window, demo_file, tmp_path)
    model = next(home.glob("models/mug.glb"))
    monkeypatch.setattr(files, "ask_open_files", lambda *_: [str(model)])
    n = len(window.session.document.things)
    window.projects.ask_model()
    qtbot.waitUntil(window.bring_sheet.isVisible, timeout=120000)
    assert len(window.session.document.things) == n, "nothing is placed before it is wanted"
    qtbot.mouseClick(window.bring_sheet.go, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: len(window.session.document.things) > n, timeout=120000)
    assert "triangles" in window.state_line.message.words()
    assert "•" in window.windowTitle()
    elsewhere = tmp_path / "elsewhere" / "copy.nocturne"
    monkeypatch.setattr(files, "ask_save_file", lambda *_: str(elsewhere))
    window.projects.ask_save()
    qtbot.waitUntil(lambda: window.session.path == elsewhere, timeout=120000)
    assert not window.session.history.is_dirty
    assert window.session.history.undo_label == f"Bring in {model.name}", "saving elsewhere keeps the steps"
    film = window.session.assets.meshes
    assert Named.of(window.session.document).meshes <= film.keys(), "nothing is loaded anew"
    window.session.undo()
    assert len(window.session.document.things) == n
    assert Named.of(window.session.document).meshes <= film.keys()
    window.session.redo()
    assert not window.session.history.is_dirty
    again = run(project.load(elsewhere))
    assert not again.assets.problems, "a copy in another folder finds its files"
    window.choice.add_material()
    answers = iter(["stay", "drop"])
    monkeypatch.setattr(files, "ask_unsaved", lambda *_: next(answers))
    window.projects.new()
    assert window.session.document.name == "The Orrery Workshop"
    window.projects.new()
    assert window.session.document == Document()


def test_what_is_done_while_saving_elsewhere_is_kept_as_not_saved(qtbot, make_window, demo, tmp_path, monkeypatch):
    window = make_window(demo)
    session = window.session
    session.edit(edit.alter, "materials", "brass", specular_roughness=0.4, label="Rough")
    monkeypatch.setattr(files, "ask_save_file", lambda *_: str(tmp_path / "new" / "kitchen.v2.nocturne"))
    window.projects.ask_save()
    session.edit(edit.alter, "materials", "brass", specular_roughness=0.5, label="Rougher")
    qtbot.waitUntil(lambda: session.path == tmp_path / "new" / "kitchen.v2.nocturne", timeout=120000)
    assert session.history.is_dirty
    assert session.document.find("materials", "brass").specular_roughness == 0.5
    assert project.read_document(session.path).find("materials", "brass").specular_roughness == 0.4
    session.undo()
    assert not session.history.is_dirty


def test_a_project_without_a_file_finds_its_models_from_any_folder(
    qtbot, make_window, demo_file, tmp_path, monkeypatch
):
    monkeypatch.chdir(demo_file.parent)
    window = make_window()
    mug = demo_file.parent / "models" / "mug.glb"
    window.bring.bring_in(mug)
    qtbot.waitUntil(lambda: len(window.session.document.things) > 1, timeout=120000)
    monkeypatch.chdir(tmp_path)
    loaded = run(project.load_assets(window.session.document, window.files.folder()))
    assert loaded.problems == ()
    qtbot.waitUntil(lambda: window.session.assets.meshes.keys() == loaded.meshes.keys(), timeout=120000)
    monkeypatch.setattr(files, "ask_save_file", lambda *_: str(tmp_path / "saved.nocturne"))
    window.projects.ask_save()
    qtbot.waitUntil(lambda: window.session.path is not None, timeout=120000)
    (name,) = {thing.mesh.partition("#")[0] for thing in window.session.document.things if thing.mesh}
    assert not Path(name).is_absolute(), "saved, it names them from its own folder"
    assert (tmp_path / name).resolve() == mug.resolve()


def test_saving_first_then_does_what_was_asked(qtbot, make_window, demo_file, tmp_path, monkeypatch):
    window, home = opened_copy(qtbot, make_window, demo_file, tmp_path)
    window.choice.add_material()
    count = len(window.session.document.materials)
    monkeypatch.setattr(files, "ask_unsaved", lambda *_: "save")
    window.projects.new()
    qtbot.waitUntil(lambda: window.session.document == Document(), timeout=120000)
    assert len(project.read_document(home / "project.nocturne").materials) == count


def test_a_name_with_a_dot_never_writes_over_another_project_unasked(monkeypatch, tmp_path):
    (tmp_path / "kitchen.v2.nocturne").write_text("there")
    typed = iter([str(tmp_path / "kitchen.v2"), str(tmp_path / "kitchen.v3"), ""])
    asked = []
    monkeypatch.setattr(files.QFileDialog, "getSaveFileName", lambda *_: (next(typed), ""))
    monkeypatch.setattr(files, "ask_replace", lambda _, path: asked.append(path.name))
    words = (None, "Save", files.PROJECTS, str(tmp_path), ".nocturne")
    assert files.ask_save_file(*words) == str(tmp_path / "kitchen.v3.nocturne")
    assert asked == ["kitchen.v2.nocturne"]
    assert files.ask_save_file(*words) == ""
    assert files.with_ending(tmp_path / "Kitchen.NOCTURNE", ".nocturne") == tmp_path / "Kitchen.nocturne"


def test_a_bad_file_is_told_and_nothing_is_lost(qtbot, make_window, demo, tmp_path):
    window = make_window(demo)
    bad = tmp_path / "bad.nocturne"
    bad.write_text("{")
    with qtbot.waitSignal(window.runner.failed, timeout=120000):
        window.open_path(bad)
    assert "bad.nocturne" in window.state_line.message.toolTip()
    assert window.session.document is demo.document
    window.session.edit(edit.alter, "materials", "brass", specular_roughness=7, label="x")
    assert "specular_roughness" in window.state_line.message.toolTip()


def test_parts_fold_away_and_keys_reach_every_stage(qtbot, make_window, demo):
    window = make_window(demo)
    qtbot.waitUntil(window.isActiveWindow)
    for k, stage in enumerate(("set", "materials", "light", "camera", "render", "finish")):
        QTest.keyClick(window.picture, Qt.Key(Qt.Key.Key_1 + k))
        assert window.session.stage == stage
        assert window.list_stack.currentIndex() == k
    width = window.picture.width()
    window.fold_all()
    qtbot.waitUntil(lambda: window.picture.width() > width + 300)
    window.fold_all()
    window.fold("foot")
    assert not window.parts["foot"].isVisible()
    window.session.choose("things", "flask")
    window.choice.bring_into_view()
    assert window.session.document.view.target == pytest.approx((0.585, 0.05, 0.93), abs=0.06)


def test_escape_gives_up_typing_before_it_leaves_anything(qtbot, make_window, demo):
    window = make_window(demo)
    wait_for_picture(qtbot, window)
    window.session.go_to("light")
    window.session.choose("lights", "bulb")
    window.delivery.ask_export()
    entry = window.picture_bar.exposure.entry
    entry.setFocus()
    entry.selectAll()
    qtbot.keyClicks(entry, "3")
    qtbot.keyClick(entry, Qt.Key.Key_Escape)
    assert entry.text() == "0"
    assert window.sheet_stack.currentWidget() is window.export_sheet
    window.picture.setFocus()
    qtbot.keyClick(window.picture, Qt.Key.Key_Escape)
    assert window.sheet_stack.currentWidget() is window.sheets["light"]


def test_a_large_screen_is_rendered_as_small_as_keeps_up(qtbot, make_window, demo, monkeypatch):
    monkeypatch.setattr("nocturne.ui.live.MOST_PIXELS", MOST_PIXELS)
    assert live_size(640, 360, processors=2) == (640, 360)
    width, height = live_size(3200, 1800, processors=2)
    assert width * height == pytest.approx(2 * MOST_PIXELS, rel=0.01)
    assert width / height == pytest.approx(16 / 9, rel=0.01)
    # A slower machine's limit on a screen of common size, so that the test need not render megapixels.
    monkeypatch.setattr("nocturne.ui.live.MOST_PIXELS", 30_000)
    window = make_window(demo)
    wait_for_picture(qtbot, window)
    wanted, film = window.picture.wanted_size(), window.renders.last_frame.film
    assert film.size[0] < wanted[0]
    assert window.picture.scale() == pytest.approx(wanted[0] / film.size[0], rel=0.01), (
        "the bar says how large it is seen"
    )
    assert window.picture.hit_at(place_of(window, "mug-body")).id == "mug-body", "what is seen is what is clicked"
    next(c for c in COMMANDS if c.id == "picture.full-size").run(window)
    assert (window.live._wanted.width, window.live._wanted.height) == wanted

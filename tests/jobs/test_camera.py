"""J23 to J25: find the view, expose, focus; and what is drawn over and read from the picture."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest

from nocturne.colour.blackbody import blackbody
from nocturne.engine.pick import Hit
from nocturne.finish import meter
from nocturne.scene import edit, exposing, placing
from nocturne.scene.plan import footprints
from nocturne.scene.projection import camera_axes, project
from nocturne.ui import live
from tests.ui.test_widgets import LEFT, drag, type_into
from tests.ui.test_window import click, pixels, place_of, wait_for_picture
from tests.ui.waiting import stand_still


def hold(qtbot, window, at):
    """Hold the meter's key over a point and return what is read there."""
    QTest.mouseMove(window.picture, at.toPoint())
    window.picture.pointer = at
    qtbot.keyPress(window.picture, Qt.Key.Key_M)
    assert window.picture.metering
    return window.picture.reading_at(at)


def test_find_the_view(qtbot, small_window):
    window = small_window
    wait_for_picture(qtbot, window)
    window.session.go_to("camera")
    sheet = window.sheets["camera"]
    sheet.lens.activated.emit(sheet.lens.findData(85.0))
    assert window.session.document.view.focal_mm == 85
    sheet.sensor.activated.emit(sheet.sensor.findData(24.9))
    assert window.session.document.view.sensor_mm == 24.9
    type_into(qtbot, sheet.form.editors["width"].entry, "400")
    assert (window.session.document.view.width, window.session.document.view.height) == (400, 225)
    sheet.lock.setChecked(False)
    type_into(qtbot, sheet.form.editors["height"].entry, "400")
    assert (window.session.document.view.width, window.session.document.view.height) == (400, 400)
    before = window.session.document.view
    window.choice.keep_view()
    qtbot.keyClick(window, Qt.Key.Key_T, Qt.KeyboardModifier.AltModifier)
    view = window.session.document.view
    assert view.id != before.id
    assert view.target[2] == view.eye[2]
    assert window.session.document.find("views", before.id) == before, "the kept view stays"
    at = window.picture.frame_rect().center()
    eye = view.eye
    window.picture.setFocus()
    qtbot.keyClick(window.picture, Qt.Key.Key_Left, Qt.KeyboardModifier.AltModifier)
    assert window.session.document.view.eye == pytest.approx(eye, abs=1e-4), "looking around turns about the eye"
    drag(window.picture, at.toPoint(), at.toPoint() + QPointF(40, 0).toPoint())
    assert window.session.document.view.eye != pytest.approx(eye, abs=1e-3)
    qtbot.keyClick(window, Qt.Key.Key_U)
    assert window.picture.overlays.guides


def test_zoom_and_region(qtbot, small_window, monkeypatch):
    monkeypatch.setattr(live, "MOST_PIXELS", 10**6)
    window, picture = small_window, small_window.picture
    # The first picture may have been asked for before at its small size: it is asked for again.
    window.resize(window.width() + 8, window.height())

    def is_large() -> bool:
        return picture.print is not None and picture.print.frame.film.size[0] > 300

    qtbot.waitUntil(is_large, timeout=120000)
    wait_for_picture(qtbot, window)
    qtbot.keyClick(window, Qt.Key.Key_Q)
    assert picture.scale() == pytest.approx(1, abs=0.01)
    at = picture.frame_rect().center() + QPointF(50, 20)
    place = picture.place_at(at)
    picture.set_zoom(6, at)
    assert picture.place_at(at) == pytest.approx(place, abs=0.01), "zoom keeps the point under the pointer"
    qtbot.keyClick(window, Qt.Key.Key_W)
    assert picture.zoom == 1
    qtbot.keyClick(window, Qt.Key.Key_R, Qt.KeyboardModifier.AltModifier)
    rect = picture.frame_rect()
    start = QPointF(rect.left() + 0.25 * rect.width(), rect.top() + 0.25 * rect.height())
    drag(picture, start.toPoint(), QPointF(rect.center()).toPoint())
    assert window.renders.region == pytest.approx((0.25, 0.25, 0.5, 0.5), abs=0.02)
    window.session.edit(edit.alter, "lights", "bulb", power=700.0, label="Power")
    qtbot.waitUntil(
        lambda: (
            window.renders.last_frame.request.region is not None and window.renders.last_frame.film.samples.max() > 2
        ),
        timeout=120000,
    )
    samples = window.renders.last_frame.film.samples
    h, w = samples.shape
    assert samples[int(0.3 * h) : int(0.45 * h), int(0.3 * w) : int(0.45 * w)].min() >= 1
    assert samples[: int(0.2 * h)].max() <= 1, "outside only the first picture"
    qtbot.keyClick(window, Qt.Key.Key_R, Qt.KeyboardModifier.AltModifier)
    assert window.renders.region is None


def test_expose_by_meter_spot_average_and_neutral(qtbot, small_window):
    window = small_window
    window.session.go_to("camera")
    wait_for_picture(qtbot, window, samples=2)
    window.picture_bar.denoise.setChecked(False)
    qtbot.waitUntil(lambda: window.picture.print.clean is None and window.picture.print.frame.is_done, timeout=120000)
    at = QPointF(place_of(window, "mug-body").toPoint())
    reading = hold(qtbot, window, at)
    assert reading.thing == "Body"
    assert reading.material
    assert sum(reading.shares.values()) == pytest.approx(1)
    qtbot.keyRelease(window.picture, Qt.Key.Key_M)
    assert not window.picture.metering

    # Spot: what is clicked becomes middle grey.
    stand_still(qtbot, window)
    nits = float(
        meter.read(
            window.picture.print.frame.film,
            window.picture.print.clean,
            x=int(window.picture.pixel_at(at)[0]),
            y=int(window.picture.pixel_at(at)[1]),
            size=5,
            view=window.session.document.view,
            desk=window.session.document.desk,
        ).nits
    )
    qtbot.keyClick(window, Qt.Key.Key_X, Qt.KeyboardModifier.ShiftModifier)
    assert window.picture.mode == "spot"
    click(window, at)
    view = window.session.document.view
    assert nits / view.white_luminance == pytest.approx(0.18, rel=0.02)
    window.camera.expose_for_all()
    assert window.session.document.view.shutter_s != view.shutter_s
    window.picture.set_mode("neutral")
    click(window, at)
    assert window.session.document.view.white_k != view.white_k

    # False-colour stops and scopes.
    qtbot.keyClick(window, Qt.Key.Key_S)
    qtbot.waitUntil(lambda: window.picture.print.is_false_colour, timeout=120000)
    shown = np.unique(pixels(window.picture.print.image).reshape(-1, 3), axis=0)
    assert len(shown) <= meter.FALSE_HIGH - meter.FALSE_LOW + 3
    qtbot.keyClick(window, Qt.Key.Key_S)
    qtbot.keyClick(window, Qt.Key.Key_G)
    qtbot.waitUntil(lambda: window.scopes.scopes is not None, timeout=120000)
    assert window.scopes.isVisible()


def test_focus_by_click_range_and_what_is_sharp(qtbot, small_window):
    window = small_window
    wait_for_picture(qtbot, window)
    window.session.go_to("camera")
    at = place_of(window, "mug-body")
    qtbot.keyClick(window, Qt.Key.Key_X)
    click(window, at)
    view = window.session.document.view
    assert view.depth_of_field
    wait_for_picture(qtbot, window)
    sheet = window.sheets["camera"]
    assert sheet.near.value < view.focus_m < sheet.far.value
    type_into(qtbot, sheet.near.entry, "1.5 m")
    type_into(qtbot, sheet.far.entry, "3 m")
    near, far = exposing.sharp_range(window.session.document.view)
    assert far == pytest.approx(3, rel=0.06)
    assert near < 3
    qtbot.keyClick(window, Qt.Key.Key_I)
    assert window.picture.overlays.sharp
    wait_for_picture(qtbot, window)
    window.picture.grab()
    assert window.picture.marks.sharp[1] is not None


def test_handles_move_turn_size_and_aim(qtbot, small_window):
    window = small_window
    wait_for_picture(qtbot, window)
    click(window, place_of(window, "mug-body"))
    assert window.session.chosen["things"] == "mug-body"
    window.session.choose("things", "mug")

    def pull(kind, axis, by):
        made = window.picture.star()
        grip = next(g for g in made.grips if (g.kind, g.axis) == (kind, axis))
        drag(window.picture, grip.at.toPoint(), (grip.at + by).toPoint())
        return made

    def mug():
        return window.session.document.find("things", "mug")

    start = mug()
    steps = len(window.session.history.steps)
    pull("move", 2, QPointF(0, -30))
    assert mug().place[2] > start.place[2] + 0.01
    assert mug().place[:2] == pytest.approx(start.place[:2], abs=1e-6)
    assert len(window.session.history.steps) == steps + 1, "one drag is one undo step"
    before = mug()
    pull("turn", 2, QPointF(26, -14))
    assert mug().turn_deg[2] != pytest.approx(before.turn_deg[2], abs=1)
    assert mug().turn_deg[:2] == pytest.approx((0, 0), abs=1e-4)
    before = mug()
    made = window.picture.star()
    grip = next(g for g in made.grips if g.kind == "size" and g.axis == 2)
    pull("size", 2, (grip.at - made.screen(made.middle)) * 0.5)
    assert mug().size[2] > 1.3 * before.size[2]
    qtbot.keyClick(window, Qt.Key.Key_D, Qt.KeyboardModifier.AltModifier)
    low, _ = window.session.document.placements["mug"][0][2, 3], None
    assert low == pytest.approx(0, abs=0.2), "it stands on the floor"

    window.choice.add_light("spot")
    window.session.edit(edit.alter, "lights", window.session.chosen["lights"], place=(0.3, -0.6, 1.6), label="Place")
    wait_for_picture(qtbot, window)
    light = window.session.document.find("lights", window.session.chosen["lights"])
    made = window.picture.star()
    grip = next(g for g in made.grips if g.kind == "aim")
    target = place_of(window, "orrery-planet-5")
    hit = window.picture.hit_at(target)
    drag(window.picture, grip.at.toPoint(), target.toPoint())
    after = window.session.document.find("lights", light.id)
    assert after.turn_deg == pytest.approx(placing.aimed(light, hit.point).turn_deg, abs=3)


def test_a_handle_is_let_go_though_its_thing_cannot_move_or_is_gone(qtbot, small_window):
    window = small_window
    wait_for_picture(qtbot, window)
    session, picture = window.session, window.picture
    session.choose("things", "mug-body")
    grip = next(g for g in picture.star().grips if (g.kind, g.axis) == ("move", 2))
    at = grip.at.toPoint()
    QTest.mousePress(picture, LEFT, pos=at)
    QTest.mouseMove(picture, at - QPoint(0, 20))
    assert session.document.find("things", "mug-body").place[2] > 0
    qtbot.keyClick(window, Qt.Key.Key_Delete)
    gone = session.document
    QTest.mouseMove(picture, at - QPoint(0, 40))
    QTest.mouseRelease(picture, LEFT, pos=at - QPoint(0, 40))
    assert session.document is gone, "what was removed in the middle of a drag does not come back"
    session.undo()

    session.edit(edit.alter, "things", "mug", size=(1, 1, 0), label="Flatten")
    session.choose("things", "mug-body")
    flat = session.document
    grip = next(g for g in picture.star().grips if g.kind == "move")
    drag(picture, grip.at.toPoint(), grip.at.toPoint() + QPoint(30, 30))
    assert picture.gripping._grip is None
    assert session.document is flat


def test_choose_by_box_more_and_material(qtbot, small_window):
    window = small_window
    wait_for_picture(qtbot, window)
    qtbot.keyClick(window, Qt.Key.Key_A)
    rect = window.picture.frame_rect()
    drag(window.picture, (rect.topLeft() + QPointF(2, 2)).toPoint(), (rect.bottomRight() - QPointF(2, 2)).toPoint())
    everything = window.session.all_chosen("things")
    assert len(everything) > 40
    click(window, place_of(window, "mug-body"))
    at = place_of(window, "orrery-planet-5")
    QTest.mouseClick(window.picture, LEFT, Qt.KeyboardModifier.ControlModifier, at.toPoint())
    assert window.session.all_chosen("things") == ("mug-body", "orrery-planet-5")
    qtbot.keyClick(window, Qt.Key.Key_Y, Qt.KeyboardModifier.AltModifier)
    assert not window.session.document.find("things", "mug-body").visible
    assert not window.session.document.find("things", "orrery-planet-5").visible
    window.session.undo()
    wait_for_picture(qtbot, window)
    QTest.mouseClick(window.picture, LEFT, Qt.KeyboardModifier.AltModifier, place_of(window, "mug-body").toPoint())
    same = {window.session.document.find("things", i).material for i in window.session.all_chosen("things")}
    assert same == {window.session.document.find("things", "mug-body").material}
    # Pick a material up and give it to another thing.
    window.session.choose("things", "orrery-planet-5")
    wanted = window.session.document.find("things", "orrery-planet-5").material
    window.choice.pick_up()
    window.session.choose("things", "mug-body")
    window.choice.give()
    assert window.session.document.find("things", "mug-body").material == wanted


def test_focus_on_what_touches_the_lens_goes_as_near_as_there_is(qtbot, small_window):
    window = small_window
    wait_for_picture(qtbot, window)
    view = window.session.document.view
    said = []
    window.session.said.connect(lambda words, wrong: said.append((words, wrong)))
    at = np.array(view.eye) + 8e-4 * camera_axes(view)[2]
    window.picture.focus_picked.emit(Hit("mug-body", "Mug", False, 8e-4, at))
    assert window.session.document.view.focus_m == 0.01
    assert said == [("Focused on “Mug”, 0.0008 m away; focused at 0.01 m, the nearest there is.", False)]


def test_focus_is_dragged_on_the_plan_and_blades_and_cut_are_set(qtbot, small_window):
    window = small_window
    wait_for_picture(qtbot, window)
    window.session.go_to("camera")
    sheet = window.sheets["camera"]
    assert not sheet.plan.isVisible(), "without depth of field there is nothing to focus"
    sheet.form.editors["depth_of_field"].click()
    plan = sheet.plan
    assert plan.isVisible()
    reach, steps = plan.reach, len(window.session.history.steps)
    middle = plan.height() // 2
    start, end = QPoint(round(plan.x_of(0.3 * reach)), middle), QPoint(round(plan.x_of(0.8 * reach)), middle)
    drag(plan, start, end)
    pixel = reach / (plan.x_of(reach) - plan.x_of(0))
    assert window.session.document.view.focus_m == pytest.approx(0.8 * reach, abs=1.5 * pixel)
    assert len(window.session.history.steps) == steps + 1, "one drag is one step"
    assert plan.reach >= 1.5 * window.session.document.view.focus_m * 0.99, "let go, it shows what lies beyond"
    before = window.session.document.view.focus_m
    qtbot.keyClick(plan, Qt.Key.Key_Right)
    assert window.session.document.view.focus_m == pytest.approx(before * 1.05, rel=1e-3)

    # What stands in the plan is what the lens sees: nothing behind it, nothing beside the picture.
    view = window.session.document.view
    seen = footprints(window.session.document, window.session.assets, view)
    assert len(seen) > 10
    assert (seen[:, 1] > 0).all()
    away = edit.changed(view, target=tuple(2 * e - t for e, t in zip(view.eye, view.target)))
    behind = footprints(window.session.document, window.session.assets, away)
    assert len(behind) < len(seen)

    type_into(qtbot, sheet.form.editors["blades"].entry, "6")
    type_into(qtbot, sheet.form.editors["cut_m"].entry, "10 m")
    assert (window.session.document.view.blades, window.session.document.view.cut_m) == (6, 10.0)
    wait_for_picture(qtbot, window)
    depth = window.picture.print.frame.film.depth
    assert not ((depth > 0) & (depth < 9.5)).any(), "the whole bench stands before the cut"


def test_focus_is_held_on_a_thing_until_it_is_let_go(qtbot, small_window):
    window = small_window
    wait_for_picture(qtbot, window)
    session = window.session
    session.go_to("camera")
    sheet = window.sheets["camera"]
    sheet.form.editors["depth_of_field"].click()
    wait_for_picture(qtbot, window)
    sheet.hold.click()
    assert window.picture.mode == "focus"
    assert not sheet.hold.isChecked(), "nothing is held before something is clicked"
    click(window, place_of(window, "mug-body"))
    view = session.document.view
    assert view.focus_on == "mug-body"
    assert sheet.hold.text() == "Focus held on Mug: Body"

    def depth_of_point() -> float:
        view, matrix = session.document.view, session.document.placement("mug-body")
        point = matrix[:3] @ (*session.document.view.focus_point, 1.0)
        return float((point - np.array(view.eye)) @ camera_axes(view)[2])

    assert depth_of_point() == pytest.approx(view.focus_m, abs=2e-3)
    steps = len(session.history.steps)
    session.edit(placing.moved, "things", ("mug",), np.array((0.1, 0.5, 0.0)), label="Move")
    assert session.document.view.focus_m == pytest.approx(depth_of_point(), abs=1e-3)
    assert session.document.view.focus_m != pytest.approx(view.focus_m, abs=0.05)
    assert len(session.history.steps) == steps + 1, "moving it and focusing on it is one step"
    moved = edit.changed(session.document.view, eye=tuple(v * 1.2 for v in view.eye))
    session.edit(edit.put, "views", moved, label="Step back")
    assert session.document.view.focus_m == pytest.approx(depth_of_point(), abs=1e-3)
    session.undo()
    session.undo()
    assert session.document.view == view

    type_into(qtbot, sheet.form.editors["focus_m"].entry, "1.25 m")
    assert (session.document.view.focus_m, session.document.view.focus_on) == (1.25, ""), "by hand lets it go"
    session.undo()
    session.edit(edit.remove, "things", "mug-body", label="Remove")
    assert session.document.view.focus_m == view.focus_m
    assert "gone" in sheet.hold.text()
    sheet.hold.click()
    assert session.document.view.focus_on == ""


def test_what_is_drawn_over_the_picture_lies_where_it_should(qtbot, small_window):
    window = small_window
    wait_for_picture(qtbot, window)
    stand_still(qtbot, window)
    session, picture = window.session, window.picture

    def change(act) -> np.ndarray:
        """Return where an act changes what is seen of the picture, as (h, w) of its rectangle."""
        rect = picture.image_rect().toRect()
        before = pixels(picture.grab(rect).toImage()).astype(int)
        act()
        after = pixels(picture.grab(rect).toImage()).astype(int)
        return np.abs(after - before).max(-1) > 12

    drawn = change(lambda: window.toggle_overlay("guides"))
    height, width = drawn.shape
    for share in (1 / 3, 2 / 3):
        assert drawn[:, round(share * width) - 1 : round(share * width) + 2].any(1).mean() > 0.9
        assert drawn[round(share * height) - 1 : round(share * height) + 2].any(0).mean() > 0.9
    window.toggle_overlay("guides")

    picture.overlays.lights = False
    drawn = change(lambda: window.toggle_overlay("lights"))
    for light in session.document.lights:
        if not light.is_infinite:
            (u, v), distance = project(session.document.view, np.array(light.place))
            x, y = int(u * width), int(v * height)
            if distance > 0 and 3 < x < width - 3 and 3 < y < height - 3:
                assert drawn[y - 2 : y + 3, x - 2 : x + 3].any(), f"{light.name} is marked where it stands"
    window.toggle_overlay("lights")

    session.go_to("camera")
    session.edit(edit.alter, "views", session.document.view.id, depth_of_field=True, label="Blur")
    wait_for_picture(qtbot, window)
    stand_still(qtbot, window)
    drawn = change(lambda: window.toggle_overlay("focus"))
    # The grid in the plane of focus spans nine tenths of the frame whatever its distance.
    for share in (0.05, 0.5, 0.95):
        x = min(max(round(share * width), 1), width - 2)
        assert drawn[round(0.06 * height) : round(0.94 * height), x - 1 : x + 2].any(1).mean() > 0.8


def test_what_cannot_be_gone_by_is_said_and_changes_nothing(qtbot, small_window):
    window = small_window
    wait_for_picture(qtbot, window)
    session, picture = window.session, window.picture
    before, said = session.document, []
    session.said.connect(lambda words, wrong: said.append((words, wrong)))
    picture.focus_picked.emit(None)
    picture.light_picked.emit("spot", None)
    picture.light_picked.emit("neutral", np.zeros(3))
    assert said == [
        ("There is nothing to focus on there.", True),
        *[("It is black there: nothing to go by.", True)] * 2,
    ]
    assert session.document is before

    session.edit(edit.alter, "things", "mug", size=(1, 1, 0), label="Flatten")
    window.camera.hold_focus(True)
    flat = session.document
    picture.focus_picked.emit(Hit("mug-body", "Mug", False, 1.0, np.zeros(3)))
    assert said[-1][0].endswith("has a size of 0. Give it a size first.")
    assert session.document is flat
    picture.light_picked.emit("neutral", 40 * blackbody(2800))
    assert session.document.view.white_k == pytest.approx(2800, rel=0.02)

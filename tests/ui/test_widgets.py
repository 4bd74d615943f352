"""The controls that are ours, by mouse and keys."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPixmap, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from nocturne.colour.spaces import from_srgb, luminance, working_to_rec709
from nocturne.scene.desk import Strip
from nocturne.scene.lights import KINDS, make_light
from nocturne.ui.theme import tokens
from nocturne.ui.widgets import screenpick
from nocturne.ui.widgets.colourchip import ColourChip
from nocturne.ui.widgets.curve import CurveEditor
from nocturne.ui.widgets.fader import Fader, FaderStrip
from nocturne.ui.widgets.form import Form
from nocturne.ui.widgets.numberfield import NumberField, VectorField

LEFT = Qt.MouseButton.LeftButton
NONE = Qt.KeyboardModifier.NoModifier


def drag(widget, start, end, *, steps=5, modifier=NONE):
    """Press, move in steps and release."""

    def send(kind, at, button, buttons):
        event = QMouseEvent(kind, QPointF(at), widget.mapToGlobal(QPointF(at)), button, buttons, modifier)
        QApplication.sendEvent(widget, event)

    send(QMouseEvent.Type.MouseButtonPress, start, LEFT, LEFT)
    for k in range(1, steps + 1):
        at = QPoint(start.x() + (end.x() - start.x()) * k // steps, start.y() + (end.y() - start.y()) * k // steps)
        send(QMouseEvent.Type.MouseMove, at, Qt.MouseButton.NoButton, LEFT)
    send(QMouseEvent.Type.MouseButtonRelease, end, LEFT, Qt.MouseButton.NoButton)


@pytest.fixture
def field(qtbot):
    widget = NumberField("Power", unit="lm", low=0, high=1e6, log=True, default=100, kind="power", help="Light.")
    widget.said = []
    widget.edited.connect(lambda v, m: widget.said.append(("edited", v, m)))
    widget.committed.connect(lambda v, m: widget.said.append(("committed", v, m)))
    qtbot.addWidget(widget)
    widget.show()
    return widget


def type_into(qtbot, entry, text, key=Qt.Key.Key_Return):
    entry.setFocus()
    entry.selectAll()
    qtbot.keyClicks(entry, text)
    qtbot.keyClick(entry, key)


def test_typing_with_units_and_relative_values(qtbot, field):
    type_into(qtbot, field.entry, "1.5 klm")
    assert field.said == [("committed", 1500.0, None)]
    type_into(qtbot, field.entry, "+1 stop")
    assert field.value == 3000
    type_into(qtbot, field.entry, "9e9")
    assert field.value == 1e6, "limits hold"


def test_nonsense_is_marked_and_does_not_leave_the_field(qtbot, field):
    type_into(qtbot, field.entry, "3 kg")
    assert field.said == []
    assert field.entry.property("wrong")
    assert "kg" in field.entry.toolTip()
    qtbot.keyClick(field.entry, Qt.Key.Key_Escape)
    assert field.entry.text() == "100"


def test_dragging_the_label_is_one_step(qtbot, field):
    drag(field.label, QPoint(10, 8), QPoint(50, 8))
    assert field.value == pytest.approx(200, rel=0.02)
    kinds, _, merges = zip(*field.said)
    assert kinds[-1] == "committed"
    assert set(kinds[:-1]) == {"edited"}
    assert len(set(merges)) == 1
    drag(field.label, QPoint(10, 8), QPoint(50, 8), modifier=Qt.KeyboardModifier.ShiftModifier)
    assert field.value == pytest.approx(200 * 2**0.1, rel=0.02)


def test_double_click_goes_back_to_the_default_and_keys_step(qtbot, field):
    field.show_value(400)
    qtbot.mouseDClick(field.label, LEFT)
    assert field.value == 100
    field.entry.setFocus()
    qtbot.keyClick(field.entry, Qt.Key.Key_Up)
    assert field.value > 100


def test_showing_a_value_says_nothing(field):
    field.show_value(7)
    assert field.said == []
    assert field.entry.text() == "7"


def test_vector_field(qtbot):
    field = VectorField("Place", unit="m", default=(0, 0, 0))
    qtbot.addWidget(field)
    field.show()
    field.show_value((1, 2, 3))
    with qtbot.waitSignal(field.committed) as said:
        type_into(qtbot, field.fields[1].entry, "30 cm")
    assert said.args[0] == pytest.approx((1, 0.3, 3))
    assert field.fields[2].entry.accessibleName() == "Place z"


def test_fader_in_stops(qtbot):
    fader = Fader("lamp")
    fader.resize(30, 134)
    qtbot.addWidget(fader)
    fader.show()
    said = []
    fader.committed.connect(lambda v, _: said.append(v))
    fader.edited.connect(lambda v, _: None)
    drag(fader, QPoint(12, 67), QPoint(12, 47))
    assert said[-1] == pytest.approx(2.0, abs=0.1)
    qtbot.mouseDClick(fader, LEFT)
    assert said[-1] == 0
    qtbot.keyClick(fader, Qt.Key.Key_Down)
    assert said[-1] == pytest.approx(-1 / 3)
    at = QPointF(12, 60)
    wheel = QWheelEvent(
        at, at, QPoint(), QPoint(0, 120), Qt.MouseButton.NoButton, NONE, Qt.ScrollPhase.NoScrollPhase, False
    )
    QApplication.sendEvent(fader, wheel)
    assert said[-1] == pytest.approx(-1 / 3 + 1 / 6)


def test_strip_switches(qtbot):
    strip = FaderStrip("lamp")
    qtbot.addWidget(strip)
    strip.show()
    strip.show_strip(Strip(group="lamp", stops=-1.5, on=False, tint=(1, 0, 0)))
    said = []
    strip.changed.connect(lambda group, values, _: said.append((group, values)))
    qtbot.mouseClick(strip.power, LEFT)
    qtbot.mouseClick(strip.solo, LEFT)
    type_into(qtbot, strip.stops.entry, "2")
    assert said == [("lamp", {"on": True}), ("lamp", {"solo": True}), ("lamp", {"stops": 2.0})]


def test_colour_chip_by_field_hex_and_kelvin(qtbot):
    chip = ColourChip("Base colour")
    qtbot.addWidget(chip)
    chip.show()
    chip.show_value(from_srgb(0.5, 0.5, 0.5))
    said = []
    chip.committed.connect(lambda rgb, _: said.append(rgb))
    qtbot.mouseClick(chip, LEFT)
    chooser = chip.chooser
    assert chooser.isVisible()
    before = luminance(chip.rgb)
    drag(chooser.field, QPoint(20, 90), QPoint(140, 20))
    assert luminance(said[-1]) == pytest.approx(before, rel=1e-3), "brightness is held"
    assert said[-1][2] > said[-1][0]
    type_into(qtbot, chooser.hex, "#ff8000")
    assert said[-1] == pytest.approx(from_srgb(1, 128 / 255, 0), abs=1e-5)
    type_into(qtbot, chooser.kelvin.entry, "2000")
    assert said[-1][0] > said[-1][2] * 4
    chooser.show_colour((0.0, 1.0, 0.0))
    assert chooser.gamut.isVisible()
    chooser.hide()


def test_a_form_has_an_editor_for_every_kind_of_field(qtbot):
    form = Form((KINDS["rect"],), {"All": ("name", "on", "power", "unit", "kelvin", "colour", "place", "colour_from")})
    qtbot.addWidget(form)
    form.show()
    light = make_light(id="l", name="Key", power=5, kelvin=4000, place=(1, 2, 3), on=False)
    form.set_choices("unit", [("lm", "lumens"), ("W", "watts")])
    form.show_model(light)
    assert form.editors["name"].text() == "Key"
    assert not form.editors["on"].isChecked()
    assert form.editors["place"].value == (1, 2, 3)
    with qtbot.waitSignal(form.committed) as said:
        qtbot.mouseClick(form.editors["on"], LEFT)
    assert said.args[:2] == ["on", True]
    assert all(
        editor.toolTip() or name == "place"
        for name, editor in form.editors.items()
        if name not in ("name", "power", "kelvin", "unit")
    )
    form.show_only({"name"})
    assert not form.rows["power"].isVisible()


def test_text_contrast():
    def channel(value: int) -> float:
        c = value / 255
        return c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4

    def brightness(colour: str) -> float:
        r, g, b = (channel(int(colour[i : i + 2], 16)) for i in (1, 3, 5))
        return 0.2126 * r + 0.7152 * g + 0.0722 * b

    for ink in (tokens.INK, tokens.INK_SOFT, tokens.MOON, tokens.LAMP, tokens.GOOD, tokens.CARE, tokens.BAD):
        for ground in (tokens.GROUND, tokens.PANEL, tokens.RAISED):
            a, b = sorted((brightness(ink), brightness(ground)), reverse=True)
            assert (a + 0.05) / (b + 0.05) >= 4.5, (ink, ground)
    for grey in (tokens.MOUNT, tokens.GROUND, tokens.PANEL, tokens.RAISED, tokens.LINE, tokens.INK, tokens.INK_SOFT):
        assert grey[1:3] == grey[3:5] == grey[5:7], "everything around the picture is neutral"


@pytest.fixture
def curve(qtbot):
    widget = CurveEditor("Curve")
    qtbot.addWidget(widget)
    widget.resize(240, 200)
    widget.show()
    return widget


def test_the_curve_is_edited_by_mouse_and_never_turns_back(curve):
    edits, done = [], []
    curve.edited.connect(lambda points, merge: edits.append((points, merge)))
    curve.committed.connect(lambda points, merge: done.append((points, merge)))
    ends = curve.points
    middle = curve.at((0.0, 0.0)).toPoint()
    drag(curve, middle, middle - QPoint(0, 20))
    assert len(curve.points) == len(ends) + 1
    x, y = curve.points[1]
    assert abs(x) < 0.2
    assert y > 0.5
    assert done[-1][0] == curve.points
    assert {merge for _, merge in edits} == {done[-1][1]}, "one drag is one step"
    held = curve.at(curve.points[1]).toPoint()
    drag(curve, held, curve.at(ends[-1]).toPoint() + QPoint(60, 90))
    xs, ys = zip(*curve.points)
    assert list(xs) == sorted(set(xs)), "a point stays between its neighbours"
    assert list(ys) == sorted(ys)
    QTest.mouseDClick(curve, LEFT, pos=curve.at(curve.points[1]).toPoint())
    assert curve.points == ends
    QTest.mouseDClick(curve, LEFT, pos=curve.at(ends[0]).toPoint())
    assert curve.points == ends, "the ends stay"


def test_the_curve_is_edited_by_keys_and_keeps_what_is_dragged(curve):
    curve.show_value(((-6.0, -6.0), (0.0, 0.0), (6.0, 6.0)))
    QTest.keyClick(curve, Qt.Key.Key_Right)
    assert curve.chosen == 1
    QTest.keyClick(curve, Qt.Key.Key_Up)
    assert curve.points[1] == (0.0, 0.2)
    QTest.keyClick(curve, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    assert curve.points[1] == (0.0, 0.18)
    QTest.mousePress(curve, LEFT, pos=curve.at(curve.points[1]).toPoint())
    curve.show_value(((-6.0, -6.0), (6.0, 6.0)))
    assert len(curve.points) == 3, "what is held stays under the hand"
    QTest.mouseRelease(curve, LEFT, pos=curve.at(curve.points[1]).toPoint())
    QTest.keyClick(curve, Qt.Key.Key_Delete)
    assert len(curve.points) == 2
    curve.chosen = 1
    curve.show_value(((-6.0, -6.0), (6.0, 6.0)))
    QTest.keyClick(curve, Qt.Key.Key_Delete)
    assert len(curve.points) == 2
    before = curve.grab().toImage()
    curve.show_histogram(np.arange(1.0, 65.0))
    assert curve.grab().toImage() != before


def test_a_colour_is_typed_as_numbers_in_a_colour_space(qtbot):
    chip = ColourChip("Base colour")
    qtbot.addWidget(chip)
    chip.show_value((0.5, 0.2, 0.1))
    chip.open()
    chooser = chip.chooser
    space = chooser.space

    def in_space(name: str) -> tuple:
        space.setCurrentIndex(space.findData(name))
        space.activated.emit(space.currentIndex())
        return chooser.numbers.value

    assert in_space("ACEScg") == pytest.approx((0.5, 0.2, 0.1), abs=1e-5)
    assert in_space("Linear Rec.709 (sRGB)") == pytest.approx(
        tuple(working_to_rec709() @ np.array((0.5, 0.2, 0.1))), abs=2e-4
    )
    type_into(qtbot, chooser.numbers.fields[0].entry, "0.25")
    type_into(qtbot, chooser.numbers.fields[1].entry, "0.25")
    type_into(qtbot, chooser.numbers.fields[2].entry, "0.25")
    assert chip.value == pytest.approx((0.25, 0.25, 0.25), abs=1e-4)
    assert in_space("sRGB Encoded Rec.709 (sRGB)") == pytest.approx((0.5371,) * 3, abs=1e-3)
    # The space is remembered for the next colour.
    other = ColourChip("Coat colour")
    qtbot.addWidget(other)
    other.open()
    assert other.chooser.space.currentData() == "sRGB Encoded Rec.709 (sRGB)"
    for shown in (chip, other):
        shown.chooser.hide()


def test_a_colour_is_picked_from_anywhere_on_the_screen(qtbot, monkeypatch):
    shown = QPixmap(200, 100)
    shown.fill(QColor(0, 0, 0))
    painter = QPainter(shown)
    painter.fillRect(100, 0, 100, 100, QColor(200, 60, 20))
    painter.end()
    monkeypatch.setattr(screenpick, "taken", lambda screen: shown)
    chip = ColourChip("Base colour")
    qtbot.addWidget(chip)
    chip.open()
    QTest.mouseClick(chip.chooser.anywhere, LEFT)
    cover = next(w for w in QApplication.topLevelWidgets() if isinstance(w, screenpick.ScreenPick))
    cover.grab()
    QTest.mouseClick(cover, LEFT, NONE, QPoint(cover.width() * 3 // 4, cover.height() // 2))
    assert chip.value == pytest.approx(from_srgb(200 / 255, 60 / 255, 20 / 255), abs=1e-4)
    qtbot.waitUntil(lambda: not any(isinstance(w, screenpick.ScreenPick) for w in QApplication.topLevelWidgets()))
    # Escape leaves it as it was; where nothing may be seen, that is said.
    before = chip.value
    chip.open()
    QTest.mouseClick(chip.chooser.anywhere, LEFT)
    cover = next(w for w in QApplication.topLevelWidgets() if isinstance(w, screenpick.ScreenPick))
    QTest.keyClick(cover, Qt.Key.Key_Escape)
    assert chip.value == before
    monkeypatch.setattr(screenpick, "taken", lambda screen: QPixmap())
    chip.open()
    with qtbot.waitSignal(chip.chooser.refused):
        QTest.mouseClick(chip.chooser.anywhere, LEFT)

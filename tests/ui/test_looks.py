"""Looks and words: contrast, names for those who cannot see, tooltips, scaling, long lists."""

import json
import os
import re
import subprocess
import sys
import textwrap
import time
from pathlib import Path

import numpy as np
import pytest
from fontTools.ttLib import TTFont
from PySide6.QtGui import QIcon, QImage
from PySide6.QtWidgets import QAbstractButton, QAbstractItemView, QComboBox, QLineEdit, QWidget

from nocturne.scene import edit
from nocturne.scene.document import Document
from nocturne.scene.thing import Thing
from nocturne.ui.commands import COMMANDS, MENUS
from nocturne.ui.pages import BY_STAGE
from nocturne.ui.theme import icons, style
from nocturne.ui.theme import tokens as t
from tests.ui.test_window import pixels, wait_for_picture

ROOT = Path(__file__).resolve().parents[2]


def contrast(one: str, other: str) -> float:
    """Return the contrast ratio of two colours (WCAG 2.2)."""

    def light(colour: str) -> float:
        parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
        linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
        return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

    a, b = sorted((light(one), light(other)), reverse=True)
    return (a + 0.05) / (b + 0.05)


@pytest.mark.parametrize("ink", ["INK", "INK_SOFT", "MOON", "LAMP", "GOOD", "CARE", "BAD"])
@pytest.mark.parametrize("ground", ["GROUND", "PANEL", "RAISED"])
def test_text_can_be_read(ink, ground):
    assert contrast(getattr(t, ink), getattr(t, ground)) >= 4.5


def test_everything_around_the_picture_is_neutral():
    for name in ("MOUNT", "GROUND", "PANEL", "RAISED", "LINE", "INK", "INK_SOFT"):
        colour = getattr(t, name)
        assert colour[1:3] == colour[3:5] == colour[5:7], name
    meaning = {t.MOON, t.LAMP, t.GOOD, t.CARE, t.BAD}
    for colour in re.findall(r"#[0-9a-f]{6}\b", style.sheet()):
        assert colour in meaning or colour[1:3] == colour[3:5] == colour[5:7], colour


def test_every_icon_is_drawn_in_its_colours(qapp):
    there = TTFont(icons.FONT).getBestCmap()
    assert {*json.loads(icons.CHARACTERS.read_text()).values()} <= {*there}, "characters that the font has not"
    shapes = {}
    for name, glyph in icons.NAMES.items():
        for mode, colour in ((QIcon.Mode.Normal, t.INK), (QIcon.Mode.Disabled, icons.OFF)):
            image = (
                icons.icon(name)
                .pixmap(icons.icon_size(), mode)
                .toImage()
                .convertToFormat(QImage.Format.Format_RGBA8888)
            )
            shown = np.frombuffer(image.constBits(), np.uint8).reshape(-1, 4)
            ink = shown[shown[:, 3] > 140]
            assert len(ink), f"{name}: nothing is drawn"
            assert np.abs(ink[:, :3] - np.array([*bytes.fromhex(colour[1:])], float)).max() <= 4, name
        shapes.setdefault(shown[:, 3].tobytes(), set()).add(glyph)
    assert all(len(glyphs) == 1 for glyphs in shapes.values()), "two icons look the same"


def named(widget: QWidget) -> str:
    text = widget.text() if isinstance(widget, QAbstractButton) else ""
    return widget.accessibleName() or text


def test_every_control_has_a_name(make_window, demo):
    window = make_window(demo)
    for stage in BY_STAGE:
        window.session.go_to(stage)
        for kind in (QAbstractButton, QComboBox, QLineEdit, QAbstractItemView):
            for widget in window.findChildren(kind):
                inside = widget.parent()
                if widget.isVisible() and not isinstance(inside, QComboBox) and "qt_" not in widget.objectName():
                    assert named(widget), f"{stage}: {widget} in {inside}"


def test_icons_without_words_have_tooltips(make_window, demo):
    window = make_window(demo)
    for stage in BY_STAGE:
        window.session.go_to(stage)
        for button in window.findChildren(QAbstractButton):
            if button.isVisible() and not button.text() and "qt_" not in button.objectName():
                assert button.toolTip() or button.parent().toolTip() or named(button), button


def test_the_page_of_keys_is_what_the_table_says():
    page = (ROOT / "docs" / "keys.md").read_text()
    for menu in MENUS:
        assert f"## {menu}" in page
    for command in COMMANDS:
        if command.keys:
            assert f"| {command.keys} | {command.title} |".replace("| | |", "|") in page, command.id


def test_the_whole_window_can_be_walked_by_tab(qtbot, make_window, demo):
    window = make_window(demo)
    window.session.go_to("light")
    window.session.choose("lights", "bulb")
    seen, widget = set(), window.picture.nextInFocusChain()
    while widget is not window.picture and len(seen) < 5000:
        widget = widget.nextInFocusChain()
        if widget.isVisible() and widget.focusPolicy() & 1:
            seen.add(widget)
    assert {window.picture, window.lists["light"].view, window.desk.strips["lamp"].fader} <= seen
    assert window.sheets["light"].form.editors["power"].entry in seen


@pytest.mark.parametrize(("scale", "size"), [("1.25", (1600, 1000)), ("2", (1920, 1080))])
def test_the_window_fits_at_other_scalings(scale, size, tmp_path):
    """Open the window in a process of its own at a scaling; nothing may be cut and the picture is sharp."""
    script = textwrap.dedent(f"""
        from nocturne.ui.app import application
        from nocturne.ui.window import Window
        app = application(["x"])
        window = Window()
        window.resize({size[0]} / {scale}, {size[1]} / {scale})
        window.show()
        for stage in ("set", "materials", "light", "camera", "render", "finish"):
            window.session.go_to(stage)
            app.processEvents()
        ratio = window.devicePixelRatioF()
        print(ratio, window.grab().width(), window.picture.wanted_size()[0] / window.picture.frame_rect().width())
        print(window.minimumSizeHint().width())
        window.close()
    """)
    environment = {
        **os.environ,
        "QT_QPA_PLATFORM": "offscreen",
        "QT_SCALE_FACTOR": scale,
        "XDG_CONFIG_HOME": str(tmp_path),
    }
    done = subprocess.run([sys.executable, "-c", script], env=environment, capture_output=True, text=True, check=True)
    ratio, width, sharp = map(float, done.stdout.splitlines()[0].split())
    assert ratio == float(scale)
    assert sharp == pytest.approx(ratio, rel=0.02), "one sample for each pixel of the screen"
    assert width <= size[0] * 1.35


def test_ten_thousand_things_are_listed_without_lag(qtbot, make_window):
    """Choosing and changing one of 10,000 rows costs far less than making them, filling the list not much more."""

    def some(n: int) -> tuple[Thing, ...]:
        groups = tuple(Thing(id=f"g{i}", name=f"Group {i}") for i in range(n // 100))
        return groups + tuple(
            Thing(id=f"t{i}", name=f"Thing {i}", parent=f"g{i // 100}" if i % 100 else "") for i in range(n)
        )

    window = make_window()
    outline = window.lists["set"]

    def least(act) -> float:
        """Return the shortest time of an act on each of nine things, with painting the list."""
        took = []
        for i in range(1, 10):
            started = time.perf_counter()
            act(f"t{i * (len(outline.model.things) // 20) + 1}")
            outline.view.viewport().repaint()
            took.append(time.perf_counter() - started)
        return min(took)

    def choose(id: str) -> None:
        window.session.choose("things", id)

    def rename(id: str) -> None:
        outline.show_document(edit.alter(window.session.document, "things", id, name="Other"))

    started = time.perf_counter()
    many = some(10_000)
    made = time.perf_counter() - started
    started = time.perf_counter()
    window.session.push(Document(things=many), "Many")
    filled = time.perf_counter() - started
    assert len(outline.model.things) == 10_100
    assert filled < 5 * made, "showing them costs no more than a few times making them"
    assert least(choose) < 0.5 * made
    assert least(rename) < made, "a changed row is not a new list"


def test_the_window_is_as_large_as_it_was_designed(qtbot, make_window, demo):
    window = make_window(demo)
    wait_for_picture(qtbot, window, samples=2)
    window.state_line.state.setText("Live  ·  1024 samples  ·  noise 38.5 %  ·  12 h 51 min  ·  1 h 52 min left")
    for stage in BY_STAGE:
        window.session.go_to(stage)
        assert (window.width(), window.height()) == (1280, 800), stage


def test_a_chosen_row_is_quiet_in_every_list(qtbot, make_window, demo):
    """The accent marks a choice with a line; a bar of it would outshine the picture."""
    window = make_window(demo)
    wait_for_picture(qtbot, window)
    moon = tuple(int(t.MOON[i : i + 2], 16) for i in (1, 3, 5))
    chosen = {"set": ("things", "mug"), "materials": ("materials", "brass"), "light": ("lights", "bulb")}
    for stage in BY_STAGE:
        window.session.go_to(stage)
        if stage in chosen:
            window.session.choose(*chosen[stage])
        view = window.lists[stage].view
        qtbot.waitUntil(lambda view=view: view.updatesEnabled() and view.isVisible(), timeout=120000)
        assert view.selectionModel().hasSelection(), stage
        seen = pixels(view.grab().toImage())
        assert (seen == moon).all(-1).mean() < 0.01, stage
        ground = tuple(int(t.PANEL[i : i + 2], 16) for i in (1, 3, 5))
        assert (seen == ground).all(-1).mean() > 0.5, f"the list of {stage} lies on the panel's colour"
        row = view.visualRect(view.selectionModel().selectedIndexes()[0]).center()
        text = pixels(view.viewport().grab().toImage())[row.y() - 8 : row.y() + 8]
        assert text.max() > 200, f"the chosen row of {stage} can be read"

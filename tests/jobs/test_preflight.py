"""J33: what is probably wrong with a project is listed, shown and mended at one press each, through the window."""

import shutil

import numpy as np
from PySide6.QtWidgets import QLabel, QPushButton

from nocturne.io import picture, project
from nocturne.scene import edit, grading
from nocturne.scene.lights import make_light
from nocturne.scene.patterns import Picture
from nocturne.ui.commands import COMMANDS


def spoil(document, folder):
    """Return the demo with a picture that lies elsewhere, a missing table, a dome besides the sky, a tiny thing."""
    picture.write(folder / "found" / "grain-of-the-test.png", np.full((4, 4, 3), 0.5))
    texture = Picture(parameter="specular_roughness", path="gone/grain-of-the-test.png", space="data")
    document = edit.alter(document, "materials", "brass", steps=(texture,))
    document, step = grading.add_step(document, "lut")
    document = grading.alter_step(document, step, path="gone/look.cube")
    document = edit.put(document, "lights", make_light(id="dome", name="Dome", kind="dome", unit="nit", power=1.0))
    return edit.alter(document, "things", "orrery-planet-5", size=(1e-3,) * 3, material="")


def cards(sheet):
    """Return the words and buttons of each finding that is shown."""
    rows = [sheet.rows.itemAt(i).widget() for i in range(sheet.rows.count())]
    return [(row.findChild(QLabel).text(), {b.text(): b for b in row.findChildren(QPushButton)}) for row in rows]


def card(sheet, *words):
    """Return the buttons of the one finding with some words in it."""
    (buttons,) = (buttons for text, buttons in cards(sheet) if all(word in text for word in words))
    return buttons


def test_each_fault_is_shown_and_mended_at_one_press(qtbot, make_window, small_demo, demo_file, tmp_path):
    folder = tmp_path / "project"
    shutil.copytree(demo_file.parent, folder)
    spoilt = spoil(small_demo.document, folder)
    window = make_window(project.Project(spoilt, folder / "project.nocturne", small_demo.assets))
    sheet, session = window.preflight, window.session

    def looked():
        qtbot.waitUntil(lambda: sheet.title.text() != "Preflight", timeout=120000)
        return [text for text, _ in cards(sheet)]

    window.run_command(next(c for c in COMMANDS if c.id == "project.preflight"))
    assert window.sheet_stack.currentWidget() is sheet
    texts = looked()
    assert len(texts) == 5
    assert sheet.title.text() == "Preflight: 5 to look at"

    card(sheet, "which is missing", "look.cube")["Show it"].click()
    assert session.stage == "finish"
    assert window.sheet_stack.currentWidget() is sheet, "the list stays, to go on with the next"
    card(sheet, "m large")["Show it"].click()
    assert (session.stage, session.chosen["things"]) == ("set", "orrery-planet-5")

    steps = len(session.history.steps)
    for words, press in (
        ("grain-of-the-test", "Take found/grain-of-the-test.png"),
        ("look.cube", "Leave the step out"),
        ("m large", "Take it as "),
        ("counts twice", "Switch "),
        ("material", "Give a plain grey"),
    ):
        buttons = card(sheet, words)
        next(button for text, button in buttons.items() if text.startswith(press)).click()
        looked()
    assert sheet.title.text() == "Preflight: nothing found"
    assert session.document.find("materials", "brass").steps[0].path == "found/grain-of-the-test.png"
    key = ("found/grain-of-the-test.png", "data")
    qtbot.waitUntil(lambda: key in session.assets.images, timeout=120000)
    assert len(session.history.steps) == steps + 5, "each mend is one step to undo"
    session.go_to_step(steps - 1)
    assert session.document is spoilt
    sheet.close_wanted.emit()
    assert window.sheet_stack.currentWidget() is window.sheets["set"]

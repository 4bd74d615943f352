"""J6, J9 and J10 through the real window: measured metals, a layer over another, rounded edges; the sheet's folds."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from nocturne.scene import edit
from nocturne.scene.forms import KINDS as FORMS
from nocturne.scene.materials import Material
from nocturne.scene.thing import Thing
from nocturne.ui import files
from tests.ui.test_materials import kind_in
from tests.ui.test_widgets import type_into
from tests.ui.test_window import wait_for_picture


@pytest.fixture
def window(qtbot, make_window):
    """Return a window that looks at a box under a dome, its material chosen."""
    window = make_window()
    window.start_page.hide()
    session = window.session
    box = Thing(id="a", name="A", form=FORMS["box"](), material="m")
    materials = (Material(id="m", name="Metal"), Material(id="copper", name="Copper", base_metalness=1))
    document = edit.changed(session.document, things=(box,), materials=materials)
    view = edit.changed(document.view, eye=(2.0, -3.0, 2.0), target=(0.0, 0.0, 0.4), focal_mm=40)
    session.push(edit.put(document, "views", view), "Set")
    session.go_to("materials")
    session.choose("materials", "m")
    return window


def material(window, id: str = "m") -> Material:
    return window.session.document.find("materials", id)


def rows_shown(sheet) -> set[str]:
    return {name for name, row in sheet.form.rows.items() if row.isVisibleTo(sheet.form)}


def choose(editor, value) -> None:
    """Choose an entry of a drop-down, as its list would."""
    editor.setCurrentIndex(editor.findData(value))
    editor.activated.emit(editor.currentIndex())


def fold(sheet, title: str) -> None:
    QTest.mouseClick(sheet.form.headings[title][0], Qt.MouseButton.LeftButton)


def test_a_metal_is_given_by_measurement(qtbot, window, monkeypatch, tmp_path):
    sheet = window.sheets["materials"]
    assert not rows_shown(sheet) & {"metal_from", "metal_name", "metal_n"}
    type_into(qtbot, sheet.form.editors["base_metalness"].entry, "1")
    assert rows_shown(sheet) >= {"metal_from", "base_color", "specular_color"}
    choose(sheet.form.editors["metal_from"], "table")
    assert "base_color" not in rows_shown(sheet), "only what counts for the way that is chosen"
    choose(sheet.form.editors["metal_name"], "gold")
    assert (material(window).metal_from, material(window).metal_name) == ("table", "gold")
    assert "Johnson" in sheet.form._notes["metal_name"].text()
    assert "face on 91, 75, 42 %" in sheet.reflectance.accessibleDescription()
    # Typed, with n and k exchanged: it is said beside the field.
    choose(sheet.form.editors["metal_from"], "nk")
    for name, values in (("metal_n", (3.2, 2.3, 1.9)), ("metal_k", (0.25, 0.5, 1.2))):
        for field, value in zip(sheet.form.editors[name].fields, values):
            type_into(qtbot, field.entry, str(value))
    assert material(window).metal_n == (3.2, 2.3, 1.9)
    note = sheet.form._notes["metal_k"]
    assert "exchanged" in note.text()
    assert note.isVisibleTo(sheet.form)
    type_into(qtbot, sheet.form.editors["metal_wavelengths_nm"].fields[0].entry, "0.7 um")
    assert material(window).metal_wavelengths_nm == pytest.approx((700, 532, 465))
    # From a file, and one that is none.
    table, bad = tmp_path / "gold.csv", tmp_path / "bad.csv"
    table.write_text("um,n,k\n0.4,1.47,1.95\n0.55,0.42,2.4\n0.7,0.13,4.1\n")
    bad.write_text("hello")
    choose(sheet.form.editors["metal_from"], "spectrum")
    assert sheet.read_metal.isVisibleTo(sheet)
    said = []
    window.session.said.connect(lambda words, is_trouble: said.append((words, is_trouble)))
    monkeypatch.setattr(files, "ask_open_file", lambda *_: str(bad))
    sheet.read_metal.click()
    assert said[-1][1]
    assert "bad.csv" in said[-1][0]
    monkeypatch.setattr(files, "ask_open_file", lambda *_: str(table))
    sheet.read_metal.click()
    assert material(window).metal_spectrum[1] == (550.0, 0.42, 2.4)
    assert "3 rows" in sheet.form._notes["metal_from"].text()
    wait_for_picture(qtbot, window)


def test_enamel_is_chipped_off_copper(qtbot, window):
    sheet, session = window.sheets["materials"], window.session
    fold(sheet, "Layer")
    editor = sheet.form.editors["layer_over"]
    assert [editor.itemText(i) for i in range(editor.count())] == ["Nothing", "Copper"]
    choose(editor, "copper")
    assert rows_shown(sheet) >= {"layer_over", "layer_cover", "layer_thickness_mm"}
    kind_in(sheet.outline.kinds_menu(), "Edges").trigger()
    (row,) = sheet.outline.rows
    row.parameter.setCurrentIndex(row.parameter.findText("Covers"))
    row.parameter.activated.emit(row.parameter.currentIndex())
    type_into(qtbot, sheet.form.editors["layer_thickness_mm"].entry, "0.3")
    chipped = material(window)
    assert (chipped.layer_over, chipped.layer_thickness_mm) == ("copper", 0.3)
    assert [step.parameter for step in chipped.steps] == ["layer_cover"]
    wait_for_picture(qtbot, window)
    # Copper may not lie over what lies over it.
    session.choose("materials", "copper")
    assert [editor.itemText(i) for i in range(editor.count())] == ["Nothing"]
    session.edit(edit.remove, "materials", "copper", label="Remove")
    assert material(window).layer_over == ""


def test_edges_are_rounded_and_sections_fold(qtbot, window):
    sheet = window.sheets["materials"]
    shown = rows_shown(sheet)
    assert "rounding_mm" in shown
    assert not shown & {"coat_weight", "fuzz_weight", "subsurface_weight"}, "what has no effect is folded"
    type_into(qtbot, sheet.form.editors["rounding_mm"].entry, "0.2 cm")
    assert material(window).rounding_mm == pytest.approx(2.0)
    assert "rounding_angle_deg" in rows_shown(sheet)
    fold(sheet, "Fuzz")
    assert "fuzz_weight" in rows_shown(sheet)
    type_into(qtbot, sheet.form.editors["fuzz_weight"].entry, "1")
    assert "fuzz_color" in rows_shown(sheet)
    fold(sheet, "Fuzz")
    assert not rows_shown(sheet) & {"fuzz_weight", "fuzz_color"}
    assert sheet.form.headings["Fuzz"][0].text() == "Fuzz", "it is folded, and there is some"
    wait_for_picture(qtbot, window)

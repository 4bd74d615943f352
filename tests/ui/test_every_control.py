"""Every control of every sheet, by mouse and keys: it changes what it is named for, in one step that can be undone."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QCheckBox, QComboBox, QLineEdit

from nocturne.scene import edit, grading
from nocturne.scene.camera import View
from nocturne.scene.document import Document
from nocturne.scene.finish import STEPS
from nocturne.scene.lights import KINDS, make_light
from nocturne.scene.materials import Material
from nocturne.scene.thing import Thing
from nocturne.ui.choice import Choice
from nocturne.ui.panels.finish import FinishSheet
from nocturne.ui.panels.sheets.camera import CameraSheet
from nocturne.ui.panels.sheets.light import LightSheet
from nocturne.ui.panels.sheets.render import RenderSheet
from nocturne.ui.panels.sheets.thing import ThingSheet
from nocturne.ui.session import Session
from nocturne.ui.widgets.colourchip import ColourChip
from nocturne.ui.widgets.curve import CurveEditor
from nocturne.ui.widgets.numberfield import NumberField, VectorField
from tests.ui.sheets import material_sheet
from tests.ui.test_widgets import LEFT, drag, type_into


def everything() -> Document:
    """Return a document with one of each kind of item."""
    document = Document(
        things=(Thing(id="g", name="Group"), Thing(id="b", name="Ball", parent="g", mesh="ball", material="m")),
        materials=(
            Material(id="m", name="Varnish", transmission_weight=0.5, coat_weight=0.5, emission_luminance=2.0),
            Material(id="metal", name="Brass", base_metalness=1.0),
            Material(id="measured", name="Gold", base_metalness=1.0, metal_from="nk"),
            Material(id="thin", name="Pane", transmission_weight=1.0, geometry_thin_walled=True),
        ),
        lights=tuple(make_light(id=kind, name=kind, kind=kind, unit=KINDS[kind].units[0]) for kind in KINDS),
        views=(
            View(id="wide", name="Wide", f_number=2.8, depth_of_field=True, focus_m=2.0, blades=6),
            View(id="close", name="Close", eye=(0.0, -3.0, 1.0)),
        ),
    )
    for kind in STEPS:
        document, _ = grading.add_step(document, kind)
    return document


@pytest.fixture
def session(qtbot):
    made = Session()
    made.open(everything(), made.assets, None)
    return made


def operate(qtbot, editor) -> None:
    """Change what an editor shows, with mouse and keys."""
    if isinstance(editor, VectorField):
        operate(qtbot, editor.fields[0])
    elif isinstance(editor, NumberField):
        before = editor.value
        for key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            if editor.value == before:
                qtbot.keyClick(editor.entry, key)
    elif isinstance(editor, ColourChip):
        qtbot.mouseClick(editor, LEFT)
        type_into(qtbot, editor.chooser.hex, "#8040c0")
        editor.chooser.hide()
    elif isinstance(editor, CurveEditor):
        start = editor.at(editor.value[0]).toPoint()
        drag(editor, start, start - QPoint(0, 20))
    elif isinstance(editor, QCheckBox):
        qtbot.mouseClick(editor, LEFT, pos=QPoint(6, editor.height() // 2))
    elif isinstance(editor, QComboBox) and editor.isEditable():
        type_into(qtbot, editor.lineEdit(), "night")
    elif isinstance(editor, QComboBox):
        before = editor.currentIndex()
        for key in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            if editor.currentIndex() == before:
                QTest.keyClick(editor, key)
    elif isinstance(editor, QLineEdit):
        type_into(qtbot, editor, "Another")
    else:
        raise AssertionError(f"nobody knows how to operate a {type(editor).__name__}")


def shown(editor) -> object:
    """Return what an editor shows."""
    if isinstance(editor, ColourChip):
        return tuple(editor.rgb)
    if isinstance(editor, (NumberField, VectorField, CurveEditor)):
        return editor.value
    if isinstance(editor, QCheckBox):
        return editor.isChecked()
    return editor.currentText() if isinstance(editor, QComboBox) else editor.text()


def operable(form) -> list[str]:
    """Return the names of the editors that are seen and can do something."""
    names = []
    for name, editor in form.editors.items():
        is_idle = isinstance(editor, QComboBox) and not editor.isEditable() and editor.count() < 2
        if editor.isVisibleTo(form) and form.rows[name].isVisibleTo(form) and editor.isEnabled() and not is_idle:
            names.append(name)
    return names


def check(qtbot, session, sheet, form) -> int:
    """Operate every editor of a form that is seen; return how many there were."""
    names = operable(form)
    for name in names:
        editor, document, steps = form.editors[name], session.document, session.history.at
        item, was = sheet.item(document), shown(editor)
        where = f"{type(sheet).__name__}, {item.id}, {name}"
        operate(qtbot, editor)
        after = session.document
        assert getattr(sheet.item(after), name) != getattr(item, name), f"{where}: nothing changed"
        assert session.history.at == steps + 1, f"{where}: not one step of undo"
        assert session.history.undo_label, f"{where}: the step has no name"
        assert Document.model_validate_json(after.model_dump_json()) == after, f"{where}: lost when saved"
        now = shown(form.editors[name])
        assert now != was, f"{where}: the editor does not show it"
        session.undo()
        assert session.document == document, f"{where}: undo does not take it back"
        assert shown(form.editors[name]) == was, f"{where}: the editor does not follow the undo"
        session.redo()
        assert session.document == after
        session.undo()
    return len(names)


def opened(qtbot, sheet):
    """Return a sheet in a window of its own."""
    qtbot.addWidget(sheet)
    sheet.resize(330, 900)
    sheet.show()
    return sheet


def test_things(qtbot, session):
    sheet = opened(qtbot, ThingSheet(session, Choice(session, {"set": "things"}), lambda: None, str))
    for id in ("g", "b"):
        session.choose("things", id)
        assert check(qtbot, session, sheet, sheet.form) >= 5


def test_materials(qtbot, session):
    sheet = opened(qtbot, material_sheet(session, lambda: ""))
    seen = 0
    for material in session.document.materials:
        session.choose("materials", material.id)
        seen += check(qtbot, session, sheet, sheet.form)
    assert seen > 50


@pytest.mark.parametrize("kind", KINDS)
def test_lights(qtbot, session, kind):
    sheet = opened(qtbot, LightSheet(session, lambda: ""))
    session.choose("lights", kind)
    assert check(qtbot, session, sheet, sheet.form) >= 6


def test_views(qtbot, session):
    sheet = opened(qtbot, CameraSheet(session))
    for view in session.document.views:
        session.push(edit.changed(session.document, active_view=view.id), "Another view")
        session.choose("views", view.id)
        assert check(qtbot, session, sheet, sheet.form) > 10


def test_qualities(qtbot, session):
    sheet = opened(qtbot, RenderSheet(session))
    for quality in session.document.qualities:
        session.push(edit.changed(session.document, active_quality=quality.id), "Another level")
        assert check(qtbot, session, sheet, sheet.form) >= 5


@pytest.mark.parametrize("kind", STEPS)
def test_finishing_steps(qtbot, session, kind):
    sheet = opened(qtbot, FinishSheet(session))
    step = next(step for step in session.document.finish.steps if step.kind == kind)
    session.choose("steps", step.id)
    assert check(qtbot, session, sheet, sheet.form) == 1, "the amount"
    own = sheet.forms[kind]
    if kind == "curves":
        for i in range(sheet.channel.count()):
            sheet.channel.setCurrentIndex(i)
            assert check(qtbot, session, sheet, own) == 1
    else:
        assert check(qtbot, session, sheet, own) >= 1

"""J14 through the real window: a sign is lettered, fitted, outlined, made to shine and given relief."""

import numpy as np
import pytest
from PySide6.QtCore import Qt

from nocturne.jobs import run
from nocturne.lettering import faces
from nocturne.preflight.check import check
from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.forms import KINDS as FORMS
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Emblem, Lettering
from nocturne.scene.thing import Thing
from tests.jobs.test_patterns import menu, steps
from tests.ui.test_materials import kind_in
from tests.ui.test_widgets import type_into


@pytest.fixture
def window(qtbot, make_window):
    """Return a window that looks at an upright board, its material chosen."""
    window = make_window()
    window.start_page.hide()
    session = window.session
    board = Thing(id="a", name="Board", form=FORMS["panel"](width=1.2, height=0.5), material="m")
    document = edit.changed(session.document, things=(board,), materials=(Material(id="m", name="Sign"),))
    view = edit.changed(document.view, eye=(0.3, -2.5, 0.5), target=(0.0, 0.0, 0.25), focal_mm=50)
    session.push(edit.put(document, "views", view), "Set")
    session.go_to("materials")
    session.choose("materials", "m")
    return window


def type_lines(qtbot, editor, words: str) -> None:
    """Type over several lines of text, letter by letter, and leave them."""
    editor.entry.setFocus()
    editor.entry.selectAll()
    for letter in words:
        if letter == "\n":
            qtbot.keyClick(editor.entry, Qt.Key.Key_Return)
        else:
            editor.entry.insertPlainText(letter)
    editor.entry.left.emit()


def small_picture(row) -> np.ndarray:
    image = row.picture.image
    pixels = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    return pixels[:, : 4 * image.width()].reshape(image.height(), image.width(), 4)[..., :3].astype(int)


def test_a_sign_is_lettered_fitted_and_inked(qtbot, window):
    outline = window.sheets["materials"].outline
    kind_in(outline.kinds_menu(), "Lettering").trigger()
    (row,) = outline.rows
    menu(row, "Fit it to the thing, laid on", "From the front")
    (laid,) = steps(window)
    assert (laid.where, laid.tilt) == ("flat", (90.0, 0.0, 0.0))
    assert laid.artwork.block[0] * laid.height == pytest.approx(0.84 * 1.2, rel=0.05)

    row.picture.click()
    before, seen = window.session.history.at, small_picture(row)
    type_lines(qtbot, row.form.editors["words"], "Halley\nساعة")
    assert steps(window)[0].words == "Halley\nساعة"
    assert row.kind.text() == "Halley ساعة"
    assert window.session.history.at == before + 1, "typing is one step back"
    assert (small_picture(row) != seen).any()
    face = row.form.editors["face"]
    face.showPopup()
    face.hidePopup()
    face.activated.emit(face.findData("round"))
    assert steps(window)[0].face == "round"

    assert not row.form.rows["outline_1_gap"].isVisibleTo(row), "what counts for nothing is not shown"
    type_into(qtbot, row.form.editors["outline_1_width"].entry, "4 mm")
    assert row.form.rows["outline_1_gap"].isVisibleTo(row)
    type_into(qtbot, row.form.editors["outline_2_width"].entry, "2 mm")
    type_into(qtbot, row.form.editors["outline_2_gap"].entry, "3 mm")
    assert (steps(window)[0].outline_1_width, steps(window)[0].outline_2_gap) == (0.004, 0.003)

    kind_in(outline.kinds_menu(), "Simple shape").trigger()
    shape = next(row for row in outline.rows if isinstance(row.step, Emblem))
    menu(shape, "Fit it to the thing, laid on", "From the front")
    shape = next(row for row in outline.rows if isinstance(row.step, Emblem))
    assert (shape.step.width, shape.step.height) == pytest.approx((1.2 - 0.08, 0.5 - 0.08), abs=0.01)


def test_the_same_letters_are_a_mask_a_light_and_relief(qtbot, window):
    outline = window.sheets["materials"].outline
    kind_in(outline.kinds_menu(), "Lettering").trigger()
    menu(outline.rows[0], "Take it along")
    session = window.session

    def driving(parameter: str) -> Lettering:
        outline.kinds_menu().actions()[-1].trigger()
        row = outline.rows[0]
        row.parameter.activated.emit(row.parameter.findData(parameter))
        return next(s for s in steps(window) if s.parameter == parameter)

    assert isinstance(driving("base_metalness"), Lettering)
    session.edit(edit.alter, "materials", "m", steps=(), label="Clear")
    session.edit(edit.alter, "materials", "m", emission_luminance=500.0, label="Shine")
    assert outline._made("lettering", "emission_color", is_colour=None).beside == "own", "dark beside the letters"
    assert outline._made("lettering", "specular_roughness", is_colour=None).output == "letters"
    assert outline._made("lettering", "geometry_height", is_colour=None).output == "raised"


def test_a_face_that_is_not_here_is_told_and_mended(qtbot, window, tmp_path, monkeypatch):
    faces.installed()  # as the window does at its start
    outline, session = window.sheets["materials"].outline, window.session
    away = Lettering(words="Sign", face="Nobody's Grotesque Bold")
    session.edit(edit.alter, "materials", "m", steps=(away,), label="Letter")
    outline.rows[0].picture.click()
    assert outline.rows[0].form.editors["face"].currentText() == "Nobody's Grotesque Bold (not installed here)"
    found = run(check(session.document, Assets(), tmp_path))
    (finding,) = [f for f in found if f.check == "missing faces"]
    assert "Nobody's Grotesque Bold" in finding.words
    session.push(finding.mends[0].edit(session.document), "Mend")
    assert steps(window)[0].face == "sans"


def test_nothing_wears_the_material_and_that_is_said(qtbot, window):
    session, told = window.session, []
    session.said.connect(lambda words, is_wrong: told.append((words, is_wrong)))
    session.edit(edit.alter, "things", "a", material="", label="Bare")
    outline = window.sheets["materials"].outline
    kind_in(outline.kinds_menu(), "Lettering").trigger()
    before = steps(window)
    menu(outline.rows[0], "Fit it to the thing, laid on", "From the front")
    assert steps(window) == before
    assert told[-1][1]
    assert "wears this material" in told[-1][0]

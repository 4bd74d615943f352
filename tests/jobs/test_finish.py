"""J36: a grade built, reordered and compared in the window, and the same in the export."""

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt

from nocturne.finish.develop import Light, develop
from nocturne.io import image
from nocturne.scene.finish import S_CURVE, STEPS
from nocturne.ui import files
from tests.ui.test_widgets import LEFT, drag, type_into
from tests.ui.test_window import pixels, wait_for_picture
from tests.ui.waiting import rest, stand_still


def settled(qtbot, window):
    qtbot.waitUntil(lambda: window.picture.print.document is window.session.document, timeout=120000)
    return pixels(window.picture.print.image).astype(int)


@pytest.fixture
def finishing(qtbot, small_window):
    window = small_window
    wait_for_picture(qtbot, window, samples=2)
    window.picture_bar.denoise.setChecked(False)
    stand_still(qtbot, window)
    window.session.go_to("finish")
    return window


def test_a_grade_from_empty_to_export(qtbot, finishing, tmp_path, monkeypatch):
    window = finishing
    steps = window.lists["finish"]
    while window.session.document.finish.steps:
        window.choice.remove()
    assert steps.empty.isVisible()
    plain = settled(qtbot, window)

    # Every kind of step can be added; each changes the picture by what its sheet says.
    strong = {
        "exposure": ("stops", "1"),
        "white": ("kelvin", "3000"),
        "tone": ("contrast", "1.6"),
        "saturation": ("saturation", "0"),
        "bloom": ("glare", "1"),
        "vignette": ("strength", "1"),
        "fringing": ("shift", "1.5"),
        "sharpening": ("strength", "2"),
        "grain": ("strength", "1"),
    }
    for kind, (name, value) in strong.items():
        steps.add_step(kind)
        type_into(qtbot, window.sheets["finish"].forms[kind].editors[name].entry, value)
        assert np.abs(settled(qtbot, window) - plain).mean() > 0.3, kind
        while window.session.document.finish.steps:
            window.choice.remove()
    assert np.abs(settled(qtbot, window) - plain).max() == 0
    assert set(strong) | {"curves", "lut"} == set(STEPS)

    # S-curve at one press, a curve by hand, its amount, on and off.
    curve_button = next(b for b in steps.findChildren(type(window.proof_sheet.part)) if "S-curve" in b.text())
    qtbot.mouseClick(curve_button, LEFT)
    (step,) = window.session.document.finish.steps
    assert step.master == S_CURVE
    curved = settled(qtbot, window)
    assert np.abs(curved - plain).mean() > 1
    editor = window.sheets["finish"].forms["curves"].editors["master"]
    at = editor.at((2.0, 2.6))
    drag(editor, at.toPoint(), (at + QPointF(0, 20)).toPoint())
    assert window.session.document.finish.steps[0].master[3][1] < 2.2
    editor.setFocus()
    qtbot.keyClick(editor, Qt.Key.Key_Delete)
    assert len(window.session.document.finish.steps[0].master) == 4
    type_into(qtbot, window.sheets["finish"].form.editors["amount"].entry, "0")
    assert np.abs(settled(qtbot, window) - plain).max() <= 1
    window.session.undo()
    steps.view.item(0).setCheckState(Qt.CheckState.Unchecked)
    assert np.abs(settled(qtbot, window) - plain).max() == 0
    steps.view.item(0).setCheckState(Qt.CheckState.Checked)

    # Order counts, by key and by button.
    steps.add_step("exposure")
    type_into(qtbot, window.sheets["finish"].forms["exposure"].editors["stops"].entry, "-2")
    assert [s.kind for s in window.session.document.finish.steps] == ["exposure", "curves"]
    one = settled(qtbot, window)
    steps.shift(1)
    assert [s.kind for s in window.session.document.finish.steps] == ["curves", "exposure"]
    other = settled(qtbot, window)
    assert np.abs(one - other).mean() > 0.2

    # A look-up table from a file.
    table = tmp_path / "negative.cube"
    rows = [f"{1 - r} {1 - g} {1 - b}" for b in (0, 1) for g in (0, 1) for r in (0, 1)]
    table.write_text("LUT_3D_SIZE 2\n" + "\n".join(rows) + "\n")
    monkeypatch.setattr(files, "ask_open_file", lambda *_: str(table))
    steps.add_step("lut")
    film, taken = window.picture.print.frame.film, int(window.picture.print.frame.film.samples.sum())
    with qtbot.waitSignal(window.session.assets_changed, timeout=120000):
        qtbot.mouseClick(window.sheets["finish"].browse, LEFT)
    qtbot.waitUntil(lambda: np.abs(settled(qtbot, window) - (255 - other)).mean() < 3, timeout=120000)

    rest(qtbot, window)
    assert window.live.is_paused
    assert window.picture.print.frame.film is film, "a table is part of the grade: nothing is rendered anew"
    assert int(film.samples.sum()) == taken, "and what was stopped stays stopped"

    # What is exported is what is on the screen.
    window.delivery.ask_export()
    sheet = window.export_sheet
    sheet.folder.setText(str(tmp_path))
    sheet.template.setText("graded")
    sheet.type.setCurrentIndex(sheet.type.findData("png"))
    sheet.denoised.setChecked(False)
    with qtbot.waitSignal(window.runner.finished, timeout=120000, check_params_cb=lambda kind, _: kind == "Export"):
        qtbot.mouseClick(sheet.go, LEFT)
    exported = image.read(tmp_path / "graded.png", space="data") * 255
    document, light = window.session.document, Light.of(film)
    luts = window.session.assets.luts
    exact = develop(light, view=document.view, desk=document.desk, finish=document.finish, luts=luts, exact=True)
    assert np.abs(exported - exact * 255).max() <= 0.51, "through the exact view"
    assert np.abs(exported - settled(qtbot, window)).mean() < 0.3, "which the live picture's table is close to"


def test_the_bar_s_exposure_is_a_step(qtbot, finishing):
    window = finishing
    type_into(qtbot, window.picture_bar.exposure.entry, "1.5")
    assert window.session.document.finish.exposure == 1.5
    assert window.picture_bar.exposure.value == 1.5
    kinds = [s.kind for s in window.session.document.finish.steps]
    assert kinds == ["bloom", "vignette", "exposure", "tone"], "a step goes to where light would pass it"

"""J39: one picture, all passes, names with a preview, the printed sheet, the packed project."""

import zipfile

import OpenEXR
from PySide6.QtCore import Qt

from nocturne.ui import files
from tests.ui.test_widgets import LEFT
from tests.ui.test_window import wait_for_picture


def ended(kind):
    return {"timeout": 60000, "check_params_cb": lambda k, _: k == kind}


def test_export_print_and_pack(qtbot, small_window, tmp_path, monkeypatch):
    window = small_window
    wait_for_picture(qtbot, window, samples=2)
    window.session.go_to("render")
    qtbot.keyClick(window, Qt.Key.Key_E, Qt.KeyboardModifier.ControlModifier)
    sheet = window.export_sheet
    assert window.sheet_stack.currentWidget() is sheet
    sheet.folder.setText(str(tmp_path / "out"))
    # The preview says what is wrong with a name, and what files there will be.
    sheet.template.setText("{nothing}")
    assert "knows no {nothing}" in sheet.preview.text()
    assert not sheet.go.isEnabled()
    sheet.template.setText("{view}_{width}x{height}")
    assert "Wide_" in sheet.preview.text()
    qtbot.mouseClick(sheet.together, LEFT)
    for i in range(sheet.passes.count()):
        if sheet.passes.item(i).text() in ("Depth", "Direct diffuse"):
            sheet.passes.item(i).setCheckState(Qt.CheckState.Checked)
    sheet.space.setCurrentIndex(sheet.space.findData("rec709"))
    assert sheet.go.text() == "Export 3 files"
    with qtbot.waitSignal(window.runner.finished, **ended("Export")):
        qtbot.mouseClick(sheet.go, LEFT)
    written = sorted(p.name for p in (tmp_path / "out").iterdir())
    assert len(written) == 3
    assert any("depth" in name for name in written)
    assert "there already" in sheet.preview.text()
    with OpenEXR.File(str(tmp_path / "out" / written[0]), header_only=True) as file:
        assert file.header()["nocturne/space"] == "rec709"
    qtbot.keyClick(window, Qt.Key.Key_Escape)
    assert window.sheet_stack.currentWidget() is window.sheets["render"]

    window.proofs.keep()
    qtbot.waitUntil(lambda: len(window.room.proofs) == 1, timeout=120000)
    monkeypatch.setattr(files, "ask_save_file", lambda *given: str(tmp_path / f"sheet{given[-1]}"))
    with qtbot.waitSignal(window.runner.finished, **ended("Print")):
        qtbot.keyClick(window, Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier)
    assert (tmp_path / "sheet.pdf").read_bytes().startswith(b"%PDF")

    monkeypatch.setattr(files, "ask_save_file", lambda *_: str(tmp_path / "packed.zip"))
    with qtbot.waitSignal(window.runner.finished, **ended("Pack")):
        window.delivery.ask_pack()
    names = zipfile.ZipFile(tmp_path / "packed.zip").namelist()
    assert "packed/project.nocturne" in names
    assert any(name.endswith("light.exr") for name in names), "proofs come along"
    assert any(name.startswith("packed/models/") for name in names)


def test_a_job_can_be_cancelled_and_leaves_nothing(qtbot, small_window, tmp_path):
    window = small_window
    wait_for_picture(qtbot, window)
    started = []
    window.runner.updated.connect(lambda kind, _: kind == "Pack" and started.append(kind))
    window.delivery.pack(tmp_path / "packed.zip")
    qtbot.waitUntil(lambda: bool(started), timeout=120000)
    assert window.state_line.cancel.isVisible()
    qtbot.mouseClick(window.state_line.cancel, LEFT)
    qtbot.waitUntil(lambda: not window.state_line.cancel.isVisible(), timeout=120000)
    assert list(tmp_path.iterdir()) == []

"""Every command of the table: its key reaches it, what it does to the document is one step that can be undone."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from nocturne.scene import edit
from nocturne.scene.document import Document
from nocturne.ui import files
from nocturne.ui.commands import COMMANDS
from tests.ui.test_window import wait_for_picture

_LEAVES = ("project.quit", "project.demo")
_STEPS_BACK = ("edit.undo", "edit.redo")


@pytest.fixture
def no_questions(monkeypatch, tmp_path):
    """Leave every question of a dialog unanswered."""
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    for name in ("ask_open_file", "ask_save_file", "ask_folder"):
        monkeypatch.setattr(files, name, lambda *_: "")
    monkeypatch.setattr(files, "ask_open_files", lambda *_: [])
    monkeypatch.setattr(files, "ask_unsaved", lambda *_: "stay")


def put_away() -> None:
    """Close what a command opened over the window."""
    for widget in QApplication.topLevelWidgets():
        if widget.windowType() in (Qt.WindowType.Popup, Qt.WindowType.Dialog) and widget.isVisible():
            widget.hide()


def test_every_command_is_one_step_back(qtbot, make_window, demo, no_questions):
    window = make_window(demo)
    wait_for_picture(qtbot, window)
    window.live.pause()
    window.thumbs.close()  # nobody looks at small pictures here
    window.setUpdatesEnabled(False)  # nor at the window
    session = window.session
    session.edit(edit.set_strip, "lamp", stops=0.5, label="Lamp up")
    changing = set()
    for stage, part, id in (
        ("set", "things", "mug"),
        ("materials", "materials", session.document.materials[0].id),
        ("light", "lights", "bulb"),
        ("camera", "views", session.document.views[0].id),
        ("finish", "steps", session.document.finish.steps[0].id),
    ):
        for command in COMMANDS:
            if command.id in (*_LEAVES, *_STEPS_BACK, "project.save"):
                continue
            if command.menu == "Things" and stage not in ("set", "light"):
                continue  # what they do hangs on the chosen things, not on the stage
            if command.menu == "Patterns" and stage != "materials":
                continue  # elsewhere they are switched off, or go there first
            if command.id in changing and command.menu != "Edit":
                continue  # one step back here is one step back there; only what acts on the choice may differ
            session.go_to(stage)
            session.choose(part, id)
            document, at = session.document, session.history.at
            window.run_command(command)
            QTest.qWait(1)
            put_away()
            after = session.document
            where = f"{command.id} in {stage}"
            if after is document:
                assert session.history.at == at, f"{where}: a step that changes nothing"
                continue
            changing.add(command.id)
            assert session.history.at == at + 1, f"{where}: not one step of undo"
            assert session.history.undo_label, where
            assert Document.model_validate_json(after.model_dump_json()) == after, f"{where}: lost when saved"
            session.undo()
            assert session.document == document, f"{where}: undo does not take it back"
    assert {"edit.remove", "edit.copy", "edit.floor", "desk.reset"} & changing
    assert len(changing) > 12, sorted(changing)


def test_every_key_reaches_its_command(qtbot, make_window, demo, no_questions, monkeypatch):
    window = make_window(demo)
    wait_for_picture(qtbot, window)
    window.live.pause()
    ran: list[str] = []
    monkeypatch.setattr(window, "run_command", lambda command: ran.append(command.id))
    for command in COMMANDS:
        # What does not apply just now has its key all the same.
        window.actions_by_id[command.id].setEnabled(True)
    window.picture.setFocus()
    missed = []
    for command in COMMANDS:
        if not command.keys:
            continue
        pressed = QKeySequence(command.keys)[0]
        ran.clear()
        qtbot.keyClick(window.picture, pressed.key(), pressed.keyboardModifiers())
        if ran != [command.id]:
            missed.append((command.keys, command.id, list(ran)))
    assert not missed

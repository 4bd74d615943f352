"""A day's safety: autosave and recovery after a kill, history, recent projects, saving while killed, the start page."""

import json
import os
import signal
import subprocess
import sys
import textwrap
import time

import numpy as np
import pytest
from PySide6.QtCore import QEvent, Qt, QTimer
from PySide6.QtWidgets import QApplication, QMenu, QPushButton, QToolButton

from nocturne.io import project
from nocturne.io.atomic import replacing, whole_files
from nocturne.io.models.glb import write_glb
from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.lights import make_light
from nocturne.ui import files, rescue
from nocturne.ui.panels import cards
from tests import sets
from tests.ui.test_widgets import LEFT
from tests.ui.test_window import wait_for_picture


@pytest.fixture(autouse=True)
def own_data(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))


def button_of(widget, words: str) -> QPushButton:
    return next(b for b in widget.findChildren(QPushButton) if b.text() == words and b.isVisible())


def test_changes_are_written_away_and_dropped_when_saved(qtbot, make_window, tmp_path):
    path = project.save_document(tmp_path / "a.nocturne", Document(name="A"))
    window = make_window()
    window.open_path(path)
    qtbot.waitUntil(lambda: window.session.path == path, timeout=120000)
    window.rescue.write()
    qtbot.waitUntil(lambda: not window.runner.is_busy("Autosave"), timeout=120000)
    assert not window.rescue.copy.exists(), "nothing to save"
    window.choice.add_light("point")
    window.rescue.write()
    qtbot.waitUntil(window.rescue.copy.exists, timeout=120000)
    assert rescue.found() == [], "this window is still running"
    assert json.loads(window.rescue.copy.read_text())["path"] == str(path)
    window.projects.save()
    qtbot.waitUntil(lambda: not window.session.history.is_dirty and not window.rescue.copy.exists(), timeout=120000)


def test_a_killed_window_is_recovered_on_the_start_page(qtbot, make_window, tmp_path):
    """Start a window in a process, change something, kill it once the copy is there; the next one offers it."""
    script = textwrap.dedent("""
        import time
        from PySide6.QtCore import QTimer
        from nocturne.ui import rescue
        rescue.EVERY_MS = 200
        from nocturne.ui.app import application
        from nocturne.ui.window import Window
        app = application(["x"])
        window = Window()
        window.show()
        def change():
            window.choice.add_light("spot")
            window.choice.add_light("point")
        QTimer.singleShot(500, change)
        app.exec()
    """)
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    process = subprocess.Popen([sys.executable, "-c", script], env=environment, stderr=subprocess.DEVNULL)
    deadline = time.monotonic() + 300
    while not whole_files(rescue.folder(), ".json") and time.monotonic() < deadline:
        time.sleep(0.05)
    process.send_signal(signal.SIGKILL)
    process.wait()
    (found,) = rescue.found()
    assert len(found.document.lights) == 2

    window = make_window()
    assert window.start_page.isVisible()
    qtbot.mouseClick(button_of(window.start_page, "Recover"), LEFT)
    qtbot.waitUntil(lambda: len(window.session.document.lights) == 2, timeout=120000)
    assert window.session.history.is_dirty
    assert not found.copy.exists()
    qtbot.waitUntil(window.rescue.copy.exists, timeout=120000)


def test_a_copy_that_is_being_written_is_no_copy_yet(tmp_path):
    with replacing(rescue.folder() / "1-a.json") as half:
        half.write_text(json.dumps({"pid": 999999, "document": json.loads(Document().model_dump_json())}))
        assert rescue.found() == []
    assert [one.copy.name for one in rescue.found()] == ["1-a.json"]


def test_a_damaged_copy_is_left_alone(tmp_path):
    rescue.folder().mkdir(parents=True)
    for name, text in (("a", "{"), ("b", '{"pid": 999999, "document": 3}'), ("c", "[]")):
        (rescue.folder() / f"{name}.json").write_text(text)
    assert rescue.found() == []
    assert len(list(rescue.folder().iterdir())) == 3


def test_killed_while_saving_the_project_is_whole(tmp_path):
    script = textwrap.dedent(f"""
        from pathlib import Path
        from nocturne.io import project
        from nocturne.scene.document import Document
        from nocturne.scene.lights import make_light
        lights = tuple(make_light(id=f"l{{i}}") for i in range(3000))
        print("ready", flush=True)
        n = 0
        while True:
            n += 1
            project.save_document(Path({str(tmp_path / "p.nocturne")!r}), Document(name=str(n), lights=lights))
    """)
    rng = np.random.default_rng(3)
    names = []
    for _ in range(5):
        process = subprocess.Popen([sys.executable, "-c", script], stdout=subprocess.PIPE)
        process.stdout.readline()
        time.sleep(float(rng.uniform(0.1, 0.5)))
        process.send_signal(signal.SIGKILL)
        process.wait()
        process.stdout.close()
        if (tmp_path / "p.nocturne").exists():
            document = project.read_document(tmp_path / "p.nocturne")
            assert len(document.lights) == 3000
            names.append(document.name)
    assert names


def test_history_goes_to_any_step(qtbot, make_window):
    window = make_window()
    for kind in ("point", "spot", "rect"):
        window.choice.add_light(kind)
    window.show_history()
    card = window.findChild(cards.HistoryCard)
    labels = [card.list.item(i).text() for i in range(card.list.count())]
    assert labels[:3] == ["Add area light", "Add spot light", "Add point light"]
    at = card.list.visualItemRect(card.list.item(2)).center()
    qtbot.mouseClick(card.list.viewport(), Qt.MouseButton.LeftButton, pos=at)
    assert len(window.session.document.lights) == 1
    window.session.redo()
    assert len(window.session.document.lights) == 2


def test_cards_and_menus_are_gone_for_good_when_they_close(qtbot, make_window):
    window = make_window()
    lights = window.lists["light"].findChildren(QToolButton)
    add_light = next(button for button in lights if button.accessibleName() == "Add a light")
    ways = (window.show_history, window.show_keys, add_light.click, window.lists["finish"].add.click)

    def escape() -> None:
        popup = QApplication.activePopupWidget()
        assert popup is not None
        qtbot.keyClick(popup, Qt.Key.Key_Escape)

    def windows() -> int:
        for way in ways:
            QTimer.singleShot(30, escape)
            way()
            qtbot.waitUntil(lambda: QApplication.activePopupWidget() is None)
            QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        return sum(isinstance(widget, cards.Card | QMenu) for widget in QApplication.topLevelWidgets())

    assert len({windows() for _ in range(3)}) == 1


def test_commands_are_found_and_run_by_words(qtbot, make_window):
    window = make_window()
    window.show_commands()
    finder = window.command_list
    qtbot.keyClicks(finder.words, "desk reset")
    assert [finder.list.item(i).text() for i in range(finder.list.count())] == ["Reset the desk"]
    window.session.edit(edit.set_strip, "light", stops=3.0, label="Fader")
    qtbot.keyClick(finder.words, Qt.Key.Key_Return)
    assert window.session.document.strip("light").stops == 0
    assert not finder.isVisible()


def test_recent_projects_and_the_start_page(qtbot, make_window, tmp_path, monkeypatch):
    paths = [project.save_document(tmp_path / f"{n}.nocturne", Document(name=n)) for n in ("one", "two")]
    window = make_window()
    assert window.start_page.isVisible()
    for path in paths:
        window.open_path(path)
        qtbot.waitUntil(lambda path=path: window.session.path == path, timeout=120000)
    assert window.projects.recent()[:2] == paths[::-1]
    paths[0].unlink()
    assert paths[0] not in window.projects.recent()
    window.show_start()
    assert button_of(window.start_page, "two")
    monkeypatch.setattr(files, "ask_open_files", lambda *_: [])
    qtbot.mouseClick(button_of(window.start_page, "Bring in a model…"), LEFT)
    assert window.session.document.things == ()


def test_an_empty_set_gets_light_and_a_view_with_its_first_model(qtbot, make_window, tmp_path):
    write_glb(tmp_path / "ball.glb", {"ball": sets.BALL})
    window = make_window()
    window.bring.bring_in(tmp_path / "ball.glb")
    qtbot.waitUntil(lambda: bool(window.session.document.lights), timeout=120000)
    assert not window.start_page.isVisible()
    picture = wait_for_picture(qtbot, window, samples=2)
    assert 40 < picture[picture.shape[0] // 2, picture.shape[1] // 2].mean() < 250


def test_an_undo_brings_back_the_file_of_what_comes_back(qtbot, make_window, tmp_path):
    for name, mesh in (("ball", sets.BALL), ("box", sets.BALL)):
        write_glb(tmp_path / f"{name}.glb", {name: mesh})
    window = make_window()
    session = window.session
    window.bring.bring_in(tmp_path / "ball.glb")
    qtbot.waitUntil(lambda: len(session.assets.meshes) == 1, timeout=120000)
    (ball,) = session.assets.meshes
    with_ball = session.history.at
    session.push(edit.changed(session.document, things=()), "Empty")
    window.bring.bring_in(tmp_path / "box.glb")
    qtbot.waitUntil(lambda: session.assets.meshes and ball not in session.assets.meshes, timeout=120000)
    session.go_to_step(with_ball)
    qtbot.waitUntil(lambda: ball in session.assets.meshes, timeout=120000)

    # What cannot be read is told once, not at every step that follows.
    said = []
    session.said.connect(lambda words, is_error: is_error and said.append(words))
    sky = make_light(id=session.document.lights[0].id, kind="environment", image="gone.exr")
    session.edit(edit.put, "lights", sky, label="Sky")
    qtbot.waitUntil(lambda: bool(said), timeout=120000)
    session.edit(edit.alter, "lights", session.document.lights[0].id, power=3.0, label="Power")
    session.edit(edit.alter, "lights", session.document.lights[0].id, power=4.0, label="Power")
    qtbot.waitUntil(lambda: not window.runner.is_busy("Load"), timeout=120000)
    QApplication.processEvents()
    assert len([words for words in said if "gone.exr" in words]) == 1


def test_files_of_a_project_that_was_left_meanwhile_are_dropped(qtbot, make_window, demo):
    window = make_window(demo)
    with qtbot.waitSignal(window.runner.finished, timeout=120000, check_params_cb=lambda kind, _: kind == "Load"):
        window.files.load_assets()
        window.session.open(Document(), Assets(), None)
    QApplication.processEvents()
    assert not window.session.assets.meshes

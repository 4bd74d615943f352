"""A project that is opened before the window is there."""

import shutil
import threading

import pytest

from nocturne.errors import BadFile
from nocturne.io import project
from nocturne.jobs import run
from nocturne.ui import early as early_module
from nocturne.ui.early import Early
from nocturne.ui.window import Window
from tests.ui.test_window import wait_for_picture


@pytest.fixture
def window_of(qtbot, make_window):
    """Return a factory of windows on a project that is opened already."""

    def make(early: Early) -> Window:
        window = Window(early=early)
        make_window.made.append(window)
        window.show()
        return window

    yield make
    # It prepares whatever the window does.
    qtbot.waitUntil(lambda: not [t for t in threading.enumerate() if t.name == "nocturne-early"], timeout=60000)


def test_what_was_begun_is_what_the_window_shows(qtbot, window_of, demo_file, monkeypatch):
    loads, load = [], project.load

    def counted(path):
        loads.append(path)
        return load(path)

    monkeypatch.setattr(project, "load", counted)
    early = Early(demo_file)
    window = window_of(early)
    window.open_path(demo_file)
    assert wait_for_picture(qtbot, window).std() > 20
    assert window.session.path == demo_file
    assert loads == [demo_file], "it is read once"
    assert window.preparer is early.preparer
    # Opened again it is read again: somebody may have written it meanwhile.
    window.open_path(demo_file)
    qtbot.waitUntil(lambda: len(loads) == 2, timeout=60000)


def test_another_project_is_opened_as_ever(qtbot, window_of, demo_file, tmp_path):
    window = window_of(Early(demo_file))
    other = shutil.copytree(demo_file.parent, tmp_path / "other") / demo_file.name
    window.open_path(other)
    qtbot.waitUntil(lambda: window.session.path == other, timeout=60000)


def test_what_is_wrong_with_it_is_said_in_the_window(qtbot, window_of, tmp_path):
    path = tmp_path / "broken.nocturne"
    path.write_text("{")
    early = Early(path)
    window = window_of(early)
    with qtbot.waitSignal(window.runner.failed, timeout=60000) as failed:
        window.open_path(path)
    assert isinstance(failed.args[1], BadFile)
    assert path.name in str(failed.args[1])


def test_it_is_the_job_that_opens_a_project(demo_file, monkeypatch):
    monkeypatch.setattr(early_module.Preparer, "prepare", lambda *_, **__: None)
    early = Early(demo_file)
    assert early.take(demo_file.with_name("another.nocturne")) is None
    told = []
    loaded = run(early.take(demo_file), told.append)
    assert loaded.path == demo_file
    assert [update.note for update in told][-1] == "Loaded"
    assert len(told) > 3, "it tells how far it is"
    assert early.take(demo_file) is None

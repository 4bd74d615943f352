"""A real window for tests, closed and checked for what it left behind."""

import threading

import pytest
from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QApplication

from nocturne.io.project import Project
from nocturne.ui.app import application
from nocturne.ui.theme.style import dress
from nocturne.ui.window import Window


@pytest.fixture(scope="session")
def qapp_cls():
    return QApplication


@pytest.fixture(scope="session")
def qapp():
    app = application(["nocturne-test"])
    dress(app)
    return app


@pytest.fixture
def make_window(qtbot, engine):
    """Return a factory of windows on a project; after the test nothing of them may be left running."""
    QSettings("Nocturne", "Nocturne").clear()  # what another test switched on
    made = []

    def make(project: Project | None = None, size=(1280, 800)) -> Window:
        window = Window()
        made.append(window)
        qtbot.addWidget(window, before_close_func=lambda w: w.session.history.mark_saved(w.session.document))
        window.resize(*size)
        window.show()
        if project is not None:
            window.session.open(project.document, project.assets, project.path)
        return window

    yield make
    for window in made:
        window.session.history.mark_saved(window.session.document)
        window.close()
    left = [
        t.name
        for t in threading.enumerate()
        if t.name.startswith(("nocturne-live", "nocturne-darkroom", "nocturne-denoise"))
    ]
    assert not left

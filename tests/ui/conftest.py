"""A real window for tests, closed and checked for what it left behind."""

import ctypes
import gc
import itertools
import threading

# Else a job would import them while a test ends, and pytest goes over all modules then.
import fpdf  # noqa: F401
import pytest
import scipy.interpolate
import scipy.ndimage
import scipy.optimize
import scipy.spatial  # noqa: F401
from PySide6.QtCore import QCoreApplication, QEvent, QSettings, QTimer
from PySide6.QtWidgets import QApplication

import nocturne.stock.library  # noqa: F401
from nocturne.engine.prepare import Preparer
from nocturne.io.project import Project
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.history import History
from nocturne.ui import live
from nocturne.ui import window as window_module
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


_PIXELS = 8_000  # for each processor
_closed = itertools.count()
_LARGE = ("live", "final", "first", "second", "fixed", "last_frame", "print")


@pytest.fixture
def live_pixels(monkeypatch):
    """Render live pictures smaller than they are shown: most tests wait for one, few for its size."""
    monkeypatch.setattr(live, "MOST_PIXELS", _PIXELS)


def _let_go(window: Window) -> None:
    """Drop the films, sets and pictures of a closed window at once: together they take up to half a gigabyte."""
    for part in (
        window.live,
        window.finals,
        window.darkroom,
        window.thumbs,
        window.pieces,
        window.room,
        window.showing,
        window.renders,
        window.picture,
    ):
        for name in vars(part):
            if name.startswith("_") or name in _LARGE:
                setattr(part, name, None)
    window.session.history, window.session.assets = History.of(Document()), Assets()


@pytest.fixture(scope="package")  # let go when the last of its windows has been
def preparer():
    """Return what prepares pictures of all windows: most look at the same project, which is prepared once then."""
    return Preparer()


@pytest.fixture
def make_window(qtbot, engine, live_pixels, preparer, monkeypatch):
    """Return a factory of windows on a project; after the test nothing of them may be left running."""
    monkeypatch.setattr(window_module, "Preparer", lambda: preparer)
    QSettings("Nocturne", "Nocturne").clear()  # what another test switched on
    made = []

    def make(project: Project | None = None, size=(1280, 800)) -> Window:
        window = Window()
        made.append(window)
        window.resize(*size)
        window.show()
        if project is not None:
            window.session.open(project.document, project.assets, project.path)
        return window

    make.made = made
    before = set(map(id, QApplication.topLevelWidgets()))
    yield make
    running = []
    for window in made:
        window.session.history.mark_saved(window.session.document)
        window.close()
        running += [
            f"{t.parent()} every {t.interval()} ms"
            for t in window.findChildren(QTimer)
            if t.isActive() and not t.isSingleShot()
        ]
        window.deleteLater()
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    for window in made:
        _let_go(window)
    window = None
    made.clear()
    if next(_closed) % 3 == 0:
        gc.collect()  # of a whole window it takes a second, so not after each
    ctypes.CDLL(None).malloc_trim(0)  # else what was freed in pieces stays this process's: 0.1 GB for ten windows
    assert not running, "timers that outlive their window"
    assert not [t.name for t in threading.enumerate() if t.name.startswith("nocturne-") and "finish" not in t.name], (
        "threads"
    )
    left = [type(w).__name__ for w in QApplication.topLevelWidgets() if id(w) not in before and w.isVisible()]
    assert not left, "top-level widgets"

"""Starting the application: Qt, look, logging, the window."""

import ctypes
import logging
import signal
import sys
import threading
import traceback
from pathlib import Path

from PySide6.QtCore import QCoreApplication, QTimer
from PySide6.QtWidgets import QApplication

from nocturne.errors import NocturneError
from nocturne.ui import binding  # noqa: F401 - before the rest of the interface is loaded
from nocturne.ui.early import Early, take_turns
from nocturne.ui.theme.mark import window_icon
from nocturne.ui.theme.style import dress
from nocturne.ui.window import Window

_log = logging.getLogger(__name__)


# mallopt's names for "serve this much and more by maps of its own" and "give back what lies free above this".
_MMAP_THRESHOLD, _TRIM_THRESHOLD, _ONE_MIB = -3, -1, 1 << 20


def _return_memory() -> None:
    """Have the C library give freed pictures back to the system.

    Left alone, glibc moves its threshold up to 32 MB after the first large array is freed; films and prints then come
    from the heap, which they tear to pieces: measured with random use, the process grew to twice its size.
    """
    library = ctypes.CDLL(None)
    if hasattr(library, "mallopt"):
        library.mallopt(_MMAP_THRESHOLD, _ONE_MIB)
        library.mallopt(_TRIM_THRESHOLD, _ONE_MIB)


def application(arguments: list[str] | None = None) -> QApplication:
    """Return the one application object, dressed."""
    app = QApplication.instance()
    if app is None:
        _return_memory()
        take_turns()
        QCoreApplication.setOrganizationName("Nocturne")
        QCoreApplication.setApplicationName("Nocturne")
        app = QApplication(arguments or ["nocturne"])
        dress(app)
        app.setWindowIcon(window_icon())
    return app


def start(
    path: Path | None,
    arguments: list[str],
    *,
    is_demo: bool = False,
    models: tuple[Path, ...] = (),
    early: Early | None = None,
) -> int:
    """Open the window, on a project or the demo if there is one, and run until it is closed.

    models: shown to be brought in once the project is there. early: the project, which is being opened already.
    """
    app = application(arguments)
    window = Window(early=early)
    sys.excepthook = lambda kind, error, trace: _report(window, kind, error, trace)
    threading.excepthook = lambda about: _report(window, about.exc_type, about.exc_value, about.exc_traceback)
    signal.signal(signal.SIGINT, lambda *_: window.close())
    wake = QTimer()  # Python's signal handlers only run when the interpreter does
    wake.start(250)
    wake.timeout.connect(lambda: None)
    # Before the window is shown, so that it does not show for a moment what it shows without a project.
    if is_demo:
        window.open_demo()
    elif path is not None:
        window.open_path(path)
    window.show()
    QTimer.singleShot(0, window, window.fit_to_screen)  # once it has a frame
    if models:
        window.bring_when_open(list(models))
    return app.exec()


def _report(window: Window, kind: type, error: BaseException, trace) -> None:
    """Log what nobody expected and say so; the window goes on."""
    _log.error("%s", "".join(traceback.format_exception(kind, error, trace)))
    words = f"Something went wrong: {error}. Your work is still here; save it."
    window.runner.report(NocturneError(words))

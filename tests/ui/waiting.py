"""Waiting for what a window does in its threads, by asking, never for a fixed time."""

from PySide6.QtWidgets import QApplication


def stand_still(qtbot, window) -> None:
    """Stop the live picture and wait until nothing is rendered, developed or denoised any more."""
    window.live.pause()
    rest(qtbot, window)


def rest(qtbot, window) -> None:
    """Wait until nothing is rendered, developed or denoised, and all that was said of it has been heard."""
    rooms = (window.live, window.finals, window.darkroom)
    for _ in range(2):
        qtbot.waitUntil(lambda: all(room.is_idle for room in rooms), timeout=120000)
        QApplication.processEvents()

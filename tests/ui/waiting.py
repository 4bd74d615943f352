"""Waiting for what a window does in its threads, by asking, never for a fixed time."""

from PySide6.QtWidgets import QApplication


def stand_still(qtbot, window) -> None:
    """Stop the live picture and wait until nothing is rendered, developed or denoised any more."""
    window.live.pause()
    rest(qtbot, window)


def rest(qtbot, window) -> None:
    """Wait until nothing is rendered, developed or denoised, and all that was said of it has been heard."""
    qtbot.waitUntil(lambda: window.live.is_idle and window.darkroom.is_idle, timeout=120000)
    QApplication.processEvents()
    qtbot.waitUntil(lambda: window.live.is_idle and window.darkroom.is_idle, timeout=120000)
    QApplication.processEvents()

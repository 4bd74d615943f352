"""`nocturne open PROJECT`: the window."""

import argparse
import os
import sys
from pathlib import Path

from nocturne.cli import projects
from nocturne.errors import NocturneError


def add_to(words: argparse._SubParsersAction) -> None:
    """Add this word to the command line."""
    word = words.add_parser("open", help="open a project in the window")
    word.add_argument("project", help="a .nocturne file, a project's folder, or “demo”")
    word.set_defaults(run=lambda given: window(_checked(given.project)))


def _checked(name: str) -> Path:
    need_display(name)
    path = projects.path_of(name)
    from nocturne.io.project import read_document

    read_document(path)  # so that a bad file is told here, not in a window
    return path


def need_display(name: str) -> None:
    """Refuse to open a window where there is no screen.

    Raises
    ------
    NocturneError
        With what to do instead.
    """
    offscreen = os.environ.get("QT_QPA_PLATFORM", "") not in ("", "xcb", "wayland")
    if not offscreen and not os.environ.get("DISPLAY") and not os.environ.get("WAYLAND_DISPLAY"):
        raise NocturneError(
            "There is no display to open a window on.",
            hint=f"Render without one: ./nocturne render {name} --out picture.png    "
            f"Or on a virtual screen: xvfb-run -s '-screen 0 1280x800x24' ./nocturne open {name}",
        )


def window(path: Path | None, *, is_demo: bool = False) -> int:
    """Open the window on a project, or on the demo, and return when it is closed."""
    need_display(str(path) if path else "demo")
    try:
        from nocturne.ui.app import start
    except ImportError as error:
        raise NocturneError(
            f"Qt could not be loaded: {error}.", hint="Run ./nocturne once as root, or install what it names."
        ) from error
    return start(path, sys.argv[:1], is_demo=is_demo)

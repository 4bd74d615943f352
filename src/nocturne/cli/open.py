"""`nocturne open PROJECT`: the window."""

import argparse
import gc
import os
import sys
from pathlib import Path

from nocturne.cli import projects
from nocturne.demo import workshop
from nocturne.errors import MissingFile, NocturneError
from nocturne.io.models.read import READS


def add_to(words: argparse._SubParsersAction) -> None:
    """Add this word to the command line."""
    word = words.add_parser("open", help="open a project in the window, or bring models into a new one")
    word.add_argument("files", metavar="FILE", nargs="+", help="a project's file or folder, “demo”, or models")
    word.set_defaults(run=_run)


def _run(given: argparse.Namespace) -> int:
    models = [Path(name) for name in given.files if Path(name).suffix.lower() in READS]
    others = [name for name in given.files if Path(name) not in models]
    if len(others) > 1:
        raise NocturneError("Only one project can be open.", hint="Give one project, and models to bring into it.")
    for path in models:
        need_display(str(path))
        if not path.is_file():
            raise MissingFile(path, "there is no such file.", hint="Check its name.")
    return window(_checked(others[0]) if others else None, models=tuple(models))


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


def window(path: Path | None, *, is_demo: bool = False, models: tuple[Path, ...] = ()) -> int:
    """Open the window on a project, or on the demo, show models to be brought in, and return when it is closed."""
    need_display(str(path) if path else "demo")
    there = workshop.user_path() if is_demo else path
    # What is loaded from here on stays: the window has garbage looked for once it is there.
    gc.disable()
    from nocturne.ui.early import Early

    # Before Qt is loaded: what takes long is done beside it.
    early = Early(there) if there is not None and there.is_file() else None
    try:
        from nocturne.ui.app import start
    except ImportError as error:
        raise NocturneError(
            f"Qt could not be loaded: {error}.", hint="Run ./nocturne once as root, or install what it names."
        ) from error
    return start(path, sys.argv[:1], is_demo=is_demo, models=models, early=early)

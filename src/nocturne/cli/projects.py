"""Opening a project by file, folder or the word “demo”."""

import sys
from pathlib import Path

from nocturne.cli.progress import drive
from nocturne.demo import workshop
from nocturne.io import project
from nocturne.io.project import Project


def demo_path() -> Path:
    """Return the demo project's document, built first if it is not there."""
    path = workshop.user_path()
    if not path.is_file():
        drive(workshop.save(path.parent))
    return path


def path_of(name: str) -> Path:
    """Return the document path of a project's name on the command line."""
    return demo_path() if name == "demo" else project.document_path(name)


def opened(name: str) -> Project:
    """Load a project, telling on the terminal what could not be loaded."""
    loaded = drive(project.load(path_of(name)))
    for problem in loaded.assets.problems:
        print(f"nocturne: {problem}", file=sys.stderr)
    return loaded

"""Opening a project by file, folder or the word “demo”."""

import hashlib
import os
import sys
from pathlib import Path

from nocturne import __version__
from nocturne.cli.progress import drive
from nocturne.demo import workshop
from nocturne.io import project
from nocturne.io.project import Project


def demo_folder() -> Path:
    """Return the user's folder for the demo project as this version of Nocturne builds it."""
    base = Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")
    sources = sorted(Path(workshop.__file__).parent.glob("*.py"))
    key = hashlib.sha256(__version__.encode() + b"".join(p.read_bytes() for p in sources)).hexdigest()[:10]
    return base / "nocturne" / f"orrery-workshop-{key}"


def demo_path() -> Path:
    """Return the demo project's document, built first if it is not there."""
    path = demo_folder() / project.INSIDE_FOLDER
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

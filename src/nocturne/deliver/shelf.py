"""Shelves: documents with every file that they name, each in a folder of its own, kept for all projects."""

import errno
import os
import re
import shutil
from collections.abc import Iterator
from pathlib import Path

from nocturne.deliver.pack import pack
from nocturne.errors import FileError, NocturneError
from nocturne.io import project
from nocturne.io.atomic import is_left_over, temporary_name
from nocturne.io.paths import is_file
from nocturne.jobs import Update
from nocturne.scene.document import Document

_PART = ".part"
REMOVED = "removed.nocturne"  # what a document is called that was taken off its shelf


def shelf(name: str) -> Path:
    """Return the folder of a shelf."""
    base = Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")
    return base / "nocturne" / name


def kept(folder: Path) -> tuple[list[tuple[Path, Document]], list[NocturneError]]:
    """Return the folders on a shelf with their documents, and what could not be read."""
    found, refused = [], []
    try:
        homes = sorted(path for path in folder.iterdir() if path.is_dir() and not path.name.startswith("."))
    except OSError:
        return [], []
    for home in homes:
        if not is_file(home / project.INSIDE_FOLDER):
            continue  # taken off the shelf
        try:
            found.append((home, project.read_document(home)))
        except NocturneError as error:
            refused.append(error)
    return found, refused


def keep(document: Document, files: Path, folder: Path) -> Iterator[Update]:
    """Keep a document with all files that it names; `result` is (its folder, what could not come along).

    files: what its paths are relative to now.

    Raises
    ------
    FileError
        If it cannot be written; nothing is kept then.
    """
    stem = re.sub(r"[^\w\- ]", "", document.name).strip()[:60] or "Kept"
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(folder, f"it could not be made ({error.strerror or error}).") from error
    _sweep(folder)
    temporary = folder / temporary_name(_PART)
    home = folder / stem
    try:
        missing: list[str] = []
        for update in pack(document, files, temporary, with_outside=True):
            if update.result is None:
                yield update
            else:
                missing = update.result[1]
        home = _put(temporary, folder, stem)
    except OSError as error:
        raise FileError(home, f"it could not be kept ({error.strerror or error}).") from error
    finally:
        shutil.rmtree(temporary, ignore_errors=True)
    yield Update(1, 1, "Kept", result=(home, missing))


def _put(temporary: Path, folder: Path, stem: str) -> Path:
    """Give a folder the first name that is free, also while another window keeps one of the same name."""
    home, n = folder / stem, 2
    while True:
        # A folder takes the place of an empty one without a word, which was somebody's own.
        if not home.exists():
            try:
                temporary.rename(home)
                return home
            except OSError as error:
                if error.errno not in (errno.ENOTEMPTY, errno.EEXIST, errno.ENOTDIR):
                    raise
        home, n = folder / f"{stem} {n}", n + 1


def _sweep(folder: Path) -> None:
    """Remove what processes that were killed left half written."""
    for path in folder.glob(f".*{_PART}"):
        if is_left_over(path):
            shutil.rmtree(path, ignore_errors=True)


def remove(home: Path) -> None:
    """Take a folder off its shelf. Its files stay: projects that it was put into go on naming them.

    Raises
    ------
    FileError
        If it cannot be removed.
    """
    try:
        (home / project.INSIDE_FOLDER).rename(home / REMOVED)
    except OSError as error:
        raise FileError(home, f"it could not be removed ({error.strerror or error}).") from error

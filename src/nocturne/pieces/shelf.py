"""Own pieces: each a folder with a project and every file that it names, kept for all projects."""

import os
import re
import shutil
from collections.abc import Iterator
from pathlib import Path

from nocturne.deliver.pack import pack
from nocturne.errors import FileError, NocturneError
from nocturne.io import project
from nocturne.io.paths import is_file
from nocturne.jobs import Update
from nocturne.pieces.piece import Piece
from nocturne.scene.document import Document

KIND = "Own"
REMOVED = "removed.nocturne"  # what the document of a piece is called that was taken off the shelf


def shelf() -> Path:
    """Return the folder of own pieces."""
    base = Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")
    return base / "nocturne" / "pieces"


def own(folder: Path | None = None) -> tuple[list[Piece], list[NocturneError]]:
    """Return the own pieces by name, and what could not be read."""
    folder = folder or shelf()
    pieces, refused = [], []
    try:
        homes = sorted(path for path in folder.iterdir() if path.is_dir() and not path.name.startswith("."))
    except OSError:
        return [], []
    for home in homes:
        if not is_file(home / project.INSIDE_FOLDER):
            continue  # taken off the shelf
        try:
            document = project.read_document(home)
        except NocturneError as error:
            refused.append(error)
            continue
        tops = [thing for thing in document.things if not thing.parent]
        if len(tops) != 1:
            refused.append(FileError(home, "it is no piece: it must be one group.", hint="Keep it as a piece again."))
            continue
        pieces.append(Piece(home.name, document.name, KIND, "", document, home))
    return sorted(pieces, key=lambda piece: piece.name.casefold()), refused


def keep(piece: Document, files: Path, folder: Path | None = None) -> Iterator[Update]:
    """Keep a piece with all files that it names; `result` is (Piece, what could not come along).

    files: what its paths are relative to now.

    Raises
    ------
    FileError
        If it cannot be written; nothing is kept then.
    """
    folder = folder or shelf()
    stem = re.sub(r"[^\w\- ]", "", piece.name).strip()[:60] or "Piece"
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(folder, f"it could not be made ({error.strerror or error}).") from error
    home, n = folder / stem, 2
    while home.exists():
        home, n = folder / f"{stem} {n}", n + 1
    temporary = folder / f".{home.name}.part"
    shutil.rmtree(temporary, ignore_errors=True)
    try:
        missing: list[str] = []
        for update in pack(piece, files, temporary, with_outside=True):
            if update.result is None:
                yield update
            else:
                missing = update.result[1]
        temporary.rename(home)
    except OSError as error:
        raise FileError(home, f"it could not be kept ({error.strerror or error}).") from error
    finally:
        shutil.rmtree(temporary, ignore_errors=True)
    kept = Piece(home.name, piece.name, KIND, "", project.read_document(home), home)
    yield Update(1, 1, "Kept", result=(kept, missing))


def rename(piece: Piece, name: str) -> None:
    """Call an own piece otherwise; its folder stays.

    Raises
    ------
    FileError
        If it cannot be written.
    """
    top = next(thing for thing in piece.document.things if not thing.parent)
    things = tuple(t if t is not top else t.model_copy(update={"name": name}) for t in piece.document.things)
    project.save_document(piece.folder, piece.document.model_copy(update={"name": name, "things": things}))


def remove(piece: Piece) -> None:
    """Take an own piece off the shelf. Its files stay: sets that it was put into go on naming them.

    Raises
    ------
    FileError
        If it cannot be removed.
    """
    try:
        (piece.folder / project.INSIDE_FOLDER).rename(piece.folder / REMOVED)
    except OSError as error:
        raise FileError(piece.folder, f"it could not be removed ({error.strerror or error}).") from error

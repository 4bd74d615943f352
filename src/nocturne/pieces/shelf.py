"""Own pieces: each a folder with a project and every file that it names, kept for all projects."""

from collections.abc import Iterator
from pathlib import Path

from nocturne.deliver import shelf as shelves
from nocturne.errors import FileError, NocturneError
from nocturne.io import project
from nocturne.jobs import Update
from nocturne.pieces.piece import Piece
from nocturne.scene.document import Document

KIND = "Own"


def shelf() -> Path:
    """Return the folder of own pieces."""
    return shelves.shelf("pieces")


def own(folder: Path | None = None) -> tuple[list[Piece], list[NocturneError]]:
    """Return the own pieces by name, and what could not be read."""
    found, refused = shelves.kept(folder or shelf())
    pieces = []
    for home, document in found:
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
    for update in shelves.keep(piece, files, folder or shelf()):
        if update.result is None:
            yield update
            continue
        home, missing = update.result
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
    shelves.remove(piece.folder)

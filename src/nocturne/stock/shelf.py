"""Own ready materials: each a folder with a project of it alone and every picture that it names."""

from collections.abc import Iterator
from pathlib import Path

from nocturne.deliver import shelf as shelves
from nocturne.errors import FileError, NocturneError
from nocturne.io import project
from nocturne.jobs import Update
from nocturne.scene.document import Document
from nocturne.scene.layering import by_id, chain
from nocturne.stock.ready import Ready

KIND = "Own"


def shelf() -> Path:
    """Return the folder of own materials."""
    return shelves.shelf("materials")


def own(folder: Path | None = None) -> tuple[list[Ready], list[NocturneError]]:
    """Return the own materials by name, and what could not be read."""
    found, refused = shelves.kept(folder or shelf())
    out = []
    for home, document in found:
        if not document.materials:
            refused.append(FileError(home, "there is no material in it.", hint="Keep the material again."))
            continue
        out.append(_ready(home, document))
    return sorted(out, key=lambda one: one.name.casefold()), refused


def _ready(home: Path, document: Document) -> Ready:
    materials = chain(by_id(document.materials), document.materials[0].id)
    return Ready(f"own {home.name}", document.name, KIND, "", materials, folder=home)


def keep(kept: Document, files: Path, folder: Path | None = None) -> Iterator[Update]:
    """Keep a document of one material and those below it; `result` is (Ready, what could not come along).

    files: what its paths are relative to now.

    Raises
    ------
    FileError
        If it cannot be written; nothing is kept then.
    """
    for update in shelves.keep(kept, files, folder or shelf()):
        if update.result is None:
            yield update
            continue
        home, missing = update.result
        yield Update(1, 1, "Kept", result=(_ready(home, project.read_document(home)), missing))


def rename(one: Ready, name: str) -> None:
    """Call an own material otherwise; its folder stays.

    Raises
    ------
    FileError
        If it cannot be written.
    """
    document = project.read_document(one.folder)
    first, *rest = document.materials
    materials = (first.model_copy(update={"name": name}), *rest)
    project.save_document(one.folder, document.model_copy(update={"name": name, "materials": materials}))


def remove(one: Ready) -> None:
    """Take an own material off the shelf. Its pictures stay: projects that it was put into go on naming them.

    Raises
    ------
    FileError
        If it cannot be removed.
    """
    shelves.remove(one.folder)

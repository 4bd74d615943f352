"""From one kind of file to another: projects, models and materials in; projects, GLB, OpenUSD and MaterialX out."""

import os
from collections.abc import Iterator
from pathlib import Path

from nocturne.errors import UnknownFormat
from nocturne.io import project
from nocturne.io.models import glb, usdout
from nocturne.io.models import read as models
from nocturne.io.models.mtlx import write as mtlxout
from nocturne.io.models.outgoing import Outgoing
from nocturne.io.paths import Relocation
from nocturne.jobs import Update
from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.bringing import Wanted, box_in_metres, brought, first_set
from nocturne.scene.document import Document

SETS = (".glb", *usdout.WRITES, *mtlxout.WRITES)
WRITES = (project.SUFFIX, *SETS)
_WRITERS = {
    ".glb": glb.write,
    **dict.fromkeys(usdout.WRITES, usdout.write),
    **dict.fromkeys(mtlxout.WRITES, mtlxout.write),
}


def as_project(path: Path, folder: Path, *, is_lit: bool = True) -> project.Project:
    """Return a model as a project whose paths are relative to a folder; is_lit: with ground, sky, sun and a view.

    Raises
    ------
    FileError
        If the model cannot be read.
    """
    arrival = models.read(path)
    base = _relative(path, folder)

    def named(picture: str) -> str:
        return f"{base}{picture}" if picture.startswith("#") else _relative(path.parent / picture, folder)

    wanted = Wanted.all_of(arrival)
    views = Document().views
    document, _ = brought(
        Document(name=path.stem), arrival, wanted, base=base, name=path.stem, named=lambda p: named(p) if p else ""
    )
    if is_lit:
        low, high = box_in_metres(arrival, wanted)
        new = [view for view in document.views if view.id not in {v.id for v in views}]
        document = first_set(document, low, high, view=new[0] if new else None)
    own = tuple(view for view in document.views if view.id not in {v.id for v in views})
    if own:
        document = edit.changed(document, views=own, active_view=own[0].id)
    meshes = {f"{base}#{name}": mesh for name, mesh in arrival.meshes.items()}
    refused = tuple(f"“{name}”, which lies outside the folder of {path.name}" for name in arrival.outside)
    return project.Project(document, folder / project.INSIDE_FOLDER, Assets(meshes, problems=refused))


def _relative(path: Path, folder: Path) -> str:
    return Path(os.path.relpath(path.resolve(), folder.resolve())).as_posix()


def export_set(document: Document, assets: Assets, folder: Path, path: Path) -> Iterator[Update]:
    """Write a set as GLB or OpenUSD, or its materials as MaterialX; `result` is (path, what has no equal there).

    folder: what the document's paths are relative to.

    Raises
    ------
    FileError
        If the kind is unknown, or the file cannot be written.
    """
    if path.suffix.lower() not in SETS:
        raise UnknownFormat(path, "sets are not written as this kind.", hint=f"Use one of {', '.join(SETS)}.")
    yield Update(0, 1, f"Writing {path.name}")
    outgoing = Outgoing.of(document, assets, folder)
    lost = _WRITERS[path.suffix.lower()](path, outgoing)
    yield Update(1, 1, "Written", result=(path, lost))


def convert(source: Path, target: Path) -> Iterator[Update]:
    """Read a project or a model and write it as another kind; `result` is (path, what has no equal there).

    Raises
    ------
    FileError
        If one cannot be read or the other not written, or a kind is unknown.
    """
    if target.suffix.lower() not in WRITES:
        raise UnknownFormat(target, "this kind is not written.", hint=f"Use one of {', '.join(WRITES)}.")
    is_project_wanted = target.suffix.lower() == project.SUFFIX
    refused: tuple[str, ...] = ()
    if source.is_dir() or source.suffix == project.SUFFIX:
        opened = None
        for update in project.load(source):
            opened = update.result
            if opened is None:
                yield update
    else:
        yield Update(0, 2, f"Reading {source.name}")
        opened = as_project(source, target.parent if is_project_wanted else source.parent, is_lit=is_project_wanted)
        refused = opened.assets.problems
    if is_project_wanted:
        moved = Relocation(opened.folder, target.parent).document(opened.document)
        yield Update(1, 1, "Written", result=(project.save_document(target, moved), refused))
        return
    for update in export_set(opened.document, opened.assets, opened.folder, target):
        if update.result is None:
            yield update
            continue
        path, lost = update.result
        yield Update(1, 1, "Written", result=(path, (*refused, *lost)))

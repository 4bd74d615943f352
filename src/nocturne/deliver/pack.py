"""Packing a project: one folder or zip archive with the document and every file it refers to."""

import os
import shutil
import zipfile
from collections.abc import Iterator
from pathlib import Path

from nocturne.errors import FileError
from nocturne.io import project
from nocturne.io.atomic import replacing
from nocturne.io.paths import referred, with_paths
from nocturne.jobs import Update
from nocturne.scene.document import Document

_FOLDERS = {"model": "models", "picture": "pictures", "table": "tables"}


def plan(document: Document, folder: Path) -> tuple[Document, dict[str, Path], list[str]]:
    """Return the document with paths inside the pack, the files to bring by their path there, and what is missing.

    folder: what the document's paths are relative to. glTF files bring their buffers and pictures along.
    """
    wanted = referred(document)
    inside: dict[str, str] = {}
    files: dict[str, Path] = {}
    missing: list[str] = []
    for name, kind in sorted(wanted.items()):
        source = Path(os.path.normpath(folder / name))
        if not source.is_file():
            missing.append(name)
            continue
        target, n = f"{_FOLDERS[kind]}/{source.name}", 2
        while target in files and files[target] != source:
            target, n = f"{_FOLDERS[kind]}/{source.stem}-{n}{source.suffix}", n + 1
        inside[name], files[target] = target, source
        for beside in _beside(source):
            files[f"{_FOLDERS[kind]}/{beside.relative_to(source.parent).as_posix()}"] = beside
    return with_paths(document, lambda name: inside.get(name, name)), files, missing


def _beside(source: Path) -> list[Path]:
    """Return files that a model names itself: buffers and pictures of a .gltf, materials of an .obj."""
    if source.suffix.lower() not in (".gltf", ".obj"):
        return []
    text = source.read_text(encoding="utf-8", errors="replace")
    near = [p for p in source.parent.rglob("*") if p.is_file() and p != source][:5000]
    return [p for p in near if p.relative_to(source.parent).as_posix() in text]


def pack(document: Document, folder: Path, target: Path, *, proofs: Path | None = None) -> Iterator[Update]:
    """Write a pack; a target ending in .zip is an archive, else a folder. `result` is (path, what was missing).

    proofs: a folder of proofs that is to come along.

    Raises
    ------
    FileError
        If it cannot be written; an archive is then not there at all.
    """
    moved, files, missing = plan(document, folder)
    if proofs is not None and proofs.is_dir():
        for path in sorted(proofs.rglob("*")):
            parts = path.relative_to(proofs).parts
            if path.is_file() and not any(part.startswith(".") for part in parts):
                files["/".join(("project.proofs", *parts))] = path
    text = moved.model_dump_json(indent=1) + "\n"
    total = sum(path.stat().st_size for path in files.values()) + len(text) + 1
    done = 0
    try:
        if target.suffix.lower() == ".zip":
            stem = target.stem
            with (
                replacing(target) as temporary,
                zipfile.ZipFile(temporary, "w", zipfile.ZIP_DEFLATED, compresslevel=3) as out,
            ):
                out.writestr(f"{stem}/{project.INSIDE_FOLDER}", text)
                for name, source in files.items():
                    yield Update(done, total, f"Packing {name}")
                    out.write(source, f"{stem}/{name}")
                    done += source.stat().st_size
        else:
            target.mkdir(parents=True, exist_ok=True)
            for name, source in files.items():
                yield Update(done, total, f"Packing {name}")
                (target / name).parent.mkdir(parents=True, exist_ok=True)
                with replacing(target / name) as temporary:
                    shutil.copyfile(source, temporary)
                done += source.stat().st_size
            project.save_document(target, moved)
    except OSError as error:
        raise FileError(
            target, f"it could not be packed ({error.strerror or error}).", hint="Is the disk full?"
        ) from error
    yield Update(total, total, "Packed", result=(target, missing))

"""Packing a project: one folder or zip archive with the document and every file it refers to."""

import os
import shutil
import zipfile
from collections.abc import Iterator
from contextlib import ExitStack
from itertools import chain
from pathlib import Path
from typing import BinaryIO

from nocturne.errors import FileError, MissingFile
from nocturne.io import project
from nocturne.io.atomic import replacing
from nocturne.io.beside import beside
from nocturne.io.paths import referred, with_paths
from nocturne.jobs import Update
from nocturne.scene.document import Document

_AT_ONCE = 1 << 20
_FOLDERS = {"model": "models", "picture": "pictures", "table": "tables"}


def plan(document: Document, folder: Path) -> tuple[Document, dict[str, Path], list[str]]:
    """Return the document with paths inside the pack, the files to bring by their path there, and what is missing.

    folder: what the document's paths are relative to. Models bring along what they name.
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
        others = beside(source) if kind == "model" else []
        # What a model names keeps its name, so such a model has a folder of its own: others may name theirs the same.
        home = f"{_FOLDERS[kind]}/{source.stem}" if others else _FOLDERS[kind]
        target, n = f"{home}/{source.name}", 2
        while target in files and files[target] != source:
            target = f"{home}-{n}/{source.name}" if others else f"{home}/{source.stem}-{n}{source.suffix}"
            n += 1
        inside[name], files[target] = target, source
        for other in others:
            files[f"{target.rpartition('/')[0]}/{other.relative_to(source.parent).as_posix()}"] = other
    return with_paths(document, lambda name: inside.get(name, name)), files, missing


def pack(document: Document, folder: Path, target: Path, *, proofs: Path | None = None) -> Iterator[Update]:
    """Write a pack; a target ending in .zip is an archive, else a folder. `result` is (path, what was missing).

    proofs: a folder of proofs that is to come along.

    Raises
    ------
    FileError
        If it cannot be written; an archive is then not there at all.
    """
    moved, files, missing = plan(document, folder)
    kept = _proofs_in(proofs) if proofs is not None else []
    text = moved.model_dump_json(indent=1) + "\n"
    total = sum(_size(path) for group in (files, *kept) for path in group.values()) + len(text) + 1
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
                    try:
                        out.write(source, f"{stem}/{name}")
                    except FileNotFoundError as error:
                        raise _gone(source) from error
                    done += _size(source)
                for name, stream in _streams(kept):
                    yield Update(done, total, f"Packing {name}")
                    with out.open(f"{stem}/{name}", "w", force_zip64=True) as packed:
                        shutil.copyfileobj(stream, packed, _AT_ONCE)
                    done += stream.tell()
        else:
            target.mkdir(parents=True, exist_ok=True)
            each = [{name: path} for name, path in files.items()]
            for name, stream in chain(_streams(each, needed=True), _streams(kept)):
                yield Update(done, total, f"Packing {name}")
                (target / name).parent.mkdir(parents=True, exist_ok=True)
                with replacing(target / name) as temporary, temporary.open("wb") as packed:
                    shutil.copyfileobj(stream, packed, _AT_ONCE)
                done += stream.tell()
            project.save_document(target, moved)
    except OSError as error:
        raise FileError(
            target, f"it could not be packed ({error.strerror or error}).", hint="Is the disk full?"
        ) from error
    yield Update(total, total, "Packed", result=(target, missing))


def _gone(path: Path) -> MissingFile:
    return MissingFile(path, "it went away while the project was packed.", hint="Pack the project again.")


def _proofs_in(folder: Path) -> list[dict[str, Path]]:
    """Return the files of each proof by their path in the pack, without what is being written or was removed."""
    return [
        {f"project.proofs/{proof.name}/{path.name}": path for path in _entries(proof)} for proof in _entries(folder)
    ]


def _entries(folder: Path) -> list[Path]:
    try:
        return sorted(path for path in folder.iterdir() if not path.name.startswith("."))
    except (FileNotFoundError, NotADirectoryError):
        return []


def _size(path: Path) -> int:
    try:
        return path.stat().st_size
    except FileNotFoundError:
        return 0


def _streams(groups: list[dict[str, Path]], *, needed: bool = False) -> Iterator[tuple[str, BinaryIO]]:
    """Yield names and open files, group by group; unless it is needed, a group that has lost a file is left out."""
    for files in groups:
        with ExitStack() as stack:
            try:
                # All are open before the first is read: what is removed then can still be read to its end.
                streams = [(name, stack.enter_context(path.open("rb"))) for name, path in files.items()]
            except FileNotFoundError as error:
                if needed:
                    raise _gone(next(iter(files.values()))) from error
                continue
            yield from streams

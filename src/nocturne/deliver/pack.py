"""Packing a project: one folder or zip archive with the document and every file it refers to."""

import os
import shutil
import zipfile
from collections.abc import Callable, Iterator
from contextlib import ExitStack
from itertools import chain
from pathlib import Path
from typing import BinaryIO

from nocturne.errors import FileError, MissingFile
from nocturne.io import image, lut, project
from nocturne.io.atomic import replacing
from nocturne.io.beside import beside
from nocturne.io.models import read as models
from nocturne.io.paths import files_of, is_file, numbered_files, referred, with_paths
from nocturne.io.proofs import ABOUT, LIGHT, SETTINGS, THUMB
from nocturne.jobs import Update
from nocturne.scene.document import Document
from nocturne.scene.numbered import is_sequence, is_tiles

_AT_ONCE = 1 << 20
_FOLDERS = {"model": "models", "picture": "pictures", "table": "tables"}


_READERS: dict[str, Callable[[Path], object]] = {"model": models.read, "picture": image.describe, "table": lut.read}


def outside(document: Document, folder: Path) -> list[Path]:
    """Return the files that a document names and that do not lie in its folder, as they really lie: links followed."""
    home = folder.resolve()
    found = {file.resolve() for name in referred(document) for file in files_of(folder / name)}
    return sorted(path for path in found if not path.is_relative_to(home))


def plan(
    document: Document, folder: Path, *, with_outside: bool = False
) -> tuple[Document, dict[str, Path], list[str]]:
    """Return the document with paths inside the pack, the files to bring by their path there, and what is left out.

    Only what its reader takes for what it is named as comes along: a project may name any file of this machine.
    folder: what the document's paths are relative to. Models bring along what they name. with_outside: also what lies
    outside the folder; who packs is asked first.
    """
    wanted = referred(document)
    foreign = set() if with_outside else set(outside(document, folder))
    inside: dict[str, str] = {}
    files: dict[str, Path] = {}
    missing: list[str] = []
    for name, kind in sorted(wanted.items()):
        source = Path(os.path.normpath(folder / name))
        several = numbered_files(source) if kind == "picture" and (is_tiles(name) or is_sequence(name)) else {}
        if several:
            own = [file for file in several.values() if file.resolve() not in foreign and _is_what_it_says(file, kind)]
            if len(own) < len(several):
                missing.append(name)
            if not own:
                continue
            n = 2
            home = _FOLDERS[kind]
            while any(files.get(f"{home}/{file.name}", file) != file for file in own):
                home, n = f"{_FOLDERS[kind]}-{n}", n + 1
            inside[name] = f"{home}/{source.name}"
            files.update({f"{home}/{file.name}": file for file in own})
            continue
        if not is_file(source) or source.resolve() in foreign or not _is_what_it_says(source, kind):
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


def _is_what_it_says(path: Path, kind: str) -> bool:
    try:
        _READERS[kind](path)
    except FileError:
        return False
    return True


def pack(
    document: Document, folder: Path, target: Path, *, proofs: Path | None = None, with_outside: bool = False
) -> Iterator[Update]:
    """Write a pack; a target ending in .zip is an archive, else a folder. `result` is (path, what was left out).

    proofs: a folder of proofs that is to come along. with_outside: see `plan`.

    Raises
    ------
    FileError
        If it cannot be written; an archive is then not there at all.
    """
    yield Update(0, 1, "Looking through the files")
    moved, files, missing = plan(document, folder, with_outside=with_outside)
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
        {f"project.proofs/{proof.name}/{path.name}": path for path in _entries(proof) if _is_of_a_proof(path)}
        for proof in _entries(folder)
        if not proof.is_symlink()
    ]


def _is_of_a_proof(path: Path) -> bool:
    return path.name in (LIGHT, SETTINGS, ABOUT, THUMB) and not path.is_symlink() and is_file(path)


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

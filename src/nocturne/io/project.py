"""Projects: one readable JSON document beside the files it refers to by relative path."""

import json
from collections.abc import Iterator, Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from types import MappingProxyType

import numpy as np
from pydantic import ValidationError

from nocturne.colour.lookup import LookUpTable
from nocturne.errors import BadFile, FileError, MissingFile, NewerVersion
from nocturne.io import image, lut
from nocturne.io.atomic import write_text
from nocturne.io.migrate import migrated
from nocturne.io.models import read as models
from nocturne.io.paths import is_file, is_utf8, readable, referred
from nocturne.jobs import Update
from nocturne.scene.assets import Assets, Named
from nocturne.scene.document import FORMAT_VERSION, Document
from nocturne.scene.shapes import Mesh, joined, smooth_normals

SUFFIX = ".nocturne"
INSIDE_FOLDER = "project.nocturne"
_LARGEST_BYTES = 256 << 20
_READERS = 2  # threads that unpack pictures beside the one that reads models


@dataclass(frozen=True, repr=False)
class Project:
    """A document, the folder its paths are relative to, and what was loaded."""

    document: Document
    path: Path
    assets: Assets

    @property
    def folder(self) -> Path:
        """Return the folder that relative paths start from."""
        return self.path.parent


def document_path(path: Path | str) -> Path:
    """Return the document's file for a project given as file or folder."""
    path = Path(path)
    return path / INSIDE_FOLDER if path.is_dir() else path


def read_document(path: Path | str) -> Document:
    """Return the document of a project file.

    Raises
    ------
    FileError
        MissingFile, BadFile with the place of the fault, or NewerVersion.
    """
    path = document_path(path)
    if not is_file(path):
        raise MissingFile(path, "there is no such project.", hint="Give a .nocturne file or a project's folder.")
    if path.stat().st_size > _LARGEST_BYTES:
        raise BadFile(path, "it is far too large for a project.", hint="Is it really one?")
    try:
        raw = _as_text(json.loads(path.read_text(encoding="utf-8")))
    except (ValueError, RecursionError) as error:
        raise BadFile(
            path, f"it is not readable JSON ({str(error)[:120]}).", hint="Restore it from a backup or an export."
        ) from error
    except OSError as error:
        raise FileError(path, f"it cannot be read ({error.strerror}).") from error
    if not isinstance(raw, dict) or raw.get("format") != "nocturne-project":
        raise BadFile(path, "it is not a Nocturne project.", hint="Projects say “format”: “nocturne-project”.")
    version = raw.get("version")
    if isinstance(version, int) and version > FORMAT_VERSION:
        raise NewerVersion(
            path,
            f"it was written by a newer Nocturne (format {version}, this one reads {FORMAT_VERSION}).",
            hint="Update Nocturne to open it.",
        )
    try:
        return Document.model_validate(migrated(raw, FORMAT_VERSION))
    except ValidationError as error:
        first = error.errors()[0]
        where = " › ".join(str(part) for part in first["loc"])
        raise BadFile(
            path, f"{where or 'document'}: {first['msg']}.", hint="Correct that value in the file."
        ) from error


def _as_text(value: object) -> object:
    """Return JSON values with what is no text in strings replaced: half of a surrogate pair cannot be saved."""
    if isinstance(value, str):
        return value if is_utf8(value) else value.encode("utf-16", "surrogatepass").decode("utf-16", "replace")
    if isinstance(value, list):
        return [_as_text(item) for item in value]
    if isinstance(value, dict):
        return {_as_text(name): _as_text(item) for name, item in value.items()}
    return value


def save_document(path: Path | str, document: Document) -> Path:
    """Write the document, all or nothing, and return its file; a folder gets `project.nocturne` inside."""
    path = Path(path)
    if path.suffix != SUFFIX:
        path = path / INSIDE_FOLDER
    for name in referred(document):
        if not is_utf8(name):
            raise FileError(
                path,
                f"it would have to name {readable(name)}, which is not UTF-8 text.",
                hint="Rename that file or folder, or save the project beside it.",
            )
    write_text(path, document.model_dump_json(indent=1) + "\n")
    return path


def placeholder() -> Mesh:
    """Return the 20 cm octahedron that stands in for a model that could not be loaded."""
    v = np.array([[1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, -1, 0], [0, 0, 1], [0, 0, -1]], np.float32) * 0.1
    t = np.array([[0, 2, 4], [2, 1, 4], [1, 3, 4], [3, 0, 4], [2, 0, 5], [1, 2, 5], [3, 1, 5], [0, 3, 5]], np.uint32)
    v, t = v[t].reshape(-1, 3), np.arange(24, dtype=np.uint32).reshape(-1, 3)
    return Mesh(v, t, smooth_normals(v, t), np.zeros((24, 2), np.float32))


def load_assets(document: Document, folder: Path, *, known: Assets | None = None) -> Iterator[Update]:
    """Load what a document refers to; the last update's `result` is the `Assets`.

    What cannot be loaded is a sentence in `problems`; a missing model is replaced by a small octahedron, a missing
    picture by the parameter's own value. Files in `known` are not read again.
    """
    with ThreadPoolExecutor(_READERS, "nocturne-read") as pool:
        try:
            yield from _load_assets(document, folder, known or Assets(), pool)
        finally:
            pool.shutdown(wait=False, cancel_futures=True)


def _load_assets(document: Document, folder: Path, known: Assets, pool: ThreadPoolExecutor) -> Iterator[Update]:
    named = Named.of(document)
    # Pictures are unpacked beside the models: libraries do that without holding the interpreter.
    ahead = {
        key: pool.submit(image.read, folder / key[0], space=key[1])
        for key in sorted(named.images)
        if key not in known.images
    }
    wanted: dict[str, set[str]] = {}
    for mesh in named.meshes:
        file, _, part = mesh.partition("#")
        wanted.setdefault(file, set()).add(part)
    total, done = len(wanted) + len(named.images) + 1, 0
    meshes: dict[str, Mesh] = {}
    images: dict[tuple[str, str], np.ndarray] = {}
    problems: list[str] = []
    for file, parts in sorted(wanted.items()):
        yield Update(done, total, f"Reading {file}")
        done += 1
        names = {f"{file}#{part}" if part else file for part in parts}
        if all(name in known.meshes for name in names):
            meshes.update({name: known.meshes[name] for name in names})
            continue
        try:
            arrival = models.read(folder / file)
            found = {**arrival.by_node, **arrival.meshes}
        except FileError as error:
            problems.append(str(error))
            meshes.update(dict.fromkeys(names, placeholder()))
            continue
        for part in parts:
            mesh = found.get(part) if part else joined(*arrival.meshes.values())
            if mesh is None:
                problems.append(f"{folder / file}: there is no part “{part}” in it.")
                mesh = placeholder()
            meshes[f"{file}#{part}" if part else file] = mesh
    for key in sorted(named.images):
        yield Update(done, total, f"Reading {key[0]}")
        done += 1
        if key in known.images:
            images[key] = known.images[key]
            continue
        try:
            images[key] = ahead[key].result()
        except FileError as error:
            problems.append(str(error))
    yield Update(done, total, "Reading look-up tables")
    luts, missing = load_tables(document, folder, known=known.luts)
    problems += missing
    # What is as it was stays the same object, by which the renderer knows that it need not begin anew.
    kept = (_same_or(meshes, known.meshes), _same_or(images, known.images), _same_or(luts, known.luts))
    yield Update(total, total, "Loaded", result=Assets(*kept, tuple(problems)))


def load_tables(
    document: Document, folder: Path, *, known: Mapping[str, LookUpTable] = MappingProxyType({})
) -> tuple[dict[str, LookUpTable], list[str]]:
    """Return the look-up tables that a document's finish names, by path, and a sentence for each that is not there.

    What is in `known` is not read again.
    """
    luts: dict[str, LookUpTable] = {}
    problems: list[str] = []
    for name in sorted(Named.of(document).luts):
        try:
            luts[name] = known[name] if name in known else lut.read(folder / name)
        except FileError as error:
            problems.append(str(error))
    return luts, problems


def _same_or(new: Mapping, old: Mapping) -> Mapping:
    """Return the old files if the new ones are the same objects under the same names."""
    return old if new.keys() == old.keys() and all(new[name] is old[name] for name in new) else new


def load(path: Path | str) -> Iterator[Update]:
    """Open a project; the last update's `result` is the `Project`.

    Raises
    ------
    FileError
        If the document itself cannot be read; what it refers to may be missing.
    """
    file = document_path(path)
    yield Update(0, 1, f"Reading {file.name}")
    document = read_document(file)
    assets = Assets()
    for update in load_assets(document, file.parent):
        assets = update.result if update.result is not None else assets
        if update.result is None:
            yield update
    yield Update(1, 1, "Loaded", result=Project(document, file, assets))

"""Models in: any kind by its ending."""

import os
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path, PurePosixPath
from urllib.parse import unquote

import numpy as np

from nocturne.errors import BadFile, MissingFile, NocturneError, UnknownFormat
from nocturne.io.models import gltf, obj, plain, usd
from nocturne.io.models.allowed import is_allowed
from nocturne.io.models.arrival import Arrival
from nocturne.io.models.border import Border
from nocturne.io.models.mtlx import read as mtlx
from nocturne.io.paths import is_file
from nocturne.scene.files import renamed, values_of

_READERS: dict[str, Callable[[Path, Border], Arrival]] = {
    suffix: module.read for module in (gltf, obj, plain, usd, mtlx) for suffix in module.READS
}
_INSIDE: dict[str, Callable[[Path, str, Border], bytes]] = {
    **dict.fromkeys(gltf.READS, gltf.picture_bytes),
    ".usdz": usd.picture_bytes,
    **dict.fromkeys(mtlx.READS, mtlx.picture_bytes),
}
READS = tuple(_READERS)
HOLDS_PICTURES = tuple(_INSIDE)  # kinds that have pictures inside them
_LARGEST_BYTES = 4 << 30
_MOST_FILES = 20_000  # looked at when a missing picture is searched for


def read(path: Path | str) -> Arrival:
    """Return what a model brings. Files outside its folder are not read unless that is allowed (`allowed`).

    Raises
    ------
    FileError
        If it is missing, of an unknown kind, damaged, or empty; OutsideFolder if it cannot do without such a file.
    """
    path = Path(path)
    _check(path, READS)
    border = Border(path, allowed=is_allowed(path))
    try:
        with np.errstate(all="ignore"):  # numbers that are none are looked for where they matter
            arrival = _READERS[path.suffix.lower()](path, border)
    except NocturneError:
        raise
    except FileNotFoundError as error:
        name = Path(error.filename).name if error.filename else error.args[0]
        raise MissingFile(
            path, f"it names the file “{name}”, which is not beside it.", hint="Bring that file there, too."
        ) from error
    except Exception as error:
        raise _damaged(path, error) from error
    if path.suffix.lower() in mtlx.READS and not arrival.materials:
        raise BadFile(path, "there are no materials in it.", hint="Does it hold surface materials?")
    if not arrival.parts and not arrival.lights and not arrival.views and not arrival.materials:
        raise BadFile(path, "there are no triangles in it.", hint="Export it with its meshes.")
    return _with_pictures(arrival, border)


def picture_inside(path: Path, name: str) -> bytes:
    """Return the bytes of a picture that is inside a model, by the name that its materials know it by.

    Raises
    ------
    FileError
        If the model is missing or damaged, or has no such picture.
    """
    _check(path, HOLDS_PICTURES)
    try:
        return _INSIDE[path.suffix.lower()](path, name, Border(path, allowed=is_allowed(path)))
    except NocturneError:
        raise
    except Exception as error:
        raise _damaged(path, error) from error


def _check(path: Path, known: tuple[str, ...]) -> None:
    if not is_file(path):
        raise MissingFile(path, "there is no such file.", hint="Was it moved or renamed?")
    if path.suffix.lower() not in known:
        raise UnknownFormat(path, "models of this kind are not read.", hint=f"Use one of {', '.join(known)}.")
    if path.stat().st_size > _LARGEST_BYTES:
        raise BadFile(path, "it is larger than 4 GiB.", hint="Split it into several models.")


def _damaged(path: Path, error: BaseException) -> BadFile:
    return BadFile(
        path, f"it is damaged ({type(error).__name__}: {str(error)[:120]}).", hint="Export it again from where it came."
    )


def _with_pictures(arrival: Arrival, border: Border) -> Arrival:
    """Return an arrival that names pictures as they are found beside it; what is not there is told.

    Of those that lie outside only the last part of the name is left, so that nothing leads there any more.
    """
    missing = dict.fromkeys(arrival.missing)
    found: dict[str, str] = {}
    for name in pictures_of(arrival):
        if name.startswith("#"):
            continue
        there = border.find(name)
        found[name] = there or (PurePosixPath(name.replace("\\", "/")).name if name in border.outside else name)
        if there is None:
            missing[unquote(found[name])] = None
    arrival = _renamed(arrival, lambda name: found.get(name, name))
    return replace(arrival, missing=tuple(missing), outside=tuple(map(unquote, border.outside)))


def pictures_of(arrival: Arrival) -> list[str]:
    """Return the pictures that an arrival's materials and lights name."""
    return sorted({value for _, value, _ in values_of((*arrival.materials, *arrival.lights))})


def _renamed(arrival: Arrival, named: Callable[[str], str]) -> Arrival:
    """Return an arrival with every picture's name sent through a function."""
    materials, lights = (tuple(renamed(item, named) for item in part) for part in (arrival.materials, arrival.lights))
    return replace(arrival, materials=materials, lights=lights)


def with_folder(arrival: Arrival, path: Path, folder: Path) -> Arrival:
    """Return an arrival whose missing pictures are looked for by their names in a folder and below it.

    Those that are found are named by their path from the model's folder.
    """
    there: dict[str, Path] = {}
    for base, folders, names in os.walk(folder):
        folders[:] = sorted(f for f in folders if not f.startswith("."))
        for name in names:
            there.setdefault(name.lower(), Path(base) / name)
        if len(there) > _MOST_FILES:
            break
    found: dict[str, str] = {}
    for name in arrival.missing:
        at = there.get(Path(name.replace("\\", "/")).name.lower())
        if at is not None and is_file(at):
            found[name] = Path(os.path.relpath(at, path.parent)).as_posix()
    left = tuple(name for name in arrival.missing if name not in found)
    return replace(_renamed(arrival, lambda name: found.get(unquote(name), name)), missing=left)

"""A film as it stands, kept on disk so that a render that was ended goes on where it was."""

import json
import zipfile
from pathlib import Path

import numpy as np

from nocturne.errors import BadFile, FileError
from nocturne.film.film import Film
from nocturne.film.layout import ARRAYS
from nocturne.io.atomic import replacing
from nocturne.io.paths import is_file
from nocturne.jobs import FAULTS
from nocturne.rows import DTYPES

_FORMAT, _VERSION = "nocturne-film", 1


def write(path: Path | str, film: Film, key: str) -> None:
    """Write a film, all or nothing; `key` says of which picture it is. The film must not be written to meanwhile.

    Raises
    ------
    FileError
        If it cannot be written.
    """
    about = {
        "format": _FORMAT,
        "version": _VERSION,
        "key": key,
        "groups": list(film.group_names),
        "objects": list(film.objects),
        "materials": list(film.materials),
        "seconds": film.seconds,
        "first": film.first,
    }
    with replacing(path) as temporary, open(temporary, "wb") as file:
        np.savez(file, about=np.frombuffer(json.dumps(about).encode(), np.uint8), **film.arrays)


def read(path: Path | str, key: str) -> Film:
    """Return a film that was kept of the picture that `key` names.

    Raises
    ------
    FileError
        If it is missing, damaged, or of another picture.
    """
    path = Path(path)
    if not is_file(path):
        raise FileError(path, "there is no such file.", hint="Was it moved or renamed?")
    try:
        with open(path, "rb") as file, np.load(file, allow_pickle=False) as held:
            about = json.loads(held["about"].tobytes().decode())
            arrays = {field.name: held[field.name] for field in ARRAYS}
        if about["format"] != _FORMAT or about["version"] != _VERSION:
            raise ValueError("another format")
        height, width = arrays["samples"].shape
        film = Film.blank(width, height, tuple(map(str, about["groups"])))
        for name, array in film.arrays.items():
            if arrays[name].dtype != DTYPES[_dtype(name)] or arrays[name].shape != array.shape:
                raise ValueError(f"{name} does not fit")
            array[...] = arrays[name]
        film.objects, film.materials = tuple(map(str, about["objects"])), tuple(map(str, about["materials"]))
        film.seconds, film.first = float(about["seconds"]), int(about["first"])
    except (*FAULTS, zipfile.BadZipFile, EOFError) as error:
        raise BadFile(
            path, f"it is no film that can be gone on with ({str(error)[:80]}).", hint="Remove it to begin anew."
        ) from error
    if about["key"] != key:
        raise FileError(
            path,
            "it was kept of another picture: the set, the view, the size or the seed were others.",
            hint="Remove it to begin anew, or name another file.",
        )
    return film


def _dtype(name: str) -> str:
    return next(field.dtype for field in ARRAYS if field.name == name)

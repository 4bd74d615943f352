"""The files a document refers to, and documents whose paths lead elsewhere."""

import os
import stat
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.files import references, renamed, split
from nocturne.scene.numbered import is_sequence, is_tiles, pattern_of


def is_file(path: Path) -> bool:
    """Return True for a regular file: a pipe or a device would keep its reader waiting, a mad name is no file."""
    try:
        return stat.S_ISREG(os.stat(path).st_mode)
    except (OSError, ValueError):
        return False


def numbered_files(path: Path) -> dict[int, Path]:
    """Return the files that a numbered name stands for by their numbers: tiles of a set, or a sequence's frames."""
    pattern = pattern_of(path.name)
    try:
        names = sorted(os.listdir(path.parent))
    except (OSError, ValueError):
        return {}
    found = {int(match[1]): path.parent / name for name in names if (match := pattern.fullmatch(name))}
    return {number: file for number, file in sorted(found.items()) if is_file(file)}


def files_of(path: Path) -> list[Path]:
    """Return the files that a picture's path in a document leads to: several if it is numbered, or none."""
    name = str(path)
    if is_tiles(name) or is_sequence(name):
        return list(numbered_files(path).values())
    return [path] if is_file(path) else []


def is_utf8(path: Path | str) -> bool:
    """Return True if a path can stand in a document: Linux allows names that are no text."""
    try:
        str(path).encode("utf-8")
    except UnicodeEncodeError:
        return False
    return True


def readable(path: Path | str) -> str:
    """Return a path as it can be shown: what is no text in it becomes a replacement character."""
    return os.fsencode(path).decode("utf-8", "replace")


def referred(document: Document) -> dict[str, str]:
    """Return every file the document names, as it names it: "model", "picture" or "table"."""
    return {reference.path: reference.holds for reference in references(document)}


def with_paths(document: Document, moved: Callable[[str], str], *, shared: dict | None = None) -> Document:
    """Return the document with every path sent through a function; parts of models keep their names.

    shared: handed in with each of several documents, it lets them share afterwards what they shared before.
    """
    shared = {} if shared is None else shared

    def once(old: object, make: Callable) -> object:
        # What was there is kept, too: its id would be another's once it is gone.
        if id(old) not in shared:
            shared[id(old)] = (old, make(old))
        return shared[id(old)][1]

    def each(items: tuple, make: Callable) -> tuple:
        new = once(items, lambda items: tuple(once(item, make) for item in items))
        return items if all(a is b for a, b in zip(items, new)) else new

    def of_items(items: tuple) -> tuple:
        return each(items, lambda item: renamed(item, moved))

    if id(document) in shared:
        return shared[id(document)][1]
    things, materials, lights = map(of_items, (document.things, document.materials, document.lights))
    steps = of_items(document.finish.steps)
    finish = document.finish if steps is document.finish.steps else edit.replaced(document.finish, steps=steps)
    parts = {"things": things, "materials": materials, "lights": lights, "finish": finish}
    is_same = all(getattr(document, name) is part for name, part in parts.items())
    new = document if is_same else edit.replaced(document, **parts)
    shared[id(document)] = (document, new)
    return new


class Relocation:
    """Documents and loaded files of one project as they are named from another folder."""

    def __init__(self, old: Path, new: Path) -> None:
        self._old, self._new = old, new.resolve()
        self._names: dict[str, str] = {}
        self._shared: dict = {}

    def _name(self, name: str) -> str:
        if name not in self._names:
            self._names[name] = relative((self._old / name).resolve(), self._new)
        return self._names[name]

    def _of(self, name: str, holds: str) -> str:
        file, mark, part = split(name, holds)
        return self._name(file) + mark + part if file else name

    def document(self, document: Document) -> Document:
        """Return a document with its relative paths leading to the same files from the new folder."""
        return with_paths(document, self._name, shared=self._shared)

    def assets(self, assets: Assets) -> Assets:
        """Return loaded files by their new names."""
        return replace(
            assets,
            meshes={self._of(name, "model"): mesh for name, mesh in assets.meshes.items()},
            images={(self._of(name, "picture"), space): image for (name, space), image in assets.images.items()},
            luts={self._name(name): lut for name, lut in assets.luts.items()},
        )


def relative(path: Path, folder: Path) -> str:
    """Return a path as a document in a folder names it."""
    return Path(os.path.relpath(path, folder)).as_posix()

"""The files a document refers to, and documents whose paths lead elsewhere."""

import os
import stat
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.finish import Step
from nocturne.scene.materials import Material


def is_file(path: Path) -> bool:
    """Return True for a regular file: a pipe or a device would keep its reader waiting, a mad name is no file."""
    try:
        return stat.S_ISREG(os.stat(path).st_mode)
    except (OSError, ValueError):
        return False


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
    found = {thing.mesh.partition("#")[0]: "model" for thing in document.things if thing.mesh}
    found |= {t.path: "picture" for m in document.materials for t in m.textures if t.path}
    found |= {light.image: "picture" for light in document.lights if light.image}
    found |= {step.path: "table" for step in document.finish.steps if step.kind == "lut" and step.path}
    return found


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

    def of_material(material: Material) -> Material:
        textures = tuple(edit.changed(t, path=moved(t.path)) if t.path else t for t in material.textures)
        return edit.changed(material, textures=textures)

    def of_step(step: Step) -> Step:
        return edit.changed(step, path=moved(step.path)) if step.kind == "lut" and step.path else step

    if id(document) in shared:
        return shared[id(document)][1]
    things = each(document.things, lambda thing: edit.changed(thing, mesh=_of_mesh(thing.mesh, moved)))
    materials = each(document.materials, of_material)
    lights = each(document.lights, lambda li: edit.changed(li, image=moved(li.image)) if li.image else li)
    steps = each(document.finish.steps, of_step)
    finish = document.finish if steps is document.finish.steps else edit.replaced(document.finish, steps=steps)
    parts = {"things": things, "materials": materials, "lights": lights, "finish": finish}
    is_same = all(getattr(document, name) is part for name, part in parts.items())
    new = document if is_same else edit.replaced(document, **parts)
    shared[id(document)] = (document, new)
    return new


def _of_mesh(name: str, moved: Callable[[str], str]) -> str:
    file, mark, part = name.partition("#")
    return moved(file) + mark + part if file else name


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

    def document(self, document: Document) -> Document:
        """Return a document with its relative paths leading to the same files from the new folder."""
        return with_paths(document, self._name, shared=self._shared)

    def assets(self, assets: Assets) -> Assets:
        """Return loaded files by their new names."""
        return replace(
            assets,
            meshes={_of_mesh(name, self._name): mesh for name, mesh in assets.meshes.items()},
            images={(self._name(name), space): image for (name, space), image in assets.images.items()},
            luts={self._name(name): lut for name, lut in assets.luts.items()},
        )


def relative(path: Path, folder: Path) -> str:
    """Return a path as a document in a folder names it."""
    return Path(os.path.relpath(path, folder)).as_posix()

"""The files a document refers to, and documents whose paths lead elsewhere."""

import os
from collections.abc import Callable
from pathlib import Path

from nocturne.scene import edit
from nocturne.scene.document import Document


def referred(document: Document) -> dict[str, str]:
    """Return every file the document names, as it names it: "model", "picture" or "table"."""
    found = {thing.mesh.partition("#")[0]: "model" for thing in document.things if thing.mesh}
    found |= {t.path: "picture" for m in document.materials for t in m.textures if t.path}
    found |= {light.image: "picture" for light in document.lights if light.image}
    found |= {step.path: "table" for step in document.finish.steps if step.kind == "lut" and step.path}
    return found


def with_paths(document: Document, moved: Callable[[str], str]) -> Document:
    """Return the document with every path sent through a function; parts of models keep their names."""

    def of_mesh(name: str) -> str:
        file, mark, part = name.partition("#")
        return moved(file) + mark + part if file else name

    things = tuple(edit.changed(thing, mesh=of_mesh(thing.mesh)) for thing in document.things)
    materials = tuple(
        edit.changed(m, textures=tuple(edit.changed(x, path=moved(x.path)) if x.path else x for x in m.textures))
        for m in document.materials
    )
    lights = tuple(edit.changed(li, image=moved(li.image)) if li.image else li for li in document.lights)
    steps = tuple(
        edit.changed(step, path=moved(step.path)) if step.kind == "lut" and step.path else step
        for step in document.finish.steps
    )
    finish = edit.changed(document.finish, steps=steps)
    return edit.changed(document, things=things, materials=materials, lights=lights, finish=finish)


def relative(path: Path, folder: Path) -> str:
    """Return a path as a document in a folder names it."""
    return Path(os.path.relpath(path, folder)).as_posix()


def with_paths_from(document: Document, old: Path, new: Path) -> Document:
    """Return the document with its relative paths leading from another folder to the same files."""
    return with_paths(document, lambda name: relative((old / name).resolve(), new.resolve()))

"""The files that a document names, found by their fields' descriptions: a new field is found by being described.

A model's name may end in `#` and the name of a part of it.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cache

from nocturne.scene import edit
from nocturne.scene.document import Document
from nocturne.scene.fields import Model, file_fields

_PARTS = ("things", "materials", "lights")


@dataclass(frozen=True)
class Reference:
    """One file that is named.

    part, id: of what names it; item, field: the model and its field; holds: "model", "picture" or "table"; path: of the
    file, without the part.
    """

    part: str
    id: str
    item: Model
    field: str
    holds: str
    path: str


def references(document: Document) -> Iterator[Reference]:
    """Yield every file that a document names, in its order."""
    for part in _PARTS:
        for item in getattr(document, part):
            yield from _of(item, part, item.id)
    for step in document.finish.steps:
        yield from _of(step, "steps", step.id)


def _of(item: Model, part: str, id: str) -> Iterator[Reference]:
    for name, holds in file_fields(type(item)).items():
        path = getattr(item, name).partition("#")[0] if holds == "model" else getattr(item, name)
        if path:
            yield Reference(part, id, item, name, holds, path)
    for name in _nested(type(item)):
        for inner in getattr(item, name):
            yield from _of(inner, part, id)


@cache
def _nested(model: type[Model]) -> tuple[str, ...]:
    """Return the fields of a model that hold models with files of their own."""
    found = []
    for name, info in model.model_fields.items():
        inner = [kind for kind in getattr(info.annotation, "__args__", ()) if isinstance(kind, type)]
        if any(issubclass(kind, Model) and file_fields(kind) for kind in inner):
            found.append(name)
    return tuple(found)


def renamed(item: Model, moved: Callable[[str], str]) -> Model:
    """Return an item with every path of it, and of what it holds, sent through a function; itself if none changes."""
    values: dict = {}
    for name, holds in file_fields(type(item)).items():
        old = getattr(item, name)
        if old:
            file, mark, rest = old.partition("#") if holds == "model" else (old, "", "")
            values[name] = moved(file) + mark + rest if file else old
    for name in _nested(type(item)):
        values[name] = tuple(renamed(inner, moved) for inner in getattr(item, name))
    return edit.changed(item, **values) if values else item

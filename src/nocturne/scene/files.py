"""The files that a document names, found by their fields' descriptions: a new field is found by being described.

A model's name may end in `#` and the name of a part of it.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cache
from operator import attrgetter
from typing import get_args

from nocturne.scene import edit
from nocturne.scene.document import Document
from nocturne.scene.fields import Model, file_fields
from nocturne.scene.numbered import CONTAINERS
from nocturne.scene.patterns.step import AnyStep


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


def split(value: str, holds: str) -> tuple[str, str, str]:
    """Return what a field names as file, "#", and what is meant inside it; the latter are "" if it is the file."""
    file, mark, rest = value.partition("#")
    if holds == "model" or (holds == "picture" and mark and file.lower().endswith(CONTAINERS)):
        return file, mark, rest
    return value, "", ""


def references(document: Document) -> Iterator[Reference]:
    """Yield every file that a document names, in its order."""
    for part, items in _parts(document):
        for item in items:
            yield from _of(item, part, item.id)


def _of(item: Model, part: str, id: str) -> Iterator[Reference]:
    own, nested = _plan(type(item))
    for name, holds in own:
        path, mark, _ = split(getattr(item, name), holds)
        if path:
            yield Reference(part, id, item, name, "model" if mark else holds, path)
    for field in nested:
        for inner in _inner(item, field):
            yield from _of(inner, part, id)


def _inner(item: Model, field: str) -> tuple:
    """Return the models that a field holds: several, one, or none."""
    value = getattr(item, field)
    return (value,) if isinstance(value, Model) else value or ()


def values_named(document: Document) -> set[tuple[str, str, str]]:
    """Return (what it holds, the file, how it is read) of every field that names a file, of a sequence one frame's.

    How a picture is read: as `Step.picture` tells it; "colour" where nothing does.
    """
    return set().union(*(values_of(items) for _, items in _parts(document)))


def values_of(items: Sequence[Model]) -> set[tuple[str, str, str]]:
    """Return the same of some items: there may be tens of thousands, so whole columns are read at once."""
    found = set()
    for kind in set(map(type, items)):
        own, nested = _plan(kind)
        if not own and not nested:
            continue
        same = [item for item in items if type(item) is kind]
        for name, holds in own:
            if "space" in kind.model_fields:
                found |= {(holds, *picture) for picture in map(attrgetter("picture"), same) if picture[0]}
            else:
                found |= {(holds, value, "colour") for value in set(map(attrgetter(name), same)) if value}
        for field in nested:
            found |= values_of([inner for item in same for inner in _inner(item, field)])
    return found


def _parts(document: Document) -> Iterator[tuple[str, tuple]]:
    for part in ("things", "materials", "lights"):
        yield part, getattr(document, part)
    yield "steps", document.finish.steps


@cache
def _plan(model: type[Model]) -> tuple[tuple[tuple[str, str], ...], tuple[str, ...]]:
    """Return a model's own fields that name files, with what they hold, and its fields of models that have such."""
    nested = []
    for name, info in model.model_fields.items():
        holds = any(issubclass(kind, Model) and file_fields(kind) for kind in _classes(info.annotation))
        if holds or info.annotation == tuple[AnyStep, ...]:  # which of its kinds it is shows only in each
            nested.append(name)
    return tuple(file_fields(model).items()), tuple(nested)


def _classes(annotation: object) -> Iterator[type]:
    """Yield the classes that an annotation is made of, such as those of a tuple of a union."""
    if isinstance(annotation, type) and not get_args(annotation):
        yield annotation
    for inner in get_args(annotation):
        yield from _classes(inner)


def renamed(item: Model, moved: Callable[[str], str]) -> Model:
    """Return an item with every path of it, and of what it holds, sent through a function; itself if none changes."""
    values: dict = {}
    own, nested = _plan(type(item))
    for name, holds in own:
        old = getattr(item, name)
        if old:
            file, mark, rest = split(old, holds)
            values[name] = moved(file) + mark + rest if file else old
    for name in nested:
        inner = getattr(item, name)
        if isinstance(inner, Model):
            values[name] = renamed(inner, moved)
        elif inner:
            values[name] = tuple(renamed(each, moved) for each in inner)
    return edit.changed(item, **values) if values else item

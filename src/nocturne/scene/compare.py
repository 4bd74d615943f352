"""What differs between two documents, in words, and taking parts of one over into another."""

import math
from dataclasses import dataclass
from typing import Any

from nocturne.scene import quantities
from nocturne.scene.document import Document
from nocturne.scene.edit import changed
from nocturne.scene.fields import Model, descriptions
from nocturne.scene.finish import STEP_NAMES

# The parts that a proof can be gone back to, one by one, with how they are called.
PARTS = {
    "things": "Set",
    "materials": "Materials",
    "lights": "Lights",
    "view": "Camera",
    "quality": "Quality",
    "desk": "Light desk",
    "finish": "Finish",
}


@dataclass(frozen=True, slots=True)
class Difference:
    """One setting that differs: its part, the thing or step it belongs to, its label, and both values as shown."""

    part: str
    owner: str
    label: str
    before: str
    after: str


def differences(before: Document, after: Document) -> list[Difference]:
    """Return every setting of the picture that differs between two documents, in the order of the stages."""
    found: list[Difference] = []
    for part in ("things", "materials", "lights"):
        found += _items(part, getattr(before, part), getattr(after, part))
    if before.view.name != after.view.name:
        found.append(Difference("view", "", "View", before.view.name, after.view.name))
    found += _fields("view", "", before.view, after.view, leave_out=("name",))
    if before.quality.name != after.quality.name:
        found.append(Difference("quality", "", "Quality", before.quality.name, after.quality.name))
    found += _fields("quality", "", before.quality, after.quality, leave_out=("name",))
    for group in dict.fromkeys((*before.light_groups, *after.light_groups)):
        found += _fields("desk", group, before.strip(group), after.strip(group))
    found += _steps(before, after)
    return found


def _items(part: str, before: tuple, after: tuple) -> list[Difference]:
    if before is after:
        return []
    old, new = ({item.id: item for item in items} for items in (before, after))
    found = []
    for id in dict.fromkeys((*old, *new)):
        a, b = old.get(id), new.get(id)
        if a is None or b is None:
            there, gone = ("there", "–") if b is None else ("–", "there")
            found.append(Difference(part, (a or b).name, "", there, gone))
        elif a is not b and a != b:
            found += _fields(part, b.name, a, b)
    return found


def _steps(before: Document, after: Document) -> list[Difference]:
    old, new = before.finish, after.finish
    found = []
    for id in dict.fromkeys((*(s.id for s in old.steps), *(s.id for s in new.steps))):
        a, b = old.step(id), new.step(id)
        name = STEP_NAMES[(a or b).kind]
        if a is None or b is None:
            there, gone = ("there", "–") if b is None else ("–", "there")
            found.append(Difference("finish", name, "", there, gone))
        elif a != b:
            found += _fields("finish", name, a, b)
    both = {s.id for s in old.steps} & {s.id for s in new.steps}
    orders = [[s.id for s in finish.steps if s.id in both] for finish in (old, new)]
    if orders[0] != orders[1]:
        names = [" › ".join(STEP_NAMES[f.step(id).kind] for id in order) for f, order in zip((old, new), orders)]
        found.append(Difference("finish", "", "Order", *names))
    return found + _fields("finish", "", old, new)


def _fields(part: str, owner: str, a: Model, b: Model, *, leave_out: tuple[str, ...] = ()) -> list[Difference]:
    found = []
    for name, about in descriptions(type(b)).items():
        if name not in type(a).model_fields:
            continue  # of another kind, which is told below
        old, new = getattr(a, name), getattr(b, name)
        if name in leave_out or _same(old, new):
            continue
        found.append(Difference(part, owner, about.label, _with_unit(a, old, about), _with_unit(b, new, about)))
    told = descriptions(type(b))
    for name in ("form", "scatter", "cutaway"):
        found += _inner(part, owner, name, a, b)
    for name in ("mesh", "parent", "kind", "faces", *(("steps",) if part == "materials" else ())):
        if name in type(b).model_fields and name not in told and getattr(a, name, None) != getattr(b, name, None):
            old, new = getattr(a, name), getattr(b, name)
            if name in ("steps", "faces"):
                words = "steps" if name == "steps" else "sets with a material of their own"
                old, new = (f"{len(v)} {words}" for v in (old, new))
            found.append(Difference(part, owner, name.capitalize(), str(old) or "–", str(new) or "–"))
    return found


def _inner(part: str, owner: str, name: str, a: Model, b: Model) -> list[Difference]:
    """Return what differs in the shape, the scatter or the cutaway of two things."""
    old, new = getattr(a, name, None), getattr(b, name, None)
    if old == new:
        return []
    if old is not None and type(old) is type(new):
        found = _fields(part, owner, old, new)
        named = [(len(m.sources), len(m.keep_out), len(m.points)) for m in (old, new) if name == "scatter"]
        if (named and named[0] != named[1]) or not found:
            words = [f"{n[0]} copied, {n[1]} kept clear, {n[2]} points" for n in named] or ["–", "other"]
            found.append(Difference(part, owner, name.capitalize(), *words))
        return found
    words = [getattr(m, "title", name) if m is not None else "–" for m in (old, new)]
    return [Difference(part, owner, "Shape" if name == "form" else name.capitalize(), *words)]


# The fields that say what a power is in.
_UNIT_OF = {"power": "unit", "emission_power": "emission_unit"}


def _with_unit(item: Model, value: Any, about) -> str:
    text = shown(value, about)
    return f"{text} {getattr(item, _UNIT_OF[about.name])}" if about.kind == "power" else text


def _same(a: Any, b: Any) -> bool:
    if isinstance(a, float) and isinstance(b, float):
        return math.isclose(a, b, rel_tol=1e-9, abs_tol=1e-12)
    return a == b


def shown(value: Any, about) -> str:
    """Return a field's value as an editor shows it, with its unit."""
    if isinstance(value, bool):
        return "on" if value else "off"
    choices = dict(about.choices)
    if isinstance(value, str):
        return choices.get(value, value) or "–"
    if about.kind in ("curve", "profile"):
        return f"{len(value)} points"
    if about.kind == "openings":
        return f"{len(value)} openings"
    unit = "" if about.unit in ("x", "f/", "×") else f" {about.unit}" if about.unit else ""
    if isinstance(value, (tuple, list)):
        numbers = " ".join(f"{v:.4g}" for v in value)
        return numbers + (unit if about.kind != "colour" else "")
    text = quantities.shown(float(value), unit=about.unit, kind=about.kind)
    return f"f/{text}" if about.kind == "fnumber" else text + unit


def taken_over(document: Document, source: Document, parts: tuple[str, ...]) -> Document:
    """Return the document with some parts as they are in another; views and qualities keep what else is there.

    Taking over materials or lights brings the light groups along that they need.
    """
    values: dict[str, Any] = {}
    for part in ("things", "materials", "lights", "desk", "finish"):
        if part in parts:
            values[part] = getattr(source, part)
    if "lights" in parts or "materials" in parts:
        values["groups"] = tuple(dict.fromkeys((*source.groups, *document.groups)))
    if "view" in parts:
        values["views"] = _with_item(document.views, source.view)
        values["active_view"] = source.view.id
    if "quality" in parts:
        values["qualities"] = _with_item(document.qualities, source.quality)
        values["active_quality"] = source.quality.id
    return changed(document, **values)


def _with_item(items: tuple, item: Model) -> tuple:
    if all(old.id != item.id for old in items):
        return (*items, item)
    return tuple(item if old.id == item.id else old for old in items)

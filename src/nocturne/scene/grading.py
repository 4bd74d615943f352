"""Edits of the finish: pure functions (document, ...) -> document on its stack of steps."""

from typing import Any

from nocturne.errors import SceneError
from nocturne.scene.document import Document
from nocturne.scene.edit import changed
from nocturne.scene.finish import ORDER, S_CURVE, STEP_NAMES, STEPS, Step


def _with(document: Document, steps: tuple[Step, ...]) -> Document:
    return changed(document, finish=changed(document.finish, steps=steps))


def _free_id(document: Document, kind: str) -> str:
    taken = {step.id for step in document.finish.steps}
    n = 1
    while f"{kind}-{n}" in taken:
        n += 1
    return f"{kind}-{n}"


def _index(document: Document, id: str) -> int:
    for i, step in enumerate(document.finish.steps):
        if step.id == id:
            return i
    raise SceneError(f"There is no finishing step “{id}”.", where=f"finish/steps/{id}")


def add_step(document: Document, kind: str, **values: Any) -> tuple[Document, str]:
    """Return the document with a new step where light would pass it, and the step's id."""
    id = _free_id(document, kind)
    steps = document.finish.steps
    rank = ORDER.index(kind)
    at = next((i for i, step in enumerate(steps) if ORDER.index(step.kind) > rank), len(steps))
    step = changed(STEPS[kind](id=id), **values)
    return _with(document, (*steps[:at], step, *steps[at:])), id


def alter_step(document: Document, id: str, **values: Any) -> Document:
    """Return the document with fields of a step changed."""
    i = _index(document, id)
    steps = document.finish.steps
    step = changed(steps[i], **values)
    return document if step is steps[i] else _with(document, (*steps[:i], step, *steps[i + 1 :]))


def move_step(document: Document, id: str, to: int) -> Document:
    """Return the document with a step at another place of the stack."""
    i = _index(document, id)
    steps = list(document.finish.steps)
    step = steps.pop(i)
    steps.insert(min(max(to, 0), len(steps)), step)
    return document if tuple(steps) == document.finish.steps else _with(document, tuple(steps))


def remove_step(document: Document, id: str) -> Document:
    """Return the document without a step."""
    i = _index(document, id)
    steps = document.finish.steps
    return _with(document, (*steps[:i], *steps[i + 1 :]))


def copy_step(document: Document, id: str) -> tuple[Document, str]:
    """Return the document with a copy of a step below it, and the copy's id."""
    i = _index(document, id)
    steps = document.finish.steps
    copy = changed(steps[i], id=_free_id(document, steps[i].kind))
    return _with(document, (*steps[: i + 1], copy, *steps[i + 1 :])), copy.id


def set_exposure(document: Document, stops: float) -> Document:
    """Return the document with its exposure step at some stops; one is added if there is none."""
    for step in document.finish.steps:
        if step.kind == "exposure":
            return alter_step(document, step.id, stops=stops, on=True)
    return document if stops == 0 else add_step(document, "exposure", stops=stops)[0]


def give_s_curve(document: Document) -> tuple[Document, str]:
    """Return the document with an S-curve in its curves step, one added if there is none, and the step's id."""
    for step in document.finish.steps:
        if step.kind == "curves":
            return alter_step(document, step.id, master=S_CURVE, on=True), step.id
    return add_step(document, "curves", master=S_CURVE)


def label_of(document: Document, id: str) -> str:
    """Return a step's name as it is shown; steps of one kind are numbered."""
    step = document.finish.step(id)
    if step is None:
        return ""
    same = [s.id for s in document.finish.steps if s.kind == step.kind]
    name = STEP_NAMES[step.kind]
    return name if len(same) == 1 else f"{name} {same.index(id) + 1}"

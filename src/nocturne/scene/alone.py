"""A set as it is looked at while patterns are worked on: one step alone on the things, or a material without steps."""

from nocturne.scene import edit
from nocturne.scene.document import Document
from nocturne.scene.materials import Material
from nocturne.scene.patterns import outline


def step_alone(document: Document, material: str, path: outline.Path) -> Document:
    """Return the document in which what wears a material shows what one of its steps puts out, and nothing else.

    It glows by it: 1 is as bright as a white sheet in the view's exposure, whatever the light. What lies under the
    step, and what drives it, stays; the document is returned as it is if there is no such step.
    """
    worn = document.find("materials", material)
    step = outline.at(worn.steps, path) if worn is not None else None
    if step is None:
        return document
    beside = worn.steps if len(path) == 1 else outline.at(worn.steps, path[:-1]).steps
    # What works on what lies under it shows what it makes of it.
    under = tuple(
        s.model_copy(update={"parameter": "emission_color"})
        for s in beside[: path[-1]]
        if s.parameter == step.parameter and s.on
    )
    shown = step.model_copy(update={"parameter": "emission_color", "amount": 1.0, "blend": "replace", "on": True})
    bare = Material(
        id=worn.id,
        name=worn.name,
        base_color=(0.0, 0.0, 0.0),
        specular_weight=0.0,
        emission_luminance=document.view.white_luminance,
        emission_color=(1.0, 1.0, 1.0),
        emission_group=worn.emission_group,
        precedence=worn.precedence,
        steps=(*under, shown) if step.needs_under else (shown,),
    )
    return edit.put(document, "materials", bare)


def without_steps(document: Document, material: str) -> Document:
    """Return the document in which a material is as it was before any pattern drove it."""
    worn = document.find("materials", material)
    if worn is None or not worn.steps:
        return document
    return edit.alter(document, "materials", material, steps=())

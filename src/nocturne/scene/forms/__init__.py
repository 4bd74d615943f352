"""Shapes that are made here: each kind a class, together a union told apart by `kind`, and their meshes."""

import weakref
from functools import lru_cache
from typing import Annotated

from pydantic import Field

from nocturne.scene.forms.backdrop import Backdrop
from nocturne.scene.forms.ball import Ball
from nocturne.scene.forms.box import Box
from nocturne.scene.forms.cone import Cone
from nocturne.scene.forms.cylinder import Cylinder
from nocturne.scene.forms.form import Form
from nocturne.scene.forms.ground import Ground
from nocturne.scene.forms.panel import Panel
from nocturne.scene.forms.ring import Ring
from nocturne.scene.forms.room import Opening, Room
from nocturne.scene.forms.text import Text
from nocturne.scene.forms.turned import Turned
from nocturne.scene.shapes import Mesh

__all__ = ["KINDS", "AnyForm", "Form", "Opening", "form_mesh"]

_CLASSES = (Ground, Backdrop, Panel, Box, Ball, Cylinder, Cone, Ring, Turned, Room, Text)
KINDS: dict[str, type[Form]] = {kind.model_fields["kind"].default: kind for kind in _CLASSES}
AnyForm = Annotated[
    Ground | Backdrop | Panel | Box | Ball | Cylinder | Cone | Ring | Turned | Room | Text, Field(discriminator="kind")
]
_made: "weakref.WeakValueDictionary[Form, Mesh]" = weakref.WeakValueDictionary()


def form_mesh(form: Form) -> Mesh:
    """Return the mesh of a form: the same object for equal ones, as long as anyone holds it."""
    made = _made.get(form)
    if made is None:
        made = _made[form] = _built(form)
    return made


@lru_cache(maxsize=64)
def _built(form: Form) -> Mesh:
    return form.build()

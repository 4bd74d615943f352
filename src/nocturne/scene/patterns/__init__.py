"""Patterns: steps that drive parameters of materials, each kind a class, together a union told apart by `kind`."""

from typing import Annotated, Union

from pydantic import Field

from nocturne.scene.patterns.checkerboard import Checker
from nocturne.scene.patterns.evaluate import Spot, driven_by, sampled, step_value
from nocturne.scene.patterns.geomcolor import MeshColours
from nocturne.scene.patterns.image import Picture
from nocturne.scene.patterns.step import Step, every, replaced

__all__ = [
    "KINDS",
    "AnyStep",
    "Checker",
    "MeshColours",
    "Picture",
    "Spot",
    "Step",
    "driven_by",
    "every",
    "replaced",
    "sampled",
    "step_value",
]

# In the order in which they are offered. Kernels number them by it, files name them.
_CLASSES: tuple[type[Step], ...] = (Picture, Checker, MeshColours)
KINDS: dict[str, type[Step]] = {kind.model_fields["kind"].default: kind for kind in _CLASSES}
AnyStep = Annotated[Union[_CLASSES], Field(discriminator="kind")]  # noqa: UP007 made from the table
for _class in _CLASSES:
    _class.model_rebuild(_types_namespace={"AnyStep": AnyStep})

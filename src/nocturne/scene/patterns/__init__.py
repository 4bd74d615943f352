"""Patterns: steps that drive parameters of materials, each kind a class, together a union told apart by `kind`."""

from typing import Annotated

from pydantic import Field

from nocturne.scene.patterns.checker import Checker
from nocturne.scene.patterns.colours import MeshColours
from nocturne.scene.patterns.picture import Picture
from nocturne.scene.patterns.step import DRIVEN, Step, sampled

__all__ = ["DRIVEN", "KINDS", "AnyStep", "Checker", "MeshColours", "Picture", "Step", "sampled"]

KINDS: dict[str, type[Step]] = {kind.model_fields["kind"].default: kind for kind in (Picture, Checker, MeshColours)}
AnyStep = Annotated[Picture | Checker | MeshColours, Field(discriminator="kind")]

"""The colours that a mesh has at its vertices."""

from typing import Any, ClassVar, Literal

import numpy as np

from nocturne.scene.patterns.step import Step


class MeshColours(Step):
    """What a mesh's own colours are at the hit; white where it has none."""

    title: ClassVar[str] = "Mesh colours"
    about: ClassVar[str] = "The colours that a mesh brings at its vertices; white where it has none."
    family: ClassVar[str] = "Where and what"
    is_placed: ClassVar[bool] = False

    kind: Literal["geomcolor"] = "geomcolor"

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) the mesh's colours."""
        return spot.colour

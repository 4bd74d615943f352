"""The colours that a mesh has at its vertices."""

from typing import ClassVar, Literal

import numpy as np

from nocturne.scene.patterns.step import Step


class MeshColours(Step):
    """What a mesh's own colours are at the hit; white where it has none."""

    title: ClassVar[str] = "Mesh colours"

    kind: Literal["colours"] = "colours"

    def values(self, u: np.ndarray, v: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) white: by texture coordinates alone nothing is known of a mesh's colours."""
        return np.ones((*np.shape(u), 3))

"""The meshes and pictures that a document refers to, loaded."""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from nocturne.scene.shapes import Mesh


@dataclass(frozen=True, repr=False)
class Assets:
    """Loaded files by the names the document uses.

    meshes: by `Thing.mesh`. images: by (path, "colour" or "data"); (h, w, 3) float32, colour in the working space, top
    row first. luts: look-up tables by path; (n, n, n, 3) float32 over 0..1. problems: what could not be loaded and
    stands in as a placeholder, one sentence each.
    """

    meshes: Mapping[str, Mesh] = field(default_factory=dict)
    images: Mapping[tuple[str, str], np.ndarray] = field(default_factory=dict)
    luts: Mapping[str, np.ndarray] = field(default_factory=dict)
    problems: tuple[str, ...] = ()

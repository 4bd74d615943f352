"""One hit of a material, without a picture: what tests of the surface's units share."""

import math

import numpy as np
from scipy.stats import qmc

from nocturne.engine.kernels import link
from nocturne.engine.layout import scratch
from nocturne.engine.prepare import Preparer
from nocturne.engine.types import scratch_row
from nocturne.scene.materials import Material
from tests import sets


class Hit:
    """A material seen at cosine mu from a medium; directions are in its own frame, z the normal."""

    def __init__(self, material: Material, *, outside: float = 1.0, inside: bool = False) -> None:
        document, assets = sets.one_thing(sets.BALL, material, sets.white_dome())
        self.prepared, self.material = Preparer().prepare(document, assets), material
        self.row = scratch_row()
        self.ids = self.row.view(np.uint32)
        self.at = self.prepared.table.ctypes.data, self.row.ctypes.data
        self.outside, self.inside = outside, inside

    def see(self, mu: float) -> "Hit":
        """Look at it at cosine mu, and work out its lobes."""
        row, ids, material = self.row, self.ids, self.material
        ids[scratch.MATERIAL], ids[scratch.INSIDE] = 1, self.inside
        row[scratch.N : scratch.N + 3] = row[scratch.G : scratch.G + 3] = (0, 0, 1)
        row[scratch.T : scratch.T + 3], row[scratch.B : scratch.B + 3] = (1, 0, 0), (0, 1, 0)
        row[scratch.WO : scratch.WO + 3] = (math.sqrt(1 - mu * mu), 0, mu)
        link._read_material.ctypes(*self.at)
        ior = material.specular_ior
        row[scratch.OUTSIDE] = ior if self.inside and material.is_medium else self.outside
        row[scratch.ETA] = self.outside / ior if self.inside and material.is_medium else ior / self.outside
        row[scratch.RANDOM] = 0
        link._derive_material.ctypes(*self.at)
        return self

    @property
    def straight(self) -> np.ndarray:
        """Return what goes straight through, (3,)."""
        return self.row[scratch.STRAIGHT : scratch.STRAIGHT + 3].copy()

    def sample(self, u) -> tuple[np.ndarray, np.ndarray, float, int] | None:
        """Return (direction, weight, density, lobe) for four numbers, None for nothing."""
        row = self.row
        row[scratch.RANDOM : scratch.RANDOM + 4] = u
        link._sample_material.ctypes(*self.at)
        if row[scratch.SAMPLE + 6] <= 0:
            return None
        at = scratch.SAMPLE
        return row[at : at + 3].copy(), row[at + 3 : at + 6].copy(), float(row[at + 6]), int(self.ids[at + 7])

    def evaluate(self, direction) -> tuple[np.ndarray, float]:
        """Return value times cosine, (3, 3) by kind, and the density of a direction."""
        row = self.row
        row[scratch.LAMP : scratch.LAMP + 3] = direction
        link._evaluate_material.ctypes(*self.at)
        density = float(row[scratch.EVAL + 9])
        value = row[scratch.EVAL : scratch.EVAL + 9].reshape(3, 3).astype(float)
        return (value if density > 0 else value * 0), density

    def albedo(self, n: int = 4096) -> np.ndarray:
        """Return the share of light reflected, scattered through and let straight through, (3,), over n samples."""
        total, eta2 = np.zeros(3), float(self.row[scratch.ETA]) ** 2
        is_thin = self.material.geometry_thin_walled
        for u in points(n):
            found = self.sample(u)
            if found is not None:
                # Radiance is squeezed in glass; the light's power is not.
                total += found[1] * (eta2 if found[3] == 2 and not is_thin else 1.0)
        return total / n + self.straight


def points(n: int) -> np.ndarray:
    """Return (n, 4) evenly spread numbers in [0, 1), n a power of two."""
    return np.minimum(qmc.Sobol(4, seed=3).random(n), 0.9999999).astype(np.float32)

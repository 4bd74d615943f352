"""One hit of a material, without a picture: what tests of the surface's units share."""

import ctypes
import math
from collections.abc import Callable
from functools import cache

import numpy as np
from scipy.stats import qmc

from nocturne.engine.entries import KERNELS
from nocturne.engine.layout import lamp, mat, onward, scratch
from nocturne.engine.layout import value as layout
from nocturne.engine.prepare import Preparer
from nocturne.engine.types import scratch_row
from nocturne.rows import Row
from nocturne.scene.materials import Material
from tests import sets


def part(row: np.ndarray, name: str, inner: Row | None = None, inner_name: str = "") -> np.ndarray:
    """Return a view of a part of a work row, or of a part of the row that lies there."""
    found = row[scratch.ROW.span(name)]
    return found if inner is None else found[inner.span(inner_name)]


@cache
def _unit(name: str) -> Callable[[int, int], None]:
    return ctypes.CFUNCTYPE(None, ctypes.c_ssize_t, ctypes.c_ssize_t)(KERNELS[name].address)


def call(name: str, at: tuple[int, int]) -> None:
    """Call a compiled unit with the addresses of the scene's table and of a work row."""
    _unit(name)(*at)


class Hit:
    """A material seen at cosine mu from a medium; directions are in its own frame, z the normal."""

    def __init__(self, material: Material, *, outside: float = 1.0, inside: bool = False) -> None:
        document, assets = sets.one_thing(sets.BALL, material, sets.white_dome())
        self.prepared, self.material = Preparer().prepare(document, assets), material
        self.row = scratch_row()
        self.ids = self.row.view(np.uint32)
        self.at = self.prepared.table.ctypes.data, self.row.ctypes.data
        self.outside, self.inside = outside, inside

    def bend(self, x: float) -> None:
        """Bend its normal towards +x, by the tangent x."""
        row = self.prepared.arrays["mat_f"][1]
        row[mat.NORMAL : mat.NORMAL + 3] = 0.5 + 0.5 * np.array([x, 0, 1])
        row[mat.NORMAL_AMOUNT] = 1

    def see(self, mu: float) -> "Hit":
        """Look at it at cosine mu, and work out its lobes."""
        return self.see_along((math.sqrt(1 - mu * mu), 0, mu))

    def see_along(self, wo) -> "Hit":
        """Look at it from a direction, and work out its lobes."""
        row, ids, material = self.row, self.ids, self.material
        ids[scratch.MATERIAL], ids[scratch.INSIDE] = 1, self.inside
        part(row, "N")[:] = part(row, "G")[:] = (0, 0, 1)
        part(row, "DPDU")[:] = (1, 0, 0)
        part(row, "WO")[:] = wo
        call("read_material", self.at)
        ior = material.specular_ior
        row[scratch.OUTSIDE] = ior if self.inside and material.is_medium else self.outside
        row[scratch.ETA] = self.outside / ior if self.inside and material.is_medium else ior / self.outside
        row[scratch.RANDOM] = 0
        call("derive_material", self.at)
        return self

    @property
    def straight(self) -> np.ndarray:
        """Return what goes straight through, (3,)."""
        return part(self.row, "STRAIGHT").copy()

    def sample(self, u) -> tuple[np.ndarray, np.ndarray, float, int] | None:
        """Return (direction, weight, density, lobe) for four numbers, None for nothing."""
        row = self.row
        part(row, "RANDOM")[:] = u
        call("sample_material", self.at)
        at = scratch.SAMPLE
        if row[at + onward.DENSITY] <= 0:
            return None
        direction, weight = (part(row, "SAMPLE", onward.ROW, name).copy() for name in ("DIRECTION", "WEIGHT"))
        return direction, weight, float(row[at + onward.DENSITY]), int(self.ids[at + onward.KIND])

    def evaluate(self, direction) -> tuple[np.ndarray, float]:
        """Return value times cosine, (3, 3) by kind, and the density of a direction."""
        row = self.row
        row[scratch.LAMP : scratch.LAMP + lamp.DISTANCE] = direction
        call("evaluate_material", self.at)
        density = float(row[scratch.EVAL + layout.DENSITY])
        value = part(row, "EVAL")[: layout.DENSITY].reshape(3, 3).astype(float)
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

"""The film: per pixel running sums of everything a render keeps, never a picture only."""

import math
from dataclasses import dataclass, field, replace

import numpy as np

from nocturne.film.gate import Gate
from nocturne.film.layout import ARRAYS, GUIDES, PASS_NAMES, SEEN, SQUARES
from nocturne.rows import DTYPES, Field

BYTES_OF_A_GROUP = 12


def _bytes_of(field: Field) -> int:
    """Return the bytes that an array takes for each pixel."""
    return np.dtype(DTYPES[field.dtype]).itemsize * math.prod(n for n in field.shape if n is not None)


BYTES_OF_A_PIXEL = sum(_bytes_of(field) for field in ARRAYS if field.name != "groups")


@dataclass(eq=False, repr=False)
class Film:
    """Sums over samples; arrays are written by the engine's kernels and read by everyone else.

    groups (g, h, w, 3) and passes (8, h, w, 3): radiance, cd/m2 RGB. guides (h, w, 14). variance (h, w, 2): sum and sum
    of squares of luminance. ids, coverage (h, w, 2, 6): objects and materials seen. samples (h, w).
    first: the number of a pixel's first sample, from which it goes on counting; films of other ranges can be joined.
    """

    groups: np.ndarray
    passes: np.ndarray
    guides: np.ndarray
    variance: np.ndarray
    ids: np.ndarray
    coverage: np.ndarray
    samples: np.ndarray
    group_names: tuple[str, ...]
    objects: tuple[str, ...] = ()
    materials: tuple[str, ...] = ()
    seconds: float = 0.0
    first: int = 0
    gate: Gate = field(default_factory=Gate)

    @classmethod
    def blank(cls, width: int, height: int, group_names: tuple[str, ...]) -> "Film":
        """Return a film without a sample."""
        sizes = (len(group_names), height, width)

        def zeros(field: Field) -> np.ndarray:
            # Of the lengths that are not fixed, rows and columns are always the last.
            own = iter(sizes[-sum(n is None for n in field.shape) :])
            return np.zeros([next(own) if n is None else n for n in field.shape], DTYPES[field.dtype])

        return cls(**{field.name: zeros(field) for field in ARRAYS}, group_names=group_names)

    @property
    def arrays(self) -> dict[str, np.ndarray]:
        """Return the arrays by the names the kernels know them by."""
        return {field.name: getattr(self, field.name) for field in ARRAYS}

    @property
    def size(self) -> tuple[int, int]:
        """Return (width, height), pixels."""
        return self.samples.shape[1], self.samples.shape[0]

    @property
    def mean_samples(self) -> float:
        """Return the mean number of samples of a pixel."""
        return float(self.samples.mean())

    def clear(self) -> None:
        """Forget every sample."""
        for array in self.arrays.values():
            array[...] = 0
        self.seconds = 0.0

    def copy(self) -> "Film":
        """Return a film with arrays of its own, all of the same moment: waits until nobody writes to this one."""
        with self.gate.still():
            return replace(self, gate=Gate(), **{name: array.copy() for name, array in self.arrays.items()})

    def _per_sample(self, sums: np.ndarray) -> np.ndarray:
        return sums / np.maximum(self.samples, 1)[..., None].astype(np.float32)

    def group(self, i: int) -> np.ndarray:
        """Return (h, w, 3) float32 mean radiance of light group i."""
        return self._per_sample(self.groups[i])

    def beauty(self, gains: np.ndarray | None = None) -> np.ndarray:
        """Return (h, w, 3) float32 mean radiance, the sum of groups, each times its (n, 3) gain."""
        if gains is None:
            total = self.groups.sum(0)
        else:
            total = np.einsum("gyxc,gc->yxc", self.groups, np.asarray(gains, np.float32))
        return self._per_sample(total)

    def light_pass(self, name: str) -> np.ndarray:
        """Return (h, w, 3) float32 mean radiance of a path pass."""
        return self._per_sample(self.passes[PASS_NAMES.index(name)])

    @property
    def albedo(self) -> np.ndarray:
        """Return (h, w, 3) mean albedo of the first surface that is not a mirror or clear."""
        return self._per_sample(self.guides[..., GUIDES.span("ALBEDO")])

    @property
    def clean_normal(self) -> np.ndarray:
        """Return (h, w, 3) mean normal of the first surface that is not a mirror or clear."""
        return self._per_sample(self.guides[..., GUIDES.span("CLEAN_NORMAL")])

    @property
    def normal(self) -> np.ndarray:
        """Return (h, w, 3) unit normal at the pixel's middle, zero where nothing is."""
        return self.guides[..., GUIDES.span("NORMAL")]

    @property
    def position(self) -> np.ndarray:
        """Return (h, w, 3) position at the pixel's middle, metres."""
        return self.guides[..., GUIDES.span("POSITION")]

    @property
    def depth(self) -> np.ndarray:
        """Return (h, w) distance from the lens at the pixel's middle, metres; 0 where nothing is."""
        return self.guides[..., GUIDES.offsets["DEPTH"]]

    @property
    def alpha(self) -> np.ndarray:
        """Return (h, w) share of samples that hit something."""
        return self.guides[..., GUIDES.offsets["ALPHA"]] / np.maximum(self.samples, 1).astype(np.float32)

    @property
    def moments(self) -> tuple[np.ndarray, np.ndarray]:
        """Return (h, w) float64 means of the luminance of a pixel's samples, and of its square."""
        n = np.maximum(self.samples, 1)
        return self.variance[..., SQUARES.offsets["SUM"]] / n, self.variance[..., SQUARES.offsets["SUM_OF_SQUARES"]] / n

    @property
    def first_seen(self) -> np.ndarray:
        """Return (h, w) int64 indices of the objects that pixels saw first, -1 for none."""
        which = SEEN.offsets["OBJECTS"]
        return np.where(self.coverage[:, :, which, 0] > 0, self.ids[:, :, which, 0].astype(np.int64), -1)

    def matte(self, which: int, names: tuple[int, ...]) -> np.ndarray:
        """Return (h, w) coverage of some objects (which 0) or materials (1) by their indices."""
        hit = np.isin(self.ids[:, :, which], np.array(names, np.uint32)) & (self.coverage[:, :, which] > 0)
        return (self.coverage[:, :, which] * hit).sum(-1) / np.maximum(self.samples, 1)

    def id_at(self, which: int, x: int, y: int) -> int:
        """Return the index of the object (which 0) or material (1) that covers most of a pixel, -1 for none."""
        coverage = self.coverage[y, x, which]
        k = int(coverage.argmax())
        return int(self.ids[y, x, which, k]) if coverage[k] > 0 else -1

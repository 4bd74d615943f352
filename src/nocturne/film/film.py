"""The film: per pixel running sums of everything a render keeps, never a picture only."""

from dataclasses import dataclass, field, replace

import numpy as np

from nocturne.film.gate import Gate

PASS_NAMES = (
    "direct_diffuse",
    "indirect_diffuse",
    "direct_reflection",
    "indirect_reflection",
    "direct_transmission",
    "indirect_transmission",
    "emission",
    "background",
)
_N_GUIDES = 14
BYTES_OF_A_GROUP = 12
# Passes, guides, sums of the luminance, ids and their coverage, and the count of samples.
BYTES_OF_A_PIXEL = 12 * len(PASS_NAMES) + 4 * _N_GUIDES + 16 + 2 * 6 * 8 + 4


@dataclass(eq=False, repr=False)
class Film:
    """Sums over samples; arrays are written by the engine's kernels and read by everyone else.

    groups (g, h, w, 3) and passes (8, h, w, 3): radiance, cd/m2 RGB. guides (h, w, 14). variance (h, w, 2): sum and sum
    of squares of luminance. ids, coverage (h, w, 2, 6): objects and materials seen. samples (h, w).
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
    gate: Gate = field(default_factory=Gate)

    @classmethod
    def blank(cls, width: int, height: int, group_names: tuple[str, ...]) -> "Film":
        """Return a film without a sample."""
        return cls(
            np.zeros((len(group_names), height, width, 3), np.float32),
            np.zeros((len(PASS_NAMES), height, width, 3), np.float32),
            np.zeros((height, width, _N_GUIDES), np.float32),
            np.zeros((height, width, 2), np.float64),
            np.zeros((height, width, 2, 6), np.uint32),
            np.zeros((height, width, 2, 6), np.float32),
            np.zeros((height, width), np.int32),
            group_names,
        )

    @property
    def arrays(self) -> dict[str, np.ndarray]:
        """Return the arrays by the names the kernels know them by."""
        names = ("groups", "passes", "guides", "variance", "ids", "coverage", "samples")
        return {name: getattr(self, name) for name in names}

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
        return self._per_sample(self.guides[..., 0:3])

    @property
    def clean_normal(self) -> np.ndarray:
        """Return (h, w, 3) mean normal of the first surface that is not a mirror or clear."""
        return self._per_sample(self.guides[..., 10:13])

    @property
    def normal(self) -> np.ndarray:
        """Return (h, w, 3) unit normal at the pixel's middle, zero where nothing is."""
        return self.guides[..., 3:6]

    @property
    def position(self) -> np.ndarray:
        """Return (h, w, 3) position at the pixel's middle, metres."""
        return self.guides[..., 6:9]

    @property
    def depth(self) -> np.ndarray:
        """Return (h, w) distance from the lens at the pixel's middle, metres; 0 where nothing is."""
        return self.guides[..., 9]

    @property
    def alpha(self) -> np.ndarray:
        """Return (h, w) share of samples that hit something."""
        return self.guides[..., 13] / np.maximum(self.samples, 1).astype(np.float32)

    def matte(self, which: int, names: tuple[int, ...]) -> np.ndarray:
        """Return (h, w) coverage of some objects (which 0) or materials (1) by their indices."""
        hit = np.isin(self.ids[:, :, which], np.array(names, np.uint32)) & (self.coverage[:, :, which] > 0)
        return (self.coverage[:, :, which] * hit).sum(-1) / np.maximum(self.samples, 1)

    def id_at(self, which: int, x: int, y: int) -> int:
        """Return the index of the object (which 0) or material (1) that covers most of a pixel, -1 for none."""
        coverage = self.coverage[y, x, which]
        k = int(coverage.argmax())
        return int(self.ids[y, x, which, k]) if coverage[k] > 0 else -1

"""Learning which lights arrive where: a small picture of the view, taken before the picture itself.

What is learned follows from document, files, view, size and seed alone, not from which part of the picture is rendered
nor how far: regions, ranges of samples and renders that go on get the same chances, on whichever machine.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from nocturne.engine.layout import learned
from nocturne.engine.prepare import Prepared
from nocturne.engine.render import Stop, blank_film, render
from nocturne.jobs import Update, run

_PIXELS = 20_000  # of the small picture, at most; it has no more than a quarter of the picture's
_STAGES = (2, 4, 8)  # samples after which chances are made anew: from then on they are learned from
_ROWS = 1 << 14
_LEAST = 0.1  # of a row's chances: shared evenly by all slots
_LEAST_VISITS = 6  # of a row before it is trusted
_CELLS_TO_THE_DEPTH = 8  # from the eye to the middle of what it sees: 25 cm at 2 m
_SMALLEST, _LARGEST = 0.02, 100.0  # metres, of a cell


@dataclass(frozen=True, eq=False, repr=False)
class Learned:
    """Chances by row and slot, the slots that they are of, and how rows are found."""

    arrays: dict[str, np.ndarray]
    slots: np.ndarray

    def fits(self, prepared: Prepared) -> bool:
        """Return True if a prepared set's lights share chances as those did that it was learned of."""
        return np.array_equal(prepared.arrays["slots"], self.slots)

    def used_by(self, prepared: Prepared) -> Prepared:
        """Return a prepared set that chooses its lights by what was learned; as it is if that does not fit."""
        return prepared.using(self.arrays) if self.fits(prepared) else prepared


def learn(
    prepared: Prepared, *, seed: int = 0, threads: int = 0, courtesy: int = 0, stop: Stop | None = None
) -> Iterator[Update]:
    """Learn which lights arrive where in a prepared set; the last update's `result` is a `Learned`.

    It is None if there is nothing to choose from, nothing is seen, or it was stopped.
    """
    stop = stop or Stop()
    slots = prepared.arrays["slots"]
    yield Update(0, 1, "Learning where light comes from")
    if len(slots) < 2:
        yield Update(1, 1, "Learned", result=None)
        return
    pixels = prepared.width * prepared.height
    share = (min(_PIXELS, pixels / 4) / pixels) ** 0.5
    size = max(round(prepared.width * share), 8), max(round(prepared.height * share), 8)
    sums = np.zeros((_ROWS, len(slots) + 1), np.int64)
    cdf = np.zeros((_ROWS, len(slots)), np.float32)
    small = prepared.using({}, size=size)
    film = blank_film(small)
    options = {"seed": seed, "threads": threads, "courtesy": courtesy, "stop": stop, "noise": 0.0, "minutes": 0.0}
    run(render(small, film, samples=1, **options))  # for its depths: they say how large cells are to be
    depths = film.depth[film.depth > 0]
    if stop.is_set or not len(depths):
        yield Update(1, 1, "Learned", result=None)
        return
    cell = float(np.clip(np.median(depths) / _CELLS_TO_THE_DEPTH, _SMALLEST, _LARGEST))
    floats = learned.FLOATS.filled(np.float32, PER_METRE=1 / cell, UNIT=1 / max(prepared.view.white_luminance, 1e-20))
    for samples in _STAGES:
        learning = small.using({"learned_f": floats, "learned_cdf": cdf, "sums": sums})
        for update in render(learning, film, samples=samples, **options):
            if update.result is None:
                yield Update(update.done, _STAGES[-1], "Learning where light comes from")
        if stop.is_set:
            yield Update(1, 1, "Learned", result=None)
            return
        cdf = _chances(sums)
    yield Update(1, 1, "Learned", result=Learned({"learned_f": floats, "learned_cdf": cdf}, slots))


def _chances(sums: np.ndarray) -> np.ndarray:
    """Return (rows, slots) float32 running chances, 0 throughout where too little was seen."""
    weight = np.sqrt(sums[:, :-1].astype(np.float64))
    total = weight.sum(1, keepdims=True)
    known = (sums[:, -1:] >= _LEAST_VISITS) & (total > 0)
    chance = (1 - _LEAST) * weight / np.maximum(total, 1e-300) + _LEAST / weight.shape[1]
    cdf = np.cumsum(np.where(known, chance, 0), axis=1)
    cdf[known[:, 0], -1] = 1.0
    return cdf.astype(np.float32)

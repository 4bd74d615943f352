"""Learning which lights arrive where, and which things send light back: by a small picture of the view, taken first.

What is learned follows from document, files, view, size and seed alone, not from which part of the picture is rendered
nor how far: regions, ranges of samples and renders that go on get the same chances, on whichever machine.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from nocturne.engine.layout import bright, corner, learned, mesh
from nocturne.engine.layout import instance as inst
from nocturne.engine.prepare import Prepared
from nocturne.engine.render import Stop, blank_film, render
from nocturne.jobs import Update, run

_PIXELS = 20_000  # of the small picture, at most; it has no more than a quarter of the picture's
_STAGES = (2, 4, 8)  # samples after which chances are made anew: from then on they are learned from
_ROWS = 1 << 14
_LEAST = 0.1  # of a row's chances: shared evenly by all slots
_LEAST_VISITS = 6  # of a row before it is trusted
_MOST_BRIGHT = 0.65  # of directions that go to bright things
_COMMON_VISITS = 64  # of a row: as many count as all rows' mean
_LEAST_SHARE = 0.003  # of one of them: less is not worth looking whether a direction goes there
_LEAST_MEAN = 0.005  # of all directions that go to bright things: to one of them
_LARGEST_BRIGHT = 0.25  # radius of a bright thing, in depths: the cone about a larger one says too little
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
    small = prepared.using({}, size=size)
    film = blank_film(small)
    options = {"seed": seed, "threads": threads, "courtesy": courtesy, "stop": stop, "noise": 0.0, "minutes": 0.0}
    run(render(small, film, samples=1, **options))  # for its depths: they say how large cells are to be
    depths = film.depth[film.depth > 0]
    if stop.is_set or not len(depths):
        yield Update(1, 1, "Learned", result=None)
        return
    depth = float(np.median(depths))
    cell = float(np.clip(depth / _CELLS_TO_THE_DEPTH, _SMALLEST, _LARGEST))
    unit = 1 / max(prepared.view.white_luminance, 1e-20)
    found = {
        "learned_f": learned.FLOATS.filled(np.float32, PER_METRE=1 / cell, UNIT=unit),
        "learned_cdf": np.zeros((_ROWS, len(slots)), np.float32),
        "bright": small.arrays["bright"],
        "bright_share": small.arrays["bright_share"],
    }
    sums = np.zeros((_ROWS, len(slots) + 1), np.int64)
    reached = np.zeros(len(prepared.arrays["inst_i"]), np.int64)
    came = np.zeros((_ROWS, 2 * len(found["bright"]) + 1), np.int64)
    for samples in _STAGES:
        sinks = {"sums": sums, "bright_sums": came, "reached_sums": reached}
        for update in render(small.using({**found, **sinks}), film, samples=samples, **options):
            if update.result is None:
                yield Update(update.done, _STAGES[-1], "Learning where light comes from")
        if stop.is_set:
            yield Update(1, 1, "Learned", result=None)
            return
        found["learned_cdf"] = _chances(sums)
        if samples == _STAGES[0]:
            # Which they are is settled once; how much comes from each is counted from now on.
            found["bright"] = _brightest(prepared, reached, _LARGEST_BRIGHT * depth)
            came, before = np.zeros((_ROWS, 2 * len(found["bright"]) + 1), np.int64), sums[:, -1].copy()
        else:
            found["bright_share"] = _shares(came, sums[:, -1] - before)
    # Whether a direction goes to one of them is asked for each, so those that hardly count are left out.
    share = found["bright_share"]
    counts = share[:, :-1].mean(0) > _LEAST_MEAN * share[:, -1].mean()
    if counts.any():
        kept = share[:, :-1][:, counts]
        found["bright"] = np.ascontiguousarray(found["bright"][counts])
        found["bright_share"] = np.ascontiguousarray(np.concatenate([kept, kept.sum(1, keepdims=True)], axis=1))
    yield Update(1, 1, "Learned", result=Learned(found, slots))


def _chances(sums: np.ndarray) -> np.ndarray:
    """Return (rows, slots) float32 running chances, 0 throughout where too little was seen."""
    weight = np.sqrt(sums[:, :-1].astype(np.float64))
    total = weight.sum(1, keepdims=True)
    known = (sums[:, -1:] >= _LEAST_VISITS) & (total > 0)
    chance = (1 - _LEAST) * weight / np.maximum(total, 1e-300) + _LEAST / weight.shape[1]
    cdf = np.cumsum(np.where(known, chance, 0), axis=1)
    cdf[known[:, 0], -1] = 1.0
    return cdf.astype(np.float32)


def _brightest(prepared: Prepared, reached: np.ndarray, largest: float) -> np.ndarray:
    """Return (n, 4) float32 spheres about the instances that sent back most light, none larger than a radius."""
    rows = []
    for instance in np.argsort(-reached, kind="stable"):
        if len(rows) == bright.MOST or reached[instance] == 0:
            break
        sphere = _sphere(prepared, int(instance))
        if sphere is not None and sphere[3] <= largest:
            rows.append(sphere)
    return np.array(rows or [[0, 0, 0, 0]], np.float32)


def _sphere(prepared: Prepared, instance: int) -> tuple[float, float, float, float] | None:
    """Return middle and radius of a sphere about a placed mesh, None for a lamp's own shape."""
    arrays = prepared.arrays
    which = arrays["inst_i"][instance, inst.MESH]
    if which < 0:
        return None
    starts = arrays["mesh_i"][:, mesh.FIRST_VERTEX]
    end = starts[which + 1] if which + 1 < len(starts) else len(arrays["corners"])
    vertices = arrays["corners"][starts[which] : end, corner.ROW.span("POSITION")].astype(float)
    matrix = arrays["inst_xf"][instance].reshape(3, 4).astype(float)
    placed = vertices @ matrix[:, :3].T + matrix[:, 3]
    middle = (placed.min(0) + placed.max(0)) / 2
    return (*middle, float(np.linalg.norm(placed - middle, axis=1).max()))


def _shares(came: np.ndarray, visits: np.ndarray) -> np.ndarray:
    """Return (rows, n + 1) float32 shares of directions to each bright thing, and of all of them together.

    came: (rows, 2 n + 1) squared finds by thing if its cone were sampled, if the material were, and from elsewhere. A
    thing is left to the material where that finds it with less variance; the others get directions by the root of the
    mean square. Rows that saw little go by what all saw.
    """
    n = came.shape[1] // 2
    seen = visits.astype(np.float64)[:, None]
    common = came.sum(0) / max(seen.sum(), 1)
    mean = (came + _COMMON_VISITS * common) / (seen + _COMMON_VISITS)
    by_cone, own = mean[:, :n], mean[:, n : 2 * n]
    is_better = by_cone < own
    weight = np.where(is_better, np.sqrt(by_cone), 0)
    elsewhere = np.sqrt(mean[:, 2 * n :] + np.where(is_better, 0, own).sum(1, keepdims=True))
    share = weight / np.maximum(weight.sum(1, keepdims=True) + elsewhere, 1e-300)
    share[share < _LEAST_SHARE] = 0
    total = share.sum(1, keepdims=True)
    share *= np.minimum(1.0, _MOST_BRIGHT / np.maximum(total, 1e-300)) * (seen > 0)
    return np.concatenate([share, share.sum(1, keepdims=True)], axis=1).astype(np.float32)

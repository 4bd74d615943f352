"""Samples onto the film: tiles over a pool of threads, in passes, until a stopping rule says enough."""

import os
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor, wait
from contextlib import closing
from dataclasses import dataclass, replace

import numpy as np

from nocturne.engine.entries import KERNELS
from nocturne.engine.layout import scratch
from nocturne.engine.prepare import Prepared
from nocturne.engine.types import pack, scratch_row
from nocturne.film.film import Film
from nocturne.film.layout import ARRAYS
from nocturne.film.memory import forecast
from nocturne.film.noise import picture_noise, tile_noise
from nocturne.film.sight import Sight
from nocturne.jobs import Update, give_way

TILE = 32
_FIRST_PIXELS = 25_000  # of the first coarse picture, at most
_LARGEST_PASS = 16
# Samples between two looks at Python, a second or more. At a look for each tile, threads of low priority were put
# aside by the system while they held the interpreter, and the interface waited for them: up to 40 ms.
_SAMPLES_AT_ONCE = 200_000


class Stop:
    """A flag that kernels poll between pixels; setting it ends a render within milliseconds."""

    def __init__(self) -> None:
        # The caller's wish, and the render's own: it may want its threads back without having been stopped.
        self.flags = np.zeros(2, np.int32)

    def set(self) -> None:
        """Ask the render to end; what is on the film stays."""
        self.flags[0] = 1

    @property
    def is_set(self) -> bool:
        """Return True after `set`."""
        return bool(self.flags[0])


@dataclass(frozen=True, slots=True)
class Progress:
    """Where a render stands; `ended` says at the end why: "samples", "noise", "time" or "stopped".

    held_back: the share of the light that the clamp took, of the samples since this render began.
    """

    samples: float
    noise: float
    seconds: float
    left_s: float | None
    step: int
    rays: int
    ended: str = ""
    held_back: float = 0.0


def coarse_steps(width: int, height: int) -> tuple[int, ...]:
    """Return which pixels come first: every so many of rows and columns, for each coarse picture."""
    steps = [2, 4]
    while width * height > _FIRST_PIXELS * steps[-1] ** 2:
        steps.append(2 * steps[-1])
    return tuple(reversed(steps))


def processors() -> int:
    """Return how many threads a render uses by default."""
    return len(os.sched_getaffinity(0))


def blank_film(prepared: Prepared) -> Film:
    """Return an empty film that fits a prepared document.

    Raises
    ------
    OutOfMemory
        If there is not enough memory to render and to develop it.
    """
    forecast(prepared.width, prepared.height, len(prepared.groups)).check()
    film = Film.blank(prepared.width, prepared.height, prepared.groups)
    film.objects, film.materials = prepared.objects, prepared.materials
    return film


def pass_targets(limit: int) -> Iterator[int]:
    """Yield the samples per pixel after each pass: small steps at first, then sixteen at a time."""
    target = 1
    while target < limit:
        yield target
        target += min(max(1, target // 2), _LARGEST_PASS)
    yield limit


def render(
    prepared: Prepared,
    film: Film,
    *,
    seed: int = 0,
    threads: int = 0,
    courtesy: int = 0,
    stop: Stop | None = None,
    coarse: bool = False,
    sight: Sight | None = None,
    samples: int | None = None,
    noise: float | None = None,
    minutes: float | None = None,
    region: tuple[int, int, int, int] | None = None,
) -> Iterator[Update]:
    """Bring a film up to the quality level's stopping rules, going on from the samples it has.

    Parameters
    ----------
    prepared : Prepared
    film : Film
        Written in place; its pixel counts say where to go on.
    seed : int
        Together with pixel and sample number decides every random number.
    threads : int
        0: one for each processor. The picture does not depend on it.
    courtesy : int
        How far the threads give way to others (see `jobs.give_way`): a window must stay quick beside them.
    stop : Stop, optional
        Ends the render early.
    coarse : bool
        Start with every fourth, then every second pixel, for a picture at once; of large pictures with fewer.
    sight : Sight, optional
        Filled before samples are taken: beside coarse pictures at first of half the rows and columns, then of all.
    samples, noise, minutes : optional
        Override the quality level's stopping rules; a noise or time of 0 means never.
    region : (x0, y0, x1, y1), optional
        Only these pixels.

    Yields
    ------
    Update
        `preview` is a `Progress`; the last update's `result` is the film.
    """
    threads = threads or processors()
    with ThreadPoolExecutor(threads, "nocturne-tile", initializer=give_way, initargs=(courtesy,)) as pool:
        job = _Job(prepared, film, seed, (threads, pool), stop or Stop(), region)
        yield from _passes(job, coarse, sight, samples, noise, minutes)


def _passes(
    job: "_Job",
    coarse: bool,
    sight: Sight | None,
    samples: int | None,
    noise: float | None,
    minutes: float | None,
) -> Iterator[Update]:
    prepared, film, quality = job.prepared, job.film, job.prepared.quality
    limit = quality.samples if samples is None else samples
    noise = quality.noise if noise is None else noise
    seconds_limit = 60 * (quality.minutes if minutes is None else minutes)
    white = prepared.view.white_luminance
    before, started = film.seconds, time.monotonic()
    level, left = float("inf"), None

    def progress(step: int) -> Progress:
        film.seconds = before + time.monotonic() - started
        return Progress(film.mean_samples, level, film.seconds, left, step, job.rays(), held_back=job.held_back())

    if coarse and not film.samples.any():
        for step in job.coarse_passes(sight):
            yield Update(0, limit, "coarse", progress(step))
    if not job.least_samples():
        job.look(sight, 1)
    active, is_late = job.tiles, False
    reached = job.least_samples()
    for target in pass_targets(limit):
        if job.stop.is_set or not active:
            break
        if target < min(reached, limit):
            continue  # every tile went on from there before
        with closing(job.run_pass(target, 1, active)) as steps:
            for _ in steps:
                now = progress(1)
                is_late = bool(seconds_limit) and now.seconds >= seconds_limit
                if is_late:
                    break
                left = time_left(now, limit, noise, seconds_limit)
                yield Update(now.samples, limit, "render", now)
        if job.stop.is_set or is_late:
            break
        tiles = tile_noise(film, white, TILE)
        finite = tiles[np.isfinite(tiles)]
        level = picture_noise(finite) if len(finite) else float("inf")
        if noise and target >= quality.least_samples:
            active = [t for t in job.tiles if _goes_on(t, tiles, film, noise, target)]
        now = progress(1)
        left = time_left(now, limit, noise, seconds_limit)
        yield Update(now.samples, limit, "render", now)
    ended = "stopped" if job.stop.is_set else "time" if is_late else "noise" if not active else "samples"
    yield Update(limit, limit, "done", replace(progress(1), ended=ended), film)


def _goes_on(tile: tuple, tiles: np.ndarray, film: Film, noise: float, target: int) -> bool:
    x0, y0, x1, y1 = tile
    # A tile that is further already (a resumed render) went on at this point before, so it does now.
    if film.samples[y0:y1, x0:x1].max() > target:
        return True
    return bool(tiles[y0 // TILE, x0 // TILE] > noise)


def time_left(now: Progress, limit: int, noise: float, seconds_limit: float) -> float | None:
    """Return how many seconds a render is from the first of its ends, as it goes; None if nothing is known yet.

    limit: samples. noise, seconds_limit: 0 for never.
    """
    if now.samples < 0.5 or now.seconds <= 0:
        return None
    rate = now.samples / now.seconds
    guesses = [(limit - now.samples) / rate]
    if noise and np.isfinite(now.noise):
        guesses.append(now.samples * max((now.noise / noise) ** 2 - 1, 0) / rate)
    if seconds_limit:
        guesses.append(seconds_limit - now.seconds)
    return max(min(guesses), 0.0)


class _Job:
    """The tiles of one render, and the threads that take them."""

    def __init__(
        self, prepared: Prepared, film: Film, seed: int, pool: tuple[int, ThreadPoolExecutor], stop: Stop, region
    ) -> None:
        self.prepared, self.film, self.stop, self.seed = prepared, film, stop, seed
        self.threads, self.pool = pool
        self.film_table = pack(ARRAYS, film.arrays)
        width, height = film.size
        x0, y0, x1, y1 = region or (0, 0, width, height)
        self.tiles = [
            (max(x, x0), max(y, y0), min(x + TILE, x1), min(y + TILE, y1))
            for y in range(y0 // TILE * TILE, y1, TILE)
            for x in range(x0 // TILE * TILE, x1, TILE)
        ]
        # From the middle outwards: that is where people look first.
        cx, cy = (x0 + x1) / 2, (y0 + y1) / 2
        self.tiles.sort(key=lambda t: ((t[0] + t[2]) / 2 - cx) ** 2 + ((t[1] + t[3]) / 2 - cy) ** 2)
        self._rays = np.zeros(self.threads, np.int64)
        self._light = np.zeros((self.threads, 2))  # found, and held back by the clamp
        self._rows = [scratch_row(len(film.group_names)) for _ in range(self.threads)]
        self._started = self._yielded = time.monotonic()

    def rays(self) -> int:
        return int(self._rays.sum())

    def held_back(self) -> float:
        """Return the share of all light that the clamp took."""
        found, taken = self._light.sum(0)
        return float(taken / (found + taken)) if found + taken > 0 else 0.0

    def coarse_passes(self, sight: Sight | None) -> Iterator[int]:
        """Run the coarse passes, yielding the step of each that came to its end."""
        for step in coarse_steps(*self.film.size):
            if sight is None:
                self.look(None, step)
            for _ in self.run_pass(1, step, self.tiles):
                pass
            if sight is not None:
                self.look(sight, step // 2)
            if self.stop.is_set:
                return
            yield step

    def least_samples(self) -> int:
        """Return how many samples each pixel that is to be rendered has at least."""
        return min((int(self.film.samples[y0:y1, x0:x1].min()) for x0, y0, x1, y1 in self.tiles), default=0)

    def look(self, sight: Sight | None, step: int) -> None:
        """Take what every `step`th pixel's middle sees, unless it is there; without a sight only for the film."""
        if sight is not None and 0 < sight.step <= step:
            return
        width, before = (0, 0) if sight is None else (self.film.size[0], sight.step)
        table, cursor = np.array(self.tiles, np.int32).reshape(-1, 4), np.zeros(1, np.int64)

        def take(thread: int) -> None:
            seen = sight or Sight.blank(1, 1)
            of_all = (a.ctypes.data for a in (seen.seen, seen.ids, self.stop.flags, table, cursor))
            own = (a.ctypes.data for a in (self.prepared.table, self.film_table, self._rows[thread]))
            KERNELS["look_at_tiles"](*own, *of_all, len(table), width, step, before)

        with self.film.gate.writing():
            for done in [self.pool.submit(take, k) for k in range(self.threads)]:
                done.result()
        if sight is not None and not self.stop.is_set:
            sight.step = step

    def _take(self, thread: int, tiles: np.ndarray, cursor: np.ndarray, target: int, step: int) -> None:
        row = self._rows[thread]
        counters = row.view(np.uint32)[scratch.ROW.span("COUNTERS")]
        light = row[scratch.FOUND : scratch.HELD_BACK + 1]
        while cursor[0] < len(tiles) and not self.stop.flags.any():
            counters[:], light[:] = 0, 0
            KERNELS["render_tiles"](
                self.prepared.table.ctypes.data,
                self.film_table.ctypes.data,
                row.ctypes.data,
                self.stop.flags.ctypes.data,
                tiles.ctypes.data,
                cursor.ctypes.data,
                len(tiles),
                _SAMPLES_AT_ONCE,
                target,
                step,
                self.seed,
                self.film.first,
            )
            self._rays[thread] += int(counters.sum())
            self._light[thread] += light

    def run_pass(self, target: int, step: int, tiles: list) -> Iterator[None]:
        """Run tiles on all threads, yielding every tenth of a second; on leaving, nothing runs any more."""
        table, is_done = np.array(tiles, np.int32).reshape(-1, 4), False
        while not is_done:
            # Once more from the first tile if the film had to stand still: what is done is passed over.
            with self.film.gate.writing():
                is_done = yield from self._run_until_wanted(target, step, table)

    def _run_until_wanted(self, target: int, step: int, table: np.ndarray) -> Iterator[None]:
        """Run tiles until all are done (True) or somebody wants the film to stand still (False)."""
        cursor = np.zeros(1, np.int64)
        running = {self.pool.submit(self._take, k, table, cursor, target, step) for k in range(self.threads)}
        try:
            while running:
                done, running = wait(running, timeout=0.1)
                for future in done:
                    future.result()
                if running and self.film.gate.is_wanted and not self.stop.is_set:
                    return False
                now = time.monotonic()
                # Often at first, when every sample shows; seldom later.
                if now - self._yielded > min(max((now - self._started) / 20, 0.1), 0.5):
                    self._yielded = now
                    yield
            return True
        finally:
            if running:
                # Left early: end what still runs before the film is handed on.
                self.stop.flags[1] = 1
                wait(running)
                self.stop.flags[1] = 0

"""A request rendered to its end."""

import time
from collections.abc import Iterator
from dataclasses import replace

from nocturne.engine.learning import learn
from nocturne.engine.prepare import Prepared, Preparer
from nocturne.engine.render import Stop, blank_film, render
from nocturne.errors import NocturneError, RenderError
from nocturne.film.film import Film
from nocturne.finish.denoise import denoise_groups
from nocturne.jobs import FAULTS, Update
from nocturne.rendering.keep import Keep, Keeper
from nocturne.rendering.request import RenderRequest, Result

_PATIENCE_S = 2.0  # for samples of a film that is rendered elsewhere


def blank(request: RenderRequest, prepared: Prepared) -> Film:
    """Return a film without a sample for a request.

    Raises
    ------
    OutOfMemory
        If there is not enough memory to render and to develop it.
    """
    film = blank_film(prepared)
    film.first = request.first
    return film


def render_request(
    request: RenderRequest,
    *,
    film: Film | None = None,
    prepared: Prepared | None = None,
    keep: Keep | None = None,
    stop: Stop | None = None,
    threads: int = 0,
    courtesy: int = 0,
) -> Iterator[Update]:
    """Render what is requested, and denoise it unless it was stopped.

    Parameters
    ----------
    request : RenderRequest
    film : Film, optional
        One of the same key, to go on from; it is written in place.
    prepared : Prepared, optional
        What the request's document was prepared to, for who has it already.
    keep : Keep, optional
        Where samples are kept meanwhile, and at the end.
    stop, threads, courtesy
        As in `render`; `stop` ends denoising, too.

    Yields
    ------
    Update
        Those of learning where light comes from, of `render`, and of denoising; only `render`'s have a `preview`, and
        the last one's `result` is a `Result`.

    Raises
    ------
    RenderError
        If it cannot be rendered, or there is not enough memory.
    SceneError
        If the document contradicts itself.
    """
    stop = stop or Stop()
    if prepared is None:
        prepared = Preparer().prepare(request.document, request.assets, width=request.width, height=request.height)
    if film is None:
        film = blank(request, prepared)
    # Whichever part of the picture this is, and however far another one has come: all of them learn the same.
    for update in learn(prepared, seed=request.seed, threads=threads, courtesy=courtesy, stop=stop):
        yield replace(update, result=None)
    if update.result is not None:
        prepared = update.result.used_by(prepared)
    with Keeper(film, keep, request.key) as keeper:
        for update in render(
            prepared,
            film,
            seed=request.seed,
            threads=threads,
            courtesy=courtesy,
            stop=stop,
            samples=request.samples,
            noise=request.noise,
            minutes=request.minutes,
            region=request.region,
        ):
            if update.result is None:
                yield update
        now = update.preview
        keeper.ended = now.ended
    result = Result(film, now.ended, now.noise, problem=keeper.problem)
    if now.ended == "stopped" or request.denoise == "off":
        yield replace(update, result=result)
        return
    yield replace(update, result=None)
    yield from denoise_result(result, request.denoise, stop)


def denoise_result(result: Result, how: str, stop: Stop) -> Iterator[Update]:
    """Denoise a result's light groups; if that fails or is stopped, the last update's `result` has none and says why.

    how: "fast" or "careful".
    """
    update = None
    try:
        for update in denoise_groups(result.film, quality=how):
            if stop.is_set:
                break
            if update.result is None:
                yield update
    except (NocturneError, *FAULTS) as error:
        problem = f"The picture stays as it was rendered: {error}"
        yield Update(1, 1, "Not denoised", result=replace(result, problem=result.problem or problem))
        return
    if update.result is None:
        yield Update(1, 1, "Not denoised", result=result)
    else:
        yield replace(update, result=replace(result, clean=update.result))


def settled(result: Result) -> Iterator[Update]:
    """Bring a result of a film that goes on being rendered to one moment; the last update's `result` is that.

    Its light groups are denoised apart if its picture was shown denoised and they are not there yet; such a picture may
    be shown before the first whole sample, which is waited for.

    Raises
    ------
    RenderError
        If no samples come any more before every pixel has one.
    """
    if result.is_denoised and result.clean is None:
        yield from _first_whole_sample(result.film)
    yield Update(0, 1, "Holding the picture still")
    result = result.copy()
    if not result.is_denoised or result.clean is not None:
        yield Update(1, 1, "Held still", result=result)
    else:
        yield from denoise_result(result, "fast", Stop())


def _first_whole_sample(film: Film) -> Iterator[Update]:
    before, since = -1, time.monotonic()
    while not film.samples.all():
        now = int(film.samples.sum())
        if now != before:
            before, since = now, time.monotonic()
        elif time.monotonic() - since > _PATIENCE_S:
            hint = "Keep it or put it out once the picture has a whole sample."
            raise RenderError("The picture was changed or stopped before each of its pixels had a sample.", hint=hint)
        yield Update(film.mean_samples, 1, "Waiting for the first whole sample")
        time.sleep(0.05)

"""A small picture of what is prepared, for a list: few samples, denoised, developed."""

import numpy as np

from nocturne.engine.prepare import Prepared
from nocturne.engine.render import Stop, blank_film, render
from nocturne.finish import kernels
from nocturne.finish.develop import Light, develop
from nocturne.jobs import run
from nocturne.rendering.render import denoise_result
from nocturne.rendering.request import Result
from nocturne.scene.finish import Finish


def small_picture(
    prepared: Prepared, *, samples: int, stop: Stop | None = None, threads: int = 1, courtesy: int = 0
) -> np.ndarray | None:
    """Return (h, w, 4) uint8 RGBX as its view is exposed and its desk mixes it, without the finish.

    None if `stop` was set before it was done. threads, courtesy: as in `render`.
    """
    stop = stop or Stop()
    film = blank_film(prepared)
    run(render(prepared, film, samples=samples, noise=0.0, stop=stop, threads=threads, courtesy=courtesy))
    if stop.is_set:
        return None
    done = run(denoise_result(Result(film), "fast", stop))
    if stop.is_set:
        return None
    document = prepared.document
    shown = develop(Light.of(film, done.clean), view=prepared.view, desk=document.desk, finish=Finish())
    return kernels.to_bytes(shown)

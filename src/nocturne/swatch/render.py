"""Rendering a swatch."""

import numpy as np

from nocturne.engine.render import Stop
from nocturne.finish import kernels
from nocturne.finish.develop import Light, develop
from nocturne.jobs import run
from nocturne.rendering.render import render_request
from nocturne.rendering.request import RenderRequest
from nocturne.scene.materials import Material
from nocturne.swatch.stand import document_of


def swatch(
    material: Material,
    images: dict,
    *,
    below: tuple[Material, ...] = (),
    stand: str,
    size_m: float,
    pixels: int = 80,
    samples: int = 20,
    stop: Stop | None = None,
    threads: int = 1,
    courtesy: int = 0,
) -> np.ndarray | None:
    """Return (h, w, 4) uint8 RGBX of a material on a stand, denoised; None if `stop` was set before it was done.

    images: loaded pictures that the material refers to, by (path, space). below: what it lies over.
    size_m: of the stand, metres. courtesy: as in `render`.
    """
    stop = stop or Stop()
    document, assets = document_of(
        material, images, below=below, stand=stand, size_m=size_m, pixels=pixels, samples=samples
    )
    request = RenderRequest(document, assets, pixels, pixels, denoise="fast")
    done = run(render_request(request, stop=stop, threads=threads, courtesy=courtesy))
    if done.ended == "stopped":
        return None
    shown = develop(Light.of(done.film, done.clean), view=document.view, desk=(), finish=document.finish)
    return kernels.to_bytes(shown)

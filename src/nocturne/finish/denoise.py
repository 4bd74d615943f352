"""Removing noise with Open Image Denoise, guided by albedo and normal; the noisy film is kept."""

from collections.abc import Iterator

import numpy as np
import pyoidn

from nocturne.errors import RenderError
from nocturne.film.film import Film
from nocturne.jobs import Update

_QUALITY = {"fast": "fast", "careful": "high"}


def denoise_picture(colour: np.ndarray, albedo: np.ndarray, normal: np.ndarray, *, quality: str) -> np.ndarray:
    """Return (h, w, 3) denoised linear light; `quality` is "fast" or "careful"."""
    try:
        return pyoidn.denoise(
            np.ascontiguousarray(colour, np.float32),
            np.ascontiguousarray(np.clip(albedo, 0, 1), np.float32),
            np.ascontiguousarray(np.clip(normal, -1, 1), np.float32),
            hdr=True,
            quality=_QUALITY[quality],
        )
    except RuntimeError as error:
        raise RenderError("The picture could not be denoised.", hint=str(error)) from error


def denoise_groups(film: Film, *, quality: str) -> Iterator[Update]:
    """Denoise each light group apart, so that they still add up and the desk stays free.

    The last update's `result` is (g, h, w, 3) float32 mean radiance.
    """
    n = len(film.group_names)
    albedo, normal = film.albedo, film.clean_normal
    out = np.zeros_like(film.groups)
    for i, name in enumerate(film.group_names):
        yield Update(i, n, f"Denoising “{name}”")
        noisy = film.group(i)
        if noisy.any():
            out[i] = denoise_picture(noisy, albedo, normal, quality=quality)
    yield Update(n, n, "Denoised", result=out)

"""What a portal gains: small pictures of the view with it and without it, compared by noise and by rays."""

from collections.abc import Iterator

import numpy as np

from nocturne.engine.learning import learn
from nocturne.engine.prepare import Preparer
from nocturne.engine.render import blank_film, render
from nocturne.film.film import Film
from nocturne.jobs import Update
from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document

_WIDTH = 160  # pixels of a small picture
_SAMPLES = 24
_DARK = 0.05  # of the mean: a darker pixel counts as this bright
_TRIMMED = 0.01  # of the pixels, those with most noise: chance alone decides whether what they see is found


def portal_gain(
    preparer: Preparer, document: Document, assets: Assets, id: str, *, courtesy: int = 0
) -> Iterator[Update]:
    """Measure a portal in the document's view; the last update's `result` is the gain.

    A gain of 2 means that the same noise takes half of the rays. It is no matter whether the portal is on.
    """
    view = document.view
    size = {"width": _WIDTH, "height": max(round(_WIDTH * view.height / view.width), 2)}
    bare = edit.alter(document, "qualities", document.active_quality, clamp=0.0)
    measured = []
    for k, on in enumerate((False, True)):
        prepared = preparer.prepare(edit.alter(bare, "lights", id, on=on), assets, **size)
        what = None
        for update in learn(prepared, courtesy=courtesy):
            what = update.result
            yield Update(k, 2, "Measuring the portal")
        ready = what.used_by(prepared) if what is not None else prepared
        film, rays = blank_film(ready), 0
        for step in render(ready, film, samples=_SAMPLES, noise=0.0, minutes=0.0, courtesy=courtesy):
            rays = step.preview.rays
            yield Update(k + step.done / max(step.total, 1), 2, "Measuring the portal")
        measured.append((film, rays))
    mean = np.mean([film.moments[0] for film, _ in measured], axis=0)
    without, with_it = (_noise(film, mean) * rays for film, rays in measured)
    yield Update(1, 1, "Measured", result=float(without / with_it) if with_it > 0 else 1.0)


def _noise(film: Film, mean: np.ndarray) -> float:
    """Return the variance of a sample relative to a brightness, over all but the noisiest pixels."""
    own, squares = film.moments
    weight = np.maximum(mean, _DARK * max(float(mean.mean()), 1e-30)) ** 2
    noise = np.sort((np.maximum(squares - own**2, 0) / weight).ravel())
    return float(noise[: len(noise) - int(_TRIMMED * len(noise))].mean())

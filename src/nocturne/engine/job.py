"""A render as a job: a request that can be sent elsewhere, and what comes of it."""

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from nocturne.engine.prepare import Preparer
from nocturne.engine.render import Stop, blank_film, render
from nocturne.film.film import Film
from nocturne.jobs import Update
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document, film_digest


@dataclass(frozen=True, eq=False, repr=False)
class RenderRequest:
    """What is to be rendered, and how far; it can be pickled.

    document, assets: look-up tables decide nothing here and are left out. width, height: pixels. seed: decides every
    random number. first: number of the first sample, for one of several ranges. region: (x0, y0, x1, y1) in pixels,
    None for all. samples, noise, minutes: stopping rules in place of the quality level's, None for those.
    """

    document: Document
    assets: Assets
    width: int
    height: int
    seed: int = 0
    first: int = 0
    region: tuple[int, int, int, int] | None = None
    samples: int | None = None
    noise: float | None = None
    minutes: float | None = None

    def __post_init__(self) -> None:
        """Leave out what decides nothing."""
        object.__setattr__(self, "assets", replace(self.assets, luts={}, problems=()))

    def key(self) -> str:
        """Return a hash of what decides every sample: films of requests with one key are of one picture.

        It does not say how far, nor which part of it.
        """
        digest = hashlib.sha256(film_digest(self.document).encode())
        digest.update(repr((self.width, self.height, self.seed)).encode())
        for name, mesh in sorted(self.assets.meshes.items()):
            digest.update(f"{name} {mesh.digest}".encode())
        for name, image in sorted(self.assets.images.items()):
            digest.update(repr((name, image.shape)).encode())
            digest.update(np.ascontiguousarray(image))
        return digest.hexdigest()[:32]


@dataclass(frozen=True, eq=False, repr=False)
class Result:
    """A film, and why it ended: "samples", "noise", "time" or "stopped"."""

    film: Film
    ended: str


def render_request(
    request: RenderRequest,
    *,
    film: Film | None = None,
    preparer: Preparer | None = None,
    stop: Stop | None = None,
    threads: int = 0,
    courtesy: int = 0,
    coarse: bool = False,
) -> Iterator[Update]:
    """Render what is requested; the last update's `result` is a `Result`, the others are those of `render`.

    film: one of the same key, to go on from; it is written in place. preparer: reused, so that what did not change is
    not prepared again. The rest is as in `render`.

    Raises
    ------
    RenderError
        If it cannot be rendered, or there is not enough memory.
    SceneError
        If the document contradicts itself.
    """
    prepared = (preparer or Preparer()).prepare(
        request.document, request.assets, width=request.width, height=request.height
    )
    if film is None:
        film = blank_film(prepared)
        film.first = request.first
    for update in render(
        prepared,
        film,
        seed=request.seed,
        threads=threads,
        courtesy=courtesy,
        stop=stop,
        coarse=coarse,
        samples=request.samples,
        noise=request.noise,
        minutes=request.minutes,
        region=request.region,
    ):
        if update.result is None:
            yield update
    yield replace(update, result=Result(film, update.preview.ended))

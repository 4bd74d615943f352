"""What a render is asked for, so that it can be sent elsewhere, and what comes of it."""

import hashlib
from dataclasses import dataclass, replace
from functools import cache

import numpy as np

from nocturne.engine.cache import sources_digest
from nocturne.film.film import Film
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document, film_digest

_sources = cache(sources_digest)


@dataclass(frozen=True, eq=False, repr=False)
class RenderRequest:
    """What is to be rendered, and how far; it can be pickled.

    document, assets: look-up tables decide nothing here and are left out. width, height: pixels. seed: decides every
    random number. first: number of the first sample, for one of several ranges. region: (x0, y0, x1, y1) in pixels,
    None for all. samples, noise, minutes: stopping rules in place of the quality level's, None for those. denoise: how
    light groups are denoised once it has come to its end: "off", "fast" or "careful".
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
    denoise: str = "off"

    def __post_init__(self) -> None:
        """Leave out what decides nothing."""
        object.__setattr__(self, "assets", replace(self.assets, luts={}, problems=()))

    @classmethod
    def final(cls, document: Document, assets: Assets) -> "RenderRequest":
        """Return the request for a document's view at its own size, denoised as its quality level says."""
        view = document.view
        return cls(document, assets, view.width, view.height, denoise=document.quality.denoise)

    def key(self) -> str:
        """Return a hash of what decides every sample: films of requests with one key are of one picture.

        It does not say how far, nor which part of it.
        """
        digest = hashlib.sha256(film_digest(self.document).encode())
        digest.update(repr((self.width, self.height, self.seed)).encode())
        # The clamp is of the white that was exposed for; and an older version's samples are not gone on with.
        digest.update(repr(self.document.quality.clamp * self.document.view.white_luminance).encode())
        digest.update(_sources())
        for name, mesh in sorted(self.assets.meshes.items()):
            digest.update(f"{name} {mesh.digest}".encode())
        for name, image in sorted(self.assets.images.items()):
            digest.update(repr((name, image.shape)).encode())
            digest.update(np.ascontiguousarray(image))
        return digest.hexdigest()[:32]


@dataclass(frozen=True, eq=False, repr=False)
class Result:
    """A film, and why it ended.

    ended: "samples", "noise", "time" or "stopped". noise: of the picture, relative, inf if it is not known. clean:
    (g, h, w, 3) denoised mean radiance of the light groups, if it was asked for. problem: what went wrong beside the
    picture, in words. is_denoised: its picture was shown denoised; if `clean` is not there, it can be made (`settled`).
    """

    film: Film
    ended: str = "stopped"
    noise: float = float("inf")
    clean: np.ndarray | None = None
    problem: str = ""
    is_denoised: bool = False

    def copy(self) -> "Result":
        """Return a result whose film nobody goes on writing to, all of the same moment."""
        return replace(self, film=self.film.copy())

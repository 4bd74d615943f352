"""What light a print is developed from: a film's as it is, denoised, or an early picture of a coarse film."""

from dataclasses import dataclass

import numpy as np

from nocturne.film.film import Film
from nocturne.film.sight import Sight
from nocturne.scene.desk import gains
from nocturne.scene.document import Document
from nocturne.ui.darkroom.clean import Clean
from nocturne.ui.frame import Frame


@dataclass(frozen=True, eq=False, repr=False)
class Lit:
    """Light of a whole picture: (h, w, 3) radiance, whether it is denoised, and what tells it from other light.

    It may be smaller than the film, by a whole number. is_early: it is of a coarse film.
    """

    radiance: np.ndarray
    is_clean: bool
    key: tuple
    is_early: bool = False


class Lights:
    """Mixes a film's light as the desk stands; keeps what the next mix can go on from."""

    def __init__(self) -> None:
        self._mixer: tuple | None = None
        self._early = None  # made after the engine is warm: on the very first start its import would compile
        self._coarse: tuple[Film, int, Sight] | None = None  # the newest coarse picture: its step, what is seen
        self._lit: Lit | None = None
        self._whole: tuple | None = None  # the newest whole clean picture, until it is settled
        self._settled: Clean | None = None

    def raw(self, film: Film, document: Document) -> Lit:
        """Return a film's light as its samples are."""
        from nocturne.finish.develop import Light, Mixer

        return Lit(Mixer(Light.of(film)).mixed(document.desk), False, (film, "raw"))

    def clean(self, frame: Frame, document: Document, clean: Clean) -> Lit | None:
        """Return denoised light; None if it is not known as the desk stands."""
        from nocturne.finish.develop import Light, Mixer

        wanted = gains(frame.film.group_names, document.desk)
        if clean.is_mixed_with(wanted):
            if clean is not self._settled:
                self._whole = (frame, wanted, clean)
            return Lit(clean.mix, True, (frame.film, id(clean.mix)))
        if clean.groups is None:
            return None
        key = (frame.film, id(clean.groups))
        if self._mixer is None or self._mixer[0] != key:
            self._mixer = (key, Mixer(Light.of(frame.film, clean.groups)))
        return Lit(self._mixer[1].mixed(document.desk), True, key)

    def early(self, frame: Frame, document: Document) -> Lit | None:
        """Return light of a film whose first whole sample is still under way; None if nothing of it is there."""
        film, step = frame.film, frame.progress.step
        if step > 1 and frame.sight is not None:
            self._coarse = (film, step, frame.sight)
        if self._coarse is None or self._coarse[0] is not film:
            return None
        _, step, sight = self._coarse
        wanted = gains(film.group_names, document.desk)
        key = (film, step, sight.step, wanted.tobytes())
        if self._lit is None or self._lit.key != key:
            self._lit = Lit(self._made_early(frame, step, sight, wanted), True, key, True)
        return self._lit

    def _made_early(self, frame: Frame, step: int, sight: Sight, wanted: np.ndarray) -> np.ndarray:
        from nocturne.finish.early import Early

        if self._early is None:
            self._early = Early()

        self.settle()
        return self._early.picture(frame.film, sight, _subject(frame, wanted), step)

    def settle(self) -> None:
        """Take in what the next early picture goes on from: while nobody waits for a picture."""
        if self._early is None:
            return
        if self._whole is not None:
            (before, mixed, clean), self._whole = self._whole, None
            self._settled = clean
            if before.sight is not None and before.prepared is not None:
                self._early.remember(clean.mix, before.film, before.sight, _subject(before, mixed), clean.groups)
        self._early.settle()

    def close(self) -> None:
        """Let go of what early pictures are made with."""
        if self._early is not None:
            self._early.close()


def _subject(frame: Frame, mixed: np.ndarray):
    from nocturne.finish.early import Subject

    return Subject(frame.document, frame.prepared.eye, frame.prepared.blur, mixed)

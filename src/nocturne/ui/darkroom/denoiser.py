"""Noise taken out of the newest film at growing counts of samples: of the mix at once, of light groups when wanted."""

import threading
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from nocturne.errors import Cancelled, NocturneError
from nocturne.film.film import Film
from nocturne.finish.denoise import Remover, denoise_groups
from nocturne.jobs import FAULTS
from nocturne.scene.desk import gains
from nocturne.scene.document import Document, render_key
from nocturne.ui.darkroom.clean import Clean
from nocturne.ui.frame import Frame
from nocturne.ui.worker import Worker

_OFTEN = 1.9  # times as many samples before the mix is denoised again
_SMALLER = 2  # pixels of the film to one of a group's picture, while samples are still taken
# Of each new picture of a film that goes on; the rest is the one before, which takes a third of the flicker.
_NEW = np.float32(0.6)
_NO_TASK, _MIX, _PARTS, _WHOLE = range(4)


class Denoiser:
    """Keeps the denoised light of one film.

    changed: the condition that guards it, which is held while its methods are called. on_clean: told in its thread when
    there is new light.
    """

    def __init__(
        self, changed: threading.Condition, on_clean: Callable[[], None], fail: Callable[[NocturneError], None]
    ) -> None:
        self._frame: Frame | None = None
        self._document: Document | None = None
        self.is_wanted = True
        self._are_groups_wanted = self._is_outdated = False
        self._clean: Clean | None = None
        self._given_up: Film | None = None  # the denoiser failed on it, and would again
        self._on_clean = on_clean
        self._remover = Remover()
        self.worker = Worker(
            "denoise",
            self._has_work,
            lambda: (self._next(), self._frame, self._gains(), self._clean),
            self._do,
            fail=fail,
            trouble=lambda _: "The picture could not be denoised",
            courtesy=6,
            changed=changed,
        )

    def hand_in(self, frame: Frame, clean: np.ndarray | None) -> None:
        """Work on this film from now on; `clean` are the groups of all its samples, if they are there."""
        film = frame.film
        if self._frame is None or self._frame.film is not film:
            self._clean = None
        if clean is not None and (self._clean is None or self._clean.groups is not clean):
            self._clean = Clean(film, int(film.samples.sum()), None, None, clean, True)
        self._frame = frame
        self._compare()

    def set_document(self, document: Document) -> None:
        """Mix as this document's desk stands; a live film of another document is not worth denoising any more."""
        self._document = document
        self._compare()

    def _compare(self) -> None:
        frame, document = self._frame, self._document
        self._is_outdated = (
            frame is not None
            and document is not None
            and frame.kind == "live"
            and frame.document is not document
            and render_key(frame.document) != render_key(document)
        )

    def want(self, on: bool) -> None:
        """Denoise or do not; asked anew, what failed is tried again."""
        self.is_wanted, self._given_up = on, None

    def want_groups(self, on: bool) -> None:
        """Have each light group apart as soon as the mix is there, or only at rest."""
        self._are_groups_wanted = on

    def light(self, film: Film) -> Clean | None:
        """Return a film's newest denoised light, if it is wanted and there is any."""
        clean = self._clean
        return clean if self.is_wanted and clean is not None and clean.film is film else None

    def is_coming(self, frame: Frame) -> bool:
        """Return True if a film that is not denoised yet will be."""
        return self._may_be_denoised(frame) and frame.film is not self._given_up

    def groups(self, film: Film) -> np.ndarray | None:
        """Return a film's denoised groups if they are of all its samples."""
        clean = self._clean
        if clean is not None and clean.film is film and clean.is_whole and clean.samples >= int(film.samples.sum()):
            return clean.groups
        return None

    def _gains(self) -> np.ndarray | None:
        if self._frame is None or self._document is None:
            return None
        return gains(self._frame.film.group_names, self._document.desk)

    def _may_be_denoised(self, frame: Frame) -> bool:
        return self.is_wanted and (frame.kind == "live" or frame.document.quality.denoise != "off")

    def _has_work(self) -> bool:
        return self._next() != _NO_TASK

    def _next(self) -> int:
        """Return what is to be done next."""
        frame = self._frame
        if frame is None or self._document is None or self._is_outdated or not self.is_coming(frame):
            return _NO_TASK
        if frame.progress.samples < 1 or frame.progress.step > 1:
            return _NO_TASK
        clean = self._clean
        if clean is None:
            return _MIX
        now = int(frame.film.samples.sum())
        if now > clean.samples and (frame.is_done or now >= _OFTEN * clean.samples):
            return _MIX
        if clean.is_whole:
            return _NO_TASK
        if frame.is_done:
            return _WHOLE
        is_asked = self._are_groups_wanted or not clean.is_mixed_with(self._gains())
        return _PARTS if is_asked and clean.groups is None else _NO_TASK

    def _do(self, task: tuple[int, Frame, np.ndarray, Clean | None]) -> None:
        what, frame, wanted, before = task
        film = frame.film
        made = None

        def goes_on() -> bool:
            return not self.worker.is_closing and self._frame.film is film and not self._is_outdated

        try:
            if what == _MIX:
                made = self._mixed(frame, wanted, before, goes_on)
            else:
                made = self._parted(film, before, goes_on, is_whole=what == _WHOLE)
        except Cancelled:
            pass  # an edit came in between
        except (NocturneError, *FAULTS):
            self._given_up = film  # else it would be tried again at once, for ever
            raise
        with self.worker.changed:
            if made is None or self._frame.film is not film or self._clean is not before:
                return  # others were handed in meanwhile
            self._clean = made
        self._on_clean()

    def _mixed(self, frame: Frame, wanted: np.ndarray, before: Clean | None, goes_on: Callable[[], bool]) -> Clean:
        film, n = frame.film, int(frame.film.samples.sum())
        noisy = film.beauty(None if (wanted == 1).all() else wanted)
        mix = np.maximum(self._remover.remove(noisy, film.albedo, film.clean_normal, goes_on=goes_on), 0)
        if before is not None and before.is_mixed_with(wanted) and not frame.is_done:
            mix = before.mix + (mix - before.mix) * _NEW
        return Clean(film, n, mix, wanted)

    def _parted(self, film: Film, before: Clean, goes_on: Callable[[], bool], *, is_whole: bool) -> Clean:
        """Return the light with its groups; at the film's own size that takes as long as so many mixes."""
        from nocturne.finish.kernels import means
        from nocturne.finish.shares import parted

        if is_whole:
            k = 1
            for update in denoise_groups(film, quality="fast", remover=self._remover, goes_on=goes_on):
                result = update.result
        else:
            k = _SMALLER
            albedo, normal = means(film.albedo, k), means(film.clean_normal, k)
            result = []
            for i in range(len(film.group_names)):
                noisy = means(film.group(i), k)
                if noisy.any():
                    noisy = self._remover.remove(noisy, albedo, normal, goes_on=goes_on)
                result.append(noisy)
            result = np.stack(result)
        if before.mix is None:
            return replace(before, groups=result, is_whole=True)
        return replace(before, groups=parted(before.mix, result, before.gains, k), is_whole=is_whole)

"""Noise taken out of each light group apart, of the newest film and at growing counts of samples."""

import threading
from collections.abc import Callable

import numpy as np

from nocturne.errors import NocturneError
from nocturne.film.film import Film
from nocturne.finish.denoise import denoise_groups
from nocturne.ui.frame import Frame
from nocturne.ui.worker import Worker


class Denoiser:
    """Keeps the denoised groups of one film.

    changed: the condition that guards it, which is held while its methods are called. on_clean: told in its thread when
    there are new groups.
    """

    def __init__(
        self, changed: threading.Condition, on_clean: Callable[[], None], fail: Callable[[NocturneError], None]
    ) -> None:
        self._frame: Frame | None = None
        self.is_wanted = True
        self._clean: tuple[Film, np.ndarray, int] | None = None  # of how many samples
        self._given_up: Film | None = None  # the denoiser failed on it, and would again
        self._on_clean = on_clean
        self.worker = Worker(
            "denoise",
            self._has_work,
            lambda: self._frame,
            self._do,
            fail=fail,
            trouble=lambda _: "The picture could not be denoised",
            courtesy=6,
            changed=changed,
        )

    def hand_in(self, frame: Frame, clean: np.ndarray | None) -> None:
        """Work on this film from now on; `clean` are the groups of all its samples, if they are there."""
        if self._frame is None or self._frame.film is not frame.film:
            self._clean = None
        if clean is not None:
            self._clean = (frame.film, clean, int(frame.film.samples.sum()))
        self._frame = frame

    def want(self, on: bool) -> None:
        """Denoise or do not; asked anew, what failed is tried again."""
        self.is_wanted, self._given_up = on, None

    def groups(self, film: Film) -> np.ndarray | None:
        """Return a film's newest denoised groups, if they are wanted and there are any."""
        clean = self._clean
        return clean[1] if self.is_wanted and clean is not None and clean[0] is film else None

    def all_groups(self, film: Film) -> np.ndarray | None:
        """Return a film's denoised groups if they are of all its samples."""
        clean = self._clean
        if clean is not None and clean[0] is film and clean[2] >= int(film.samples.sum()):
            return clean[1]
        return None

    def _has_work(self) -> bool:
        frame = self._frame
        if frame is None or not self.is_wanted or frame.film is self._given_up:
            return False
        if frame.progress.samples < 1 or frame.progress.step > 1:
            return False
        if frame.kind != "live" and frame.document.quality.denoise == "off":
            return False
        if self._clean is None or self._clean[0] is not frame.film:
            return frame.progress.samples >= 2 or frame.is_done
        done, now = self._clean[2], int(frame.film.samples.sum())
        return now > done and (frame.is_done or now >= 2.5 * done)

    def _do(self, frame: Frame) -> None:
        film, before = frame.film, int(frame.film.samples.sum())
        result = None
        self._given_up = film  # should it fail, it is not tried again at once, for ever
        for update in denoise_groups(film, quality="fast"):
            if self.worker.is_closing or self._frame.film is not film:
                break
            result = update.result
        with self.worker.changed:
            if self._given_up is film:
                self._given_up = None
            if result is None or self._frame.film is not film:
                return
            if self._clean is not None and self._clean[0] is film and self._clean[2] >= before:
                return  # better ones were handed in meanwhile
            self._clean = (film, result, before)
        self._on_clean()

"""The darkroom: one thread that develops the newest film into the image on screen, and one that removes noise."""

import logging
import threading
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from nocturne.errors import NocturneError
from nocturne.film.film import PASS_NAMES, Film
from nocturne.finish.denoise import denoise_groups
from nocturne.scene.desk import Strip
from nocturne.scene.document import Document
from nocturne.ui.live import Frame

_log = logging.getLogger(__name__)
DATA_PASSES = ("albedo", "normal", "position", "depth", "noise")
SHOWN = ("beauty", *PASS_NAMES, *DATA_PASSES)
_THUMB = (96, 54)


@dataclass(frozen=True, eq=False, repr=False)
class Print:
    """A developed picture."""

    image: QImage
    frame: Frame
    document: Document
    shown: str
    is_denoised: bool


def to_image(pixels: np.ndarray) -> QImage:
    """Return an image that owns a copy of (h, w, 4) RGBX bytes."""
    height, width = pixels.shape[:2]
    return QImage(pixels.data, width, height, 4 * width, QImage.Format.Format_RGBX8888).copy()


def data_picture(film: Film, name: str) -> np.ndarray:
    """Return (h, w, 3) display values of a pass that is data: never through the view transform."""
    if name == "albedo":
        return np.clip(film.albedo, 0, 1)
    if name == "normal":
        return np.where(film.normal.any(-1, keepdims=True), film.normal * 0.5 + 0.5, 0)
    if name == "position":
        low, high = np.percentile(film.position.reshape(-1, 3), (2, 98), axis=0)
        return np.clip((film.position - low) / np.maximum(high - low, 1e-6), 0, 1)
    if name == "depth":
        depth = film.depth
        hit = depth > 0
        if not hit.any():
            return np.zeros((*depth.shape, 3), np.float32)
        low, high = np.percentile(depth[hit], (1, 98))
        near = np.where(hit, 1 - np.clip((depth - low) / max(high - low, 1e-6), 0, 1), 0)
        return np.repeat(near[..., None], 3, axis=2)
    n = np.maximum(film.samples, 1)
    mean = film.variance[..., 0] / n
    spread = np.sqrt(np.maximum(film.variance[..., 1] / n - mean**2, 0) / n) / (mean + 1e-3 * mean.max() + 1e-9)
    return np.repeat(np.clip(spread, 0, 1)[..., None], 3, axis=2)


class Darkroom(QObject):
    """Develops whatever was handed in last; the interface thread only paints the result."""

    developed = Signal(object)
    group_shown = Signal(str, object)  # group, small QImage of its light alone
    failed = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self._changed = threading.Condition()
        self._frame: Frame | None = None
        self._document: Document | None = None
        self._luts: Mapping[str, np.ndarray] = {}
        self._shown = "beauty"
        self._dirty = self._closing = False
        self._wants_clean = True
        self._clean: tuple[Film, np.ndarray, int] | None = None
        self._cleaning = False
        self._mixer: tuple | None = None
        self._thumbs_at = 0
        self._threads = [
            threading.Thread(target=self._guarded, args=(work,), name=name, daemon=True)
            for work, name in ((self._develop_all, "nocturne-darkroom"), (self._clean_all, "nocturne-denoise"))
        ]
        for thread in self._threads:
            thread.start()

    def hand_in(self, frame: Frame) -> None:
        """Develop this film from now on."""
        with self._changed:
            if self._frame is None or self._frame.film is not frame.film:
                self._clean, self._thumbs_at = None, 0
            self._frame, self._dirty = frame, True
            self._changed.notify_all()

    def set_document(self, document: Document, luts: Mapping[str, np.ndarray]) -> None:
        """Develop with this document's exposure, desk and finish, and its look-up tables."""
        with self._changed:
            self._document, self._luts, self._dirty = document, luts, True
            self._changed.notify_all()

    def set_shown(self, name: str) -> None:
        """Show the beauty or a pass."""
        with self._changed:
            self._shown, self._dirty = name, True
            self._changed.notify_all()

    def set_denoise(self, on: bool) -> None:
        """Show the denoised picture where there is one."""
        with self._changed:
            self._wants_clean, self._dirty = on, True
            self._changed.notify_all()

    def clean_groups(self, film: Film) -> np.ndarray | None:
        """Return the denoised groups of a film if they are of all its samples."""
        clean = self._clean
        if clean is not None and clean[0] is film and clean[2] >= int(film.samples.sum()):
            return clean[1]
        return None

    def close(self) -> None:
        """End the threads and wait for them."""
        with self._changed:
            self._closing = True
            self._changed.notify_all()
        for thread in self._threads:
            thread.join(timeout=30)

    # ---- threads ---------------------------------------------------------------------------------------------------

    def _guarded(self, work) -> None:
        while not self._closing:
            try:
                work()
            except NocturneError as error:
                self.failed.emit(error)
            except (ValueError, TypeError, IndexError, KeyError, AttributeError, MemoryError, RuntimeError) as error:
                _log.exception("darkroom")
                self.failed.emit(NocturneError(f"The picture could not be developed ({error})."))

    def _develop_all(self) -> None:
        while True:
            with self._changed:
                while not self._closing and not (self._dirty and self._frame and self._document):
                    self._changed.wait()
                if self._closing:
                    return
                frame, document, shown = self._frame, self._document, self._shown
                clean = self._clean if self._wants_clean and self._clean and self._clean[0] is frame.film else None
                self._dirty = False
            self.developed.emit(self._print(frame, document, shown, clean))
            samples = int(frame.progress.samples)
            if samples >= max(1, 4 * self._thumbs_at) or (
                frame.is_done and clean is not None and self._thumbs_at < 1 << 20
            ):
                self._thumbs_at = (1 << 20) if frame.is_done and clean is not None else max(samples, 1)
                self._show_groups(frame, document, clean)

    def _print(self, frame: Frame, document: Document, shown: str, clean) -> Print:
        # Imported here, after the engine is warm: on the very first start this would compile, and hold up the window.
        from nocturne.finish import kernels
        from nocturne.finish.develop import Light, Mixer, develop, grade

        film, step = frame.film, frame.progress.step
        view, finish = document.view, document.finish
        is_clean = False
        if shown in DATA_PASSES:
            picture = np.ascontiguousarray(data_picture(film, shown), np.float32)
        elif shown in PASS_NAMES:
            i = PASS_NAMES.index(shown)
            light = Light(film.passes[i : i + 1], film.samples, (shown,))
            picture = develop(light, view=view, desk=(), finish=finish, luts=self._luts)
        else:
            is_clean = clean is not None
            # Sums on the film go on growing; only denoised groups stand still and can be mixed step by step.
            key = (film, id(clean[1])) if is_clean else None
            if key is not None and self._mixer is not None and self._mixer[0] == key:
                mixer = self._mixer[1]
            else:
                mixer = Mixer(Light.of(film, clean[1] if is_clean else None))
                self._mixer = (key, mixer) if key is not None else None
            picture = grade(mixer.mixed(document.desk), view=view, finish=finish, luts=self._luts)
        if step > 1:
            picture = kernels.cover_gaps(picture, film.samples, step)
        return Print(to_image(kernels.to_bytes(picture)), frame, document, shown, is_clean)

    def _show_groups(self, frame: Frame, document: Document, clean) -> None:
        from nocturne.finish import kernels
        from nocturne.finish.develop import Light, develop

        film = frame.film
        width, height = film.size
        k = max(1, width // (2 * _THUMB[0]))
        for i, name in enumerate(film.group_names):
            source = clean[1][i] if clean is not None else film.group(i)
            small = np.ascontiguousarray(
                source[: height // k * k, : width // k * k].reshape(height // k, k, width // k, k, 3).mean((1, 3)),
                np.float32,
            )
            light = Light(small[None], np.ones(small.shape[:2], np.int32), (name,))
            picture = develop(light, view=document.view, desk=(Strip(group=name, stops=0.6),), finish=document.finish)
            self.group_shown.emit(name, to_image(kernels.to_bytes(picture)))

    def _clean_all(self) -> None:
        while True:
            with self._changed:
                while not self._closing and not self._should_clean():
                    self._changed.wait()
                if self._closing:
                    return
                frame = self._frame
            film, before = frame.film, int(frame.film.samples.sum())
            ends = frame.is_done and frame.request.final
            quality = frame.request.document.quality.denoise if ends else "fast"
            result = None
            for update in denoise_groups(film, quality=quality):
                if self._closing or self._frame is None or self._frame.film is not film:
                    break
                result = update.result
            if result is not None:
                with self._changed:
                    self._clean, self._dirty = (film, result, before), True
                    self._changed.notify_all()

    def _should_clean(self) -> bool:
        frame = self._frame
        if frame is None or not self._wants_clean or frame.progress.samples < 1 or frame.progress.step > 1:
            return False
        if frame.request.final and frame.request.document.quality.denoise == "off":
            return False
        if self._clean is None or self._clean[0] is not frame.film:
            return frame.progress.samples >= 2 or frame.is_done
        done, now = self._clean[2], int(frame.film.samples.sum())
        return now > done and (frame.is_done or now >= 2.5 * done)

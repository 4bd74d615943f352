"""The darkroom: one thread that develops the newest film into the image on screen, and one that removes noise."""

import logging
import threading
from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QColor, QImage

from nocturne.colour.lookup import LookUpTable
from nocturne.errors import NocturneError
from nocturne.film.film import Film
from nocturne.film.layout import PASS_NAMES
from nocturne.finish.denoise import denoise_groups
from nocturne.jobs import FAULTS, give_way
from nocturne.scene.desk import Strip, gains
from nocturne.scene.document import Document
from nocturne.ui.live import Frame
from nocturne.ui.theme import tokens as t

_log = logging.getLogger(__name__)
DATA_PASSES = ("albedo", "normal", "position", "depth", "noise")
SHOWN = ("beauty", *PASS_NAMES, *DATA_PASSES)
_THUMB = (96, 54)
_WHOLE = 1 << 60  # as a count of samples: a kept picture is never denoised again
_DIFFERENCE_GAIN = 4.0


@dataclass(frozen=True, eq=False, repr=False)
class Sheet:
    """A film with what it is developed with: its document, its denoised groups if they are kept with it, its name.

    luts: the look-up tables that the document names.
    """

    frame: Frame
    document: Document
    clean: np.ndarray | None
    name: str
    luts: Mapping[str, LookUpTable] = field(default_factory=dict)


@dataclass(frozen=True, eq=False, repr=False)
class Print:
    """A developed picture; `second` and `difference` are there while it is compared with another."""

    image: QImage
    frame: Frame
    document: Document
    shown: str
    is_denoised: bool
    clean: np.ndarray | None = None
    second: QImage | None = None
    difference: QImage | None = None
    scopes: object = None
    outlined: frozenset[str] = frozenset()  # the things that `outline` is drawn around
    outline: QImage | None = None
    is_false_colour: bool = False


def to_image(pixels: np.ndarray) -> QImage:
    """Return an image of (h, w, 4) RGBX bytes, in the format that windows are painted in."""
    height, width = pixels.shape[:2]
    given = QImage(pixels.data, width, height, 4 * width, QImage.Format.Format_RGBX8888)
    return given.convertToFormat(QImage.Format.Format_RGB32)


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
    mean, squares = film.moments
    error = np.sqrt(np.maximum(squares - mean**2, 0) / np.maximum(film.samples, 1))
    spread = error / (mean + 1e-3 * mean.max() + 1e-9)
    return np.repeat(np.clip(spread, 0, 1)[..., None], 3, axis=2)


def outline_image(frame: Frame, ids: frozenset[str]) -> QImage | None:
    """Return the outline of some things as a picture of the film's size; None if none of them is seen."""
    film, prepared = frame.film, frame.prepared
    if prepared is None:
        return None
    wanted = np.array([id in ids for id in prepared.object_ids] + [False])
    if not wanted.any():
        return None
    inside = wanted[np.minimum(film.first_seen, len(wanted) - 1)]  # none: -1, the last, which nobody wants
    if not inside.any():
        return None
    grown = inside.copy()
    grown[1:] |= inside[:-1]
    grown[:-1] |= inside[1:]
    grown[:, 1:] |= inside[:, :-1]
    grown[:, :-1] |= inside[:, 1:]
    colour = QColor(t.MOON)
    pixels = np.zeros((*inside.shape, 4), np.uint8)
    pixels[grown & ~inside] = (colour.red(), colour.green(), colour.blue(), 255)
    height, width = inside.shape
    given = QImage(pixels.data, width, height, 4 * width, QImage.Format.Format_RGBA8888)
    return given.convertToFormat(QImage.Format.Format_ARGB32_Premultiplied)


def _quality_of(frame: Frame) -> str:
    """Return how carefully a frame is denoised: a finished render as its level says, all else quickly."""
    quality = frame.request.document.quality.denoise
    return quality if frame.is_done and frame.request.final and quality != "off" else "fast"


class Darkroom(QObject):
    """Develops whatever was handed in last; the interface thread only paints the result."""

    developed = Signal(object)
    group_shown = Signal(str, object)  # group, small QImage of its light alone
    cue_shown = Signal(str, object)  # cue, small QImage of the picture under it
    cleaned = Signal(object)  # a `Frame` whose denoised groups are there, or cannot be made
    failed = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self._changed = threading.Condition()
        self._frame: Frame | None = None
        self._document: Document | None = None
        self._luts: Mapping[str, LookUpTable] = {}
        self._shown = "beauty"
        self._dirty = self._closing = False
        self._at_work: set[str] = set()
        self._wants_clean = True
        self._given_up: Film | None = None  # the denoiser failed on it, and would again
        self._false_colour = self._wants_scopes = False
        self._clean: tuple[Film, np.ndarray, int, str] | None = None  # of how many samples, and how carefully
        self._mixer: tuple | None = None
        self._thumbs_at = 0
        self._small: tuple[Film, np.ndarray] | None = None
        self._cues_shown: object = None
        self._outlined: frozenset[str] = frozenset()
        self._second: Sheet | None = None
        self._compare = ""
        self._second_developed: tuple | None = None
        self._threads = [
            threading.Thread(target=self._guarded, args=(work,), name=name, daemon=True)
            for work, name in ((self._develop_all, "nocturne-darkroom"), (self._clean_all, "nocturne-denoise"))
        ]
        for thread in self._threads:
            thread.start()

    # ---- from the interface thread ---------------------------------------------------------------------------------

    def _set(self, **values) -> None:
        with self._changed:
            for name, value in values.items():
                setattr(self, f"_{name}", value)
            self._dirty = True
            self._changed.notify_all()

    def hand_in(self, frame: Frame, clean: np.ndarray | None = None) -> None:
        """Develop this film from now on; `clean` are its denoised groups if they were kept with it."""
        with self._changed:
            if self._frame is None or self._frame.film is not frame.film:
                self._clean, self._thumbs_at = None, 0
            if clean is not None:
                self._clean = (frame.film, clean, _WHOLE, "kept")
            self._frame, self._dirty = frame, True
            self._changed.notify_all()

    def set_document(self, document: Document, luts: Mapping[str, LookUpTable]) -> None:
        """Develop with this document's exposure, desk and finish, and its look-up tables."""
        self._set(document=document, luts=luts)

    def set_shown(self, name: str) -> None:
        """Show the beauty or a pass."""
        self._set(shown=name)

    def set_denoise(self, on: bool) -> None:
        """Show the denoised picture where there is one; asked anew, what failed is tried again."""
        self._set(wants_clean=on, given_up=None)

    def set_false_colour(self, on: bool) -> None:
        """Show the beauty's stops as bands of colour."""
        self._set(false_colour=on)

    def set_outlined(self, ids: frozenset[str]) -> None:
        """Draw an outline around these things with every print."""
        if ids != self._outlined:
            self._set(outlined=ids)

    def set_scopes(self, on: bool) -> None:
        """Count histogram and waveform with every print."""
        self._set(wants_scopes=on)

    def set_second(self, sheet: Sheet | None, compare: str) -> None:
        """Develop a second picture beside the first; `compare` "difference" also subtracts them."""
        self._set(second=sheet, compare=compare)

    def clean_groups(self, film: Film) -> np.ndarray | None:
        """Return the denoised groups of a film if they are of all its samples."""
        clean = self._clean
        if clean is not None and clean[0] is film and clean[2] >= int(film.samples.sum()):
            return clean[1]
        return None

    def is_clean(self, frame: Frame) -> bool:
        """Return True if a frame's film is denoised with all its samples and as carefully as its level says."""
        clean = self._clean
        return self.clean_groups(frame.film) is not None and clean[3] in ("kept", _quality_of(frame))

    @property
    def is_idle(self) -> bool:
        """Return True if nothing is developed or denoised, nor will be before something else is handed in."""
        with self._changed:
            return not (self._at_work or self._should_develop() or self._should_clean())

    def has_given_up(self, film: Film) -> bool:
        """Return True if a film could not be denoised."""
        return self._given_up is film

    def close(self) -> None:
        """End the threads and wait for them."""
        with self._changed:
            self._closing = True
            self._changed.notify_all()
        for thread in self._threads:
            thread.join(timeout=30)

    # ---- threads ---------------------------------------------------------------------------------------------------

    def _guarded(self, work) -> None:
        # Developing comes before rendering, removing noise after it, the interface first.
        give_way(2 if work == self._develop_all else 6)
        while not self._closing:
            try:
                work()
            except NocturneError as error:
                self.failed.emit(error)
            except FAULTS as error:
                _log.exception("darkroom")
                self.failed.emit(NocturneError(f"The picture could not be developed ({error})."))

    def _develop_all(self) -> None:
        while True:
            with self._changed:
                self._at_work.discard("develop")
                while not self._closing and not self._should_develop():
                    self._changed.wait()
                self._at_work.add("develop")
                if self._closing:
                    return
                frame, document, shown = self._frame, self._document, self._shown
                clean = self._clean if self._wants_clean and self._clean and self._clean[0] is frame.film else None
                self._dirty = False
            self.developed.emit(self._print(frame, document, shown, clean[1] if clean else None))
            samples = int(frame.progress.samples)
            finished = frame.is_done and clean is not None
            if samples >= max(1, 4 * self._thumbs_at) or (finished and self._thumbs_at < _WHOLE):
                self._thumbs_at = _WHOLE if finished else max(samples, 1)
                self._show_groups(frame, document, clean[1] if clean else None)
            elif self._cues_shown != (document.cues, document.finish, document.view):
                self._show_cues(document)

    def _print(self, frame: Frame, document: Document, shown: str, clean: np.ndarray | None) -> Print:
        # Imported here, after the engine is warm: on the very first start this would compile, and hold up the window.
        from nocturne.finish import kernels, meter

        film, step = frame.film, frame.progress.step
        is_beauty = shown not in DATA_PASSES and shown not in PASS_NAMES
        radiance = self._radiance(film, document, clean) if is_beauty else None
        false_colour = is_beauty and self._false_colour
        stops = None
        if radiance is not None and (false_colour or self._wants_scopes):
            stops = meter.stops_of(radiance, document.view)
        picture = meter.false_colour(stops) if false_colour else self._developed(film, document, shown, radiance)
        is_whole = bool(film.samples.all())
        if not is_whole:
            # Also while the first whole pass is under way: its tiles would stand out of the coarse picture.
            picture = kernels.cover_gaps(picture, film.samples, max(step, 4))
        pixels = kernels.to_bytes(picture)
        second, difference = self._compared(pixels)
        outlined = self._outlined
        return Print(
            to_image(pixels),
            frame,
            document,
            shown,
            is_beauty and clean is not None,
            clean,
            second,
            difference,
            meter.scopes(stops, picture) if stops is not None and self._wants_scopes and not false_colour else None,
            outlined,
            outline_image(frame, outlined) if outlined and is_whole else None,
            false_colour,
        )

    def _radiance(self, film: Film, document: Document, clean: np.ndarray | None) -> np.ndarray:
        from nocturne.finish.develop import Light, Mixer

        # Sums on the film go on growing; only denoised groups stand still and can be mixed step by step.
        key = None if clean is None else (film, id(clean))
        if key is not None and self._mixer is not None and self._mixer[0] == key:
            mixer = self._mixer[1]
        else:
            mixer = Mixer(Light.of(film, clean))
            self._mixer = (key, mixer) if key is not None else None
        return mixer.mixed(document.desk)

    def _developed(self, film: Film, document: Document, shown: str, radiance: np.ndarray | None) -> np.ndarray:
        from nocturne.finish.develop import Light, develop, grade

        if shown in DATA_PASSES:
            return np.ascontiguousarray(data_picture(film, shown), np.float32)
        view, finish = document.view, document.finish
        if shown in PASS_NAMES:
            i = PASS_NAMES.index(shown)
            light = Light(film.passes[i : i + 1], film.samples, (shown,))
            return develop(light, view=view, desk=(), finish=finish, luts=self._luts)
        return grade(radiance, view=view, finish=finish, luts=self._luts)

    def _compared(self, first: np.ndarray) -> tuple[QImage | None, QImage | None]:
        """Return the second picture, and how far it differs from the first."""
        from nocturne.finish import kernels
        from nocturne.finish.develop import Light, develop

        second, compare = self._second, self._compare
        if second is None:
            return None, None
        key = (second, self._wants_clean)
        if self._second_developed is None or self._second_developed[0] != key:
            document = second.document
            light = Light.of(second.frame.film, second.clean if self._wants_clean else None)
            picture = develop(light, view=document.view, desk=document.desk, finish=document.finish, luts=second.luts)
            self._second_developed = (key, to_image(kernels.to_bytes(picture)))
        image = self._second_developed[1]
        if compare != "difference":
            return image, None
        height, width = first.shape[:2]
        fitted = image if (image.width(), image.height()) == (width, height) else image.scaled(width, height)
        fitted = fitted.convertToFormat(QImage.Format.Format_RGBX8888)
        other = np.frombuffer(fitted.constBits(), np.uint8).reshape(height, fitted.bytesPerLine())
        other = other[:, : 4 * width].reshape(height, width, 4)
        apart = np.abs(first[..., :3].astype(np.float32) - other[..., :3]) * (_DIFFERENCE_GAIN / 255)
        return image, to_image(kernels.to_bytes(np.ascontiguousarray(apart)))

    def _show_groups(self, frame: Frame, document: Document, clean: np.ndarray | None) -> None:
        film = frame.film
        width, height = film.size
        k = max(1, width // (2 * _THUMB[0]))
        rows, columns = height // k, width // k
        small = np.empty((len(film.group_names), rows, columns, 3), np.float32)
        for i in range(len(film.group_names)):
            source = clean[i] if clean is not None else film.group(i)
            small[i] = source[: rows * k, : columns * k].reshape(rows, k, columns, k, 3).mean((1, 3))
        self._small = (film, small)
        for i, name in enumerate(film.group_names):
            desk = (Strip(group=name, stops=0.6),)
            self.group_shown.emit(name, self._small_print(small[i : i + 1], (name,), document, desk))
        self._show_cues(document)

    def _show_cues(self, document: Document) -> None:
        self._cues_shown = (document.cues, document.finish, document.view)
        if self._small is not None:
            film, small = self._small
            for cue in document.cues:
                self.cue_shown.emit(cue.id, self._small_print(small, film.group_names, document, cue.strips))

    def _small_print(self, small: np.ndarray, names: tuple[str, ...], document: Document, desk: tuple) -> QImage:
        from nocturne.finish import kernels
        from nocturne.finish.develop import grade

        radiance = np.einsum("gyxc,gc->yxc", small, gains(names, desk), dtype=np.float32)
        picture = grade(radiance, view=document.view, finish=document.finish, luts=self._luts)
        return to_image(kernels.to_bytes(picture))

    def _clean_all(self) -> None:
        while True:
            with self._changed:
                self._at_work.discard("clean")
                while not self._closing and not self._should_clean():
                    self._changed.wait()
                self._at_work.add("clean")
                if self._closing:
                    return
                frame = self._frame
            film, before = frame.film, int(frame.film.samples.sum())
            quality = _quality_of(frame)
            result = None
            try:
                for update in denoise_groups(film, quality=quality):
                    if self._closing or self._frame is None or self._frame.film is not film:
                        break
                    result = update.result
            except (NocturneError, *FAULTS):
                self._given_up = film  # else it would be tried again at once, for ever
                self.cleaned.emit(frame)
                raise
            if result is not None:
                with self._changed:
                    self._clean, self._dirty = (film, result, before, quality), True
                    self._changed.notify_all()
                self.cleaned.emit(frame)

    def _should_develop(self) -> bool:
        return bool(self._dirty and self._frame and self._document)

    def _should_clean(self) -> bool:
        frame = self._frame
        if frame is None or not self._wants_clean or frame.progress.samples < 1 or frame.progress.step > 1:
            return False
        if frame.film is self._given_up:
            return False
        if frame.request.final and frame.request.document.quality.denoise == "off":
            return False
        if self._clean is None or self._clean[0] is not frame.film:
            return frame.progress.samples >= 2 or frame.is_done
        done, now = self._clean[2], int(frame.film.samples.sum())
        if frame.is_done and done < _WHOLE and self._clean[3] != _quality_of(frame):
            return True  # a final render's last samples may have come while it was still denoised in haste
        return now > done and (frame.is_done or now >= 2.5 * done)

"""The darkroom: one thread that develops the newest film into the image on screen, beside one that removes noise."""

import threading
from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QImage

from nocturne.colour.lookup import LookUpTable
from nocturne.film.film import Film
from nocturne.film.layout import PASS_NAMES
from nocturne.scene.document import Document
from nocturne.ui.darkroom.clean import Clean
from nocturne.ui.darkroom.data import data_picture, outline_image
from nocturne.ui.darkroom.denoiser import Denoiser
from nocturne.ui.darkroom.light import Lights, Lit
from nocturne.ui.darkroom.prints import DATA_PASSES, Print, Sheet, to_image
from nocturne.ui.darkroom.small import SmallPrints
from nocturne.ui.frame import Frame
from nocturne.ui.worker import Worker

_WHOLE = 1 << 60  # as a count of samples: small pictures of a finished, denoised film are never made again
_DIFFERENCE_GAIN = 4.0


@dataclass(frozen=True, eq=False, repr=False)
class _Task:
    """All that a print is made of, as it was at one moment."""

    frame: Frame
    document: Document
    clean: Clean | None
    is_clean_coming: bool
    luts: Mapping[str, LookUpTable]
    shown: str
    outlined: frozenset[str]
    second: Sheet | None
    compare: str
    wants_clean: bool
    false_colour: bool
    wants_scopes: bool

    @property
    def is_of_light(self) -> bool:
        """Return True if the beauty is shown, not a pass of it or of data."""
        return self.shown not in DATA_PASSES and self.shown not in PASS_NAMES

    def key(self, lit: Lit | None) -> tuple:
        """Return what decides the print made of this light; arrays and tables by identity."""
        view = self.document.view
        look = (
            self.document.desk,
            self.document.finish,
            view.white_k,
            view.white_luminance,
            *sorted(self.luts.items()),
        )
        wishes = (self.shown, self.outlined, self.second, self.compare)
        light = (lit.key, id(lit.radiance)) if lit is not None and lit.is_clean else self.frame
        return light, look, wishes, self.wants_clean, self.false_colour, self.wants_scopes


class Darkroom(QObject):
    """Develops whatever was handed in last; the interface thread only paints the result."""

    developed = Signal(object)
    group_shown = Signal(str, object)  # group, small QImage of its light alone
    cue_shown = Signal(str, object)  # cue, small QImage of the picture under it
    failed = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self._changed = threading.Condition()
        self._frame: Frame | None = None
        self._document: Document | None = None
        self._luts: Mapping[str, LookUpTable] = {}
        self._shown = "beauty"
        self._dirty = self._false_colour = self._wants_scopes = False
        self._are_small_seen = True
        self._lights = Lights()
        self._outlined: frozenset[str] = frozenset()
        self._second: Sheet | None = None
        self._compare = ""
        self._second_developed: tuple | None = None
        self._last: tuple[tuple, Print] | None = None
        self._small = SmallPrints(self.group_shown.emit, self.cue_shown.emit)
        self._small_of: tuple[Film, int] | None = None  # of how many samples
        self._denoiser = Denoiser(self._changed, self._develop_anew, self.failed.emit)
        # Developing comes before rendering, removing noise after it, the interface first.
        self._worker = Worker(
            "darkroom",
            self._has_work,
            self._take,
            self._develop,
            fail=self.failed.emit,
            trouble=lambda _: "The picture could not be developed",
            courtesy=2,
            changed=self._changed,
        )
        self._workers = (self._worker, self._denoiser.worker)
        for worker in self._workers:
            worker.start()

    # ---- from the interface thread ---------------------------------------------------------------------------------

    def _set(self, **values) -> None:
        with self._changed:
            for name, value in values.items():
                setattr(self, f"_{name}", value)
            self._develop_anew()

    def _develop_anew(self) -> None:
        with self._changed:
            self._dirty = True
            self._worker.wake()

    def hand_in(self, frame: Frame, clean: np.ndarray | None = None) -> None:
        """Develop this film from now on; `clean` are its denoised groups if they were made with it."""
        with self._changed:
            self._denoiser.hand_in(frame, clean)
            self._denoiser.worker.wake()
            self._set(frame=frame)

    def set_document(self, document: Document, luts: Mapping[str, LookUpTable]) -> None:
        """Develop with this document's exposure, desk and finish, and its look-up tables."""
        with self._changed:
            self._denoiser.set_document(document)
            self._denoiser.worker.wake()
            self._set(document=document, luts=luts)

    def set_shown(self, name: str) -> None:
        """Show the beauty or a pass."""
        self._set(shown=name)

    def set_denoise(self, on: bool) -> None:
        """Show the denoised picture where there is one; asked anew, what failed is tried again."""
        with self._changed:
            self._denoiser.want(on)
            self._denoiser.worker.wake()
            self._develop_anew()

    def set_desk_seen(self, on: bool) -> None:
        """Show small pictures of groups and cues, and have groups apart soon: the desk is seen."""
        with self._changed:
            self._are_small_seen = on
            self._denoiser.want_groups(on)
            self._denoiser.worker.wake()
            self._develop_anew()

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
        with self._changed:
            return self._denoiser.groups(film)

    @property
    def is_idle(self) -> bool:
        """Return True if nothing is developed or denoised, nor will be before something else is handed in."""
        with self._changed:
            return all(worker.is_idle for worker in self._workers)

    def close(self) -> None:
        """End the threads and wait for them."""
        for worker in self._workers:
            worker.close()
        self._lights.close()

    # ---- the thread ------------------------------------------------------------------------------------------------

    def _has_work(self) -> bool:
        return bool(self._dirty and self._frame and self._document)

    def _take(self) -> _Task:
        self._dirty = False
        return _Task(
            self._frame,
            self._document,
            self._denoiser.light(self._frame.film),
            self._denoiser.is_coming(self._frame),
            self._luts,
            self._shown,
            self._outlined,
            self._second,
            self._compare,
            self._denoiser.is_wanted,
            self._false_colour,
            self._wants_scopes,
        )

    def _develop(self, task: _Task) -> None:
        lit = self._light(task) if task.is_of_light else None
        if task.is_of_light and lit is None:
            return  # the picture before stands until there is something clean of this one
        key, clean = task.key(lit), task.clean
        if self._last is not None and self._last[0] == key:
            # Nothing of the edit is seen before it is rendered.
            groups = clean.groups if clean is not None else None
            made = replace(self._last[1], frame=task.frame, document=task.document, clean=groups)
        else:
            made = self._print(task, lit)
        self._last = (key, made)
        self.developed.emit(made)
        self._lights.settle()
        if self._are_small_seen:
            self._show_small(task.frame, task.document, clean.groups if clean is not None else None, task.luts)

    def _light(self, task: _Task) -> Lit | None:
        """Return the light to show; None as long as something clean is to come."""
        frame, document, clean = task.frame, task.document, task.clean
        if clean is not None:
            return self._lights.clean(frame, document, clean)
        if not task.is_clean_coming:
            return self._lights.raw(frame.film, document)
        is_whole = frame.progress.step == 1 and frame.progress.samples >= 1
        return None if is_whole and frame.kind != "live" else self._lights.early(frame, document)

    def _show_small(
        self, frame: Frame, document: Document, clean: np.ndarray | None, luts: Mapping[str, LookUpTable]
    ) -> None:
        samples = int(frame.progress.samples)
        before = self._small_of[1] if self._small_of is not None and self._small_of[0] is frame.film else 0
        finished = frame.is_done and clean is not None
        if samples >= max(1, 4 * before) or (finished and before < _WHOLE):
            self._small_of = (frame.film, _WHOLE if finished else max(samples, 1))
            self._small.take(frame.film, clean)
            self._small.show_groups(document, luts)
        self._small.show_cues(document, luts)

    def _print(self, task: _Task, lit: Lit | None) -> Print:
        # Imported here, after the engine is warm: on the very first start this would compile, and hold up the window.
        from nocturne.finish import kernels, meter

        frame, document, shown = task.frame, task.document, task.shown
        clean = task.clean.groups if task.clean is not None else None
        film, step = frame.film, frame.progress.step
        radiance = lit.radiance if lit is not None else None
        is_clean = lit is not None and lit.is_clean
        false_colour = lit is not None and task.false_colour
        stops = None
        if radiance is not None and (false_colour or task.wants_scopes):
            stops = meter.stops_of(radiance, document.view)
        picture = meter.false_colour(stops) if false_colour else self._developed(task, radiance)
        is_whole = bool(film.samples.all())
        if not (is_whole or is_clean):
            # Also while the first whole pass is under way: its tiles would stand out of the coarse picture.
            picture = kernels.cover_gaps(picture, film.samples, max(step, 4))
        pixels = kernels.to_bytes(picture)
        second, difference = self._compared(task, pixels)
        outlined = task.outlined
        image = to_image(pixels)
        if (image.width(), image.height()) != film.size:
            smooth = Qt.TransformationMode.SmoothTransformation
            image = image.scaled(*film.size, Qt.AspectRatioMode.IgnoreAspectRatio, smooth)
        return Print(
            image,
            frame,
            document,
            shown,
            is_clean,
            clean,
            second,
            difference,
            meter.scopes(stops, picture) if stops is not None and task.wants_scopes and not false_colour else None,
            outlined,
            outline_image(frame, outlined) if outlined and is_whole else None,
            false_colour,
            lit is not None and lit.is_early,
        )

    def _developed(self, task: _Task, radiance: np.ndarray | None) -> np.ndarray:
        from nocturne.finish.develop import Light, develop, grade

        film, document, shown = task.frame.film, task.document, task.shown
        if shown in DATA_PASSES:
            return np.ascontiguousarray(data_picture(film, shown), np.float32)
        view, finish = document.view, document.finish
        if shown in PASS_NAMES:
            i = PASS_NAMES.index(shown)
            light = Light(film.passes[i : i + 1], film.samples, (shown,))
            return develop(light, view=view, desk=(), finish=finish, luts=task.luts)
        return grade(radiance, view=view, finish=finish, luts=task.luts)

    def _compared(self, task: _Task, first: np.ndarray) -> tuple[QImage | None, QImage | None]:
        """Return the second picture, and how far it differs from the first."""
        from nocturne.finish import kernels
        from nocturne.finish.develop import Light, develop

        second, compare = task.second, task.compare
        if second is None:
            return None, None
        key = (second, task.wants_clean)
        if self._second_developed is None or self._second_developed[0] != key:
            document = second.document
            light = Light.of(second.frame.film, second.clean if task.wants_clean else None)
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

"""Removing noise with Open Image Denoise, guided by albedo and normal; the noisy film is kept."""

import ctypes
import threading
from collections.abc import Callable, Iterator
from functools import cache as memoize
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from nocturne.errors import Cancelled, RenderError
from nocturne.film.film import Film
from nocturne.jobs import Update

if TYPE_CHECKING:
    import pyoidn

# The wrapper leaves this function out: called now and then while a filter runs, it ends it by returning False.
_MONITOR = ctypes.CFUNCTYPE(ctypes.c_bool, ctypes.c_void_p, ctypes.c_double)
_LIBRARY = "libOpenImageDenoise.so*"
_FILTERS_KEPT = 9  # sizes change while a window is drawn larger


def _always() -> bool:
    return True


@memoize
def library():
    """Return the wrapper of the library; it reads the library's header when it is loaded first, which takes a while."""
    import pyoidn

    return pyoidn


@memoize
def _levels() -> dict[str, int]:
    return {"fast": library().OIDN_QUALITY_FAST, "careful": library().OIDN_QUALITY_HIGH}


@memoize
def _set_monitor():
    """Return the library's function that sets a filter's monitor, None if the library is not where it is looked for."""
    found = sorted(Path(library().__file__).parent.rglob(_LIBRARY))
    if not found:
        return None
    function = ctypes.CDLL(str(found[-1])).oidnSetFilterProgressMonitorFunction
    function.argtypes, function.restype = [ctypes.c_void_p, _MONITOR, ctypes.c_void_p], None
    return function


def _watch(running: "pyoidn.Filter", monitor) -> None:
    if _set_monitor() is not None:
        _set_monitor()(int(library().capi.oidn_ffi.cast("intptr_t", running._filter)), monitor, None)


class Remover:
    """A denoiser of its own: it waits for nobody else's, and keeps its filters and buffers by size.

    Several of them work beside each other; one serves one thread at a time.
    """

    def __init__(self) -> None:
        self._free = threading.Lock()
        self._device: pyoidn.Device | None = None
        self._filters: dict[tuple, tuple[pyoidn.Filter, dict[str, np.ndarray]]] = {}
        self._goes_on: Callable[[], bool] = _always
        self._monitor = _MONITOR(lambda *_: self._goes_on())

    def remove(
        self,
        colour: np.ndarray,
        albedo: np.ndarray,
        normal: np.ndarray,
        *,
        quality: str = "fast",
        are_clean: bool = False,
        goes_on: Callable[[], bool] = _always,
    ) -> np.ndarray:
        """Return (h, w, 3) float32 denoised linear light.

        colour, albedo, normal: (h, w, 3). quality: "fast" or "careful". are_clean: albedo and normal are free of noise
        (`guides`), so all that they show is real. goes_on: asked some thirty times meanwhile.

        Raises
        ------
        Cancelled
            If it is not to go on.
        RenderError
            If the library reports a failure.
        """
        with self._free:
            what = ("color", "albedo", "normal")
            running, images = self._filter(what, *colour.shape[:2], quality, are_clean)
            images["color"][...] = colour
            np.clip(albedo, 0, 1, out=images["albedo"])
            np.clip(normal, -1, 1, out=images["normal"])
            return self._run(running, images, goes_on)

    def guides(
        self, albedo: np.ndarray, normal: np.ndarray, *, quality: str = "fast", goes_on: Callable[[], bool] = _always
    ) -> tuple[np.ndarray, np.ndarray]:
        """Return (h, w, 3) float32 albedo and normal without the noise that lens and edges give them.

        Arguments and errors as in `remove`.
        """
        out = []
        with self._free:
            for name, guide, low in (("albedo", albedo, 0), ("normal", normal, -1)):
                running, images = self._filter((name,), *guide.shape[:2], quality, False)
                np.clip(guide, low, 1, out=images[name])
                out.append(self._run(running, images, goes_on))
        return tuple(out)

    def _run(self, running: "pyoidn.Filter", images: dict[str, np.ndarray], goes_on: Callable[[], bool]) -> np.ndarray:
        self._goes_on = goes_on
        try:
            running.execute()
        finally:
            self._goes_on = _always  # it may hold on to much
        if not goes_on():
            self._device.get_error()  # that it was cancelled
            raise Cancelled
        self._check()
        return images["output"].copy()

    def _filter(self, what: tuple[str, ...], height: int, width: int, quality: str, are_clean: bool):
        key = (what, height, width, quality, are_clean)
        if key in self._filters:
            self._filters[key] = self._filters.pop(key)  # the newest is the last
            return self._filters[key]
        if self._device is None:
            self._device = library().Device()
            self._device.set_bool("setAffinity", False)
            self._device.commit()
            self._check()
        while len(self._filters) >= _FILTERS_KEPT:
            self._filters.pop(next(iter(self._filters)))[0].release()
        images = {name: np.zeros((height, width, 3), np.float32) for name in (*what, "output")}
        made = library().Filter(self._device)
        for name, image in images.items():
            made.set_image(name, image, library().OIDN_FORMAT_FLOAT3)
        if "color" in what:
            made.set_bool("hdr", True)
            made.set_bool("cleanAux", are_clean)
        made.set_quality(_levels()[quality])
        _watch(made, self._monitor)
        made.commit()
        self._check()
        self._filters[key] = (made, images)
        return self._filters[key]

    def _check(self) -> None:
        said = self._device.get_error()
        if said is not None:
            raise RenderError("The picture could not be denoised.", hint=said)

    def close(self) -> None:
        """Let go of filters and device."""
        with self._free:
            for made, _ in self._filters.values():
                made.release()
            self._filters.clear()
            if self._device is not None:
                self._device.release()
                self._device = None


def denoise_groups(
    film: Film, *, quality: str, remover: Remover | None = None, goes_on: Callable[[], bool] = _always
) -> Iterator[Update]:
    """Denoise each light group apart, so that they still add up and the desk stays free.

    Careful, albedo and normal are denoised before it: that brings 0.1 to 0.5 dB; with a fast one it brings nothing.
    The last update's `result` is (g, h, w, 3) float32 mean radiance. remover: its own, if others may work meanwhile.

    Raises
    ------
    Cancelled
        If it is not to go on.
    RenderError
        If the library reports a failure.
    """
    own = Remover() if remover is None else remover
    n = len(film.group_names)
    are_clean = quality == "careful"
    out = np.zeros_like(film.groups)
    try:
        albedo, normal = film.albedo, film.clean_normal
        if are_clean:
            yield Update(0, n, "Cleaning what guides the denoiser")
            albedo, normal = own.guides(albedo, normal, quality=quality, goes_on=goes_on)
        for i, name in enumerate(film.group_names):
            yield Update(i, n, f"Denoising “{name}”")
            noisy = film.group(i)
            if noisy.any():
                out[i] = own.remove(noisy, albedo, normal, quality=quality, are_clean=are_clean, goes_on=goes_on)
    finally:
        if remover is None:
            own.close()
    yield Update(n, n, "Denoised", result=out)

"""The stack of finishing steps as operations: neighbouring steps on single pixels run as one pass over the picture."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np
import PyOpenColorIO as ocio
import scipy  # its parts are loaded when they are asked for

from nocturne.colour.blackbody import white_balance
from nocturne.colour.lookup import LookUpTable
from nocturne.colour.spaces import luminance
from nocturne.finish import kernels, lens
from nocturne.finish.curves import toned
from nocturne.finish.view import config, through_view, view_table
from nocturne.scene import finish as steps
from nocturne.scene.curves import curve

_GREY = 0.18
_N_CURVE = 1025
_PIXELS_AT_ONCE = 1 << 14
_NEUTRAL_KELVIN = 6000.0
_ACROSS_PIXELS = (steps.Bloom, steps.Fringing, steps.Sharpening)
_NO_CUBES = np.zeros((1, 2, 2, 2, 3), np.float32)
_NO_CURVES = np.ones((1, 3, 2), np.float32)


def curve_axis() -> np.ndarray:
    """Return the (1025,) linear values at which curves are tabulated, even in the float's bit pattern."""
    low, high = np.float32(kernels.LUT_LOW).view(np.int32), np.float32(kernels.LUT_HIGH).view(np.int32)
    return np.rint(np.linspace(low, high, _N_CURVE)).astype(np.int32).view(np.float32).astype(float)


def _gains(step: steps.Step) -> np.ndarray:
    """Return (3, 1025) gains of a curve or tone step on `curve_axis`."""
    stops = np.log2(curve_axis() / _GREY)
    if isinstance(step, steps.Tone):
        moved = np.repeat((toned(step, stops) - stops)[None], 3, axis=0)
    else:
        master = curve(step.master, stops)
        moved = np.stack([curve(own, master) - stops for own in (step.red, step.green, step.blue)])
    return np.exp2(moved * step.amount).astype(np.float32)


def _matrix(step: steps.Step) -> np.ndarray:
    """Return the (3, 3) matrix of an exposure, white balance or saturation step."""
    if isinstance(step, steps.Exposure):
        return np.eye(3) * 2.0 ** (step.stops * step.amount)
    if isinstance(step, steps.WhiteBalance):
        full = np.eye(3) if step.kelvin == _NEUTRAL_KELVIN else white_balance(step.kelvin)
        magenta = np.array([2.0 ** (0.25 * step.tint), 2.0 ** (-0.5 * step.tint), 2.0 ** (0.25 * step.tint)])
        magenta /= float(luminance(magenta))
        full = np.diag(magenta) @ full
    else:
        weights = np.array([float(luminance(v)) for v in np.eye(3)])
        grey = np.repeat(weights[None], 3, axis=0)
        full = grey + (np.eye(3) - grey) * step.saturation
    return np.eye(3) + (full - np.eye(3)) * step.amount


def _looked_up(lut: LookUpTable, rgb: np.ndarray) -> np.ndarray:
    """Return what a table's grid over 0..1 makes of (..., 3) values, linear in between."""
    table = lut.grid
    at = np.clip(rgb, 0, 1).reshape(-1, 3).T * (table.shape[0] - 1)
    out = [scipy.ndimage.map_coordinates(table[..., c], at, order=1, mode="nearest") for c in range(3)]
    return np.stack(out, axis=-1).reshape(rgb.shape)


class _Baked:
    """Tables made from look-up tables; the newest few are kept, by the identity of the loaded table."""

    def __init__(self) -> None:
        self._kept: dict[tuple, tuple[tuple[LookUpTable, ...], np.ndarray]] = {}

    def _once(self, key: tuple, luts: tuple[LookUpTable, ...], make) -> np.ndarray:
        # The key has their addresses; that they are kept alive here means that these stay theirs.
        if key not in self._kept:
            while len(self._kept) >= 8:
                self._kept.pop(next(iter(self._kept)))
            self._kept[key] = (luts, make())
        return self._kept[key][1]

    def log(self, lut: LookUpTable) -> np.ndarray:
        """Return light at `lut_axis` after a table that was made for ACEScct."""

        def make() -> np.ndarray:
            axis = kernels.lut_axis().astype(np.float32)
            grid = np.ascontiguousarray(np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), -1).reshape(-1, 3))
            there, back = _log_processors()
            there.applyRGB(grid)
            out = np.ascontiguousarray(_looked_up(lut, grid), np.float32)
            back.applyRGB(out)
            return out.reshape((kernels.LUT_SIZE,) * 3 + (3,))

        return self._once(("log", id(lut)), (lut,), make)

    def view(self, view: str, behind: list[tuple[LookUpTable, float]]) -> np.ndarray:
        """Return the view's table with tables for the display behind it, each with its amount, one after another."""

        def make() -> np.ndarray:
            table = exact_view_table(view)
            for lut, amount in behind:
                table = table + (_looked_up(lut, table) - table) * amount
            return np.ascontiguousarray(table, np.float32)

        key = (view, *((id(lut), round(amount, 4)) for lut, amount in behind))
        return self._once(key, tuple(lut for lut, _ in behind), make)


_baked = _Baked()


@lru_cache(maxsize=1)
def _log_processors() -> tuple[ocio.CPUProcessor, ocio.CPUProcessor]:
    there = config().getProcessor("ACEScg", "ACEScct").getDefaultCPUProcessor()
    return there, config().getProcessor("ACEScct", "ACEScg").getDefaultCPUProcessor()


@lru_cache(maxsize=2)
def exact_view_table(view: str) -> np.ndarray:
    """Return the view at `lut_axis` also where `view_table` needs none."""
    if view != "plain":
        return view_table(view)
    axis = kernels.lut_axis().astype(np.float32)
    grid = np.ascontiguousarray(np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), -1).reshape(1, -1, 3))
    kernels.show(grid, view_table(view))
    return grid.reshape((kernels.LUT_SIZE,) * 3 + (3,))


@dataclass
class _Pass:
    """Operations on single pixels that run together."""

    codes: list[int] = field(default_factory=list)
    values: list[list[float]] = field(default_factory=list)
    curves: list[np.ndarray] = field(default_factory=list)
    cubes: list[np.ndarray] = field(default_factory=list)

    def add(self, code: int, values: list[float]) -> None:
        self.codes.append(code)
        self.values.append([*values, *[0.0] * (kernels.N_VALUES - len(values))])

    def add_matrix(self, matrix: np.ndarray) -> None:
        if self.codes and self.codes[-1] == kernels.OP_MATRIX:
            self.values[-1] = list((matrix @ np.array(self.values[-1]).reshape(3, 3)).ravel())
        elif not np.array_equal(matrix, np.eye(3)):
            self.add(kernels.OP_MATRIX, list(matrix.ravel()))

    def add_step(self, step: steps.Step, height: int, luts: Mapping[str, LookUpTable]) -> None:
        if isinstance(step, (steps.Exposure, steps.WhiteBalance, steps.Saturation)):
            self.add_matrix(_matrix(step))
        elif isinstance(step, steps.Vignette):
            self.add(kernels.OP_VIGNETTE, [0.5 * step.strength, step.amount])
        elif isinstance(step, (steps.Tone, steps.Curves)):
            self.add(kernels.OP_CURVE, [len(self.curves)])
            self.curves.append(_gains(step))
        elif isinstance(step, steps.Grain):
            # Grains smaller than a pixel average out within it.
            size = step.size * height / 1080
            self.add(kernels.OP_GRAIN, [step.strength * step.amount * min(size, 1.0), max(size, 1.0), step.colour])
        elif isinstance(step, steps.Lut) and step.place == "log" and step.path in luts:
            self.add(kernels.OP_CUBE, [len(self.cubes), step.amount])
            self.cubes.append(_baked.log(luts[step.path]))

    def run(self, picture: np.ndarray) -> None:
        if self.codes:
            kernels.operate(
                picture,
                np.array(self.codes, np.int32),
                np.array(self.values, np.float32),
                np.ascontiguousarray(np.stack(self.curves)) if self.curves else _NO_CURVES,
                np.ascontiguousarray(np.stack(self.cubes)) if self.cubes else _NO_CUBES,
            )


def apply(
    radiance: np.ndarray,
    exposing: np.ndarray,
    finish: steps.Finish,
    luts: Mapping[str, LookUpTable],
    *,
    exact: bool = False,
) -> np.ndarray:
    """Return (h, w, 3) float32 exposed, graded, scene-linear light of (h, w, 3) radiance, which is left as it is.

    exposing: (3, 3), from cd/m2 to exposed, balanced working-space values. A step whose table is missing does nothing.
    exact: look-up tables themselves, not their grids; slower, for what is put out.
    """
    picture, together = radiance.copy(), _Pass()
    together.add_matrix(exposing)
    for step in finish.steps:
        if not step.on or step.amount == 0:
            continue
        if exact and isinstance(step, steps.Lut) and step.place == "log" and step.path in luts:
            together.run(picture)
            together = _Pass()
            picture += (_exact_log(luts[step.path], picture) - picture) * np.float32(step.amount)
        elif isinstance(step, _ACROSS_PIXELS):
            together.run(picture)
            together = _Pass()
            picture = lens.apply(step, picture)
        else:
            together.add_step(step, picture.shape[0], luts)
    together.run(picture)
    return picture


def _exact_log(lut: LookUpTable, picture: np.ndarray) -> np.ndarray:
    """Return light after a table that was made for ACEScct; what is brighter than it reaches is scaled by its end."""
    top = np.float32(kernels.LUT_HIGH * 0.9999)
    over = np.maximum(picture.max(-1, keepdims=True) / top, 1)
    out = np.ascontiguousarray(picture / over, np.float32)
    there, back = _log_processors()
    there.applyRGB(out)
    out = np.ascontiguousarray(lut.exact(out), np.float32)
    back.applyRGB(out)
    return out * over


def _behind_the_view(finish: steps.Finish, luts: Mapping[str, LookUpTable]) -> list[tuple[LookUpTable, float]]:
    return [
        (luts[step.path], step.amount)
        for step in finish.steps
        if isinstance(step, steps.Lut) and step.place == "view" and step.on and step.amount > 0 and step.path in luts
    ]


def show_exactly(picture: np.ndarray, finish: steps.Finish, luts: Mapping[str, LookUpTable]) -> np.ndarray:
    """Return (h, w, 3) float32 display values of graded light, through the view itself and tables behind it.

    The live picture goes through a table of 64 values along each axis, which is up to 0.13 off where colours are
    saturated; what is put out is not.
    """
    out = np.empty_like(picture)
    behind = _behind_the_view(finish, luts)
    # In parts, as the library does not let other threads run meanwhile.
    rows = max(1, _PIXELS_AT_ONCE // max(picture.shape[1], 1))
    for y in range(0, len(picture), rows):
        part = np.clip(through_view(np.maximum(picture[y : y + rows], 0), finish.view), 0, 1)
        for lut, amount in behind:
            part = part + (lut.exact(part) - part) * np.float32(amount)
        out[y : y + rows] = np.clip(part, 0, 1)
    return out


def display_table(finish: steps.Finish, luts: Mapping[str, LookUpTable]) -> np.ndarray:
    """Return the view's table, with the look-up tables made for the display behind it in their order."""
    behind = _behind_the_view(finish, luts)
    if behind:
        return _baked.view(finish.view, behind)
    return view_table(finish.view)

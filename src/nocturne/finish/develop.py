"""The developed picture: exposure and white balance of the camera, the desk, the grade, the view."""

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np

from nocturne.colour.blackbody import white_balance
from nocturne.colour.lookup import LookUpTable
from nocturne.film.film import Film
from nocturne.finish import kernels, stack
from nocturne.scene.camera import View
from nocturne.scene.desk import Strip, gains
from nocturne.scene.finish import Finish

NEUTRAL_KELVIN = 6000.0


@dataclass(frozen=True, eq=False, repr=False)
class Light:
    """Light groups to mix: sums (g, h, w, 3) with samples (h, w), or means with samples of one."""

    groups: np.ndarray
    samples: np.ndarray
    names: tuple[str, ...]

    @classmethod
    def of(cls, film: Film, denoised: np.ndarray | None = None) -> "Light":
        """Take a film's groups, or their denoised means."""
        if denoised is None:
            return cls(film.groups, film.samples, film.group_names)
        return cls(denoised, np.ones(denoised.shape[1:3], np.int32), film.group_names)


def exposure_matrix(view: View) -> np.ndarray:
    """Return the (3, 3) matrix from cd/m2 to exposed, white-balanced working-space values."""
    matrix = np.eye(3) if view.white_k == NEUTRAL_KELVIN else white_balance(view.white_k)
    return matrix / view.white_luminance


class Mixer:
    """Mixes light groups, and follows a single moving fader without reading the other groups again."""

    _EXACT_AGAIN_AFTER = 200  # so that rounding of small steps cannot add up

    def __init__(self, light: Light) -> None:
        self.light = light
        self._gains: np.ndarray | None = None
        self._mixed: np.ndarray | None = None
        self._steps = 0

    def mixed(self, desk: tuple[Strip, ...]) -> np.ndarray:
        """Return (h, w, 3) float32 radiance, cd/m2, of the desk's mix; valid until the next call."""
        wanted = gains(self.light.names, desk)
        if self._mixed is None or self._steps >= self._EXACT_AGAIN_AFTER:
            changes = None
        else:
            changes = np.flatnonzero((wanted != self._gains).any(1))
        if changes is None or len(changes) > 1:
            self._mixed, self._steps = kernels.mix(self.light.groups, self.light.samples, wanted), 0
        elif len(changes) == 1:
            i = int(changes[0])
            kernels.add_group(self._mixed, self.light.groups[i], self.light.samples, wanted[i] - self._gains[i])
            self._steps += 1
        self._gains = wanted
        return self._mixed


def grade(
    radiance: np.ndarray,
    *,
    view: View,
    finish: Finish,
    luts: Mapping[str, LookUpTable] = MappingProxyType({}),
    exact: bool = False,
) -> np.ndarray:
    """Return (h, w, 3) float32 display values of (h, w, 3) radiance, cd/m2, which is left as it is.

    luts: loaded look-up tables by the path that steps name. exact: through the view and the tables themselves, not
    through the tables that the live picture uses for its speed.
    """
    picture = stack.apply(radiance, exposure_matrix(view), finish, luts, exact=exact)
    if exact:
        return stack.show_exactly(picture, finish, luts)
    kernels.show(picture, stack.display_table(finish, luts))
    return picture


def develop(
    light: Light,
    *,
    view: View,
    desk: tuple[Strip, ...],
    finish: Finish,
    luts: Mapping[str, LookUpTable] = MappingProxyType({}),
    exact: bool = False,
) -> np.ndarray:
    """Return (h, w, 3) float32 display values in 0..1 of the whole way from light groups to the screen."""
    return grade(Mixer(light).mixed(desk), view=view, finish=finish, luts=luts, exact=exact)

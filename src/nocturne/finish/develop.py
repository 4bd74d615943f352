"""The developed picture: exposure and white balance of the camera, the desk, the grade, the view."""

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import gaussian_filter

from nocturne.colour.blackbody import white_balance
from nocturne.film.film import Film
from nocturne.finish import kernels
from nocturne.finish.view import view_table
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


def exposure_matrix(view: View, finish: Finish) -> np.ndarray:
    """Return the (3, 3) matrix from cd/m2 to exposed, white-balanced working-space values."""
    matrix = np.eye(3) if view.white_k == NEUTRAL_KELVIN else white_balance(view.white_k)
    return matrix * (2.0**finish.exposure / view.white_luminance)


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


def bloom(linear: np.ndarray, amount: float, size: float) -> np.ndarray:
    """Return linear light of which a part is spread over a wide, peaked spot, as scatter in a lens does.

    The spot is a sum of Gaussians, so what is spread is conserved but for what leaves the frame.
    """
    height, width = linear.shape[:2]
    k = max(1, round(size * height / 8))
    rows, columns = -(-height // k), -(-width // k)
    # Sums over blocks, as reshaping is quick; the ragged edge counts its last pixels again.
    padded = np.pad(linear, ((0, rows * k - height), (0, columns * k - width), (0, 0)), mode="edge")
    small = padded.reshape(rows, k, columns, k, 3).mean((1, 3))
    spread = np.zeros_like(small)
    for part_of_light, part_of_size in ((0.5, 0.25), (0.3, 0.6), (0.2, 1.2)):
        sigma = part_of_size * size * height / k
        spread += np.float32(part_of_light) * gaussian_filter(small, (sigma, sigma, 0), mode="nearest", truncate=3.0)
    return kernels.veil(linear, spread, k, 0.25 * amount)


def grade(radiance: np.ndarray, *, view: View, finish: Finish) -> np.ndarray:
    """Return (h, w, 3) float32 display values of (h, w, 3) radiance, cd/m2."""
    if finish.bloom > 0:
        radiance = bloom(radiance, finish.bloom, finish.bloom_size)
    settings = np.array([finish.contrast, finish.highlights, finish.shadows, finish.saturation, finish.vignette * 0.5])
    return kernels.develop(radiance, exposure_matrix(view, finish), view_table(finish.view), settings)


def develop(light: Light, *, view: View, desk: tuple[Strip, ...], finish: Finish) -> np.ndarray:
    """Return (h, w, 3) float32 display values in 0..1 of the whole way from light groups to the screen."""
    return grade(Mixer(light).mixed(desk), view=view, finish=finish)

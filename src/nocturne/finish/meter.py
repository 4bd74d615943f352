"""Readings of the picture: the meter, false-colour stops, histogram and waveform.

Compiled loops are imported when they are needed: the window reads this module before the engine is compiled.
"""

from dataclasses import dataclass

import numpy as np

from nocturne.colour.spaces import luminance
from nocturne.film.film import Film
from nocturne.scene.camera import View
from nocturne.scene.desk import Strip, gains

GREY = 0.18
FALSE_LOW, FALSE_HIGH = -7, 6  # stops from grey that have a band of their own
HISTOGRAM_LOW, HISTOGRAM_HIGH, HISTOGRAM_BINS = -8.0, 6.0, 112


@dataclass(frozen=True, slots=True)
class Reading:
    """What the meter says about a point or an area.

    stops from middle grey and rgb are after the camera's exposure and white balance; nits are luminance, cd/m2, with
    the light desk as it stands; shares of each group add up to 1 (all 0 in the dark).
    """

    nits: float
    stops: float
    rgb: tuple[float, float, float]
    shares: dict[str, float]
    thing: str
    material: str
    pixels: int


def _area(x: int, y: int, size: int, film: Film) -> tuple[slice, slice]:
    width, height = film.size
    r = size // 2
    return slice(max(y - r, 0), min(y + r + 1, height)), slice(max(x - r, 0), min(x + r + 1, width))


def radiance_at(film: Film, clean: np.ndarray | None, x: int, y: int, size: int) -> np.ndarray:
    """Return (g, 3) mean radiance, cd/m2, of each light group over a square of `size` pixels around a pixel."""
    rows, columns = _area(x, y, size, film)
    if clean is not None:
        return clean[:, rows, columns].mean((1, 2)).astype(float)
    counts = film.samples[rows, columns]
    total = max(int(counts.sum()), 1)
    return film.groups[:, rows, columns].sum((1, 2), dtype=float) / total


def read(
    film: Film, clean: np.ndarray | None, *, x: int, y: int, size: int, view: View, desk: tuple[Strip, ...]
) -> Reading:
    """Return the meter's reading of a square of `size` pixels around pixel (x, y)."""
    from nocturne.finish.develop import exposure_matrix

    groups = radiance_at(film, clean, x, y, size) * gains(film.group_names, desk)
    whole = groups.sum(0)
    nits = float(luminance(whole))
    each = np.maximum(luminance(groups), 0)
    rgb = exposure_matrix(view) @ whole
    exposed = max(float(luminance(rgb)), 1e-12)
    names = [""] * 2
    if film.objects:
        for which, of in enumerate((film.objects, film.materials)):
            number = film.id_at(which, x, y)
            names[which] = of[number] if 0 <= number < len(of) else ""
    rows, columns = _area(x, y, size, film)
    return Reading(
        nits,
        float(np.log2(exposed / GREY)),
        tuple(float(v) for v in rgb),
        dict(zip(film.group_names, each / each.sum() if each.sum() > 0 else each)),
        *names,
        (rows.stop - rows.start) * (columns.stop - columns.start),
    )


def stops_of(radiance: np.ndarray, view: View) -> np.ndarray:
    """Return (h, w) float32 stops from middle grey, after the camera's exposure, of (h, w, 3) radiance, cd/m2."""
    from nocturne.finish import kernels

    return kernels.log_luminance(radiance) - np.float32(np.log2(GREY * view.white_luminance))


def false_palette() -> np.ndarray:
    """Return (n, 3) display colours of the bands from below `FALSE_LOW` to above `FALSE_HIGH`, one for each stop.

    Violet below middle grey, lamp yellow above it, grey at grey; both grow away from it, so order is seen at a glance.
    """
    n = FALSE_HIGH - FALSE_LOW + 1
    stops = np.arange(FALSE_LOW, FALSE_HIGH + 1)
    below, above = np.array([0.30, 0.16, 0.62]), np.array([0.98, 0.58, 0.05])
    out = np.empty((n, 3))
    for i, s in enumerate(stops):
        if s == 0:
            out[i] = 0.46
        elif s < 0:
            k = s / FALSE_LOW
            out[i] = (np.array([0.78, 0.72, 0.96]) * (1 - k) + below * k) * (1 - 0.62 * k**2)
        else:
            k = s / FALSE_HIGH
            out[i] = np.array([0.99, 0.93, 0.66]) * (1 - k) + above * k
    return np.concatenate([[[0.02, 0.02, 0.03]], out, [[0.90, 0.10, 0.22]]])


def false_colour(stops: np.ndarray) -> np.ndarray:
    """Return (h, w, 3) float32 display values of stops: each band of one stop in its own colour."""
    bands = np.clip(np.floor(stops + 0.5) - FALSE_LOW + 1, 0, FALSE_HIGH - FALSE_LOW + 2).astype(np.int32)
    return np.ascontiguousarray(false_palette().astype(np.float32)[bands])


@dataclass(frozen=True, eq=False, repr=False)
class Scopes:
    """Histogram and waveform.

    stops (112,): pixels by stops from middle grey of the exposed light. channels (3, 64): pixels by display value of
    red, green, blue. waveform (96, 192): pixels by display brightness (top row brightest) and place across the picture.
    clipped, black: shares of pixels at the display's ends.
    """

    stops: np.ndarray
    channels: np.ndarray
    waveform: np.ndarray
    clipped: float
    black: float


def scopes(stops: np.ndarray, shown: np.ndarray) -> Scopes:
    """Return the scopes of (h, w) stops and (h, w, 3) display values; large pictures are sampled."""
    k = max(1, int(np.sqrt(stops.size / 200_000)))
    stops, shown = stops[::k, ::k], shown[::k, ::k]
    by_stops, _ = np.histogram(stops, HISTOGRAM_BINS, (HISTOGRAM_LOW, HISTOGRAM_HIGH))
    channels = np.stack([np.histogram(shown[..., c], 64, (0, 1))[0] for c in range(3)])
    luma = shown @ np.array([0.2126, 0.7152, 0.0722], np.float32)
    rows = 95 - np.clip((luma * 95).astype(int), 0, 95)
    columns = np.broadcast_to(np.arange(luma.shape[1]) * 192 // luma.shape[1], luma.shape)
    waveform = np.bincount((rows * 192 + columns).ravel(), minlength=96 * 192).reshape(96, 192)
    return Scopes(
        by_stops,
        channels,
        waveform,
        float((shown.max(-1) >= 0.999).mean()),
        float((shown.max(-1) <= 0.004).mean()),
    )

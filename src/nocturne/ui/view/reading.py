"""What is read from a print at a pixel or in a box: the meter, radiance, colours, things."""

import numpy as np

from nocturne.finish import meter
from nocturne.scene.desk import gains
from nocturne.ui.darkroom.prints import Print


def reading(shown: Print, pixel: tuple[float, float], size: int) -> meter.Reading:
    """Return the meter's reading of a square of `size` pixels around a pixel."""
    return meter.read(
        shown.frame.film,
        shown.clean,
        x=int(pixel[0]),
        y=int(pixel[1]),
        size=size,
        view=shown.document.view,
        desk=shown.document.desk,
    )


def radiance(shown: Print, pixel: tuple[float, float]) -> np.ndarray:
    """Return the mean radiance, cd/m2, of five by five pixels, with the desk as it stands."""
    film = shown.frame.film
    groups = meter.radiance_at(film, shown.clean, int(pixel[0]), int(pixel[1]), 5)
    return (groups * gains(film.group_names, shown.document.desk)).sum(0)


def colour(shown: Print, pixel: tuple[float, float]) -> tuple[float, float, float]:
    """Return the scene's colour at a pixel, exposed as the camera is, scaled so that its largest is at most 1."""
    exposed = np.maximum(radiance(shown, pixel) / shown.document.view.white_luminance, 0)
    return tuple(float(c) for c in exposed / max(1.0, float(exposed.max())))


def things_in(shown: Print, box: tuple[float, float, float, float]) -> tuple[str, ...]:
    """Return the things more than half of whose visible pixels lie in a box (u0, v0, u1, v1) of the picture."""
    prepared, film = shown.frame.prepared, shown.frame.film
    if prepared is None:
        return ()
    width, height = film.size
    x0, y0, x1, y1 = (round(share * n) for share, n in zip(box, (width, height, width, height)))
    seen = film.first_seen + 1
    n = len(prepared.object_ids) + 1
    inside = np.bincount(seen[max(y0, 0) : y1, max(x0, 0) : x1].ravel(), minlength=n)[1:]
    whole = np.bincount(seen.ravel(), minlength=n)[1:]
    things = prepared.object_ids[: len(prepared.object_ids) - prepared.n_lamps]
    return tuple(id for i, id in enumerate(things) if inside[i] and 2 * inside[i] > whole[i])

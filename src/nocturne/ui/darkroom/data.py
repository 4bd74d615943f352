"""Pictures of data: passes that are no light, outlines of what is chosen."""

import numpy as np
from PySide6.QtGui import QColor, QImage

from nocturne.film.film import Film
from nocturne.ui.frame import Frame
from nocturne.ui.theme import tokens as t


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

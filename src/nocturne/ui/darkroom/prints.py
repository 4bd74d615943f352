"""Developed pictures, and what they are developed from."""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from PySide6.QtGui import QImage

from nocturne.colour.lookup import LookUpTable
from nocturne.film.layout import PASS_NAMES
from nocturne.rendering.request import Result
from nocturne.scene.document import Document
from nocturne.ui.frame import Frame

DATA_PASSES = ("albedo", "normal", "position", "depth", "noise")
SHOWN = ("beauty", *PASS_NAMES, *DATA_PASSES)


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
    """A developed picture; `second` and `difference` are there while it is compared with another.

    is_early: it stands in for a clean picture of a whole sample.
    """

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
    is_early: bool = False

    def result(self) -> Result:
        """Return the render that it was developed from."""
        return Result(self.frame.film, noise=self.frame.progress.noise, clean=self.clean, is_denoised=self.is_denoised)


def to_image(pixels: np.ndarray) -> QImage:
    """Return an image of (h, w, 4) RGBX bytes, in the format that windows are painted in."""
    height, width = pixels.shape[:2]
    given = QImage(pixels.data, width, height, 4 * width, QImage.Format.Format_RGBX8888)
    return given.convertToFormat(QImage.Format.Format_RGB32)

"""Setting: text in lines, at a height of one capital, about its middle."""

import sys
from dataclasses import dataclass, replace
from functools import lru_cache
from importlib.metadata import version

import numpy as np

from nocturne.kept import kept
from nocturne.lettering import directions, faces, outlines, shaping
from nocturne.lettering.faces import FontFile, files_of
from nocturne.lettering.outlines import joined
from nocturne.lettering.shaping import Glyph, capital_height, shaped

MOST = 2000  # characters
ALIGNED = ("left", "centre", "right")


@dataclass(frozen=True, eq=False)
class Artwork:
    """Set text: its outlines, in heights of a capital, about the middle of the block.

    pieces: (n, 3, 2) begin, handle and end, what is inside to their left. low, high: (2,) corners of what is drawn.
    block: (2,) width of the widest line, and height from the topmost capital to the lowest baseline.
    """

    pieces: np.ndarray
    low: np.ndarray
    high: np.ndarray
    block: np.ndarray


@lru_cache(maxsize=64)
def set_text(
    words: str, face: str, *, align: str = "centre", spacing: float = 0.0, leading: float = 1.6, direction: str = "auto"
) -> Artwork:
    """Return text as artwork; lines are parted by line breaks.

    Parameters
    ----------
    words : str
        What it says, in any script; what goes beyond `MOST` characters is left out.
    face : str
        As in `faces`.
    align : str
        "left", "centre" or "right".
    spacing, leading : float
        Added between letters, and from line to line; in heights of a capital.
    direction : str
        "auto" as the first letter of each line, "ltr" or "rtl".
    """
    files = files_of(face)
    hangs_on = (words[:MOST], align, repr((spacing, leading)), direction, *map(_told_by, files), version("uharfbuzz"))
    sources = tuple(module.__file__ for module in (sys.modules[__name__], directions, faces, outlines, shaping))
    pieces, low, high, block = kept(
        "text", hangs_on, sources, lambda: _set(words, files, align, spacing, leading, direction)
    )
    pieces.flags.writeable = False
    return Artwork(pieces, low, high, block)


def _told_by(file: FontFile) -> str:
    """Return what tells a font from what another version of it may be."""
    try:
        about = file.path.stat()
    except OSError:
        return ""
    return f"{file.path} {file.index} {about.st_size} {about.st_mtime_ns}"


def _set(
    words: str, files: tuple[FontFile, ...], align: str, spacing: float, leading: float, direction: str
) -> tuple[np.ndarray, ...]:
    """Return what artwork is made of."""
    capital = capital_height(files[0])
    right_to_left = {"ltr": False, "rtl": True}.get(direction)
    lines = [
        shaped(line, files, spacing=spacing * capital, right_to_left=right_to_left)
        for line in words[:MOST].replace("\r", "").expandtabs(4).split("\n")
    ]
    widest = max((width for _, width in lines), default=0.0)
    tall = capital + (len(lines) - 1) * leading * capital
    share = ALIGNED.index(align) / 2
    placed: list[Glyph] = []
    for k, (glyphs, width) in enumerate(lines):
        x = -0.5 * widest + share * (widest - width)
        y = 0.5 * tall - capital - k * leading * capital
        placed += [replace(glyph, x=glyph.x + x, y=glyph.y + y) for glyph in glyphs]
    pieces = joined(placed) / capital
    low, high = pieces.reshape(-1, 2).min(0, initial=0.0), pieces.reshape(-1, 2).max(0, initial=0.0)
    if len(pieces):
        low, high = pieces.reshape(-1, 2).min(0), pieces.reshape(-1, 2).max(0)
    return pieces, low, high, np.array([widest, tall]) / capital

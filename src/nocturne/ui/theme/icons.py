"""The icons: characters of a thin-line font, drawn in the colours of the interface."""

import json
from functools import cache
from pathlib import Path

from PySide6.QtCore import QRect, QSize, Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QIcon, QPainter, QPixmap

from nocturne.ui.theme import tokens as t

FONT = Path(__file__).with_suffix(".ttf")
CHARACTERS = FONT.with_suffix(".json")  # of each icon, by its name; `tools/icons.py` writes both

# What icons mean here, and their names in the set.
NAMES = {
    "set": "cube",
    "materials": "swatches",
    "light": "lamp",
    "camera": "aperture",
    "render": "film-strip",
    "finish": "circle-half",
    "group": "folder-simple",
    "thing": "cube",
    "eye": "eye",
    "hidden": "eye-slash",
    "locked": "lock-simple",
    "scatter": "dots-nine",
    "cutaway": "selection-background",
    "add": "plus",
    "copy": "copy-simple",
    "remove": "trash",
    "undo": "arrow-counter-clockwise",
    "redo": "arrow-clockwise",
    "export": "export",
    "rect": "square",
    "disc": "record",
    "tube": "minus",
    "distant": "arrow-line-down",
    "sphere": "circle",
    "spot": "flashlight",
    "point": "sun-dim",
    "environment": "globe-hemisphere-west",
    "dome": "cloud",
    "sun": "sun",
    "sky": "sun-horizon",
    "portal": "frame-corners",
    "view": "camera",
    "quality": "sliders-horizontal",
    "save": "floppy-disk",
    "denoise": "sparkle",
    "list": "list-bullets",
    "star": "star",
    "compare": "columns",
    "guides": "grid-four",
    "stops": "stack",
    "scopes": "chart-bar",
}

OFF = "#6a6a6a"
_SCALES = (1, 2, 3)  # of screens
_FILLS = 0.875  # of its square, an icon's font size


@cache
def _set() -> tuple[QFont, dict[str, str]]:
    """Load the font and return it, with the character of each name."""
    number = QFontDatabase.addApplicationFont(str(FONT))
    characters = json.loads(CHARACTERS.read_text())
    return QFont(QFontDatabase.applicationFontFamilies(number)[0]), {name: chr(c) for name, c in characters.items()}


def _drawn(name: str, colour: str, side: int) -> QPixmap:
    """Return an icon of so many pixels."""
    font, characters = _set()
    out = QPixmap(side, side)
    out.fill(Qt.GlobalColor.transparent)
    with QPainter(out) as painter:
        sized = QFont(font)
        sized.setPixelSize(round(_FILLS * side))
        painter.setFont(sized)
        painter.setPen(QColor(colour))
        painter.drawText(QRect(0, 0, side, side), Qt.AlignmentFlag.AlignCenter, characters[NAMES[name]])
    return out


@cache
def icon(name: str, colour: str = t.INK, *, on: str = "") -> QIcon:
    """Return a thin-line icon; `on` is its colour when checked.

    Drawn once for each scaling and state, and not anew for each row of a list.
    """
    out = QIcon()
    for scale in _SCALES:
        for state, ink in ((QIcon.State.Off, colour), (QIcon.State.On, on or colour)):
            for mode, shown in ((QIcon.Mode.Normal, ink), (QIcon.Mode.Disabled, OFF)):
                pixmap = _drawn(name, shown, t.ICON_PX * scale)
                pixmap.setDevicePixelRatio(scale)
                out.addPixmap(pixmap, mode, state)
                if mode == QIcon.Mode.Normal:
                    out.addPixmap(pixmap, QIcon.Mode.Selected, state)
    return out


def icon_size() -> QSize:
    """Return the size of icons."""
    return QSize(t.ICON_PX, t.ICON_PX)

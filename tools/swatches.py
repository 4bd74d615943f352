"""The sheet of swatches that ships, and the page of them in the docs.

    PYTHONPATH=src .venv/bin/python tools/swatches.py [--samples 96]

Swatches of materials that have not changed are kept from the sheet that is there.
"""

import argparse
import json
import os
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtGui import QColor, QGuiApplication, QImage, QPainter

from nocturne.stock import sheet
from nocturne.stock.library import shipped
from nocturne.swatch.render import swatch
from nocturne.ui.darkroom.prints import to_image
from nocturne.ui.theme.style import font

PAGE = Path(__file__).resolve().parents[1] / "docs" / "materials.jpg"
_ACROSS, _GAP, _WORDS, _HEADING = 8, 10, 22, 34


def _swatches(samples: int) -> dict[str, QImage]:
    before, places = QImage(str(sheet.PICTURE)), sheet.places()
    old = sheet.old(shipped())
    found = {}
    for id, one in shipped().items():
        if id in places and id not in old and not before.isNull():
            x, y, size = places[id]
            found[id] = before.copy(x, y, size, size)
            continue
        top, *below = one.materials
        pixels = swatch(
            top,
            {},
            below=tuple(below),
            stand=one.stand,
            size_m=one.size_m,
            pixels=sheet.PIXELS,
            samples=samples,
            threads=os.cpu_count() or 1,
        )
        found[id] = to_image(pixels).copy()
    return found


def _sheet(found: dict[str, QImage]) -> None:
    rows = -(-len(found) // sheet.ACROSS)
    image = QImage(sheet.ACROSS * sheet.PIXELS, rows * sheet.PIXELS, QImage.Format.Format_RGB32)
    image.fill(0)
    painter = QPainter(image)
    for i, picture in enumerate(found.values()):
        painter.drawImage(i % sheet.ACROSS * sheet.PIXELS, i // sheet.ACROSS * sheet.PIXELS, picture)
    painter.end()
    image.save(str(sheet.PICTURE), "JPG", 92)
    made_of = {id: sheet.digest(one) for id, one in shipped().items()}
    sheet.ABOUT.write_text(json.dumps(made_of, indent=0) + "\n", encoding="utf-8")


def _page(found: dict[str, QImage]) -> None:
    size = sheet.PIXELS
    kinds: dict[str, list] = {}
    for one in shipped().values():
        kinds.setdefault(one.kind, []).append(one)
    height = sum(_HEADING + -(-len(of) // _ACROSS) * (size + _WORDS + _GAP) for of in kinds.values()) + _GAP
    image = QImage(_ACROSS * (size + _GAP) + _GAP, height, QImage.Format.Format_RGB32)
    image.fill(QColor("#1f1f1f"))
    painter = QPainter(image)
    y = 0
    for kind, of in kinds.items():
        painter.setFont(font(17, weight=600))
        painter.setPen(QColor("#e6e6e6"))
        painter.drawText(_GAP, y + _HEADING - 9, kind)
        y += _HEADING
        painter.setFont(font(12))
        painter.setPen(QColor("#a6a6a6"))
        for i, one in enumerate(of):
            x, down = _GAP + i % _ACROSS * (size + _GAP), y + i // _ACROSS * (size + _WORDS + _GAP)
            painter.drawImage(x, down, found[one.id])
            painter.drawText(x, down + size + 15, one.name)
        y += -(-len(of) // _ACROSS) * (size + _WORDS + _GAP)
    painter.end()
    image.save(str(PAGE), "JPG", 88)


def main() -> None:
    """Render what is missing, and write both."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--samples", type=int, default=96)
    samples = parser.parse_args().samples
    QGuiApplication([])
    found = _swatches(samples)
    _sheet(found)
    _page(found)


if __name__ == "__main__":
    main()

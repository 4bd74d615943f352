"""The contact sheet as a PDF: a card for each proof, with its thumbnail, name, note and facts."""

from collections.abc import Iterator, Sequence
from contextlib import suppress
from datetime import datetime
from pathlib import Path
from typing import Any

from nocturne.errors import BadFile
from nocturne.io import proofs
from nocturne.io.atomic import replacing
from nocturne.io.proofs import Proof
from nocturne.jobs import Update, duration

_FONTS = Path(__file__).resolve().parents[1] / "ui" / "theme" / "fonts"
_PAGE = (297.0, 210.0)  # A4 across, millimetres
_MARGIN, _COLUMNS, _ROWS, _GAP = 14.0, 3, 2, 8.0


def write(path: Path, title: str, shown: Sequence[Proof], folder: Path) -> Iterator[Update]:
    """Write a PDF of proofs, six to a page; the last update's `result` is the path.

    Raises
    ------
    FileError
        If it cannot be written.
    """
    from fpdf import FPDF  # here, as it takes half a second to load
    from fpdf.errors import FPDFException

    pdf = FPDF(orientation="landscape", unit="mm", format="A4")
    pdf.set_auto_page_break(False)
    pdf.set_title(title)
    pdf.set_creator("Nocturne")
    font = next(iter(sorted(_FONTS.glob("*egular*.ttf")) or sorted(_FONTS.glob("*.ttf"))))
    pdf.add_font("sheet", "", str(font))
    width = (_PAGE[0] - 2 * _MARGIN - (_COLUMNS - 1) * _GAP) / _COLUMNS
    height = (_PAGE[1] - 2 * _MARGIN - 12 - (_ROWS - 1) * _GAP) / _ROWS
    try:
        for i, proof in enumerate(shown):
            yield Update(i, len(shown), f"Printing “{proof.name}”")
            k = i % (_COLUMNS * _ROWS)
            if k == 0:
                _start_page(pdf, title)
            x = _MARGIN + k % _COLUMNS * (width + _GAP)
            y = _MARGIN + 12 + k // _COLUMNS * (height + _GAP)
            _card(pdf, proof, folder / proof.id / proofs.THUMB, x, y, width, height)
        if not shown:
            _start_page(pdf, title)
        with replacing(path) as temporary:
            pdf.output(str(temporary))
    except FPDFException as error:
        raise BadFile(path, f"the contact sheet could not be printed ({error}).") from error
    yield Update(len(shown), max(len(shown), 1), "Printed", result=path)


def _start_page(pdf: Any, title: str) -> None:
    pdf.add_page()
    pdf.set_font("sheet", size=14)
    pdf.set_text_color(30)
    pdf.text(_MARGIN, _MARGIN + 4, title)
    pdf.set_font("sheet", size=9)
    pdf.set_text_color(110)
    pdf.text(_PAGE[0] - _MARGIN - 40, _MARGIN + 4, f"{datetime.now():%d %B %Y}   {pdf.page_no()}")


def _card(pdf: Any, proof: Proof, thumb: Path, x: float, y: float, width: float, height: float) -> None:
    picture = height - 19
    pdf.set_fill_color(238)
    pdf.rect(x, y, width, picture, style="F")
    with suppress(FileNotFoundError):  # a proof can go while the sheet is printed
        pdf.image(str(thumb), x, y, width, picture, keep_aspect_ratio=True)
    pdf.set_font("sheet", size=11)
    pdf.set_text_color(30)
    pdf.text(x, y + picture + 5, _cut(pdf, ("* " if proof.starred else "") + proof.name, width))
    pdf.set_font("sheet", size=8)
    pdf.set_text_color(110)
    noise = f"noise {proof.noise * 100:.1f} %" if proof.noise else "noise not known"
    facts = f"{proof.view}, {proof.quality}, {proof.width} x {proof.height}, {duration(proof.seconds)}, {noise}"
    pdf.text(x, y + picture + 9.5, _cut(pdf, facts, width))
    pdf.set_text_color(30)
    pdf.text(x, y + picture + 14, _cut(pdf, proof.note, width))


def _cut(pdf: Any, words: str, width: float) -> str:
    """Return words that fit into a width, millimetres."""
    if pdf.get_string_width(words) <= width:
        return words
    while words and pdf.get_string_width(words + "…") > width:
        words = words[:-1]
    return words + "…"

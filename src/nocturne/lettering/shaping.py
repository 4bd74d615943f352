"""Shaping: which glyphs stand for a line of text, and where; runs of one direction, script and font at a time."""

import unicodedata
from dataclasses import dataclass
from functools import lru_cache
from itertools import groupby

from nocturne.lettering.directions import in_order, levels
from nocturne.lettering.faces import FontFile

# Scripts whose letters join or hang from one line: letter spacing would tear them.
JOINED = frozenset("Arab Syrc Mong Nkoo Mand Adlm Rohg Deva Beng Guru".split())
_COMMON = ("Zyyy", "Zinh", "Zzzz")
_LANGUAGES = {"Hira": "ja", "Kana": "ja", "Hani": "ja", "Arab": "ar", "Hebr": "he", "Deva": "hi", "Hang": "ko"}


@dataclass(frozen=True)
class Glyph:
    """One glyph in its place: x and y of its origin, in em from the line's left end and its baseline."""

    font: FontFile
    id: int
    x: float
    y: float


@lru_cache(maxsize=64)
def hb_font(file: FontFile):
    """Return a font for shaping, its scale that of its own units."""
    import uharfbuzz as hb

    return hb.Font(hb.Face(hb.Blob.from_file_path(str(file.path)), file.index))


@lru_cache(maxsize=64)
def capital_height(file: FontFile) -> float:
    """Return how high a capital H is, in em; 0.7 where there is none."""
    font = hb_font(file)
    glyph = font.get_nominal_glyph(ord("H"))
    box = font.get_glyph_extents(glyph) if glyph else None
    return box.y_bearing / font.face.upem if box is not None and box.y_bearing > 0 else 0.7


def shaped(
    line: str, files: tuple[FontFile, ...], *, spacing: float = 0.0, right_to_left: bool | None = None
) -> tuple[list[Glyph], float]:
    """Return the glyphs of a line from left to right, and how wide it is, in em.

    spacing: added between letters, in em; scripts whose letters join stay as they are.
    """
    if not line:
        return [], 0.0
    level, script, font = levels(line, right_to_left=right_to_left), _scripts(line), _fonts(line, files)
    keys = list(zip(level, script, font))
    runs = [[k for k, _ in run] for _, run in groupby(enumerate(keys), key=lambda item: item[1])]
    codes = [ord(character) for character in line]
    placed, x = [], 0.0
    for at in in_order([level[run[0]] for run in runs]):
        run = runs[at]
        glyphs, width = _shaped_run(codes, run[0], len(run), *keys[run[0]], files, spacing)
        placed += [Glyph(glyph.font, glyph.id, glyph.x + x, glyph.y) for glyph in glyphs]
        x += width
    return placed, x - (spacing if script[-1] not in JOINED else 0.0)


def _shaped_run(
    codes: list[int],
    first: int,
    count: int,
    level: int,
    script: str,
    which: int,
    files: tuple[FontFile, ...],
    spacing: float,
) -> tuple[list[Glyph], float]:
    import uharfbuzz as hb

    font = hb_font(files[which])
    buffer = hb.Buffer()
    buffer.add_codepoints(codes, first, count)
    buffer.direction = "rtl" if level % 2 else "ltr"
    buffer.script = script
    buffer.language = _LANGUAGES.get(script, "en")
    is_spaced = spacing != 0.0 and script not in JOINED
    hb.shape(font, buffer, {"liga": False, "clig": False} if is_spaced else {})
    em = float(font.face.upem)
    out, x, y = [], 0.0, 0.0
    infos, positions = buffer.glyph_infos, buffer.glyph_positions
    for k, (info, position) in enumerate(zip(infos, positions)):
        out.append(Glyph(files[which], info.codepoint, x + position.x_offset / em, y + position.y_offset / em))
        x += position.x_advance / em
        y += position.y_advance / em
        is_last = k + 1 == len(infos) or infos[k + 1].cluster != info.cluster
        if is_spaced and is_last:
            x += spacing
    return out, x


def _scripts(line: str) -> list[str]:
    """Return the script of each character; those that belong to all take that of what they stand beside."""
    from fontTools import unicodedata as data

    found = [data.script(character) for character in line]
    last = next((script for script in found if script not in _COMMON), "Latn")
    for k, script in enumerate(found):
        found[k] = last = last if script in _COMMON else script
    return found


def _fonts(line: str, files: tuple[FontFile, ...]) -> list[int]:
    """Return which font has each character; marks and joiners stay with what they follow."""
    out: list[int] = []
    for character in line:
        goes_along = unicodedata.category(character) in ("Mn", "Mc", "Me", "Cf", "Zs")
        before = out[-1] if out else 0
        order = [before, *range(len(files))] if goes_along else range(len(files))
        has = (k for k in order if hb_font(files[k]).get_nominal_glyph(ord(character)))
        out.append(next(has, before if goes_along else 0))
    return out

"""Make the fonts that ship for lettering: from whole files of the families, what signs are written with.

`python tools/fonts.py FOLDER` looks for the files below FOLDER by name and writes smaller ones, without instructions
for screens, to `src/nocturne/lettering/fonts`. All are under the SIL Open Font License; their notices are in OFL.txt.
"""

import sys
from pathlib import Path

from fontTools import subset
from fontTools.ttLib import TTFont

OUT = Path(__file__).resolve().parents[1] / "src" / "nocturne" / "lettering" / "fonts"


def spans(*pairs: tuple[int, int]) -> set[int]:
    """Return all characters of spans, both ends with them."""
    return {code for low, high in pairs for code in range(low, high + 1)}


def of_level_1() -> set[int]:
    """Return signs, kana and the kanji of level 1 of JIS X 0208: what nearly all that is written needs."""
    found = set()
    for row in [*range(1, 9), *range(16, 48)]:
        for cell in range(1, 95):
            try:
                found.add(ord(bytes([0xA0 + row, 0xA0 + cell]).decode("euc_jp")))
            except UnicodeDecodeError:
                continue
    return found


LETTERS = spans((0x20, 0x7E), (0xA0, 0x17F), (0x192, 0x192), (0x218, 0x21B), (0x300, 0x36F), (0x370, 0x3FF))
LETTERS |= spans((0x400, 0x52F), (0x1E00, 0x1FFF), (0x2000, 0x206F), (0x20A0, 0x20BF), (0x2100, 0x214F))
SIGNS = spans((0x2190, 0x21FF), (0x2460, 0x24FF), (0x25A0, 0x27BF))
JAPANESE = of_level_1() | spans((0x3000, 0x30FF), (0xFF01, 0xFF9F)) | SIGNS
HEBREW = spans((0x590, 0x5FF), (0xFB1D, 0xFB4F))
EVERYTHING = None

FONTS = {
    "NotoSans_700Bold.ttf": ("sans-letters.ttf", LETTERS),
    "NotoSansJP_700Bold.ttf": ("sans-japanese.ttf", JAPANESE),
    "NotoSansArabic_700Bold.ttf": ("sans-arabic.ttf", EVERYTHING),
    "NotoSansHebrew_700Bold.ttf": ("sans-hebrew.ttf", EVERYTHING),
    "NotoSansDevanagari_700Bold.ttf": ("sans-devanagari.ttf", EVERYTHING),
    "MPLUSRounded1c_800ExtraBold.ttf": ("round-letters.ttf", LETTERS | HEBREW | JAPANESE),
    "BalooBhaijaan2_800ExtraBold.ttf": ("round-arabic.ttf", spans((0x600, 0x6FF), (0x750, 0x77F), (0xFB50, 0xFEFF))),
    "Baloo2_800ExtraBold.ttf": ("round-devanagari.ttf", spans((0x900, 0x97F), (0x200C, 0x200D), (0x25CC, 0x25CC))),
}


def main(folder: Path) -> None:
    """Write all of them."""
    for name, (to, wanted) in FONTS.items():
        font = TTFont(next(folder.rglob(name)))
        options = subset.Options(hinting=False, layout_features=["*"], notdef_outline=True, glyph_names=False)
        smaller = subset.Subsetter(options)
        smaller.populate(unicodes=set(font.getBestCmap()) if wanted is None else wanted)
        smaller.subset(font)
        font.save(OUT / to)
        print(f"{to}: {(OUT / to).stat().st_size / 1000:.0f} kB")


if __name__ == "__main__":
    main(Path(sys.argv[1]))

"""Setting of text: against another rasteriser with its own shaping, script by script, and by what scripts demand."""

from itertools import pairwise

import numpy as np
import pytest
from PIL import Image, ImageDraw, ImageFont

from nocturne.lettering import faces
from nocturne.lettering.distance import by_table, table
from nocturne.lettering.setting import MOST, set_text
from nocturne.lettering.shaping import JOINED, capital_height, shaped

SCRIPTS = {
    "Latin": ("Vogt & Åström", "sans-letters"),
    "Greek": ("Ωρολόγιο", "sans-letters"),
    "Cyrillic": ("Часовщик й", "sans-letters"),
    "Japanese": ("天文時計はるか★", "sans-japanese"),
    "Arabic": ("ساعة الكواكب لا", "sans-arabic"),
    "Arabic with numbers": ("قمر ١٢ مدار", "sans-arabic"),
    "Hebrew": ("שָׁעוֹן הכוכבים", "sans-hebrew"),
    "Devanagari": ("क्षत्रिय खगोलीय घड़ी", "sans-devanagari"),
    "round": ("Mars №5 火星", "round-letters"),
    "round Arabic": ("كوكب", "round-arabic"),
    "round Devanagari": ("ग्रह हिन्दी", "round-devanagari"),
}
SIZE, FINER = 40, 6


def drawn_elsewhere(words: str, part: str) -> np.ndarray:
    """Return (h, w) coverage of words in one font by FreeType, shaped and ordered by Raqm.

    Drawn larger and made smaller: it puts glyphs at whole pixels.
    """
    font = ImageFont.truetype(str(faces._SHIPPED / f"{part}.ttf"), SIZE * FINER, layout_engine=ImageFont.Layout.RAQM)
    left, top, right, bottom = font.getbbox(words)
    room = [-(-(int(v) + 40 * FINER) // FINER) * FINER for v in (right - left, bottom - top)]
    image = Image.new("L", room)
    ImageDraw.Draw(image).text((20 * FINER - left, 20 * FINER - top), words, fill=255, font=font)
    fine = np.asarray(image) / 255
    return fine.reshape(room[1] // FINER, FINER, room[0] // FINER, FINER).mean((1, 3))


@pytest.mark.parametrize("script", SCRIPTS)
def test_letters_are_those_of_another_rasteriser(script, monkeypatch):
    words, part = SCRIPTS[script]
    file = faces.FontFile(faces._SHIPPED / f"{part}.ttf")
    monkeypatch.setattr("nocturne.lettering.setting.files_of", lambda face: (file,))
    set_text.cache_clear()
    art = set_text(words, part)
    set_text.cache_clear()
    other = drawn_elsewhere(words, part)
    unit = 1 / (SIZE * capital_height(file))  # of a pixel, in heights of a capital
    y, x = np.mgrid[: other.shape[0], : other.shape[1]] + 0.5
    # Both are about the middle of what they cover.
    middle = np.array([(x * other).sum(), (y * other).sum()]) / other.sum()
    own_middle = _middle(art.pieces)
    places = np.stack([(x - middle[0]) * unit, -(y - middle[1]) * unit], axis=-1) + own_middle
    covered = np.clip(0.5 - by_table(table(art), places) / unit, 0, 1)
    assert covered.sum() == pytest.approx(other.sum(), rel=0.02)
    assert np.abs(covered - other).sum() < 0.06 * other.sum(), np.abs(covered - other).sum() / other.sum()


def _middle(pieces: np.ndarray) -> np.ndarray:
    """Return the centroid (2,) of what closed pieces go around, as fine polygons."""
    t = np.linspace(0, 1, 33)[:, None, None]
    a, b, c = (pieces[:, k] for k in range(3))
    line = (1 - t) ** 2 * a + 2 * t * (1 - t) * b + t * t * c
    p, q = line[:-1].reshape(-1, 2), line[1:].reshape(-1, 2)
    turn = p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0]
    return ((p + q) * turn[:, None]).sum(0) / (3 * turn.sum())


def test_a_capital_is_one_high_and_lines_stand_under_each_other():
    art = set_text("H\nHHH", "sans", align="left", leading=2.0)
    assert art.high[1] - art.low[1] == pytest.approx(3.0, abs=0.01)
    assert art.high[1] == pytest.approx(-art.low[1], abs=0.01), "about the middle of the block"
    first = art.pieces[art.pieces[:, 0, 1] > 0]
    centred, right = (set_text("H\nHHH", "sans", align=a, leading=2.0) for a in ("centre", "right"))
    moved = [p.pieces[p.pieces[:, 0, 1] > 0][:, 0, 0].min() - first[:, 0, 0].min() for p in (centred, right)]
    wide = set_text("HHH", "sans").block[0] - set_text("H", "sans").block[0]
    assert moved == pytest.approx([wide / 2, wide], abs=1e-6)


def test_joined_scripts_are_joined_and_spacing_does_not_tear_them():
    def glyphs(words, **values):
        return shaped(words, faces.files_of("sans"), **values)

    alone = {glyph.id for letter in "بيت" for glyph in glyphs(letter)[0]}
    together = {glyph.id for glyph in glyphs("بيت")[0]}
    assert len(together - alone) == 3, "each letter has the form of its place; only dots are the same"
    for words in ("بيت", "हिन्दी"):
        assert glyphs(words, spacing=0.5)[1] == glyphs(words)[1]
    apart = glyphs("abc", spacing=0.5)[1] - glyphs("abc")[1]
    assert apart == pytest.approx(1.0, abs=1e-6)
    assert "Arab" in JOINED
    # The short i is written before the letter that it is spoken after.
    with_i, without = glyphs("कि")[0], glyphs("क")[0]
    assert with_i[-1].id == without[0].id
    assert with_i[-1].x > 0
    # Fewer outlines than letters: they are one line where they join.
    assert len(_loops(set_text("لل", "sans").pieces)) == 1


def _loops(pieces: np.ndarray) -> list[int]:
    return [k for k in range(len(pieces)) if k == 0 or (pieces[k, 0] != pieces[k - 1, 2]).any()]


def test_words_of_two_directions_stand_as_read():
    files = faces.files_of("sans")
    glyphs, _ = shaped("ab אב 12", files)
    at = {k: [glyph.x for glyph in glyphs if glyph.id == shaped(k, files)[0][0].id] for k in "abאב12"}
    order = [at[k][0] for k in ("a", "b", "1", "2", "ב", "א")]  # numbers follow what runs to the left
    assert all(a < b for a, b in pairwise(order)), order
    right_to_left, _ = shaped("ab אב", files, right_to_left=True)
    assert max(right_to_left, key=lambda glyph: glyph.x).id == shaped("b", files)[0][0].id


def test_what_a_face_lacks_another_has_and_unknown_faces_are_the_sans():
    glyphs, _ = shaped("aक空ש", faces.files_of("round"))
    assert [glyph.font.path.stem for glyph in glyphs] == [
        "round-letters",
        "round-devanagari",
        "round-letters",
        "round-letters",
    ]
    assert faces.files_of("Nobody's Grotesque") == faces.files_of("sans")
    assert not faces.is_known("Nobody's Grotesque")
    assert len({glyph.font.path.stem for glyph in shaped("aשक空ب", faces.files_of("sans"))[0]}) == 5


def test_installed_fonts_are_found_by_name_and_what_is_no_font_is_left_out(tmp_path, monkeypatch):
    folder = tmp_path / "fonts" / "deep"
    folder.mkdir(parents=True)
    (folder / "own.ttf").write_bytes((faces._SHIPPED / "sans-hebrew.ttf").read_bytes())
    (folder / "broken.otf").write_bytes(b"OTTO" + bytes(20))
    (folder / "empty.ttf").write_bytes(b"")
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    monkeypatch.setenv("XDG_DATA_DIRS", str(tmp_path / "none"))
    monkeypatch.setenv("HOME", str(tmp_path / "nobody"))
    faces.installed.cache_clear()
    try:
        assert list(faces.installed()) == ["Noto Sans Hebrew Bold"]
        assert faces.files_of("Noto Sans Hebrew Bold")[0].path == folder / "own.ttf"
        assert set_text("אב", "Noto Sans Hebrew Bold").block[0] > 1
    finally:
        faces.installed.cache_clear()


def test_odd_words_are_set_without_a_fault():
    for words in (
        "",
        "\n\n",
        " ",
        "\u200f\u200e",
        "\ud7ff\ufffd",
        "a\u0301\u0301\u0301",
        "😀",
        "\t\r\n",
        "x" * (MOST + 50),
    ):
        art = set_text(words, "sans")
        assert np.isfinite(art.pieces).all()
        assert np.isfinite(by_table(table(art), np.zeros((1, 2)))).all()

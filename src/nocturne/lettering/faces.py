"""Faces to letter with: those that ship, and those installed on this machine.

A face is named in the document by a word ("sans", "round") or by the full name of an installed font. It is a list of
font files: what one lacks, the next one has, and the sans at the end of each list covers seven scripts.
"""

import logging
import os
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from nocturne.jobs import Update

_LOG = logging.getLogger(__name__)
_SHIPPED = Path(__file__).parent / "fonts"
_PARTS = {
    "sans": ("sans-letters", "sans-hebrew", "sans-arabic", "sans-devanagari", "sans-japanese"),
    "round": ("round-letters", "round-arabic", "round-devanagari"),
}
SHIPPED = {"sans": "Sans, bold", "round": "Round, extra bold"}  # words of the document, and what they are called
_ENDINGS = (".ttf", ".otf", ".ttc", ".otc")
_MOST_FILES = 20_000


@dataclass(frozen=True)
class FontFile:
    """One font: a file, and which one of those in it."""

    path: Path
    index: int = 0


def files_of(face: str) -> tuple[FontFile, ...]:
    """Return the fonts of a face in the order in which they are asked; of an unknown one, those of the sans."""
    own = [FontFile(_SHIPPED / f"{part}.ttf") for part in _PARTS.get(face, ())]
    if not own and face in installed():
        own = [installed()[face]]
    others = [FontFile(_SHIPPED / f"{part}.ttf") for part in _PARTS["sans"]]
    return tuple(own + [file for file in others if file not in own])


def is_known(face: str) -> bool:
    """Return True if a face ships or is installed here."""
    return face in SHIPPED or face in installed()


@cache
def installed() -> dict[str, FontFile]:
    """Return the fonts installed on this machine by full name, sorted; the first call reads all their names.

    Those that draw pictures instead of outlines, and files that are no fonts, are left out.
    """
    found: dict[str, FontFile] = {}
    for k, path in enumerate(_paths()):
        if k == _MOST_FILES:
            _LOG.warning("more than %s font files: the others are left out", _MOST_FILES)
            break
        for index, name in _names(path):
            found.setdefault(name, FontFile(path, index))
    return dict(sorted(found.items(), key=lambda item: item[0].casefold()))


def are_read() -> bool:
    """Return True if the installed fonts have been read, so that asking for them takes no time."""
    return installed.cache_info().currsize > 0


def read() -> Iterator[Update]:
    """Read the names of the installed fonts, so that they are there when they are wanted."""
    yield Update(0, 1, "Read fonts")
    yield Update(1, 1, "Read fonts", result=len(installed()))


def _folders() -> list[Path]:
    home = Path.home()
    data = os.environ.get("XDG_DATA_HOME") or str(home / ".local" / "share")
    shared = os.environ.get("XDG_DATA_DIRS") or "/usr/local/share:/usr/share"
    return [Path(folder) / "fonts" for folder in (data, *shared.split(":")) if folder] + [home / ".fonts"]


def _paths() -> Iterator[Path]:
    for folder in _folders():
        for root, _, names in os.walk(folder):
            for name in sorted(names):
                if name.lower().endswith(_ENDINGS):
                    yield Path(root) / name


def _names(path: Path) -> list[tuple[int, str]]:
    from fontTools.ttLib import TTCollection, TTFont, TTLibError

    try:
        with path.open("rb") as file:  # its own, which a font that cannot be read would leave open
            if path.suffix.lower() in (".ttc", ".otc"):
                fonts = TTCollection(file, lazy=True).fonts
            else:
                fonts = [TTFont(file, lazy=True)]
            return [(k, name) for k, font in enumerate(fonts) if (name := _full_name(font))]
    except (TTLibError, OSError, ValueError, KeyError, AttributeError, IndexError, AssertionError) as error:
        _LOG.info("%s is left out of the fonts: %s", path, error)
        return []


def _full_name(font) -> str:
    if not any(table in font for table in ("glyf", "CFF ", "CFF2")):
        return ""
    names = font["name"]
    family = names.getDebugName(16) or names.getDebugName(1) or ""
    style = names.getDebugName(17) or names.getDebugName(2) or ""
    return f"{family} {style}".strip()

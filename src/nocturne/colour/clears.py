"""Measured clear substances: index and dispersion of liquids, glasses, plastics and crystals."""

import csv
from dataclasses import dataclass
from functools import cache
from pathlib import Path

TABLE = Path(__file__).with_name("clears.csv")
_SAME_INDEX, _SAME_ABBE = 2e-4, 0.06


@dataclass(frozen=True)
class Clear:
    """A clear substance as it was measured.

    index: at the yellow line of helium, 587.6 nm. abbe: its Abbe number (V_d), None for what parts no colours.
    """

    key: str
    kind: str
    name: str
    index: float
    abbe: float | None
    source: str


AIR = Clear("air", "Gas", "Air", 1.0, None, "By definition: indices are against air.")


@cache
def clears() -> dict[str, Clear]:
    """Return the shipped substances by key, air first, then by kind and rising index.

    The numbers are facts from the public domain, collected under CC0; each has its own source.
    """
    with TABLE.open(newline="", encoding="utf-8") as file:
        rows = [Clear(r["key"], r["kind"], r["name"], *_numbers(r), r["source"]) for r in csv.DictReader(file)]
    kinds = list(dict.fromkeys(row.kind for row in rows))
    rows.sort(key=lambda row: (kinds.index(row.kind), row.index))
    return {row.key: row for row in (AIR, *rows)}


def _numbers(row: dict[str, str]) -> tuple[float, float]:
    d, f, c = (float(row[name]) for name in ("n_d", "n_F", "n_C"))
    return d, (d - 1) / (f - c)


def known_as(index: float, abbe: float) -> Clear | None:
    """Return the substance that has an index and an Abbe number, None if none is shipped; air has no Abbe number."""
    for clear in clears().values():
        is_same = clear.abbe is None or abs(clear.abbe - abbe) <= _SAME_ABBE
        if is_same and abs(clear.index - index) <= _SAME_INDEX:
            return clear
    return None

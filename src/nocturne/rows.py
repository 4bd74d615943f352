"""Rows and tables of numbers that Python and compiled code both read, described once.

A `Row` names the places of a flat row; a `Field` names an array of a table. Offsets, widths and checks are made from
the descriptions, so that no number of a column stands anywhere else.
"""

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

DTYPES = {"i8": np.int64, "f8": np.float64, "f4": np.float32, "i4": np.int32, "u4": np.uint32, "u2": np.uint16}


class Part(NamedTuple):
    """Some places of a row next to each other: their name, how many (or the row that lies there), and what they mean.

    align: the offset is a multiple of so many places.
    """

    name: str
    width: "int | Row"
    meaning: str
    align: int = 1


class Row:
    """Where each part of a row of numbers lies.

    Parameters
    ----------
    *parts : Part
        In order; a part whose width is another row takes that row's width.
    multiple : int
        The row's own width is rounded up to a multiple of it.

    Raises
    ------
    ValueError
        If two parts have one name, or a part no width.
    """

    def __init__(self, *parts: Part, multiple: int = 1) -> None:
        self.parts = parts
        self.offsets: dict[str, int] = {}
        self._spans: dict[str, slice] = {}
        at = 0
        for part in parts:
            at = -(-at // part.align) * part.align
            width = part.width.width if isinstance(part.width, Row) else part.width
            if width < 1 or part.name in self.offsets:
                raise ValueError(f"{part.name} has no width, or stands twice in its row")
            self.offsets[part.name] = at
            self._spans[part.name] = slice(at, at + width)
            at += width
        self.width = -(-at // multiple) * multiple

    def span(self, name: str) -> slice:
        """Return where a part lies, as a slice of the row."""
        return self._spans[name]

    def filled(self, dtype: type, **values: object) -> np.ndarray:
        """Return a row of zeros but for the parts that are given by name.

        Raises
        ------
        KeyError
            If there is no such part.
        """
        out = np.zeros(self.width, dtype)
        for name, value in values.items():
            out[self.span(name)] = value
        return out


def constants(*rows: Row) -> dict[str, int]:
    """Return the offsets of rows by name, for a module to hold: compiled code takes constants from modules.

    Raises
    ------
    ValueError
        If two rows of one module name the same part.
    """
    found: dict[str, int] = {}
    for row in rows:
        twice = found.keys() & row.offsets.keys()
        if twice:
            raise ValueError(f"{', '.join(sorted(twice))} stands in two rows of one module")
        found |= row.offsets
    return found


@dataclass(frozen=True)
class Field:
    """One array of a table: its name, dtype code, shape and meaning.

    A length of the shape is a number, a `Row` (its width), or None: read from the table.
    """

    name: str
    dtype: str
    lengths: tuple[int | Row | None, ...]
    meaning: str

    @property
    def shape(self) -> tuple[int | None, ...]:
        """Return the shape with each row's width in its place."""
        return tuple(length.width if isinstance(length, Row) else length for length in self.lengths)

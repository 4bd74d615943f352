"""Measured n and k of a metal, from a table of text."""

from pathlib import Path

from nocturne.colour import metals
from nocturne.errors import BadFile, MissingFile
from nocturne.io.paths import is_file

_MOST_BYTES = 4_000_000


def read(path: Path) -> tuple[tuple[float, float, float], ...]:
    """Return rows of wavelength in nm, n and k, see `colour.metals.read_csv`.

    Raises
    ------
    FileError
        If it is missing, far too large, or no such table.
    """
    if not is_file(path):
        raise MissingFile(path, "there is no such file.", hint="Was it moved or renamed?")
    if path.stat().st_size > _MOST_BYTES:
        raise BadFile(path, "it is far too large for a table of n and k.", hint="Choose a table of three columns.")
    try:
        return metals.read_csv(path.read_text(encoding="utf-8-sig", errors="replace"))
    except ValueError as error:
        raise BadFile(path, str(error), hint="Three columns are read: wavelength in nm or um, n, k.") from error

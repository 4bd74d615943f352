"""Look-up tables in: .cube files, read by OpenColorIO."""

import hashlib
import re
import tempfile
from pathlib import Path

import numpy as np
import PyOpenColorIO as ocio

from nocturne.colour.lookup import LookUpTable
from nocturne.errors import BadFile, FileError, MissingFile, UnknownFormat
from nocturne.io.paths import is_file

READS = (".cube",)
SIZE = 48
_LARGEST_BYTES = 64 << 20
_LARGEST_VALUE = 65504.0  # the library keeps tables in half precision, where more is infinite
_TITLE = re.compile(r"^\s*TITLE\b.*$", re.MULTILINE | re.IGNORECASE)
_HUGE = re.compile(r"(?<![\w.])[-+]?(?:\d{5,}(?:\.\d*)?(?:[eE][-+]?\d+)?|\d+(?:\.\d*)?[eE]\+?\d+)(?![\w.])")


def read(path: Path | str) -> LookUpTable:
    """Return a table, also as (48, 48, 48, 3) float32 at evenly spaced red, green, blue in 0..1.

    Raises
    ------
    FileError
        If it is missing, of another kind, too large or damaged.
    """
    path = Path(path)
    if path.suffix.lower() not in READS:
        raise UnknownFormat(path, "look-up tables of this kind are not read.", hint="Use a .cube file.")
    if not is_file(path):
        raise MissingFile(path, "there is no such file.", hint="Was it moved or renamed?")
    try:
        if path.stat().st_size > _LARGEST_BYTES:
            raise BadFile(path, "it is far too large for a look-up table.", hint="Is it really one?")
        text = path.read_bytes().decode("latin-1")
    except OSError as error:
        raise FileError(path, f"it cannot be read ({error.strerror}).") from error
    axis = np.linspace(0, 1, SIZE, dtype=np.float32)
    grid = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1)
    try:
        processor = _processor(_plain(text))
        made = _applied(processor, grid)
    except ocio.Exception as error:
        said = _reason(str(error))
        raise BadFile(path, f"it is not a readable table{said}.", hint="Export it again from where it came.") from error
    return LookUpTable(made, lambda rgb: _applied(processor, rgb))


def _plain(text: str) -> str:
    """Return a table's text without its title, which is refused with two tables, and with numbers that can be held."""

    def held(found: re.Match) -> str:
        value = float(found[0])
        return found[0] if abs(value) <= _LARGEST_VALUE else repr(_LARGEST_VALUE if value > 0 else -_LARGEST_VALUE)

    return _HUGE.sub(held, _TITLE.sub("", text)).encode("ascii", "replace").decode("ascii")


def _processor(text: str) -> ocio.CPUProcessor:
    # The library expands names such as $HOME in a path, and reads a path only once: each text gets a name of its own.
    name = f"{hashlib.sha256(text.encode()).hexdigest()[:24]}.cube"
    with tempfile.TemporaryDirectory(prefix="nocturne-table-") as folder:
        copy = Path(folder) / name
        copy.write_text(text, encoding="ascii")
        transform = ocio.FileTransform(src=str(copy), interpolation=ocio.INTERP_BEST)
        return ocio.Config.CreateRaw().getProcessor(transform).getDefaultCPUProcessor()


def _applied(processor: ocio.CPUProcessor, rgb: np.ndarray) -> np.ndarray:
    out = np.ascontiguousarray(np.clip(rgb, 0, 1), np.float32).reshape(-1, 3).copy()
    processor.applyRGB(out)
    return np.nan_to_num(out, nan=0.0, posinf=_LARGEST_VALUE, neginf=0.0).reshape(np.shape(rgb))


def _reason(said: str) -> str:
    """Return what the library found wrong, without where it read it from."""
    found = re.search(r"line\D*(\d+)", said)
    return f" (near line {found[1]})" if found else ""

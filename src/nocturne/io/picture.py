"""Finished pictures out, through OpenImageIO: PNG (8 or 16 bits), JPEG, TIFF."""

import tempfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
import OpenImageIO as oiio

from nocturne.colour.spaces import AP1, encode_srgb, working_to_rec709
from nocturne.errors import BadFile, UnknownFormat
from nocturne.io.atomic import write_encoded

_SLACK = 1e-3  # beyond 0 to 1, which rounding makes
WRITES = (".png", ".jpg", ".jpeg", ".tif", ".tiff")


def write(path: Path | str, shown: np.ndarray, *, bits: int = 8, metadata: dict[str, str] | None = None) -> None:
    """Write (h, w, 3) display values in 0..1.

    Raises
    ------
    FileError
        If the ending is unknown or the file cannot be written.
    """
    path = Path(path)
    suffix = path.suffix.lower()
    if suffix not in WRITES:
        raise UnknownFormat(path, "pictures of this kind are not written.", hint=f"Use one of {', '.join(WRITES)}.")
    if suffix in (".jpg", ".jpeg"):
        bits = 8
    top, dtype = (255, np.uint8) if bits == 8 else (65535, np.uint16)
    pixels = np.rint(np.clip(shown, 0, 1) * top).astype(dtype)
    spec = oiio.ImageSpec(pixels.shape[1], pixels.shape[0], 3, "uint8" if bits == 8 else "uint16")
    spec.attribute("oiio:ColorSpace", "sRGB")
    spec.attribute("Software", "Nocturne")
    spec.attribute("compression", "jpeg:95" if bits == 8 and suffix.startswith(".j") else "zip")
    for name, value in (metadata or {}).items():
        spec.attribute(name, value)
    _write(path, spec, pixels)


def _write(path: Path, spec: oiio.ImageSpec, pixels: np.ndarray) -> None:
    def encode(name: str) -> None:
        writer = oiio.ImageOutput.create(f"picture{path.suffix.lower()}")
        ok = writer is not None and writer.open(name, spec) and writer.write_image(pixels)
        ok = ok and writer.close()
        if not ok:
            reason = (writer.geterror() if writer is not None else oiio.geterror()).strip()
            raise BadFile(path, f"it could not be encoded ({reason or 'unknown reason'}).")
        # Not every codec says so when it could not write all: the last line is read back.
        reader = oiio.ImageInput.open(name)
        last = reader.read_scanlines(0, 0, spec.height - 1, spec.height, 0, 0, 3, oiio.FLOAT) if reader else None
        if reader is not None:
            reader.close()
        if last is None:
            raise BadFile(path, "it could not be encoded whole.", hint="Is there enough memory and disk?")

    write_encoded(path, encode)


def write_float(path: Path | str, values: np.ndarray, *, space: str) -> None:
    """Write (h, w, 3) numbers as they are, 32-bit float TIFF; `space` says in the file what they are.

    Raises
    ------
    FileError
        If the ending is not a TIFF's or the file cannot be written.
    """
    path = Path(path)
    if path.suffix.lower() not in (".tif", ".tiff"):
        raise UnknownFormat(path, "32-bit float needs a TIFF or an EXR.", hint="Choose one of these.")
    spec = oiio.ImageSpec(values.shape[1], values.shape[0], 3, "float")
    spec.attribute("oiio:ColorSpace", space)
    spec.attribute("Software", "Nocturne")
    spec.attribute("compression", "zip")
    _write(path, spec, np.ascontiguousarray(values, np.float32))


def png_bytes(values: np.ndarray) -> bytes:
    """Return (h, w, 3) numbers 0..1 as a 16-bit PNG file."""
    return _file_of(".png", lambda path: write(path, values, bits=16))


def colour_bytes(values: np.ndarray) -> tuple[bytes, str]:
    """Return (h, w, 3) colours of the working space, 0..1, as a picture file, and its ending.

    A 16-bit PNG of sRGB; where one of them is none of Rec. 709's, an EXR in the working space, 16 bits for each number.
    """
    shown = values @ working_to_rec709().T
    if shown.min() >= -_SLACK and shown.max() <= 1 + _SLACK:
        return png_bytes(encode_srgb(np.maximum(shown, 0))), ".png"
    from nocturne.io.exr import write_layers

    layers = {"": np.asarray(values, np.float32)}
    return _file_of(".exr", lambda path: write_layers(path, layers, primaries=AP1, half=True)), ".exr"


def _file_of(ending: str, write: Callable[[Path], None]) -> bytes:
    with tempfile.TemporaryDirectory(prefix="nocturne-") as folder:
        path = Path(folder) / f"picture{ending}"
        write(path)
        return path.read_bytes()

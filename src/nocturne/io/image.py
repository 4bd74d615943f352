"""Pictures in, through OpenImageIO: EXR, HDR, PNG, JPEG, TIFF, TGA."""

from pathlib import Path

import numpy as np
import OpenImageIO as oiio

from nocturne.colour.spaces import decode_srgb, rec709_to_working
from nocturne.errors import BadFile, MissingFile, UnknownFormat

READS = (".exr", ".hdr", ".png", ".jpg", ".jpeg", ".tif", ".tiff", ".tga")
LINEAR = (".exr", ".hdr")
_LARGEST_MB = 4096
oiio.attribute("limits:imagesize_MB", _LARGEST_MB)
oiio.attribute("threads", 2)


def open_picture(path: Path) -> oiio.ImageInput:
    """Return an open reader.

    Raises
    ------
    FileError
        MissingFile, UnknownFormat by its ending, or BadFile with what the library found wrong.
    """
    if not path.is_file():
        raise MissingFile(path, "there is no such file.", hint="Was it moved or renamed?")
    if path.suffix.lower() not in READS:
        raise UnknownFormat(path, "pictures of this kind are not read.", hint=f"Use one of {', '.join(READS)}.")
    try:
        reader = oiio.ImageInput.open(str(path))
    except UnicodeDecodeError:  # the library quotes damaged names in what it says
        reader = None
    if reader is None:
        raise BadFile(path, f"it cannot be read ({_reason()}).", hint="Export it again from where it came.")
    return reader


def _reason() -> str:
    try:
        return (oiio.geterror() or "damaged").strip().splitlines()[0]
    except UnicodeDecodeError:
        return "damaged"


def describe(path: Path) -> dict:
    """Return size, channels, number type and metadata of a picture, without reading its pixels."""
    reader = open_picture(path)
    spec = reader.spec()
    out = {
        "kind": "picture",
        "width": spec.width,
        "height": spec.height,
        "channels": list(spec.channelnames),
        "type": str(spec.format),
        "metadata": {a.name: a.value for a in spec.extra_attribs if _is_plain(a.value)},
    }
    reader.close()
    return out


def _is_plain(value: object) -> bool:
    return isinstance(value, (int, float)) or (isinstance(value, str) and len(value) < 2000)


def read(path: Path, *, space: str = "colour") -> np.ndarray:
    """Return (h, w, 3) float32, top row first.

    space "colour": in the working space (from sRGB encoding, or linear Rec.709 for EXR and HDR without chromaticities
    of their own; ACEScg EXRs stay). "data": numbers as they are.

    Raises
    ------
    FileError
        If it is missing, unknown or damaged.
    """
    path = Path(path)
    reader = open_picture(path)
    spec = reader.spec()
    pixels = reader.read_image(0, 0, 0, min(spec.nchannels, 3), oiio.FLOAT)
    message = reader.geterror()
    reader.close()
    if pixels is None:
        raise BadFile(
            path,
            f"its pixels cannot be read ({(message or _reason()).strip().splitlines()[0]}).",
            hint="Export it again from where it came.",
        )
    pixels = np.asarray(pixels, np.float32).reshape(spec.height, spec.width, -1)
    if pixels.shape[2] < 3:
        pixels = np.repeat(pixels[..., :1], 3, axis=2)
    pixels = np.nan_to_num(pixels, nan=0.0, posinf=1e6, neginf=0.0)
    if space == "data":
        return np.ascontiguousarray(pixels)
    if path.suffix.lower() not in LINEAR:
        pixels = decode_srgb(pixels)
    elif _is_working(spec):
        return np.ascontiguousarray(pixels)
    return np.ascontiguousarray(pixels @ rec709_to_working().T, dtype=np.float32)


def _is_working(spec: oiio.ImageSpec) -> bool:
    chromaticities = spec.getattribute("chromaticities")
    return chromaticities is not None and abs(chromaticities[0] - 0.713) < 1e-3

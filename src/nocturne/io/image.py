"""Pictures in, through OpenImageIO: EXR, HDR, PNG, JPEG, TIFF, TGA."""

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
import OpenImageIO as oiio

from nocturne.colour.named import to_working
from nocturne.colour.spaces import AP1, decode_srgb, rec709_to_working, rgb_to_rgb
from nocturne.errors import BadFile, MissingFile, UnknownFormat
from nocturne.io.models.read import picture_inside
from nocturne.io.paths import is_file, numbered_files
from nocturne.jobs import FAULTS
from nocturne.scene.files import split
from nocturne.scene.numbered import is_tiles, place_of

READS = (".exr", ".hdr", ".png", ".jpg", ".jpeg", ".tif", ".tiff", ".tga")
LINEAR = (".exr", ".hdr")
_NAMED = "colour:"
_CHANNELS = {"red": 0, "green": 1, "blue": 2, "alpha": 3}
_STARTS = {
    b"\x89PNG": ".png",
    b"\xff\xd8\xff": ".jpg",
    b"v/1\x01": ".exr",
    b"#?": ".hdr",
    b"II*\0": ".tif",
    b"MM\0*": ".tif",
}
_WHOLE = {"uint8": oiio.UINT8, "uint16": oiio.UINT16}
_SAME_XY, _MOST_GAIN = 1e-4, 1e4  # of chromaticities, and of a matrix between spaces of real primaries
_MOST = 1e12  # brighter than anything, and far from where single precision ends
MOST_PIXELS = 16384 * 16384
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
    if not is_file(path):
        raise MissingFile(path, "there is no such file.", hint="Was it moved or renamed?")
    if path.suffix.lower() not in READS:
        raise UnknownFormat(path, "pictures of this kind are not read.", hint=f"Use one of {', '.join(READS)}.")
    try:
        reader = oiio.ImageInput.open(str(path), _as_stored())
    except UnicodeDecodeError:  # the library quotes damaged names in what it says
        reader = None
    if reader is None:
        raise BadFile(path, f"it cannot be read ({_reason()}).", hint="Export it again from where it came.")
    spec = reader.spec()
    if spec.width * spec.height > MOST_PIXELS:
        reader.close()
        raise BadFile(
            path,
            f"it says it is {spec.width} × {spec.height} pixels large; {MOST_PIXELS:,} are the most that are read.",
            hint="Make it smaller, or export it again.",
        )
    return reader


def _as_stored() -> oiio.ImageSpec:
    """Return what asks the library for numbers as they are in the file.

    By itself it multiplies colours by alpha where the file has them apart (PNG, TGA, TIFF), which darkens what is cut
    out at its edges, and destroys data whose fourth channel is no alpha at all.
    """
    asked = oiio.ImageSpec()
    asked.attribute("oiio:UnassociatedAlpha", 1)
    return asked


def is_picture(path: Path) -> bool:
    """Return True if a file is a picture of any kind that the library knows, whatever its ending says."""
    try:
        reader = oiio.ImageInput.open(str(path))
    except UnicodeDecodeError:
        return False
    if reader is None:
        oiio.geterror()  # else it would be told of another file
        return False
    reader.close()
    return True


def _reason() -> str:
    try:
        return (oiio.geterror() or "damaged").strip().splitlines()[0]
    except UnicodeDecodeError:
        return "damaged"


def describe(path: Path) -> dict:
    """Return size, channels, number type and metadata of a picture, without reading its pixels."""
    reader = open_picture(path)
    try:
        return _described(reader)
    except FAULTS as error:
        raise BadFile(path, f"what it says of itself cannot be read ({error}).") from error
    finally:
        reader.close()


def _described(reader: oiio.ImageInput) -> dict:
    spec = reader.spec()
    return {
        "kind": "picture",
        "width": spec.width,
        "height": spec.height,
        "channels": list(spec.channelnames),
        "type": str(spec.format),
        "metadata": {a.name: a.value for a in spec.extra_attribs if _is_plain(a.value)},
    }


def _is_plain(value: object) -> bool:
    return isinstance(value, (int, float)) or (isinstance(value, str) and len(value) < 2000)


def read(path: Path, *, space: str = "colour") -> np.ndarray:
    """Return (h, w, 3) float32, top row first.

    space "colour": in the working space (from sRGB encoding, or linear Rec.709 for EXR and HDR without chromaticities
    of their own). "data": numbers as they are. "red", "green", "blue", "alpha": that channel alone,
    as numbers. "colour:NAME": colours in a colour space of that name (`colour.named`). A path may lead into a model
    that holds pictures, after a "#"; where it names a set of tiles, the result is (up, across, h, w, 3).

    Raises
    ------
    FileError
        If it is missing, unknown or damaged.
    """
    path = Path(path)
    if is_tiles(path.name):
        return _all_tiles(path, space)
    file, mark, inner = split(str(path), "picture")
    if mark:
        with _taken_out(Path(file), inner) as taken:
            return read(taken, space=space)
    reader = open_picture(path)
    spec = reader.spec()
    message = ""
    channels = _CHANNELS.get(space)
    first, end = (0, min(spec.nchannels, 3)) if channels is None else _one_channel(spec, channels)
    is_linear = path.suffix.lower() in LINEAR
    whole = _WHOLE.get(str(spec.format)) if space == "colour" and not is_linear else None
    try:
        pixels = reader.read_image(0, 0, first, end, whole or oiio.FLOAT)
        message = reader.geterror()
    except FAULTS as error:
        pixels, message = None, str(error)
    finally:
        reader.close()
    if pixels is None:
        raise BadFile(
            path,
            f"its pixels cannot be read ({(message or _reason()).strip().splitlines()[0]}).",
            hint="Export it again from where it came.",
        )
    pixels = np.asarray(pixels, None if whole else np.float32).reshape(spec.height, spec.width, -1)
    if space == "alpha" and spec.nchannels in (1, 3):
        pixels = np.ones_like(pixels)
    if pixels.shape[2] < 3:
        pixels = np.repeat(pixels[..., :1], 3, axis=2)
    if whole:
        return _decoded(pixels)
    if str(spec.format) not in _WHOLE:
        pixels = np.clip(np.nan_to_num(pixels, nan=0.0, posinf=1e6, neginf=0.0), -_MOST, _MOST)
    if space.startswith(_NAMED):
        try:
            return to_working(pixels, space.removeprefix(_NAMED))
        except ValueError as error:
            raise BadFile(path, f"{error}.", hint="Choose one of the list, or read it by the file.") from error
    if space != "colour":
        return np.ascontiguousarray(pixels)
    if not is_linear:
        return _in_working_space(decode_srgb(pixels))
    matrix = _to_working(spec, path)
    return np.ascontiguousarray(pixels if matrix is None else pixels @ matrix.T.astype(np.float32))


def _all_tiles(path: Path, space: str) -> np.ndarray:
    """Return (up, across, h, w, 3) of a set of tiles: as large as its largest one, black where there is none."""
    files = numbered_files(path)
    if not files:
        raise MissingFile(path, "there is no tile of that name.", hint="Were they moved or renamed?")
    places = {place_of(number): file for number, file in files.items()}
    across, up = (1 + max(place[k] for place in places) for k in (0, 1))
    sizes = [(spec["width"], spec["height"]) for spec in map(describe, places.values())]
    width, height = (max(size[k] for size in sizes) for k in (0, 1))
    if across * up * width * height > MOST_PIXELS:
        raise BadFile(
            path,
            f"its tiles are {across} × {up} of {width} × {height} pixels together; {MOST_PIXELS:,} pixels are the most "
            "that are read.",
            hint="Make them smaller, or use fewer.",
        )
    whole = np.zeros((up, across, height, width, 3), np.float32)
    for (x, y), file in places.items():
        whole[y, x] = _sized(read(file, space=space), height, width)
    return whole


def _sized(image: np.ndarray, height: int, width: int) -> np.ndarray:
    """Return a picture as large as others: a smaller one is drawn larger."""
    if image.shape[:2] == (height, width):
        return image
    spec = oiio.ROI(0, width, 0, height, 0, 1, 0, 3)
    made = oiio.ImageBufAlgo.resize(oiio.ImageBuf(np.ascontiguousarray(image)), filtername="triangle", roi=spec)
    return np.asarray(made.get_pixels(oiio.FLOAT), np.float32).reshape(height, width, 3)


def _one_channel(spec: oiio.ImageSpec, k: int) -> tuple[int, int]:
    """Return the range of channels that holds one: of a grey picture the grey, alpha is the last."""
    if k == 3:
        return spec.nchannels - 1, spec.nchannels
    k = k if spec.nchannels >= 3 else 0
    return k, k + 1


def ending_of(data: bytes) -> str:
    """Return the ending of a picture's file by how it starts, "" if it is of no kind that is read inside models."""
    return next((ending for start, ending in _STARTS.items() if data.startswith(start)), "")


@contextmanager
def _taken_out(model: Path, name: str) -> Iterator[Path]:
    """Give a temporary file of a picture that is inside a model."""
    data = picture_inside(model, name)
    suffix = ending_of(data)
    if not suffix:
        raise UnknownFormat(
            f"{model}#{name}", "pictures of this kind are not read.", hint="Export the model with PNG or JPEG pictures."
        )
    with tempfile.TemporaryDirectory(prefix="nocturne-") as folder:
        taken = Path(folder) / f"picture{suffix}"
        taken.write_bytes(data)
        yield taken


def _decoded(pixels: np.ndarray) -> np.ndarray:
    """Return sRGB-encoded whole numbers in the working space: there are few of them, so each is decoded once."""
    most = np.iinfo(pixels.dtype).max
    return _in_working_space(np.take(decode_srgb(np.arange(most + 1) / most).astype(np.float32), pixels))


def _in_working_space(linear: np.ndarray) -> np.ndarray:
    """Return linear Rec.709 in the working space."""
    return np.ascontiguousarray(linear @ rec709_to_working().T.astype(linear.dtype), dtype=np.float32)


def as_read(encoded: np.ndarray, *, space: str) -> np.ndarray:
    """Return what `read` would return of (h, w, 3) values in 0..1 once they were written with 8 bits."""
    pixels = np.rint(np.clip(encoded, 0, 1) * 255).astype(np.uint8)
    return pixels.astype(np.float32) / 255 if space == "data" else _decoded(pixels)


def _to_working(spec: oiio.ImageSpec, path: Path) -> np.ndarray | None:
    """Return the (3, 3) matrix from a linear picture's own primaries and white to the working space; None: it is there.

    The primaries are those that the file states (OpenEXR, standard attributes: chromaticities), else of Rec.709.

    Raises
    ------
    BadFile
        If what it states spans no colours.
    """
    stated = spec.getattribute("chromaticities")
    if stated is None or len(stated) != 8:
        return rec709_to_working()
    primaries = tuple(zip(*[iter(round(float(v), 6) for v in stated)] * 2))
    if np.abs(np.subtract(primaries, AP1)).max() < _SAME_XY:
        return None
    try:
        with np.errstate(all="ignore"):
            matrix = rgb_to_rgb(primaries, AP1)
    except (ZeroDivisionError, np.linalg.LinAlgError):
        matrix = np.full((3, 3), np.nan)
    if not np.isfinite(matrix).all() or np.abs(matrix).max() > _MOST_GAIN:
        raise BadFile(path, "the primaries that it states are none.", hint="Choose its colour space by name.")
    return matrix

"""Multi-layer OpenEXR out: beauty, light groups, path passes, guides, mattes, the denoised picture, metadata."""

import json
import re
from collections.abc import Mapping
from pathlib import Path

import numpy as np
import OpenEXR

from nocturne import __version__
from nocturne.colour.spaces import AP1
from nocturne.errors import BadFile, MissingFile
from nocturne.film.film import PASS_NAMES, Film
from nocturne.io import cryptomatte
from nocturne.io.atomic import replacing
from nocturne.scene.desk import Cue, gains
from nocturne.scene.document import Document

_CHROMATICITIES = tuple(value for xy in AP1 for value in xy)


def layer_name(name: str) -> str:
    """Return a name that can be part of a channel name: dots part layers, so they become underscores."""
    return re.sub(r"[^\w\- ]+", "_", name).strip() or "_"


def _rgb(channels: dict, layer: str, picture: np.ndarray, letters: str = "RGB") -> None:
    for k, letter in enumerate(letters):
        name = f"{layer}.{letter}" if layer else letter
        channels[name] = np.ascontiguousarray(picture[..., k], np.float32)


def channels_of(film: Film, *, denoised: np.ndarray | None = None, cues: tuple[Cue, ...] = ()) -> tuple[dict, dict]:
    """Return all channels of a film by name, and the mattes' metadata.

    denoised: (g, h, w, 3) denoised groups. cues: desk states to add as mixed layers `cue.<name>`.
    """
    channels: dict[str, np.ndarray] = {}
    _rgb(channels, "", film.beauty())
    channels["A"] = np.ascontiguousarray(film.alpha, np.float32)
    for i, name in enumerate(film.group_names):
        _rgb(channels, f"group.{layer_name(name)}", film.group(i))
    for name in PASS_NAMES:
        _rgb(channels, name, film.light_pass(name))
    _rgb(channels, "albedo", film.albedo)
    _rgb(channels, "normal", film.normal, "XYZ")
    _rgb(channels, "position", film.position, "XYZ")
    channels["depth.Z"] = np.ascontiguousarray(film.depth, np.float32)
    if denoised is not None:
        _rgb(channels, "denoised", denoised.sum(0))
    for cue in cues:
        mixed = film.beauty(gains(film.group_names, cue.strips))
        if denoised is not None:
            mixed = np.einsum("gyxc,gc->yxc", denoised, gains(film.group_names, cue.strips))
        _rgb(channels, f"cue.{layer_name(cue.name)}", mixed)
    metadata: dict[str, str] = {}
    for which, (layer, names) in enumerate((("crypto_object", film.objects), ("crypto_material", film.materials))):
        more, about = cryptomatte.layers(layer, film.ids[:, :, which], film.coverage[:, :, which], film.samples, names)
        channels.update(more)
        metadata.update(about)
    return channels, metadata


def write_film(
    path: Path | str,
    film: Film,
    document: Document,
    *,
    seed: int = 0,
    view: str = "",
    quality: str = "",
    denoised: np.ndarray | None = None,
    cues: tuple[Cue, ...] = (),
) -> None:
    """Write everything a film holds, 32-bit float, ZIP, with document, settings and desk as metadata.

    Raises
    ------
    FileError
        If the file cannot be written.
    """
    channels, metadata = channels_of(film, denoised=denoised, cues=cues)
    header = {
        "compression": OpenEXR.ZIP_COMPRESSION,
        "type": OpenEXR.scanlineimage,
        "chromaticities": _CHROMATICITIES,
        "software": f"Nocturne {__version__}",
        "nocturne/document": document.model_dump_json(),
        "nocturne/desk": json.dumps([strip.model_dump() for strip in document.desk]),
        "nocturne/groups": json.dumps(list(film.group_names)),
        "nocturne/view": view or document.view.name,
        "nocturne/quality": quality or document.quality.name,
        "nocturne/seed": str(seed),
        "nocturne/samples": f"{film.mean_samples:.2f}",
        "nocturne/seconds": f"{film.seconds:.2f}",
        **metadata,
    }
    with replacing(path) as temporary:
        try:
            OpenEXR.File(header, channels).write(str(temporary))
        except (RuntimeError, ValueError) as error:
            raise BadFile(
                path, f"it could not be written ({error}).", hint="Is the disk full, or the folder read-only?"
            ) from error


def read_header(path: Path | str) -> tuple[Mapping, list[str], tuple[int, int]]:
    """Return (attributes, channel names, (width, height)) of an EXR.

    Raises
    ------
    FileError
        If it is missing or damaged.
    """
    path = Path(path)
    if not path.is_file():
        raise MissingFile(path, "there is no such file.", hint="Was it moved or renamed?")
    try:
        with OpenEXR.File(str(path), header_only=True) as file:
            header = dict(file.header())
            names = [channel.name for channel in header.get("channels", [])]
            low, high = header["dataWindow"]
            return header, names, (int(high[0] - low[0]) + 1, int(high[1] - low[1]) + 1)
    except (RuntimeError, ValueError, KeyError, TypeError) as error:
        raise BadFile(
            path,
            f"it is not a readable EXR ({str(error).splitlines()[0]}).",
            hint="Export it again from where it came.",
        ) from error

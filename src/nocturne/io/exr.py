"""Multi-layer OpenEXR out: beauty, light groups, path passes, guides, mattes, the denoised picture, metadata."""

import json
import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import OpenEXR

from nocturne import __version__
from nocturne.colour.spaces import AP1
from nocturne.errors import BadFile, MissingFile
from nocturne.film.film import Film
from nocturne.film.layout import GUIDES, PASS_NAMES
from nocturne.io import cryptomatte
from nocturne.io.atomic import write_encoded
from nocturne.io.distinct import distinct
from nocturne.io.migrate import migrated
from nocturne.io.paths import is_file
from nocturne.jobs import FAULTS
from nocturne.scene.desk import Cue, gains
from nocturne.scene.document import FORMAT_VERSION, Document

_LARGEST_VALUES = 1 << 31
_CHROMATICITIES = tuple(value for xy in AP1 for value in xy)


def layer_name(name: str) -> str:
    """Return a name that can be part of a channel name: dots part layers, so they become underscores."""
    return re.sub(r"[^\w\- ]+", "_", name).strip() or "_"


def layer_names(names: Sequence[str]) -> list[str]:
    """Return a layer's name for each name, no two the same; later ones get a number."""
    return distinct(layer_name(name) for name in names)


def _rgb(channels: dict, layer: str, picture: np.ndarray, letters: str = "RGB") -> None:
    for k, letter in enumerate(letters):
        name = f"{layer}.{letter}" if layer else letter
        channels[name] = np.ascontiguousarray(picture[..., k], np.float32)


def channels_of(
    film: Film, *, denoised: np.ndarray | None = None, cues: tuple[Cue, ...] = (), mattes: bool = True
) -> tuple[dict, dict]:
    """Return all channels of a film by name, and the mattes' metadata.

    denoised: (g, h, w, 3) denoised groups, added as `clean.<group>` and their sum. cues: desk states to add as mixed
    layers `cue.<name>`.
    """
    channels: dict[str, np.ndarray] = {}
    _rgb(channels, "", film.beauty())
    channels["A"] = np.ascontiguousarray(film.alpha, np.float32)
    groups = layer_names(film.group_names)
    for i, name in enumerate(groups):
        _rgb(channels, f"group.{name}", film.group(i))
    for name in PASS_NAMES:
        _rgb(channels, name, film.light_pass(name))
    _rgb(channels, "albedo", film.albedo)
    _rgb(channels, "normal", film.normal, "XYZ")
    _rgb(channels, "position", film.position, "XYZ")
    channels["depth.Z"] = np.ascontiguousarray(film.depth, np.float32)
    if denoised is not None:
        _rgb(channels, "denoised", denoised.sum(0))
        for i, name in enumerate(groups):
            _rgb(channels, f"clean.{name}", denoised[i])
    for cue, name in zip(cues, layer_names([cue.name for cue in cues])):
        mixed = film.beauty(gains(film.group_names, cue.strips))
        if denoised is not None:
            mixed = np.einsum("gyxc,gc->yxc", denoised, gains(film.group_names, cue.strips))
        _rgb(channels, f"cue.{name}", mixed)
    metadata: dict[str, str] = {}
    if not mattes:
        return channels, metadata
    for which, (layer, names) in enumerate((("matte.object", film.objects), ("matte.material", film.materials))):
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
    compact: bool = False,
    half: bool = False,
) -> None:
    """Write everything a film holds, 32-bit float, ZIP, with document, settings and desk as metadata.

    compact: without mattes, and with 24 bits for each number (PXR24), which mattes would not survive. half: 16 bits for
    light and normals; distances, places and mattes keep 32.

    Raises
    ------
    FileError
        If the file cannot be written.
    """
    channels, metadata = channels_of(film, denoised=denoised, cues=cues, mattes=not compact)
    if half:
        channels = {name: _halved(name, values) for name, values in channels.items()}
    header = {
        "compression": OpenEXR.PXR24_COMPRESSION if compact else OpenEXR.ZIP_COMPRESSION,
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
    _write(path, header, channels)


_WANT_FLOAT = ("depth.", "position.", "matte.")


def _halved(name: str, values: np.ndarray) -> np.ndarray:
    if name.startswith(_WANT_FLOAT):
        return values
    return np.clip(values, -65504, 65504).astype(np.float16)


def write_layers(
    path: Path | str,
    layers: Mapping[str, np.ndarray],
    *,
    primaries: tuple,
    half: bool = False,
    metadata: Mapping[str, str] | None = None,
) -> None:
    """Write (h, w, 1) or (h, w, 3) layers by name ("" for the picture itself), ZIP.

    primaries: x, y of red, green, blue and white, written as chromaticities.

    Raises
    ------
    FileError
        If the file cannot be written.
    """
    channels: dict[str, np.ndarray] = {}
    for layer, values in layers.items():
        letters = "Z" if values.shape[2] == 1 else "RGB"
        _rgb(channels, layer_name(layer) if layer else "", values, letters)
    if half:
        channels = {name: _halved(name, values) for name, values in channels.items()}
    header = {
        "compression": OpenEXR.ZIP_COMPRESSION,
        "type": OpenEXR.scanlineimage,
        "chromaticities": tuple(value for xy in primaries for value in xy),
        "software": f"Nocturne {__version__}",
        **(metadata or {}),
    }
    _write(path, header, channels)


def _write(path: Path | str, header: dict, channels: dict) -> None:
    def encode(name: str) -> None:
        try:
            OpenEXR.File(header, channels).write(name)
        except (RuntimeError, ValueError) as error:
            raise BadFile(path, f"it could not be encoded ({error}).") from error

    write_encoded(path, encode)


@dataclass(frozen=True, eq=False, repr=False)
class Saved:
    """A render read back: its light, denoised groups (g, h, w, 3) if it has them, and what its metadata says."""

    film: Film
    clean: np.ndarray | None
    document: Document | None
    samples: float
    seconds: float


def read_film(path: Path | str) -> Saved:
    """Return the light of a saved render, with or without the scene it was made from.

    Light groups are the layers `group.<name>`; a picture without any is one group, “light”.

    Raises
    ------
    FileError
        If it is missing, damaged, or holds no picture.
    """
    path = Path(path)
    header, names, (width, height) = read_header(path)
    if width * height * len(names) > _LARGEST_VALUES:
        raise BadFile(path, f"it is too large to open ({width} × {height}, {len(names)} channels).")
    try:
        with OpenEXR.File(str(path), separate_channels=True) as file:
            channels = {name: channel.pixels for name, channel in file.channels().items()}
    except FAULTS as error:
        said = (str(error).splitlines() or ["damaged"])[0]
        raise BadFile(
            path, f"its pixels cannot be read ({said}).", hint="Export it again from where it came."
        ) from error
    layers = list(dict.fromkeys(n.split(".")[1] for n in channels if n.startswith("group.") and n.count(".") == 2))
    wanted = _listed(header.get("nocturne/groups")) or layers
    layer_of = {name: layer for name, layer in zip(wanted, layer_names(wanted)) if f"group.{layer}.R" in channels}
    groups = tuple(layer_of)
    if not groups and not {"R", "G", "B"} <= set(channels):
        raise BadFile(path, "it has neither light groups nor a picture in red, green and blue.")
    film = Film.blank(width, height, groups or ("light",))
    film.samples[:] = 1
    if groups:
        for i, name in enumerate(groups):
            film.groups[i] = _layer(channels, f"group.{layer_of[name]}", film.groups[i])
    else:
        film.groups[0] = _layer(channels, "", film.groups[0])
    for i, name in enumerate(PASS_NAMES):
        film.passes[i] = _layer(channels, name, film.passes[i])
    guides = {
        "ALBEDO": _layer(channels, "albedo", film.albedo),
        "NORMAL": _layer(channels, "normal", film.normal, "XYZ"),
        "POSITION": _layer(channels, "position", film.position, "XYZ"),
        "DEPTH": channels.get("depth.Z", film.depth)[..., None],
        "ALPHA": channels.get("A", np.ones((height, width), np.float32))[..., None],
    }
    for name, values in {**guides, "CLEAN_NORMAL": guides["NORMAL"]}.items():
        film.guides[..., GUIDES.span(name)] = values
    clean = None
    if groups and all(f"clean.{layer}.R" in channels for layer in layer_of.values()):
        clean = np.stack([_layer(channels, f"clean.{layer}", film.groups[0]) for layer in layer_of.values()])
    film.seconds = _number(header.get("nocturne/seconds"))
    return Saved(film, clean, _document(header), _number(header.get("nocturne/samples")), film.seconds)


def _layer(channels: dict, layer: str, otherwise: np.ndarray, letters: str = "RGB") -> np.ndarray:
    names = [f"{layer}.{letter}" if layer else letter for letter in letters]
    if not all(name in channels for name in names):
        return otherwise.copy()
    return np.nan_to_num(np.stack([channels[name] for name in names], axis=-1).astype(np.float32))


def _listed(text: object) -> list[str]:
    try:
        found = json.loads(text) if isinstance(text, str) else []
    except ValueError:
        return []
    return [name for name in found if isinstance(name, str)] if isinstance(found, list) else []


def _number(text: object) -> float:
    try:
        value = float(text) if isinstance(text, str) else 0.0
    except ValueError:
        return 0.0
    return value if math.isfinite(value) and abs(value) < 1e12 else 0.0


def _document(header: Mapping) -> Document | None:
    """Return the document a render was made from, None if it has none that can be read."""
    try:
        raw = json.loads(header["nocturne/document"])
        return Document.model_validate(migrated(raw, FORMAT_VERSION)) if isinstance(raw, dict) else None
    except (KeyError, ValueError, TypeError, RecursionError):
        return None


def read_header(path: Path | str) -> tuple[Mapping, list[str], tuple[int, int]]:
    """Return (attributes, channel names, (width, height)) of an EXR.

    Raises
    ------
    FileError
        If it is missing or damaged.
    """
    path = Path(path)
    if not is_file(path):
        raise MissingFile(path, "there is no such file.", hint="Was it moved or renamed?")
    try:
        with OpenEXR.File(str(path), header_only=True) as file:
            header = dict(file.header())
            names = [channel.name for channel in header.get("channels", [])]
            low, high = header["dataWindow"]
            return header, names, (int(high[0] - low[0]) + 1, int(high[1] - low[1]) + 1)
    except FAULTS as error:
        said = (str(error).splitlines() or ["damaged"])[0]
        raise BadFile(
            path,
            f"it is not a readable EXR ({said}).",
            hint="Export it again from where it came.",
        ) from error

"""Exporting a render: which files an order makes, and writing them."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from nocturne.colour.lookup import LookUpTable
from nocturne.colour.spaces import AP0, AP1, REC709, rgb_to_rgb
from nocturne.deliver.naming import DEFAULT, file_name
from nocturne.errors import NocturneError
from nocturne.film.film import Film
from nocturne.film.layout import PASS_NAMES
from nocturne.io import exr, picture
from nocturne.io.distinct import distinct
from nocturne.jobs import Update
from nocturne.rendering.request import Result
from nocturne.scene.desk import Cue, Strip, gains
from nocturne.scene.document import Document

TYPES = (("exr", "OpenEXR"), ("png", "PNG"), ("tif", "TIFF"), ("jpg", "JPEG"))
DEPTHS = {
    "exr": (("half", "16-bit half"), ("float", "32-bit float")),
    "png": (("8", "8 bits"), ("16", "16 bits")),
    "tif": (("8", "8 bits"), ("16", "16 bits"), ("float", "32-bit float")),
    "jpg": (("8", "8 bits"),),
}
# Linear spaces keep the light as it is, without exposure and grade; "display" is the graded picture, as on the screen.
SPACES = {
    "display": "As shown (sRGB)",
    "acescg": "Linear ACEScg",
    "aces": "Linear ACES2065-1",
    "rec709": "Linear Rec.709",
}
SPACES_OF = {
    "exr": ("acescg", "aces", "rec709", "display"),
    "png": ("display",),
    "tif": ("display", "acescg", "rec709"),
    "jpg": ("display",),
}
_PRIMARIES = {"acescg": AP1, "aces": AP0, "rec709": REC709}
DATA = ("albedo", "normal", "position", "depth")


@dataclass(frozen=True)
class Order:
    """What is to be put out.

    cues: ids, each its own picture; beauty: the picture as the desk stands; groups, passes: light groups, and path or
    data passes by name. together: one multi-layer EXR with everything, mattes too, instead of one file each.
    """

    folder: Path
    template: str = DEFAULT
    type: str = "exr"
    depth: str = "half"
    space: str = "acescg"
    beauty: bool = True
    cues: tuple[str, ...] = ()
    groups: bool = False
    passes: tuple[str, ...] = ()
    together: bool = False
    denoised: bool = True


@dataclass(frozen=True)
class Item:
    """One file of an order: its path and what is in it."""

    path: Path
    what: str  # "beauty", "cue", "group", "pass", "all"
    name: str = ""


def items(order: Order, document: Document, film: Film) -> list[Item]:
    """Return the files that an order makes, in order.

    Raises
    ------
    NocturneError
        If the template is wrong, or nothing is ordered.
    """
    width, height = film.size
    facts = {
        "project": document.name,
        "view": document.view.name,
        "quality": document.quality.name,
        "width": str(width),
        "height": str(height),
    }
    wanted: list[tuple[str, str, dict]] = []
    if order.together and order.type == "exr":
        wanted.append(("all", "", {}))
    else:
        if order.beauty:
            wanted.append(("beauty", "", {}))
        for id in order.cues:
            cue = document.find("cues", id)
            if cue is not None:
                wanted.append(("cue", id, {"cue": cue.name}))
        if order.groups:
            wanted += [("group", name, {"pass": name}) for name in film.group_names]
        wanted += [("pass", name, {"pass": name}) for name in order.passes]
    if not wanted:
        raise NocturneError("Nothing is ordered.", hint="Tick the picture, a cue, the light groups or a pass.")
    template = order.template
    # A template that cannot tell files apart gets what does at its end.
    for what, token in (("cue", "{cue}"), ("pass", "{pass}")):
        if token not in template and any(w[0] == what or (what == "pass" and w[0] == "group") for w in wanted):
            template += f"-{token}"
    names = distinct((file_name(template, facts | more) for _, _, more in wanted), fold=str.casefold)
    return [Item(order.folder / f"{name}.{order.type}", what, of) for name, (what, of, _) in zip(names, wanted)]


def export(
    order: Order,
    result: Result,
    document: Document,
    *,
    luts: Mapping[str, LookUpTable],
) -> Iterator[Update]:
    """Write an order's files from a render; the last update's `result` is the list of paths.

    Raises
    ------
    NocturneError
        If the order is wrong or a file cannot be written; files that are done stay.
    """
    film, clean = result.film, result.clean if order.denoised else None
    files = items(order, document, film)
    for i, item in enumerate(files):
        yield Update(i, len(files), f"Writing {item.path.name}")
        if item.what == "all":
            cues = tuple(cue for cue in document.cues if cue.id in order.cues)
            exr.write_film(item.path, film, document, denoised=clean, cues=cues, half=order.depth == "half")
        elif order.type == "exr" and order.space == "display" and item.what == "pass" and item.name in DATA:
            # Numbers stay numbers where the file can hold them; only 8 and 16 bits need them scaled.
            _write_light(item, replace(order, space="rec709"), film, document, clean)
        elif order.space == "display":
            _write_shown(item, order, film, document, clean, luts)
        else:
            _write_light(item, order, film, document, clean)
    yield Update(len(files), len(files), "Written", result=[item.path for item in files])


def _desk(item: Item, document: Document) -> tuple[Strip, ...]:
    cue: Cue | None = document.find("cues", item.name) if item.what == "cue" else None
    return cue.strips if cue is not None else document.desk


def data_of(film: Film, name: str) -> np.ndarray:
    """Return (h, w, 3) or (h, w, 1) numbers of a data pass, as they are."""
    values = getattr(film, name)
    return values[..., None] if values.ndim == 2 else values


def _write_shown(item: Item, order: Order, film: Film, document: Document, clean, luts) -> None:
    """Write a graded picture; data passes never see the grade or the view, only a scale that fits the file."""
    # Imported here: the window reads this module before the engine is compiled.
    from nocturne.finish.develop import Light, develop

    view, finish = document.view, document.finish
    if item.what == "pass" and item.name in DATA:
        shown = _fitted(data_of(film, item.name), item.name)
    elif item.what == "pass":
        i = PASS_NAMES.index(item.name)
        shown = develop(
            Light(film.passes[i : i + 1], film.samples, (item.name,)),
            view=view,
            desk=(),
            finish=finish,
            luts=luts,
            exact=True,
        )
    else:
        light = Light.of(film, clean)
        desk = _desk(item, document)
        if item.what == "group":
            i = film.group_names.index(item.name)
            light = Light(light.groups[i : i + 1], light.samples, (item.name,))
            desk = tuple(s.model_copy(update={"solo": False}) for s in document.desk if s.group == item.name)
        shown = develop(light, view=view, desk=desk, finish=finish, luts=luts, exact=True)
    if item.path.suffix == ".exr":
        layers = {"": shown}
        exr.write_layers(
            item.path, layers, primaries=REC709, half=order.depth == "half", metadata=_about(document, "sRGB")
        )
        return
    if order.depth == "float":
        picture.write_float(item.path, shown, space="sRGB")
        return
    picture.write(item.path, shown, bits=int(order.depth))


def _fitted(values: np.ndarray, name: str) -> np.ndarray:
    """Return (h, w, 3) values of a data pass in 0..1: normals from -1..1, depth and position over their own range."""
    if name == "albedo":
        out = values
    elif name == "normal":
        out = values * 0.5 + 0.5
    else:
        low, high = values.reshape(-1, values.shape[-1]).min(0), values.reshape(-1, values.shape[-1]).max(0)
        out = (values - low) / np.maximum(high - low, 1e-9)
    out = np.repeat(out, 3, axis=2) if out.shape[2] == 1 else out
    return np.ascontiguousarray(np.clip(out, 0, 1), np.float32)


def light_of(item: Item, film: Film, document: Document, clean: np.ndarray | None) -> np.ndarray:
    """Return (h, w, 3) scene-linear radiance, cd/m2, of a picture, cue or path pass, or a group without the desk."""
    if item.what == "pass":
        return film.light_pass(item.name)
    if item.what == "group":
        i = film.group_names.index(item.name)
        return clean[i] if clean is not None else film.group(i)
    mix = gains(film.group_names, _desk(item, document))
    return np.einsum("gyxc,gc->yxc", clean, mix) if clean is not None else film.beauty(mix)


def _write_light(item: Item, order: Order, film: Film, document: Document, clean) -> None:
    primaries = _PRIMARIES[order.space]
    is_data = item.what == "pass" and item.name in DATA and item.name != "albedo"
    values = (
        data_of(film, item.name) if item.what == "pass" and item.name in DATA else light_of(item, film, document, clean)
    )
    if not is_data and order.space != "acescg":
        values = values @ rgb_to_rgb(AP1, primaries).T
    if item.path.suffix == ".exr":
        layer = "depth" if item.name == "depth" else ""
        # Distances and places need more than eleven bits.
        half = order.depth == "half" and item.name not in ("depth", "position")
        metadata = _about(document, order.space)
        exr.write_layers(item.path, {layer: values}, primaries=primaries, half=half, metadata=metadata)
    elif order.depth == "float":
        values = np.repeat(values, 3, axis=2) if values.shape[2] == 1 else values
        picture.write_float(item.path, values, space=order.space)
    else:
        raise NocturneError("Linear light needs 32-bit float in a TIFF.", hint="Choose that depth, or OpenEXR.")


def _about(document: Document, space: str) -> dict[str, str]:
    return {"nocturne/view": document.view.name, "nocturne/quality": document.quality.name, "nocturne/space": space}

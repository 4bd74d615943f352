"""What each kind of file is, by its ending; `describe` says in a few facts what is in one."""

from pathlib import Path

import numpy as np

from nocturne.errors import MissingFile, UnknownFormat
from nocturne.io import exr, image, project
from nocturne.io.models import read as models
from nocturne.io.models.arrival import Arrival
from nocturne.io.paths import is_file
from nocturne.scene.patterns import every
from nocturne.scene.thing import Thing


def available_formats() -> dict[str, tuple[str, ...]]:
    """Return the endings of every kind of file that can be read."""
    return {"project": (project.SUFFIX,), "model": models.READS, "picture": image.READS}


def describe(path: Path | str) -> dict:
    """Return what is in a file, as plain values.

    Raises
    ------
    FileError
        If it is missing, of an unknown kind, or damaged.
    """
    path = Path(path)
    if path.is_dir() or path.suffix == project.SUFFIX:
        return _project(path)
    if not is_file(path):
        raise MissingFile(path, "there is no such file.", hint="Check its name.")
    suffix = path.suffix.lower()
    if suffix in models.READS:
        return _model(path)
    if suffix == ".exr":
        return _exr(path)
    if suffix in image.READS:
        return image.describe(path)
    known = ", ".join(ending for endings in available_formats().values() for ending in endings)
    raise UnknownFormat(path, "this kind of file is not known.", hint=f"Known are {known}.")


def _project(path: Path) -> dict:
    document = project.read_document(path)
    return {
        "kind": "project",
        "name": document.name,
        "version": document.version,
        "things": len(document.things),
        "materials": [m.name for m in document.materials],
        "lights": [light.name for light in document.lights],
        "light_groups": list(document.light_groups),
        "views": [v.name for v in document.views],
        "cues": [c.name for c in document.cues],
        "qualities": [q.name for q in document.qualities],
    }


def _model(path: Path) -> dict:
    arrival = models.read(path)
    size = np.ptp(arrival.bounds(), axis=0) * arrival.unit_m if arrival.parts else np.zeros(3)
    lists = {
        "missing": arrival.missing,
        "outside_its_folder": arrival.outside,
        "mended": arrival.mended,
        "without_equal": arrival.lost,
    }
    told = {key: list(value) for key, value in lists.items() if value}
    pictures = sorted({step.path for m in arrival.materials for step in every(m.steps) if step.picture})
    if not arrival.things and not arrival.lights and not arrival.views:
        names = [m.name for m in arrival.materials]
        return {"kind": "materials", "materials": names, "pictures": pictures} | told
    about = {
        "kind": "model",
        "size_m": [round(float(v), 6) for v in size],
        "unit_m": arrival.unit_m,
        "up": arrival.up,
        "triangles": arrival.n_triangles,
        "parts": [_part(arrival, thing) for thing in arrival.things if thing.mesh],
        "tree": _tree(arrival),
        "materials": [m.name for m in arrival.materials],
        "pictures": pictures,
        "lights": [f"{light.name} ({light.title.lower()})" for light in arrival.lights],
        "cameras": [view.name for view in arrival.views],
    }
    return about | told


def _part(arrival: Arrival, thing: Thing) -> dict:
    mesh = arrival.meshes[thing.mesh]
    return {
        "name": thing.name,
        "triangles": len(mesh.triangles),
        "vertices": len(mesh.vertices),
        "size": [round(float(v), 4) for v in mesh.bounds[1] - mesh.bounds[0]],
        "has_uvs": bool(mesh.uvs.any()),
    }


def _tree(arrival: Arrival) -> list[str]:
    """Return a line for each thing, indented by how deep it is in groups."""
    inside: dict[str, list[Thing]] = {}
    for thing in arrival.things:
        inside.setdefault(thing.parent, []).append(thing)
    lines, left = [], [(thing, 0) for thing in reversed(inside.get("", []))]
    while left:
        thing, depth = left.pop()
        shape = f" ({thing.mesh})" if thing.mesh and thing.mesh != thing.name else "" if thing.mesh else " (group)"
        lines.append("  " * depth + thing.name + shape)
        left += [(child, depth + 1) for child in reversed(inside.get(thing.id, []))]
    return lines


def _exr(path: Path) -> dict:
    header, names, (width, height) = exr.read_header(path)
    layers = list(dict.fromkeys(name.rpartition(".")[0] or "beauty" for name in names))
    kept = {
        key: value
        for key, value in header.items()
        if key.startswith("nocturne/") and key != "nocturne/document" and isinstance(value, str)
    }
    return {
        "kind": "picture",
        "width": width,
        "height": height,
        "layers": layers,
        "channels": len(names),
        "metadata": kept,
    }

"""What each kind of file is, by its ending; `describe` says in a few facts what is in one."""

from pathlib import Path

from nocturne.errors import MissingFile, UnknownFormat
from nocturne.io import exr, image, model, project
from nocturne.io.paths import is_file


def available_formats() -> dict[str, tuple[str, ...]]:
    """Return the endings of every kind of file that can be read."""
    return {"project": (project.SUFFIX,), "model": model.READS, "picture": image.READS}


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
    if suffix in model.READS:
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
    parts = model.read(path)
    return {
        "kind": "model",
        "parts": [
            {
                "name": p.name,
                "triangles": len(p.mesh.triangles),
                "vertices": len(p.mesh.vertices),
                "size_m": [round(float(v), 4) for v in p.mesh.bounds[1] - p.mesh.bounds[0]],
                "has_uvs": bool(p.mesh.uvs.any()),
            }
            for p in parts
        ],
        "triangles": sum(len(p.mesh.triangles) for p in parts),
        **({"squeezed_flat": list(parts.flat)} if parts.flat else {}),
    }


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

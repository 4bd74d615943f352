"""Wavefront OBJ with its MTL in: objects and groups, faces of any number of corners, materials with their maps.

References
----------
Wavefront, Appendix B1: Object files (.obj); MTL material format; the widely read extension of MTL for metalness,
roughness, sheen and clear coat (Pm, Pr, Pc, Pcr, norm).
"""

import re
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from nocturne.colour.spaces import rec709_to_working
from nocturne.io.models.arrival import Arrival, Names, Notes
from nocturne.io.models.border import Border, OutsideFolder
from nocturne.io.models.mend import sound_mesh, triangulated
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Picture
from nocturne.scene.shapes import Mesh
from nocturne.scene.smoothing import distinct
from nocturne.scene.thing import FaceMaterial, Thing

READS = (".obj",)
_MOST_WORDS = 16  # of a line that names several material files
_OPTIONS = {"-s": 3, "-o": 3, "-t": 3, "-mm": 2, "-blendu": 1, "-blendv": 1, "-cc": 1, "-clamp": 1, "-texres": 1,
            "-imfchan": 1, "-bm": 1, "-boost": 1, "-type": 1}  # fmt: skip


@dataclass
class _Part:
    """The faces of one object or group: corners of each, and (corner, 3) numbers of place, coordinate and normal."""

    name: str
    counts: list[int] = field(default_factory=list)
    corners: list[str] = field(default_factory=list)
    materials: list[str] = field(default_factory=list)


def read(path: Path, border: Border) -> Arrival:
    """Return what an OBJ brings; its MTL files are asked for by name.

    Raises
    ------
    ValueError
        If it is damaged.
    """
    notes = Notes()
    columns: dict[str, list[str]] = {"v": [], "vt": [], "vn": []}
    parts: list[_Part] = []
    libraries: list[str] = []
    object_name, group_name, material = "", "", ""
    part: _Part | None = None
    for line in _lines(path):
        word, _, rest = line.partition(" ")
        if word in columns:
            columns[word].append(rest)
        elif word == "f":
            if part is None:
                part = _Part(group_name or object_name or path.stem)
                parts.append(part)
            corners = rest.split()
            if "-" in rest:
                corners = [_from_start(corner, columns) for corner in corners]
            if len(corners) < 3:
                notes.mend("faces of fewer than three corners, left out")
                continue
            part.counts.append(len(corners))
            part.corners += corners
            part.materials.append(material)
        elif word in ("o", "g"):
            if word == "o":
                object_name, group_name = rest.strip(), ""
            else:
                group_name = rest.strip()
            part = None
        elif word == "usemtl":
            material = rest.strip()
        elif word == "mtllib":
            libraries.append(rest.strip())
        elif word in ("l", "p", "curv", "curv2", "surf"):
            notes.lose({"l": "lines", "p": "points"}.get(word, "curved surfaces"))
    places, colours = _numbers(columns["v"], 3)
    coordinates, _ = _numbers(columns["vt"], 2)
    normals, _ = _numbers(columns["vn"], 3)
    if colours:
        notes.lose("the colours of its vertices")
    materials = _materials(libraries, parts, border, notes)
    things, meshes, names = [], {}, Names()
    for part in parts:
        mesh, worn = _mesh(part, places, coordinates, normals, notes)
        if mesh is None:
            continue
        name = names.free(part.name)
        meshes[name] = mesh
        ids = [materials[m].id if m in materials else "" for m in worn]
        faces = tuple(FaceMaterial(set=s, material=m) for s, m in zip(mesh.set_names[1:], ids[1:]))
        things.append(Thing(id=f"part-{len(things)}", name=name, mesh=name, material=ids[0], faces=faces))
    return notes.told(Arrival(tuple(things), meshes, tuple(materials.values()), up="y"))


def _lines(path: Path):
    text = path.read_text(encoding="utf-8", errors="replace").replace("\\\n", " ").replace("\t", " ")
    for line in text.splitlines():
        line = line.strip()
        if line and line[0] != "#":
            yield line


def _numbers(rows: list[str], width: int) -> tuple[np.ndarray, bool]:
    """Return (n, width) numbers of rows of words, and whether there were more in them."""
    if not rows:
        return np.zeros((0, width), np.float32), False
    first = len(rows[0].split())
    try:
        flat = np.array(" ".join(rows).split(), np.float32)
        if first >= width and flat.size == first * len(rows):
            return np.ascontiguousarray(flat.reshape(-1, first)[:, :width]), first >= width + 3
    except ValueError:
        pass
    out = np.full((len(rows), width), np.nan, np.float32)
    for i, row in enumerate(rows):
        for k, word in enumerate(row.split()[:width]):
            try:
                out[i, k] = float(word)
            except ValueError:
                break
        if width == 2 and np.isnan(out[i, 1]) and not np.isnan(out[i, 0]):
            out[i, 1] = 0.0
    return out, False


def _from_start(corner: str, columns: dict[str, list[str]]) -> str:
    """Return a corner whose numbers count from the start of the file: negative ones count back from where it stands."""
    out = []
    for piece, column in zip(corner.split("/"), (columns["v"], columns["vt"], columns["vn"])):
        is_back = re.fullmatch(r"-\d{1,12}", piece)
        out.append(str(max(len(column) + 1 + int(piece), 0)) if is_back else piece)
    return "/".join(out)


def _corner_numbers(words: list[str], sizes: tuple[int, int, int]) -> np.ndarray:
    """Return (n, 3) numbers from 0 of place, coordinate and normal, -1 where a corner has none or it is not there."""
    slashes = words[0].count("/")
    empty = "//" in words[0]
    try:
        flat = np.array(" ".join(words).replace("/", " ").split(), np.int64)
        width = slashes + 1 - empty
        if flat.size != len(words) * width or any(w.count("/") != slashes or ("//" in w) != empty for w in words):
            raise ValueError
        out = np.zeros((len(words), 3), np.int64)
        out[:, [0, 2] if empty else list(range(width))] = flat.reshape(-1, width)
    except (ValueError, OverflowError):
        out = np.zeros((len(words), 3), np.int64)
        for i, word in enumerate(words):
            for k, piece in enumerate(word.split("/")[:3]):
                if re.fullmatch(r"-?\d{1,12}", piece):
                    out[i, k] = int(piece)
    for k, n in enumerate(sizes):
        column = out[:, k]
        out[:, k] = np.where((column > 0) & (column <= n), column - 1, -1)
    return out


def _mesh(
    part: _Part, places: np.ndarray, coordinates: np.ndarray, normals: np.ndarray, notes: Notes
) -> tuple[Mesh | None, list[str]]:
    if not part.counts:
        return None, []
    corners = _corner_numbers(part.corners, (len(places), len(coordinates), len(normals)))
    counts = np.array(part.counts, np.int64)
    missing = corners[:, 0] < 0
    points = np.where(missing[:, None], np.nan, places[corners[:, 0]] if len(places) else np.nan)
    triangles, face = triangulated(counts, points)
    if (counts > 4).any():
        notes.mend("faces of more than four corners, cut into triangles", int((counts > 4).sum()))
    # A vertex for each different corner.
    first, number = distinct([corners[:, k] for k in range(3)])
    unique, triangles = corners[first], number[triangles]
    vertices = np.where(unique[:, :1] < 0, np.nan, places[unique[:, 0]] if len(places) else np.nan)
    uvs = normal = None
    if len(coordinates):
        uvs = np.where(unique[:, 1:2] < 0, 0.0, coordinates[unique[:, 1]])
    if len(normals) and (unique[:, 2] >= 0).any():
        normal = np.where(unique[:, 2:] < 0, 0.0, normals[unique[:, 2]])
    order = list(dict.fromkeys(part.materials))
    of_face = np.array([order.index(m) for m in part.materials])[face] if len(order) > 1 else None
    names = Names()
    set_names = tuple(names.free(m or "no material") for m in order) if len(order) > 1 else ()
    mesh = sound_mesh(vertices, triangles, normals=normal, uvs=uvs, sets=of_face, set_names=set_names, notes=notes)
    return mesh, order


# ---- materials -----------------------------------------------------------------------------------------------------


def _materials(libraries: list[str], parts: list[_Part], border: Border, notes: Notes) -> dict[str, Material]:
    found: dict[str, dict[str, str]] = {}
    for library in dict.fromkeys(libraries):
        for name in dict.fromkeys((library, *library.split()[:_MOST_WORDS])):
            try:
                text = border(name).decode("utf-8", "replace")
            except (OSError, OutsideFolder):
                continue
            found |= _entries(text)
            break
        else:
            notes.missing[library] = None
    used = dict.fromkeys(m for part in parts for m in part.materials if m)
    out = {}
    for name in (*found, *(name for name in used if name not in found)):
        if name not in found:
            notes.lose(f"the material “{name}”, which no file describes: it is grey")
        out[name] = _material(f"material-{len(out)}", name, found.get(name, {}), notes)
    return out


def _entries(text: str) -> dict[str, dict[str, str]]:
    out: dict[str, dict[str, str]] = {}
    about: dict[str, str] | None = None
    for line in text.replace("\t", " ").splitlines():
        word, _, rest = line.strip().partition(" ")
        if word == "newmtl":
            about = out.setdefault(rest.strip(), {})
        elif about is not None and word and word[0] != "#":
            about[word.lower()] = rest.strip()
    return out


def _floats(words: str | None, n: int) -> tuple[float, ...] | None:
    try:
        values = [float(w) for w in (words or "").split()[:n]]
    except ValueError:
        return None
    if not values or not np.isfinite(values).all():
        return None
    return tuple(values) if len(values) == n else tuple(values[:1] * n)


def _material(id: str, name: str, about: dict[str, str], notes: Notes) -> Material:
    values: dict = {}
    steps: list[Picture] = []

    def working(rgb: tuple[float, ...]) -> tuple[float, float, float]:
        r, g, b = np.clip(rec709_to_working() @ np.clip(rgb, 0, 1), 0, 1)
        return float(r), float(g), float(b)

    def share(key: str) -> float | None:
        value = _floats(about.get(key), 1)
        return None if value is None else min(max(value[0], 0.0), 1.0)

    def picture(key: str, parameter: str, space: str, **more) -> None:
        if key in about:
            file, placing = _map(about[key])
            if file:
                steps.append(Picture(parameter=parameter, path=file, space=space, **placing, **more))

    diffuse = _floats(about.get("kd"), 3)
    if diffuse is not None:
        values["base_color"] = working(diffuse)
    if "map_kd" in about:
        # Most writers leave a grey there that is not meant to tint; a black one would hide the map.
        tints = diffuse is not None and max(diffuse) > 0 and len(set(diffuse)) > 1
        picture("map_kd", "base_color", "colour", blend="multiply" if tints else "replace")
    if share("pm") is not None:
        values["base_metalness"] = share("pm")
    picture("map_pm", "base_metalness", "red")
    if share("pr") is not None:
        values["specular_roughness"] = share("pr")
    elif (shine := _floats(about.get("ns"), 1)) is not None:
        # Blinn's exponent to roughness: alpha^2 = 2 / (n + 2), and alpha is roughness squared.
        values["specular_roughness"] = min(max((2.0 / (max(shine[0], 0.0) + 2.0)) ** 0.25, 0.0), 1.0)
    picture("map_pr", "specular_roughness", "red")
    if (index := _floats(about.get("ni"), 1)) is not None and 1.0 < index[0] <= 3.0:
        values["specular_ior"] = index[0]
    if (coat := share("pc")) is not None:
        values["coat_weight"], values["coat_roughness"] = coat, share("pcr") or 0.0
    glow = _floats(about.get("ke"), 3)
    if glow is not None and max(glow) > 0:
        values["emission_luminance"] = float(max(glow))
        values["emission_color"] = working(tuple(v / max(glow) for v in glow))
        picture("map_ke", "emission_color", "colour", blend="multiply")
    opacity = share("d")
    if opacity is None and share("tr") is not None:
        opacity = 1.0 - share("tr")
    if opacity is not None and opacity < 1.0:
        values["transmission_weight"], values["geometry_thin_walled"] = 1.0 - opacity, "ni" not in about
        values["transmission_color"] = working(_floats(about.get("tf"), 3) or (1.0, 1.0, 1.0))
    picture("norm", "geometry_normal", "data")
    for key in ("map_d", "map_bump", "bump", "disp", "map_ns", "map_ks", "refl", "decal", "ps", "map_ps"):
        if key in about:
            notes.lose(f"“{name}”: {key}")
    return Material(id=id, name=name, steps=tuple(steps), **values)


def _map(words: str) -> tuple[str, dict]:
    """Return the file of a map statement, and its placing; file names may have spaces."""
    left, placing = words.split(), {}
    while left and left[0].lower() in _OPTIONS:
        option = left.pop(0).lower()
        values: list[float] = []
        while left and len(values) < _OPTIONS[option]:
            if option in ("-s", "-o", "-t", "-mm", "-bm", "-boost", "-texres") and not re.fullmatch(
                r"[-+]?[\d.]+(?:[eE][-+]?\d+)?", left[0]
            ):
                break
            word = left.pop(0)
            values.append(float(word) if re.fullmatch(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?", word) else 0.0)
        if option == "-s" and values:
            placing["repeat"] = (values[0], values[1] if len(values) > 1 else values[0])
        elif option == "-o" and values:
            placing["offset"] = (values[0], values[1] if len(values) > 1 else 0.0)
    return " ".join(left).replace("\\", "/"), placing

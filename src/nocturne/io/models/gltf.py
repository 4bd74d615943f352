"""glTF and GLB in: the tree of nodes with its meshes, materials, lights and cameras.

References
----------
glTF 2.0; KHR_lights_punctual; KHR_node_visibility; EXT_mesh_gpu_instancing; KHR_texture_basisu and EXT_texture_webp
(told).
"""

import json
import math
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from nocturne.colour.spaces import rec709_to_working
from nocturne.io.models.accessors import Accessors, FilePart, entry
from nocturne.io.models.arrival import Arrival, Names, Notes
from nocturne.io.models.border import Border
from nocturne.io.models.cameras import Camera, viewed
from nocturne.io.models.gltfmaterials import material_of, mesh_coloured
from nocturne.io.models.mend import sound_mesh
from nocturne.scene.lights import Light, make_light
from nocturne.scene.materials import Material
from nocturne.scene.shapes import Mesh, joined, levels
from nocturne.scene.thing import FaceMaterial, Thing

READS = (".glb", ".gltf")
_ATTRIBUTES = ("POSITION", "NORMAL", "TEXCOORD_0", "TEXCOORD_1", "COLOR_0")
_SHARES = ("TEXCOORD_0", "TEXCOORD_1", "COLOR_0")
_KNOWN = {
    "KHR_draco_mesh_compression",
    "KHR_lights_punctual",
    "KHR_mesh_quantization",
    "KHR_node_visibility",
    "KHR_texture_transform",
    "EXT_meshopt_compression",
    "KHR_meshopt_compression",
    "EXT_mesh_gpu_instancing",
    "KHR_materials_variants",
}


def read(path: Path, border: Border) -> Arrival:
    """Return what a glTF brings.

    border: gives the bytes of a file that it names.

    Raises
    ------
    ValueError, LookupError, TypeError
        If it is damaged.
    FileNotFoundError
        If a buffer that it names is not there.
    """
    tree, blob = _tree(path)
    return _Gltf(path, tree, blob, border).arrival()


_MOST_COPIES = 50_000
_WRAPS = {10497: "periodic", 33071: "clamp", 33648: "mirror"}  # glTF 2.0, section 5.26


def picture_bytes(path: Path, name: str, border: Border) -> bytes:
    """Return the bytes of a picture inside a glTF, by the name that its materials know it by."""
    tree, blob = _tree(path)
    accessors = Accessors(tree, blob, border)
    images = tree.get("images")
    for i, about in enumerate(images if isinstance(images, list) else []):
        if isinstance(about, dict) and _picture_name(about, i) == name:
            has_view = "bufferView" in about
            return accessors.view(about["bufferView"]) if has_view else accessors.bytes_at(about.get("uri"))
    raise ValueError(f"there is no picture “{name}” in it")


def _tree(path: Path) -> tuple[dict, FilePart]:
    """Return the JSON of a glTF and its binary chunk (glTF 2.0, section 4.4)."""
    text, blob = b"", FilePart(path, 0, 0)
    with path.open("rb") as file:
        size = path.stat().st_size
        if file.read(4) != b"glTF":
            file.seek(0)
            text = file.read()
        else:
            at = 12
            while at + 8 <= size:
                file.seek(at)
                head = file.read(8)
                n, kind = int.from_bytes(head[:4], "little"), head[4:]
                if at + 8 + n > size:
                    raise ValueError("it ends in the middle of a chunk")
                if kind == b"JSON" and not text:
                    text = file.read(n)
                elif kind == b"BIN\0" and not len(blob):
                    blob = FilePart(path, at + 8, n)
                at += 8 + n + (-n % 4)
    tree = json.loads(text.decode("utf-8"))
    if not isinstance(tree, dict):
        raise ValueError("its JSON is no object")
    version = tree.get("asset", {}).get("version", "") if isinstance(tree.get("asset"), dict) else ""
    if not str(version).startswith("2"):
        raise ValueError(f"it is of glTF version {version or 'unknown'}; version 2 is read")
    return tree, blob


def _picture_name(about: dict, i: int) -> str:
    name = about.get("name")
    return f"{i} {name}" if isinstance(name, str) and name else str(i)


class _Gltf:
    """One file while it is read."""

    def __init__(self, path: Path, tree: dict, blob: FilePart, border: Border) -> None:
        self.path, self.tree = path, tree
        self.accessors = Accessors(tree, blob, border)
        self.notes = Notes()
        self._mesh_names, self._material_names = Names(), Names()
        self.meshes: dict[int, tuple[str, Mesh, tuple[int | None, ...]] | None] = {}
        self.materials: dict[int | None, Material] = {}
        self.coloured: set[int | None] = set()  # materials of meshes with colours of their own
        self.things: list[Thing] = []
        self.lights: list[Light] = []
        self.cameras: list[Camera] = []

    def arrival(self) -> Arrival:
        """Return all of it."""
        self._refuse_unknown()
        for i in range(len(self._list("meshes"))):
            self.meshes[i] = self._mesh(i)
        for i, about in enumerate(self._list("materials")):
            name = self._material_names.free(_text(about, "name") or f"Material {i + 1}")
            self.materials[i] = material_of(
                about if isinstance(about, dict) else {},
                id=f"material-{i}",
                name=name,
                picture=self._picture,
                has_mesh_colours=i in self.coloured,
                notes=self.notes,
            )
        if None in self.coloured:
            self.materials[None] = mesh_coloured("material-colours", self._material_names.free("Mesh colours"))
        self._nodes()
        for part, words in (("animations", "animations"), ("skins", "skins (the mesh stands as it was modelled)")):
            if self._list(part):
                self.notes.lose(words)
        if len(self._list("scenes")) > 1:
            self.notes.lose("all scenes but the first")
        meshes = {made[0]: made[1] for made in self.meshes.values() if made is not None}
        arrival = Arrival(
            tuple(self.things),
            meshes,
            tuple(self.materials.values()),
            tuple(self.lights),
            *viewed(self.cameras),
            unit_m=1.0,
            up="y",
            is_told=True,
        )
        return self.notes.told(arrival)

    def _list(self, part: str) -> list:
        entries = self.tree.get(part)
        return entries if isinstance(entries, list) else []

    def _refuse_unknown(self) -> None:
        for name in self._list("extensionsRequired"):
            if name not in _KNOWN and not str(name).startswith("KHR_materials_"):
                raise ValueError(f"it needs “{name}”, which is not known here")

    # ---- meshes ----------------------------------------------------------------------------------------------------

    def _mesh(self, index: int) -> tuple[str, Mesh, tuple[int | None, ...]] | None:
        about = entry(self.tree, "meshes", index)
        name = self._mesh_names.free(_text(about, "name") or f"Mesh {index + 1}")
        primitives = about.get("primitives")
        parts, materials = [], []
        for primitive in primitives if isinstance(primitives, list) else []:
            if not isinstance(primitive, dict):
                raise ValueError(f"a primitive of “{name}” is none")
            material = primitive.get("material")
            if material is not None:
                entry(self.tree, "materials", material)
            made = self._primitive(primitive, name)
            if made is not None:
                parts.append(made)
                materials.append(material)
        if not parts:
            return None
        order = list(dict.fromkeys(materials))
        if len(order) == 1:
            return name, joined(*parts), (order[0],)
        whole = joined(*parts)
        sets = np.concatenate([np.full(len(p.triangles), order.index(m)) for p, m in zip(parts, materials)])
        names, given = Names(), self._list("materials")
        set_names = tuple(names.free(_text(given[m], "name") if m is not None else "no material") for m in order)
        return name, replace(whole, sets=sets, set_names=set_names), tuple(order)

    def _primitive(self, primitive: dict, name: str) -> Mesh | None:
        mode = primitive.get("mode", 4)
        if mode not in (4, 5, 6):
            self.notes.lose(f"“{name}”: points or lines")
            return None
        attributes = primitive.get("attributes")
        if not isinstance(attributes, dict) or "POSITION" not in attributes:
            return None
        packed = primitive.get("extensions")
        packed = packed.get("KHR_draco_mesh_compression") if isinstance(packed, dict) else None
        if isinstance(packed, dict):
            triangles, found = self.accessors.draco(packed)
            found = {key: _as_shares(values) if key in _SHARES else values for key, values in found.items()}
            if "POSITION" not in found:
                raise ValueError(f"“{name}” is compressed without its places")
        else:
            wanted = [key for key in _ATTRIBUTES if key in attributes]
            found = {key: self.accessors.array(attributes[key]) for key in wanted}
            triangles = self._triangles(primitive, mode, len(found["POSITION"]))
        if "TEXCOORD_2" in attributes:
            self.notes.lose(f"“{name}”: texture coordinates beyond the second set")
        if primitive.get("targets"):
            self.notes.lose(f"“{name}”: its morph targets")
        colours = found.get("COLOR_0")
        if colours is not None:
            if colours.shape[1] > 3 and (colours[:, 3] < 0.999).any():
                self.notes.lose(f"“{name}”: where its vertices are see-through")
            colours = np.asarray(_as_shares(colours)[:, :3], float) @ rec709_to_working().T
            self.coloured.add(primitive.get("material"))
        uvs, more_uvs = (_v_up(found.get(key)) for key in ("TEXCOORD_0", "TEXCOORD_1"))
        return sound_mesh(
            found["POSITION"],
            triangles,
            normals=found.get("NORMAL"),
            uvs=uvs,
            more_uvs=more_uvs,
            colours=colours,
            notes=self.notes,
        )

    def _triangles(self, primitive: dict, mode: int, n: int) -> np.ndarray:
        if "indices" in primitive:
            corners = self.accessors.array(primitive["indices"]).ravel()
            if corners.dtype.kind not in "ui":
                raise ValueError("corners are numbered by fractions")
            corners = corners.astype(np.int64)
        else:
            corners = np.arange(n)
        if mode == 4:
            return corners[: len(corners) // 3 * 3].reshape(-1, 3)
        k = np.arange(max(len(corners) - 2, 0))
        if mode == 6:
            return np.stack([corners[k + 1], corners[k + 2], np.full(len(k), corners[0] if len(k) else 0)], axis=1)
        odd = k % 2
        return np.stack([corners[k], corners[k + 1 + odd], corners[k + 2 - odd]], axis=1)

    # ---- pictures --------------------------------------------------------------------------------------------------

    def _picture(self, texture: Any) -> tuple[str, str] | None:
        """Return where a texture's picture is, and how it goes on beyond its edge; None if there is none to read."""
        about = entry(self.tree, "textures", texture)
        wrap = "periodic"
        sampler = about.get("sampler")
        if sampler is not None:
            wraps = entry(self.tree, "samplers", sampler)
            along, up = (wraps.get(key, 10497) for key in ("wrapS", "wrapT"))
            wrap = _WRAPS.get(along, "periodic")
            if along != up:
                self.notes.lose("pictures that go on otherwise upwards than sideways: they do alike here")
        source = about.get("source")
        if source is None:
            for name, found in _extensions(about):
                if isinstance(found.get("source"), int):
                    source = found["source"]
                    if name == "KHR_texture_basisu":
                        self.notes.lose("pictures in KTX2")
                        return None
        if source is None:
            return None
        image = entry(self.tree, "images", source)
        uri = image.get("uri")
        if isinstance(uri, str) and not uri.startswith("data:"):
            return uri, wrap
        return f"#{_picture_name(image, source)}", wrap

    # ---- nodes -----------------------------------------------------------------------------------------------------

    def _roots(self) -> list[int]:
        scenes = self._list("scenes")
        if scenes:
            first = self.tree.get("scene", 0)
            roots = entry(self.tree, "scenes", first).get("nodes", [])
            return roots if isinstance(roots, list) else []
        inside = {c for node in self._list("nodes") if isinstance(node, dict) for c in node.get("children", []) or []}
        return [i for i in range(len(self._list("nodes"))) if i not in inside]

    def _nodes(self) -> None:
        left: list[tuple[Any, str, np.ndarray]] = [(i, "", np.eye(4)) for i in reversed(self._roots())]
        seen: set[int] = set()
        while left:
            index, parent, above = left.pop()
            node = entry(self.tree, "nodes", index)
            if index in seen:
                raise ValueError(f"node {index} is in two places of the tree")
            seen.add(index)
            matrix = _matrix(node, _text(node, "name") or str(index))
            children = node.get("children")
            children = children if isinstance(children, list) else []
            id = self._place(index, node, parent, matrix, above, bool(children))
            left += [(child, id, above @ matrix) for child in reversed(children)]

    def _place(
        self, index: int, node: dict, parent: str, matrix: np.ndarray, above: np.ndarray, has_children: bool
    ) -> str:
        """Add the things, light and view of a node; return the id of the group that its children are in."""
        mesh = node.get("mesh")
        made = None
        if mesh is not None:
            entry(self.tree, "meshes", mesh)
            made = self.meshes[mesh]
        name = _text(node, "name") or (made[0] if made else "")
        lamp = next((found for key, found in _extensions(node) if key == "KHR_lights_punctual"), None)
        seen = next((found for key, found in _extensions(node) if key == "KHR_node_visibility"), {})
        shown = seen.get("visible", True) is not False
        stands = levels(matrix)
        if "camera" in node:
            self._view(node, name, above @ matrix)
        if lamp is not None:
            alone = made is None and not has_children and len(stands) == 1
            self._light(lamp, name, parent if alone else f"node-{index}", stands[0] if alone else {})
            if alone and not shown:
                self.lights[-1] = self.lights[-1].model_copy(update={"on": False})
            if alone:
                return ""
        if made is None and not has_children and lamp is None:
            if "camera" not in node:
                self.notes.lose("empty nodes")
            return ""
        name = name or f"Group {index + 1}"
        if made is not None and abs(np.linalg.det(matrix[:3, :3])) < 1e-18:
            self.notes.lose(f"“{name}”, which is squeezed flat")
            made = None
            if not has_children:
                return ""
        copies = self._copies(node)
        split = has_children or lamp is not None or copies is not None
        id = f"node-{index}"
        for k, stand in enumerate(stands):
            is_last = k == len(stands) - 1
            inner = id if is_last else f"{id}-outer"
            shape = self._wearing(made) if made is not None and is_last and not split else {}
            here = {"visible": shown} if is_last else {}
            self.things.append(Thing(id=inner, name=name, parent=parent, **stand, **shape, **here))
            parent = inner
        if made is not None and split:
            for k, stand in enumerate(copies if copies is not None else [{}]):
                inner = made[0] if made[0] != name else f"{name} shape"
                self.things.append(Thing(id=f"{id}-mesh-{k}", name=inner, parent=id, **stand, **self._wearing(made)))
        return id

    def _wearing(self, made: tuple[str, Mesh, tuple[int | None, ...]]) -> dict:
        name, mesh, order = made
        ids = [self.materials[m].id if m in self.materials else "" for m in order]
        faces = tuple(FaceMaterial(set=s, material=m) for s, m in zip(mesh.set_names[1:], ids[1:]))
        return {"mesh": name, "material": ids[0], "faces": faces}

    def _copies(self, node: dict) -> list[dict] | None:
        about = next((found for key, found in _extensions(node) if key == "EXT_mesh_gpu_instancing"), None)
        attributes = about.get("attributes") if about else None
        if not isinstance(attributes, dict):
            return None
        for index in attributes.values():
            count = entry(self.tree, "accessors", index).get("count", 0)
            if isinstance(count, int) and count > _MOST_COPIES:
                raise ValueError(f"it makes {count:,} copies of a mesh; {_MOST_COPIES:,} are the most, each a thing")
        arrays = {key: self.accessors.array(index).astype(float) for key, index in attributes.items()}
        n = len(next(iter(arrays.values()), []))
        place = arrays.get("TRANSLATION", np.zeros((n, 3)))
        turn = arrays.get("ROTATION", np.tile((0.0, 0, 0, 1), (n, 1)))
        size = arrays.get("SCALE", np.ones((n, 3)))
        if not len(place) == len(turn) == len(size) == n:
            raise ValueError("copies have places, turns and sizes of different numbers")
        return [levels(_of_parts(p, q, s))[0] for p, q, s in zip(place, turn, size)]

    # ---- lights and cameras ----------------------------------------------------------------------------------------

    def _light(self, lamp: dict, node_name: str, parent: str, stand: dict) -> None:
        whole = self.tree.get("extensions")
        whole = whole.get("KHR_lights_punctual") if isinstance(whole, dict) else None
        about = entry(whole if isinstance(whole, dict) else {}, "lights", lamp.get("light"))
        kind = {"point": "point", "spot": "spot", "directional": "distant"}.get(about.get("type"))
        if kind is None:
            raise ValueError(f"a light is of the kind “{about.get('type')}”")
        colour = np.clip(np.array(about.get("color", (1, 1, 1)), float).ravel(), 0, None)
        if len(colour) != 3 or not np.isfinite(colour).all():
            raise ValueError("a light's colour is not three numbers")
        from nocturne.colour.spaces import luminance

        rgb = np.clip(rec709_to_working() @ colour, 0, 100)
        # The colour counts in full there, and only as hue here: what it dims is dimmed in the power.
        power = float(about.get("intensity", 1.0)) * float(luminance(rgb))
        values: dict[str, Any] = {"turn_deg": stand.get("turn_deg", (0.0, 0.0, 0.0))}
        if kind == "point":
            values = {}
        if kind == "spot":
            spot = about.get("spot") if isinstance(about.get("spot"), dict) else {}
            outer = math.degrees(float(spot.get("outerConeAngle", math.pi / 4)))
            inner = math.degrees(float(spot.get("innerConeAngle", 0.0)))
            values |= {"outer_deg": min(max(outer, 0.1), 90.0), "inner_deg": min(max(inner, 0.0), 89.0)}
        if kind != "distant":
            values["place"] = stand.get("place", (0.0, 0.0, 0.0))
        self.lights.append(
            make_light(
                kind=kind,
                id=f"light-{len(self.lights)}",
                name=node_name or _text(about, "name") or "Light",
                parent=parent,
                unit="lx" if kind == "distant" else "cd",
                power=min(max(power, 0.0), 1e12),
                colour_from="colour",
                colour=tuple(float(c) for c in rgb / max(float(rgb.max()), 1e-9)),
                **values,
            )
        )

    def _view(self, node: dict, name: str, matrix: np.ndarray) -> None:
        about = entry(self.tree, "cameras", node["camera"])
        name = name or _text(about, "name")
        lens = about.get("perspective")
        parallel = about.get("orthographic")
        if about.get("type") == "orthographic" and isinstance(parallel, dict):
            half_x, half_y = abs(float(parallel.get("xmag", 1.0))), abs(float(parallel.get("ymag", 1.0)))
            if not (1e-9 < half_x < 1e9 and 1e-2 < half_x / max(half_y, 1e-12) < 1e2):
                raise ValueError("an orthographic camera's frame is none")
            self.cameras.append(Camera(name or "Camera", matrix, half_x, half_x / half_y, is_orthographic=True))
            return
        if about.get("type") != "perspective" or not isinstance(lens, dict):
            self.notes.lose(f"the camera “{name}” of an unknown kind")
            return
        tan_y = math.tan(float(lens.get("yfov", 0.8)) / 2)
        aspect = float(lens.get("aspectRatio", 16 / 9))
        if not (1e-4 < tan_y < 1e3 and 1e-2 < aspect < 1e2):
            raise ValueError("a camera's angle is none that a lens has")
        self.cameras.append(Camera(name or "Camera", matrix, tan_y * aspect, aspect))


def _as_shares(values: np.ndarray) -> np.ndarray:
    """Return whole numbers as shares of the most that they can be, as a packed mesh does not say that they are."""
    return values / np.iinfo(values.dtype).max if values.dtype.kind in "ui" else values


def _v_up(uvs: np.ndarray | None) -> np.ndarray | None:
    """Return texture coordinates of a glTF, where v points down, as they are here."""
    return np.stack([uvs[:, 0], 1 - uvs[:, 1].astype(np.float32)], axis=1) if uvs is not None else None


def _extensions(about: dict) -> Iterator[tuple[str, dict]]:
    found = about.get("extensions")
    for name, value in found.items() if isinstance(found, dict) else ():
        if isinstance(value, dict):
            yield name, value


def _text(about: Any, key: str) -> str:
    value = about.get(key) if isinstance(about, dict) else None
    return value.strip() if isinstance(value, str) else ""


def _of_parts(place: np.ndarray, quaternion: np.ndarray, size: np.ndarray) -> np.ndarray:
    x, y, z, w = quaternion / max(float(np.linalg.norm(quaternion)), 1e-12)
    out = np.eye(4)
    out[:3, :3] = np.array(
        [
            [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
            [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
            [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
        ]
    ) * np.asarray(size)
    out[:3, 3] = place
    return out


def _matrix(node: dict, name: str) -> np.ndarray:
    if "matrix" in node:
        values = np.array(node["matrix"], float).ravel()
        if len(values) != 16:
            raise ValueError(f"the place of “{name}” is not 16 numbers")
        matrix = values.reshape(4, 4).T
    else:
        parts = []
        for key, default in (("translation", (0, 0, 0)), ("rotation", (0, 0, 0, 1)), ("scale", (1, 1, 1))):
            values = np.array(node.get(key, default), float).ravel()
            if len(values) != len(default):
                raise ValueError(f"the {key} of “{name}” is not {len(default)} numbers")
            parts.append(values)
        matrix = _of_parts(*parts)
    if not (np.isfinite(matrix).all() and (np.abs(matrix) < 1e12).all()):
        raise ValueError(f"the place of “{name}” is not a number")
    return matrix

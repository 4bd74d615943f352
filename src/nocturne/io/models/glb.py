"""A set out as a binary glTF: its tree, meshes, materials with their pictures, lights and cameras.

References
----------
glTF 2.0; KHR_lights_punctual, KHR_materials_*, KHR_texture_transform.
"""

import json
import math
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import numpy as np

from nocturne.colour.spaces import working_to_rec709
from nocturne.errors import FileError
from nocturne.io.atomic import replacing
from nocturne.io.models.gltfmaterialsout import MaterialWriter, by_mesh_colours
from nocturne.io.models.outgoing import Outgoing
from nocturne.scene.camera import View, half_width
from nocturne.scene.lights import Light, chroma
from nocturne.scene.shapes import Mesh, transform

_Z_UP_TO_Y_UP = transform((0.0, 0.0, 0.0), (-90.0, 0.0, 0.0))
_FLOAT, _UINT, _USHORT, _UBYTE = 5126, 5125, 5123, 5121
_VERTICES, _INDICES = 34962, 34963


def write_glb(path: Path | str, meshes: Mapping[str, Mesh]) -> None:
    """Write meshes by name as one binary glTF, each a node of its name."""
    writer = _Writer()
    for name, mesh in meshes.items():
        node = writer.add("nodes", {"name": name, "mesh": writer.mesh(name, mesh, (None,)), **_placing(_Z_UP_TO_Y_UP)})
        writer.roots.append(node)
    writer.write(path)


def write(path: Path | str, outgoing: Outgoing) -> tuple[str, ...]:
    """Write what goes out of a set; return what has no equal in glTF, a sentence each.

    Raises
    ------
    FileError
        If it cannot be written, or a picture that a material needs cannot be read.
    """
    writer = _Writer()
    writer.set(outgoing)
    writer.write(path)
    return tuple(writer.lost)


class _Writer:
    """Gathers the tree and the binary chunk."""

    def __init__(self) -> None:
        self.tree: dict[str, Any] = {"asset": {"version": "2.0", "generator": "Nocturne"}}
        self.chunks: list[bytes] = []
        self.size = 0
        self.roots: list[int] = []
        self.lost: dict[str, None] = {}
        self.extensions: dict[str, None] = {}

    def add(self, part: str, entry: dict) -> int:
        """Add an entry to a part of the tree and return its number."""
        entries = self.tree.setdefault(part, [])
        entries.append(entry)
        return len(entries) - 1

    # ---- numbers ---------------------------------------------------------------------------------------------------

    def view(self, data: bytes, **more: int) -> int:
        """Add bytes as a buffer view."""
        at = self.size
        pad = -len(data) % 4
        self.chunks.append(data + b"\0" * pad)
        self.size += len(data) + pad
        return self.add("bufferViews", {"buffer": 0, "byteOffset": at, "byteLength": len(data), **more})

    def accessor(self, values: np.ndarray, component: int, kind: str, target: int, *, bounds: bool = False) -> int:
        """Add numbers as an accessor."""
        about: dict[str, Any] = {
            "bufferView": self.view(np.ascontiguousarray(values).tobytes(), target=target),
            "componentType": component,
            "count": len(values),
            "type": kind,
        }
        if bounds:
            about |= {"min": values.min(0).tolist(), "max": values.max(0).tolist()}
        return self.add("accessors", about)

    def mesh(
        self,
        name: str,
        mesh: Mesh,
        materials: tuple[int | None, ...],
        of_face: np.ndarray | None = None,
        coloured: frozenset[int | None] = frozenset(),
    ) -> int:
        """Add a mesh; a primitive for each material, all on the same vertices.

        coloured: materials whose base colour is multiplied by the mesh's colours; the others must not be.
        """
        attributes = {
            "POSITION": self.accessor(mesh.vertices, _FLOAT, "VEC3", _VERTICES, bounds=True),
            "NORMAL": self.accessor(_unit(mesh.normals), _FLOAT, "VEC3", _VERTICES),
        }
        for key, uvs in (("TEXCOORD_0", mesh.uvs), ("TEXCOORD_1", mesh.more_uvs)):
            if uvs is not None and (uvs.any() or mesh.more_uvs is not None):
                v_down = np.stack([uvs[:, 0], 1 - uvs[:, 1]], axis=1).astype(np.float32)
                attributes[key] = self.accessor(v_down, _FLOAT, "VEC2", _VERTICES)
        colours = {}
        if mesh.colours is not None and coloured & set(materials):
            linear = np.clip(mesh.colours.astype(float) @ working_to_rec709().T, 0, None).astype(np.float32)
            colours["COLOR_0"] = self.accessor(linear, _FLOAT, "VEC3", _VERTICES)
        wide = len(mesh.vertices) > 65535
        primitives = []
        for k, material in enumerate(materials):
            triangles = mesh.triangles if of_face is None else mesh.triangles[of_face == k]
            corners = triangles.reshape(-1, 1).astype(np.uint32 if wide else np.uint16)
            indices = self.accessor(corners, _UINT if wide else _USHORT, "SCALAR", _INDICES)
            carried = {**attributes, **colours} if material in coloured else attributes
            primitive: dict[str, Any] = {"attributes": carried, "indices": indices}
            primitives.append(primitive if material is None else {**primitive, "material": material})
        return self.add("meshes", {"name": name, "primitives": primitives})

    # ---- a set -----------------------------------------------------------------------------------------------------

    def set(self, outgoing: Outgoing) -> None:
        """Add all of a set."""
        materials = MaterialWriter(self, outgoing)
        numbers = {m.id: materials.add(m) for m in outgoing.materials}
        coloured = frozenset(numbers[m.id] for m in outgoing.materials if any(map(by_mesh_colours, m.steps)))
        meshes: dict[tuple, int] = {}
        nodes: dict[str, int] = {}
        for item in outgoing.things:
            node = {"name": item.name, **_placing(item.matrix if item.parent else _Z_UP_TO_Y_UP @ item.matrix)}
            if item.mesh is not None and len(item.mesh.triangles):
                key = (id(item.mesh), item.worn, item.of_face.tobytes() if item.of_face is not None else b"")
                if key not in meshes:
                    worn = tuple(numbers.get(id) for id in item.worn)
                    meshes[key] = self.mesh(item.mesh_name, item.mesh, worn, item.of_face, coloured)
                node["mesh"] = meshes[key]
            self._hide(node, item.is_shown)
            nodes[item.id] = self._hang(node, item.parent, nodes)
        for light in outgoing.lights:
            self._light(light, nodes)
        for view in outgoing.views:
            camera = self.add("cameras", {"name": view.name, **_camera(view)})
            matrix = np.eye(4)
            matrix[:3, :3], matrix[:3, 3] = outgoing.turn_of_view(view), view.eye
            node = {"name": view.name, "camera": camera, **_placing(_Z_UP_TO_Y_UP @ matrix)}
            for has_it, words in (
                (view.shift_x or view.shift_y, "the shift of its lens"),
                (view.depth_of_field, "its depth of field"),
            ):
                if has_it:
                    self.lost[f"“{view.name}”: {words}"] = None
            self.roots.append(self.add("nodes", node))
        self.lost |= dict.fromkeys(outgoing.lost)

    def _hide(self, node: dict, visible: bool) -> None:
        """Say of a node that it is hidden (KHR_node_visibility)."""
        if not visible:
            node.setdefault("extensions", {})["KHR_node_visibility"] = {"visible": False}
            self.extensions["KHR_node_visibility"] = None

    def _hang(self, node: dict, parent: str, nodes: dict[str, int]) -> int:
        number = self.add("nodes", node)
        if parent in nodes:
            self.tree["nodes"][nodes[parent]].setdefault("children", []).append(number)
        else:
            self.roots.append(number)
        return number

    def _light(self, light: Light, nodes: dict[str, int]) -> None:
        kind = {"point": "point", "spot": "spot", "distant": "directional"}.get(light.kind)
        if kind is None:
            self.lost[f"“{light.name}”: a {light.title.lower()}"] = None
            return
        rgb = np.clip(working_to_rec709() @ chroma(light), 0, None)
        largest = float(rgb.max())
        # Strength times colour, which has no more than 1 in glTF, is what shines.
        power = light.power if light.kind == "distant" else light.strength()
        about: dict[str, Any] = {"name": light.name, "type": kind, "intensity": power * largest}
        about["color"] = [float(v) for v in rgb / largest]
        if light.kind == "spot":
            outer = math.radians(min(light.outer_deg, 90.0))
            inner = min(math.radians(light.inner_deg), outer - 1e-4)
            about["spot"] = {"innerConeAngle": max(inner, 0.0), "outerConeAngle": outer}
        default = type(light).model_fields.get("angle_deg")
        if getattr(light, "bulb_radius", 0.0) > 0:
            self.lost[f"“{light.name}”: how large its bulb is, so that its shadows are sharp"] = None
        if default is not None and light.angle_deg != default.default:
            self.lost[f"“{light.name}”: the angle from which it comes"] = None
        self.extensions["KHR_lights_punctual"] = None
        whole = self.tree.setdefault("extensions", {}).setdefault("KHR_lights_punctual", {"lights": []})
        whole["lights"].append(about)
        matrix = transform(getattr(light, "place", (0.0, 0.0, 0.0)), getattr(light, "turn_deg", (0.0, 0.0, 0.0)))
        inside = light.parent in nodes
        node = {"name": light.name, **_placing(matrix if inside else _Z_UP_TO_Y_UP @ matrix)}
        node["extensions"] = {"KHR_lights_punctual": {"light": len(whole["lights"]) - 1}}
        self._hide(node, light.on)
        self._hang(node, light.parent, nodes)

    def write(self, path: Path | str) -> None:
        """Write the file, all or nothing (glTF 2.0, section 4.4)."""
        self.tree["scenes"], self.tree["scene"] = [{"nodes": self.roots}], 0
        if not self.roots:
            self.tree["scenes"] = [{}]
        if self.extensions:
            self.tree["extensionsUsed"] = sorted(self.extensions)
        if self.size:
            self.tree["buffers"] = [{"byteLength": self.size}]
        text = json.dumps(self.tree, separators=(",", ":"), ensure_ascii=False).encode("utf-8")
        text += b" " * (-len(text) % 4)
        chunks = [(b"JSON", text)] + ([(b"BIN\0", b"".join(self.chunks))] if self.size else [])
        total = 12 + sum(8 + len(data) for _, data in chunks)
        if total >= 1 << 32:
            raise FileError(
                path, f"it would have {total / 2**30:.1f} GiB; a GLB has 4 at most.", hint="Export to USD instead."
            )
        with replacing(path) as temporary, temporary.open("wb") as file:
            file.write(b"glTF" + (2).to_bytes(4, "little") + total.to_bytes(4, "little"))
            for kind, data in chunks:
                file.write(len(data).to_bytes(4, "little") + kind)
                file.write(data)


def _unit(normals: np.ndarray) -> np.ndarray:
    size = np.linalg.norm(normals, axis=1, keepdims=True)
    return np.where(size > 0, normals / np.maximum(size, 1e-30), (0, 0, 1)).astype(np.float32)


def _camera(view: View) -> dict:
    if view.projection == "orthographic":
        half = half_width(view, 1.0)
        lens = {"xmag": half, "ymag": half * view.height / view.width, "znear": 0.01, "zfar": 1e6}
        return {"type": "orthographic", "orthographic": lens}
    # An exact half of the angle: the field of view is measured up the picture.
    tan_y = view.sensor_mm / (2 * view.focal_mm) * view.height / view.width
    lens = {"yfov": 2 * math.atan(tan_y), "aspectRatio": view.width / view.height, "znear": 0.01}
    return {"type": "perspective", "perspective": lens}


def _placing(matrix: np.ndarray) -> dict[str, list[float]]:
    """Return how a node stands: nothing where it is as by default; turns and sizes, or a whole matrix if it shears."""
    if np.allclose(matrix, np.eye(4), atol=0):
        return {}
    size = np.linalg.norm(matrix[:3, :3], axis=0)
    turn = matrix[:3, :3] / np.maximum(size, 1e-30)
    if np.linalg.det(turn) < 0:
        size[0], turn[:, 0] = -size[0], -turn[:, 0]
    if (np.abs(size) < 1e-12).any() or np.abs(turn.T @ turn - np.eye(3)).max() > 1e-6:
        return {"matrix": [float(v) for v in matrix.T.ravel()]}
    from scipy.spatial.transform import Rotation

    out = {"translation": [float(v) for v in matrix[:3, 3]]}
    out["rotation"] = [float(v) for v in Rotation.from_matrix(turn).as_quat()]
    out["scale"] = [float(v) for v in size]
    return out

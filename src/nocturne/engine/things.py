"""The set's things as instances of meshes: tables, transforms, visibility."""

from dataclasses import dataclass

import numpy as np

from nocturne.engine.layout import instance as inst
from nocturne.engine.layout import mesh as layout
from nocturne.engine.layout.masks import CAMERA_RAYS, CLEAR_SHADOW_RAYS, INDIRECT_RAYS, SHADOW_RAYS
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.materials import Material
from nocturne.scene.shapes import Mesh

NO_MATERIAL = Material(id="", name="No material", base_color=(0.5, 0.5, 0.5), specular_roughness=0.6)


@dataclass(frozen=True, eq=False, repr=False)
class Drawn:
    meshes: list[Mesh]
    inst_i: np.ndarray
    inst_xf: np.ndarray
    inst_nm: np.ndarray
    masks: np.ndarray
    names: tuple[str, ...]
    ids: tuple[str, ...]
    has_clear: int


def is_clear(material: Material) -> bool:
    """Return True if shadow rays may go through a thin sheet of it; how much is decided where they meet it."""
    return material.geometry_thin_walled and material.may_transmit


def matrix_rows(matrices: list[np.ndarray]) -> tuple[np.ndarray, np.ndarray]:
    whole = np.array(matrices).reshape(-1, 4, 4)
    normal = np.linalg.inv(whole[:, :3, :3]).transpose(0, 2, 1)
    return (
        whole[:, :3, :].reshape(-1, inst.TO_WORLD).astype(np.float32),
        normal.reshape(-1, inst.NORMALS_TO_WORLD).astype(np.float32),
    )


def drawn_things(document: Document, assets: Assets) -> Drawn:
    meshes: list[Mesh] = []
    slots: dict[int, int] = {}
    rows: list[tuple[int, int]] = []  # mesh and material of each
    matrices, masks, names, ids = [], [], [], []
    by_id = {m.id: i + 1 for i, m in enumerate(document.materials)}
    has_clear = 0
    placements = document.placements
    whole = np.array([placements[thing.id][0] for thing in document.things]).reshape(-1, 4, 4)
    is_flat = np.abs(np.linalg.det(whole[:, :3, :3])) < 1e-18
    clear = {material.id for material in document.materials if is_clear(material)}
    for thing, flat in zip(document.things, is_flat):
        mesh = assets.meshes.get(thing.mesh)
        matrix, shown = placements[thing.id]
        if mesh is None or not shown or not len(mesh.triangles) or flat:
            continue
        if id(mesh) not in slots:
            slots[id(mesh)] = len(meshes)
            meshes.append(mesh)
        slot = by_id.get(thing.material, 0)
        thin = thing.material in clear
        has_clear |= int(thin)
        rows.append((slots[id(mesh)], slot))
        matrices.append(matrix)
        masks.append(CAMERA_RAYS | INDIRECT_RAYS | (CLEAR_SHADOW_RAYS if thin else SHADOW_RAYS))
        names.append(thing.name)
        ids.append(thing.id)
    xf, nm = matrix_rows(matrices)
    whole = np.full((len(rows), inst.WHOLE.width), -1, np.int32)
    whole[:, [inst.MESH, inst.MATERIAL]] = np.array(rows, np.int32).reshape(-1, 2)
    whole[:, inst.OBJECT] = np.arange(len(rows))
    return Drawn(
        meshes,
        whole,
        xf,
        nm,
        np.array(masks, np.uint32),
        tuple(names),
        tuple(ids),
        has_clear,
    )


def pack_meshes(meshes: list[Mesh]) -> dict[str, np.ndarray]:
    first_triangle = np.cumsum([0, *(len(m.triangles) for m in meshes)])
    first_vertex = np.cumsum([0, *(len(m.vertices) for m in meshes)])

    def joined(name: str, width: int, dtype: type) -> np.ndarray:
        parts = [getattr(m, name) for m in meshes]
        return np.concatenate(parts) if parts else np.zeros((1, width), dtype)

    return {
        "verts": joined("vertices", 3, np.float32),
        "norms": joined("normals", 3, np.float32),
        "uvs": joined("uvs", 2, np.float32),
        "tris": joined("triangles", 3, np.uint32),
        "mesh_i": np.stack(
            [
                layout.ROW.filled(np.int32, FIRST_TRIANGLE=t, FIRST_VERTEX=v)
                for t, v in zip(first_triangle, first_vertex[: max(len(meshes), 1)])
            ]
        ),
    }

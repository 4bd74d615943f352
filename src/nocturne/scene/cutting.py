"""Meshes as cutaways leave them: with faces where solids are cut, or open.

Cut faces come from a boolean difference of solids (manifold3d); what is no closed solid is cut open.
"""

import weakref
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from nocturne.scene.clipping import Pieces, mesh_of, split, split_by_ball, together
from nocturne.scene.cutaway import Cutaway
from nocturne.scene.document import Document
from nocturne.scene.shapes import Mesh
from nocturne.scene.solids import ball

CUT_FACE = -1  # instead of a triangle's number: a face where something was cut
_RINGS = 96  # around a ball that cuts
_MOST_KEPT = 512  # ways in which one mesh is cut: many copies of a scatter may be, each in its own
_MOST_TRIANGLES = 1_500_000  # kept of the cuts of one mesh
_Made = tuple[Mesh | None, np.ndarray]
_whole: "weakref.WeakKeyDictionary[Mesh, np.ndarray]" = weakref.WeakKeyDictionary()
_kept: "weakref.WeakKeyDictionary[Mesh, dict[tuple, _Made]]" = weakref.WeakKeyDictionary()


@dataclass(frozen=True, eq=False)
class Cutter:
    """A cutaway and the (4, 4) matrix by which it stands in the set."""

    cutaway: Cutaway
    matrix: np.ndarray


def cutters(document: Document) -> dict[str, tuple[Cutter, ...]]:
    """Return what cuts each thing, by its id; things in groups that are cut are, too. Hidden cutaways cut nothing."""
    found: dict[str, tuple[Cutter, ...]] = {}
    for thing in document.things:
        if thing.cutaway is None or not thing.cutaway.of:
            continue
        matrix, shown = document.placements[thing.id]
        if not shown or abs(np.linalg.det(matrix[:3, :3])) < 1e-18:
            continue
        cutter = Cutter(thing.cutaway, matrix)
        for id in document.with_members(thing.cutaway.of):
            found[id] = (*found.get(id, ()), cutter)
    return found


def cut_by(mesh: Mesh, matrix: np.ndarray, by: Iterable[Cutter]) -> _Made:
    """Return what is left of a mesh that stands by a (4, 4) matrix, and (m,) the number that each triangle had.

    CUT_FACE for faces that a cut made; None instead of the mesh if nothing is left of it. A mesh that no cutter
    touches is returned itself; the same cuts give the same object.
    """
    by = [cutter for cutter in by if may_touch(mesh, matrix[None], cutter)[0]]
    if not by:
        return mesh, _all_of(mesh)
    if any(_is_within(mesh, matrix[None], cutter)[0] for cutter in by):
        return None, np.zeros(0, np.int64)
    relative = [(c.cutaway, np.linalg.inv(c.matrix) @ matrix) for c in by]
    key = tuple((cutaway.model_copy(update={"of": ()}), m.tobytes()) for cutaway, m in relative)
    kept = _kept.setdefault(mesh, {})
    made = kept.get(key)
    if made is None:
        made = mesh, _all_of(mesh)
        for cutaway, to_cutter in relative:
            made = _then(made, cutaway, to_cutter)
        if made[0] is mesh:
            return made  # kept, it would keep itself
        while len(kept) >= _MOST_KEPT or (kept and sum(len(of) for _, of in list(kept.values())) > _MOST_TRIANGLES):
            kept.pop(next(iter(kept)), None)  # another thread may have taken it out just now
        kept[key] = made
    return made


def _all_of(mesh: Mesh) -> np.ndarray:
    """Return the numbers of all triangles of a mesh, the same object each time."""
    if mesh not in _whole:
        _whole[mesh] = np.arange(len(mesh.triangles))
    return _whole[mesh]


def _then(made: _Made, cutaway: Cutaway, to_cutter: np.ndarray) -> _Made:
    """Cut once more."""
    mesh, source = made
    if mesh is None or not _touches(mesh, cutaway, to_cutter):
        return made
    after = _closed(mesh, cutaway, to_cutter) if cutaway.closed else None
    left, of = after if after is not None else _open(mesh, cutaway, to_cutter)
    return left, np.where(of >= 0, source[of], CUT_FACE)


def _in_cutter(mesh: Mesh, to_cutter: np.ndarray) -> np.ndarray:
    return mesh.vertices.astype(float) @ to_cutter[:3, :3].T + to_cutter[:3, 3]


def _touches(mesh: Mesh, cutaway: Cutaway, to_cutter: np.ndarray) -> bool:
    """Return False if the box around the mesh is clear of the shape that cuts."""
    p = _in_cutter(mesh, to_cutter)
    if not len(p):
        return False
    low, high = p.min(0), p.max(0)
    if cutaway.kind == "plane":
        return bool(high[2] > 0)
    if cutaway.kind == "ball":
        return bool(np.linalg.norm(np.clip(0, low, high)) < cutaway.radius)
    half = np.array(cutaway.half_size)
    return bool(((low < half) & (high > -half)).all())


def may_touch(mesh: Mesh, stands: np.ndarray, cutter: Cutter) -> np.ndarray:
    """Return (n,) False for those of (n, 4, 4) places in which a mesh is clear of what cuts: by the box around each."""
    middle, reach = _boxes(mesh, stands, cutter)
    if cutter.cutaway.kind == "plane":
        return middle[:, 2] + reach[:, 2] > 0
    if cutter.cutaway.kind == "ball":
        return np.linalg.norm(np.maximum(np.abs(middle) - reach, 0), axis=1) < cutter.cutaway.radius
    return (np.abs(middle) - reach < cutter.cutaway.half_size).all(1)


def clear_of(mesh: Mesh, stands: np.ndarray, by: Iterable[Cutter]) -> tuple[np.ndarray, np.ndarray]:
    """Return for (n, 4, 4) places in which a mesh stands (n,) whether it is whole there, and whether it may be cut.

    Where it is neither, all of it is taken away. Both by the box around each.
    """
    is_met, is_gone = np.zeros(len(stands), bool), np.zeros(len(stands), bool)
    for cutter in by:
        is_met |= may_touch(mesh, stands, cutter)
        is_gone |= _is_within(mesh, stands, cutter)
    return ~is_met, is_met & ~is_gone


def _is_within(mesh: Mesh, stands: np.ndarray, cutter: Cutter) -> np.ndarray:
    """Return (n,) True for those places in which all of a mesh is in what cuts."""
    middle, reach = _boxes(mesh, stands, cutter)
    if cutter.cutaway.kind == "plane":
        return middle[:, 2] - reach[:, 2] > 0
    if cutter.cutaway.kind == "ball":
        return np.linalg.norm(np.abs(middle) + reach, axis=1) < cutter.cutaway.radius
    return (np.abs(middle) + reach < cutter.cutaway.half_size).all(1)


def _boxes(mesh: Mesh, stands: np.ndarray, cutter: Cutter) -> tuple[np.ndarray, np.ndarray]:
    """Return (n, 3) middles of the boxes around a mesh in some places, and half their sizes, as the cutter has them."""
    low, high = mesh.bounds
    to_cutter = np.linalg.inv(cutter.matrix) @ stands
    middle = to_cutter[:, :3, :3] @ ((low + high) / 2) + to_cutter[:, :3, 3]
    return middle, np.abs(to_cutter[:, :3, :3]) @ ((high - low) / 2)


# ---- solids --------------------------------------------------------------------------------------------------------


def _closed(mesh: Mesh, cutaway: Cutaway, to_cutter: np.ndarray) -> _Made | None:
    """Return the difference of two solids; None if the mesh is no closed one."""
    import manifold3d

    ids = manifold3d.Manifold.reserve_ids(2)
    carried = mesh.carried(slice(None))
    extra = [carried[name] for name in sorted(carried)]
    solid = _solid(mesh, np.hstack([mesh.vertices, mesh.normals, mesh.uvs, *extra]), ids)
    if solid is None:
        return None
    tool, normals, uvs = _tool(cutaway, _in_cutter(mesh, to_cutter))
    back = np.linalg.inv(to_cutter)
    places = tool.vertices @ back[:3, :3].T + back[:3, 3]
    # Normals of a cut face look into the tool; their matrix is the transpose of the way back.
    outside = -normals @ to_cutter[:3, :3]
    outside /= np.maximum(np.linalg.norm(outside, axis=1, keepdims=True), 1e-30)
    fill = [uvs if name == "more_uvs" else np.ones((len(places), 3)) for name in sorted(carried)]
    triangles = tool.triangles if np.linalg.det(back[:3, :3]) > 0 else tool.triangles[:, ::-1]
    cutter = _solid(Mesh(places, triangles, outside, uvs), np.hstack([places, outside, uvs, *fill]), ids + 1)
    if cutter is None:
        return None
    left = (solid - cutter).to_mesh64()
    values, corners = np.asarray(left.vert_properties), np.asarray(left.tri_verts).astype(np.int64)
    if not len(corners):
        return None, np.zeros(0, np.int64)
    runs = np.repeat(np.asarray(left.run_original_id), np.diff(np.asarray(left.run_index)).astype(int) // 3)
    of = np.where(runs == ids, np.asarray(left.face_id).astype(np.int64), CUT_FACE)
    size = np.linalg.norm(values[:, 3:6], axis=1, keepdims=True)
    at, columns = 8, {}
    for name in sorted(carried):
        width = carried[name].shape[1]
        columns[name], at = values[:, at : at + width], at + width
    normals = np.where(size > 1e-12, values[:, 3:6] / np.maximum(size, 1e-30), (0.0, 0.0, 1.0))
    return Mesh(values[:, :3], corners, normals, values[:, 6:8], *_sets(mesh, of), **columns), of


def _solid(mesh: Mesh, values: np.ndarray, id: int):
    """Return a mesh as a solid whose vertices carry values, None if it is no closed one or is inside out."""
    import manifold3d

    n = len(mesh.triangles)
    made = manifold3d.Mesh64(
        vert_properties=np.ascontiguousarray(values, np.float64),
        tri_verts=mesh.triangles.astype(np.uint64),
        run_index=np.array([0, 3 * n], np.uint64),
        run_original_id=np.array([id], np.uint32),
        face_id=np.arange(n, dtype=np.uint64),
    )
    made.merge()
    solid = manifold3d.Manifold(made)
    return solid if solid.status() == manifold3d.Error.NoError and solid.volume() > 0 else None


def _tool(cutaway: Cutaway, p: np.ndarray) -> tuple[Mesh, np.ndarray, np.ndarray]:
    """Return the shape that cuts points p, in its own space, with its normals and texture coordinates in metres."""
    if cutaway.kind == "ball":
        made = ball(cutaway.radius, segments=_RINGS)
        normals = made.vertices / np.maximum(np.linalg.norm(made.vertices, axis=1, keepdims=True), 1e-30)
        return made, normals.astype(float), made.uvs * (2 * np.pi * cutaway.radius, np.pi * cutaway.radius)
    low, high = -np.array(cutaway.half_size), np.array(cutaway.half_size)
    if cutaway.kind == "plane":
        room = np.ptp(p, axis=0).max() + 1e-3
        low, high = np.append(p.min(0)[:2] - room, 0.0), p.max(0) + room
    return _box(low, high)


def _box(low: np.ndarray, high: np.ndarray) -> tuple[Mesh, np.ndarray, np.ndarray]:
    """Return a box with four vertices of its own for each side."""
    places, normals, uvs, triangles = [], [], [], []
    for axis in range(3):
        across, up = (axis + 1) % 3, (axis + 2) % 3
        for side, at in ((-1.0, low[axis]), (1.0, high[axis])):
            corners = np.empty((4, 3))
            corners[:, axis] = at
            corners[:, across] = np.array([low, high, high, low])[:, across]
            corners[:, up] = np.array([low, low, high, high])[:, up]
            order = [(0, 1, 2), (0, 2, 3)] if side > 0 else [(0, 2, 1), (0, 3, 2)]
            triangles.append(np.array(order) + 4 * len(places))
            places.append(corners)
            normals.append(np.tile(np.eye(3)[axis] * side, (4, 1)))
            uvs.append(corners[:, [across, up]])
    made = Mesh(*map(np.concatenate, (places, triangles, normals, uvs)))
    return made, np.concatenate(normals), np.concatenate(uvs)


def _sets(mesh: Mesh, of: np.ndarray) -> tuple[np.ndarray | None, tuple[str, ...]]:
    """Return the sets of faces of what is left; cut faces are in the first one."""
    if mesh.sets is None:
        return None, ()
    return np.where(of >= 0, mesh.sets[np.maximum(of, 0)], 0), mesh.set_names


# ---- open ----------------------------------------------------------------------------------------------------------


def _open(mesh: Mesh, cutaway: Cutaway, to_cutter: np.ndarray) -> _Made:
    """Return what is left of a mesh whose triangles are cut where the shape's surface passes through them."""
    inner = Pieces.whole(mesh, _in_cutter(mesh, to_cutter))
    if cutaway.kind == "ball":
        return mesh_of(mesh, split_by_ball(inner, cutaway.radius)[0])
    if cutaway.kind == "plane":
        return mesh_of(mesh, split(inner, -inner.p[..., 2])[0])
    left = []
    for axis, half in enumerate(cutaway.half_size):
        for side in (1.0, -1.0):
            outer, inner = split(inner, side * inner.p[..., axis] - half)
            left.append(outer)
    return mesh_of(mesh, together(left))

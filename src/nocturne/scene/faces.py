"""Which material each face of a thing wears, and meshes cut by it."""

import weakref

import numpy as np

from nocturne.scene import edit
from nocturne.scene.document import Document
from nocturne.scene.shapes import Mesh
from nocturne.scene.smoothing import welded
from nocturne.scene.thing import FaceMaterial, Thing

_MOST_CUTS = 256  # of one mesh: more than it has materials, and few enough that edits do not pile up
_parts: "weakref.WeakKeyDictionary[Mesh, np.ndarray]" = weakref.WeakKeyDictionary()
_cut: "weakref.WeakKeyDictionary[Mesh, dict[bytes, tuple[Mesh, np.ndarray]]]" = weakref.WeakKeyDictionary()


def worn(thing: Thing, mesh: Mesh) -> tuple[tuple[str, ...], np.ndarray | None]:
    """Return the ids of the materials that a thing wears, and for each triangle (m,) the number of its own among them.

    None instead of the numbers if all faces wear the one. Later entries of `faces` lie over earlier ones; what none of
    them names wears the thing's own material.
    """
    if not thing.faces:
        return (thing.material,), None
    ids = list(dict.fromkeys((thing.material, *(face.material for face in thing.faces))))
    of_face = np.zeros(len(mesh.triangles), np.uint16)
    for face in thing.faces:
        of_face[mask(face, mesh)] = ids.index(face.material)
    used = np.unique(of_face)
    if len(used) <= 1:
        return (ids[used[0]] if len(used) else thing.material,), None
    return tuple(ids[k] for k in used), np.searchsorted(used, of_face).astype(np.uint16)


def mask(face: FaceMaterial, mesh: Mesh) -> np.ndarray:
    """Return (m,) True for the triangles of a mesh that an entry is about."""
    chosen = np.zeros(len(mesh.triangles), bool)
    if face.set and mesh.sets is not None and face.set in mesh.set_names:
        chosen |= mesh.sets == mesh.set_names.index(face.set)
    for first, n in zip(face.runs[::2], face.runs[1::2]):
        chosen[first : first + n] = True
    return chosen


def runs_of(chosen: np.ndarray) -> tuple[int, ...]:
    """Return (m,) chosen triangles as runs: the first of each and how many."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], np.asarray(chosen, np.int8), [0]])))
    starts, ends = edges[::2], edges[1::2]
    return tuple(int(v) for pair in zip(starts, ends - starts) for v in pair)


def cut(mesh: Mesh, of_face: np.ndarray, k: int) -> tuple[Mesh, np.ndarray]:
    """Return the part of a mesh whose faces have number k, and its triangles' numbers; the same object each time."""
    chosen = np.flatnonzero(of_face == k)
    key = chosen.tobytes()
    kept = _cut.setdefault(mesh, {})
    made = kept.get(key)
    if made is None:
        made = kept[key] = part_of(mesh, chosen), chosen
        while len(kept) > _MOST_CUTS:
            kept.pop(next(iter(kept)), None)  # another thread may have taken it out just now
    return made


def part_of(mesh: Mesh, triangles: np.ndarray) -> Mesh:
    """Return a mesh of some of a mesh's triangles, with the vertices they need."""
    used, corners = np.unique(mesh.triangles[triangles], return_inverse=True)
    sets = mesh.sets[triangles] if mesh.sets is not None else None
    vertices, normals, uvs = mesh.vertices[used], mesh.normals[used], mesh.uvs[used]
    return Mesh(vertices, corners.reshape(-1, 3), normals, uvs, sets, mesh.set_names, **mesh.carried(used))


def border(mesh: Mesh, chosen: np.ndarray) -> np.ndarray:
    """Return (n, 2, 3) the edges between chosen triangles and others; vertices in one place count as one."""
    if not chosen.any():
        return np.zeros((0, 2, 3))
    _, first, welded = np.unique(np.round(mesh.vertices, 7), axis=0, return_index=True, return_inverse=True)
    corners = welded.reshape(-1)[mesh.triangles[chosen]].astype(np.int64)
    edges = np.sort(np.concatenate([corners[:, [0, 1]], corners[:, [1, 2]], corners[:, [2, 0]]]), axis=1)
    unique, counts = np.unique(edges, axis=0, return_counts=True)
    return mesh.vertices[first[unique[counts == 1]]].astype(float)


def materials_of(thing: Thing) -> tuple[str, ...]:
    """Return the ids of the materials that a thing may wear, its own first; "" for none is left out."""
    return tuple(id for id in dict.fromkeys((thing.material, *(face.material for face in thing.faces))) if id)


def wearing(document: Document, material: str) -> list[Thing]:
    """Return the things that wear a material somewhere."""
    return [thing for thing in document.things if material in materials_of(thing)]


def wearing_instead(document: Document, old: str, new: str) -> Document:
    """Return the document in which all that wear one material somewhere wear another one there.

    Raises
    ------
    SceneError
        If a thing does not take it.
    """
    values = {
        thing.id: {
            "material": new if thing.material == old else thing.material,
            "faces": tuple(edit.changed(f, material=new) if f.material == old else f for f in thing.faces),
        }
        for thing in wearing(document, old)
    }
    return edit.alter_each(document, "things", values)


def parts_of(mesh: Mesh) -> np.ndarray:
    """Return (m,) int32 of a mesh's triangles: which connected part each is of, the same object each time.

    Triangles are connected by corners in the same place, also across seams and hard edges. Parts are numbered in the
    order of their first triangles.
    """
    made = _parts.get(mesh)
    if made is None:
        from scipy.sparse import coo_array
        from scipy.sparse.csgraph import connected_components

        place = welded(mesh.vertices, 0.0)[mesh.triangles.astype(np.int64)]
        a, b = place[:, [0, 1]].T.ravel(), place[:, [1, 2]].T.ravel()
        n = int(place.max()) + 1 if len(place) else 1
        graph = coo_array((np.ones(len(a), np.int8), (a, b)), shape=(n, n))
        _, first, whole = np.unique(
            connected_components(graph, directed=False)[1][place[:, 0]], return_index=True, return_inverse=True
        )
        made = _parts[mesh] = np.argsort(np.argsort(first))[whole].astype(np.int32)
    return made


def connected(mesh: Mesh, triangle: int, *, angle_deg: float = 180.0, is_flat: bool = False) -> np.ndarray:
    """Return (m,) True for the triangles joined to one over edges, as far as faces turn by less than an angle.

    From one face to the next, or with is_flat from the first one: a flat side. Vertices at the same place count as one,
    so that a seam of UVs or a hard edge joins too. With 180 degrees: the whole connected piece.
    """
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    m = len(mesh.triangles)
    _, welded = np.unique(np.round(mesh.vertices, 7), axis=0, return_inverse=True)
    corners = welded.reshape(-1)[mesh.triangles].astype(np.int64)
    edges = np.sort(np.concatenate([corners[:, [0, 1]], corners[:, [1, 2]], corners[:, [2, 0]]]), axis=1)
    face = np.tile(np.arange(m), 3)
    order = np.lexsort((edges[:, 1], edges[:, 0]))
    edges, face = edges[order], face[order]
    same = (edges[1:] == edges[:-1]).all(1)
    a, b = face[:-1][same], face[1:][same]
    if angle_deg < 180.0:
        p = mesh.vertices[mesh.triangles].astype(float)
        normal = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
        normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-30)
        least = np.cos(np.radians(angle_deg))
        if is_flat:
            level = normal @ normal[triangle] >= least
            near = level[a] & level[b]
        else:
            near = (normal[a] * normal[b]).sum(1) >= least
        a, b = a[near], b[near]
    _, piece = connected_components(coo_array((np.ones(len(a)), (a, b)), shape=(m, m)), directed=False)
    return piece == piece[triangle]

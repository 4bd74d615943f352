"""Smooth or hard shading: vertex normals by an edge angle, and split vertices welded."""

import weakref

import numpy as np

from nocturne.scene.shapes import Mesh

_MOST_KEPT = 3  # ways of smoothing one mesh
_smoothed: "weakref.WeakKeyDictionary[Mesh, dict[tuple[float, float], Mesh]]" = weakref.WeakKeyDictionary()
_MOST_AROUND = 256  # faces around a place that are compared with each other: of more, neighbours in the file


def welded(vertices: np.ndarray, reach: float) -> np.ndarray:
    """Return (n,) numbers, the same for vertices that lie in the same place within a reach, metres."""
    if reach <= 0:
        keys = np.ascontiguousarray(vertices + np.float32(0.0)).view(np.dtype((np.void, 12))).ravel()
        return np.unique(keys, return_inverse=True)[1].reshape(-1)
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components
    from scipy.spatial import cKDTree

    pairs = cKDTree(vertices).query_pairs(reach, output_type="ndarray")
    graph = coo_array((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(vertices), len(vertices)))
    return connected_components(graph, directed=False)[1]


def smoothed(mesh: Mesh, angle_deg: float, weld_m: float) -> Mesh:
    """Return `creased` of a mesh, the same object each time."""
    kept = _smoothed.setdefault(mesh, {})
    key = (angle_deg, weld_m)
    if key not in kept:
        if len(kept) >= _MOST_KEPT:
            del kept[next(iter(kept))]
        kept[key] = creased(mesh, angle_deg, weld_m=weld_m)
    return kept[key]


def creased(mesh: Mesh, angle_deg: float, *, weld_m: float = 0.0) -> Mesh:
    """Return a mesh whose normals are smooth across edges where faces turn by less than an angle, hard elsewhere.

    Each corner's normal is the mean of those of the faces around its place that turn from its own by less, weighted by
    their angle there (Thürmer and Wüthrich 1998); vertices are split where the means differ. 0: flat.

    weld_m: vertices this near each other count as one place.
    """
    t = mesh.triangles.astype(np.int64)
    m = len(t)
    if not m:
        return mesh
    p = mesh.vertices[t].astype(float)
    face = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    size = np.linalg.norm(face, axis=1, keepdims=True)
    face = np.where(size > 0, face / np.maximum(size, 1e-300), (0.0, 0.0, 1.0))
    place = welded(mesh.vertices, weld_m)[t].ravel()
    a, b = np.roll(p, -1, 1) - p, np.roll(p, 1, 1) - p
    lengths = np.linalg.norm(a, axis=2) * np.linalg.norm(b, axis=2)
    weight = np.arccos(np.clip((a * b).sum(2) / np.maximum(lengths, 1e-300), -1, 1)).ravel()
    weighted = np.repeat(face, 3, axis=0) * weight[:, None]
    of_face = np.repeat(np.arange(m), 3)
    # All pairs of corners at one place, one distance in the sorted row after another.
    order = np.argsort(place, kind="stable")
    sorted_place = place[order]
    total = weighted.copy()
    cosine = np.cos(np.radians(angle_deg)) + 1e-9 if angle_deg > 0 else 2.0
    step = 1
    live = np.arange(len(order))
    while step < _MOST_AROUND and len(live := live[live + step < len(order)]):
        live = live[sorted_place[live + step] == sorted_place[live]]
        one, two = order[live], order[live + step]
        near = (face[of_face[one]] * face[of_face[two]]).sum(1) >= cosine
        np.add.at(total, one[near], weighted[two[near]])
        np.add.at(total, two[near], weighted[one[near]])
        step += 1
    size = np.linalg.norm(total, axis=1, keepdims=True)
    normal = np.where(size > 1e-12, total / np.maximum(size, 1e-300), np.repeat(face, 3, axis=0)).astype(np.float32)
    # One vertex for all corners that had the same one and have the same normal.
    key = np.concatenate([t.reshape(-1, 1), np.round(normal * 8192).astype(np.int64)], axis=1)
    _, first, corner = np.unique(key, axis=0, return_index=True, return_inverse=True)
    source = t.ravel()[first]
    return Mesh(
        mesh.vertices[source], corner.reshape(-1, 3), normal[first], mesh.uvs[source], mesh.sets, mesh.set_names
    )

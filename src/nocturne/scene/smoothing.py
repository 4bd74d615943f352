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
        return distinct([vertices[:, k] for k in range(3)])[1]
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
    made = kept.get(key)
    if made is None:
        made = creased(mesh, angle_deg, weld_m=weld_m)
        while len(kept) >= _MOST_KEPT:
            kept.pop(next(iter(kept)), None)  # another thread may have taken it out just now
        kept[key] = made
    return made


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
    own = np.repeat(face, 3, axis=0)
    total = _means(own, weight, place)[place]
    # Where all faces around a place lie within half the angle of their mean, any two turn by less: the mean is right.
    half = np.cos(np.radians(angle_deg / 2)) if angle_deg > 0 else 2.0
    is_hard = np.zeros(int(place.max()) + 1, bool)
    if angle_deg < 180:
        is_hard[place[(own * total).sum(1) < half]] = True
    hard = np.flatnonzero(is_hard[place])
    total[hard] = _around(own[hard], weight[hard], place[hard], angle_deg)
    size = np.linalg.norm(total, axis=1, keepdims=True)
    normal = np.where(size > 1e-12, total / np.maximum(size, 1e-300), own).astype(np.float32)
    return _rebuilt(mesh, t.ravel(), normal, hard)


def _means(own: np.ndarray, weight: np.ndarray, place: np.ndarray) -> np.ndarray:
    """Return for each place the unit mean of (n, 3) normals there."""
    n = int(place.max()) + 1
    out = np.stack([np.bincount(place, own[:, k] * weight, minlength=n) for k in range(3)], axis=1)
    return out / np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-300)


def _around(own: np.ndarray, weight: np.ndarray, place: np.ndarray, angle_deg: float) -> np.ndarray:
    """Return for each corner the sum of the normals at its place that turn from its own by less than an angle."""
    weighted = own * weight[:, None]
    total = weighted.copy()
    cosine = np.cos(np.radians(angle_deg)) + 1e-9 if angle_deg > 0 else 2.0
    # All pairs of corners at one place, one distance in the sorted row after another.
    order = np.argsort(place, kind="stable")
    sorted_place = place[order]
    live, step = np.arange(len(order)), 1
    while step < _MOST_AROUND and len(live := live[live + step < len(order)]):
        live = live[sorted_place[live + step] == sorted_place[live]]
        one, two = order[live], order[live + step]
        near = (own[one] * own[two]).sum(1) >= cosine
        one, two = one[near], two[near]
        total[one] += weighted[two]  # each corner is there once at most for one distance
        total[two] += weighted[one]
        step += 1
    return total


def _rebuilt(mesh: Mesh, corner: np.ndarray, normal: np.ndarray, hard: np.ndarray) -> Mesh:
    """Return a mesh whose corners have their own normals: vertices are split where they differ at hard corners."""
    n = len(mesh.vertices)
    normals = np.tile(np.float32((0, 0, 1)), (n, 1))
    soft = np.ones(len(corner), bool)
    soft[hard] = False
    normals[corner[soft]] = normal[soft]
    if not len(hard):
        return _without_unused(np.arange(n), normals, corner, mesh)
    rounded = np.round(normal[hard] * 8192).astype(np.int64)
    first, number = distinct([corner[hard], rounded[:, 0], rounded[:, 1], rounded[:, 2]])
    source = corner[hard][first]
    corner = corner.copy()
    corner[hard] = n + number
    return _without_unused(
        np.concatenate([np.arange(n), source]), np.concatenate([normals, normal[hard][first]]), corner, mesh
    )


def _without_unused(source: np.ndarray, normals: np.ndarray, corner: np.ndarray, mesh: Mesh) -> Mesh:
    """Return the mesh of corners; source: which vertex of the mesh each vertex was."""
    used = np.zeros(len(source), bool)
    used[corner] = True
    number = np.cumsum(used) - 1
    was = source[used]
    return Mesh(
        mesh.vertices[was],
        number[corner].reshape(-1, 3),
        normals[used],
        mesh.uvs[was],
        mesh.sets,
        mesh.set_names,
        **mesh.carried(was),
    )


def distinct(columns: list[np.ndarray]) -> tuple[np.ndarray, np.ndarray]:
    """Return which rows of some columns are the first of their kind, and (n,) the kind of each row.

    Column by column, in whole numbers: many times as fast as sorting rows.
    """
    key = np.zeros(len(columns[0]), np.int64)
    for column in columns:
        codes = np.unique(column, return_inverse=True)[1].reshape(-1)
        key = key * (int(codes.max(initial=0)) + 1) + codes
        key = np.unique(key, return_inverse=True)[1].reshape(-1)  # small again, so that nothing overflows
    _, first, kind = np.unique(key, return_index=True, return_inverse=True)
    return first, kind.reshape(-1)

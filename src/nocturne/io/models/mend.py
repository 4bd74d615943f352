"""Meshes as files have them, made sound: faces of many corners cut up, what is no number or has no area left out."""

import numpy as np

from nocturne.io.models.arrival import Notes
from nocturne.scene.shapes import Mesh
from nocturne.scene.smoothing import creased

_NO_UVS = "texture coordinates that are no numbers, set to 0"
_CREASE_DEG = 35.0  # a file that says nothing of normals is smooth up to here


def sound_mesh(
    vertices: np.ndarray,
    triangles: np.ndarray,
    *,
    normals: np.ndarray | None = None,
    uvs: np.ndarray | None = None,
    more_uvs: np.ndarray | None = None,
    colours: np.ndarray | None = None,
    sets: np.ndarray | None = None,
    set_names: tuple[str, ...] = (),
    notes: Notes,
) -> Mesh | None:
    """Return a mesh of (n, 3) vertices and (m, 3) triangles, None if nothing is left of it.

    Triangles that name a vertex which is not there or no number, or that have no area, are left out; normals that are
    missing or of no length are made, split where faces meet at more than 35 degrees.

    Raises
    ------
    ValueError
        If the arrays do not fit together.
    """
    vertices = np.asarray(vertices, np.float32).reshape(-1, 3)
    triangles = np.asarray(triangles, np.int64).reshape(-1, 3)
    n = len(vertices)
    there = _all_three((triangles >= 0) & (triangles < n))
    finite = _all_three(np.abs(vertices) < 1e12)  # which is not so of what is no number
    corners = triangles if there.all() else np.where(there[:, None], triangles, 0)
    good = there if finite.all() else there & _all_three(finite[corners])
    notes.mend("faces whose corners are no numbers or not there, left out", int((~good).sum()))
    flat = good & _without_area(vertices, corners) if n else good
    notes.mend("faces without area, left out", int(flat.sum()))
    good &= ~flat
    if not good.any():
        return None
    if not good.all():
        triangles = triangles[good]
        sets = np.asarray(sets)[good] if sets is not None else None
    if not finite.all():
        vertices = np.where(finite[:, None], vertices, 0).astype(np.float32)
    uvs = np.zeros((n, 2), np.float32) if uvs is None or len(uvs) != n else _numbers(uvs, 2, _NO_UVS, notes)
    more: dict[str, np.ndarray] = {}
    if more_uvs is not None and len(more_uvs) == n:
        more["more_uvs"] = _numbers(more_uvs, 2, _NO_UVS, notes)
    if colours is not None and len(colours) == n:
        more["colours"] = np.maximum(_numbers(colours, 3, "colours that are no numbers, set to black", notes), 0)
    named = (sets, set_names if sets is not None else ())
    if normals is not None and len(normals) == n:
        normals = np.asarray(normals, np.float32)
        with np.errstate(all="ignore"):
            length = _length(normals.astype(float))
        bad = ~((length > 1e-6) & (length < 1e6))
        is_any_bad = bad.any()
        used = np.zeros(n, bool)
        if is_any_bad:
            used[triangles.ravel()] = True
        if not (bad & used).any():
            normals = normals / (np.where(bad, 1.0, length) if is_any_bad else length)[:, None]
            if is_any_bad:
                normals = np.where(bad[:, None], (0, 0, 1), normals)
            return Mesh(vertices, triangles, normals, uvs, *named, **more)
        notes.mend("normals of no length, made anew", int((bad & used).sum()))
    mesh = Mesh(vertices, triangles, np.zeros((n, 3), np.float32), uvs, *named, **more)
    return creased(mesh, _CREASE_DEG)


# Along an axis of three, NumPy's own sums and products take several times as long as three columns do.
def _all_three(are: np.ndarray) -> np.ndarray:
    return are[:, 0] & are[:, 1] & are[:, 2]


def _length(v: np.ndarray) -> np.ndarray:
    return np.sqrt(v[:, 0] ** 2 + v[:, 1] ** 2 + v[:, 2] ** 2)


def _without_area(vertices: np.ndarray, corners: np.ndarray) -> np.ndarray:
    """Return of which triangles the area is no more than rounding, measured by the longest extent of their edges."""
    i, j, k = np.ascontiguousarray(corners.T)
    edges = []
    with np.errstate(all="ignore"):
        for column in vertices.T.astype(float):
            first = column[i]
            edges.append((column[j] - first, column[k] - first))
        (x, u), (y, v), (z, w) = edges
        longest = np.zeros(len(corners))
        for a, b in edges:
            for along in (a, b, b - a):
                np.maximum(longest, np.abs(along), out=longest)
        area2 = (y * w - z * v) ** 2 + (z * u - x * w) ** 2 + (x * v - y * u) ** 2
        return ~(np.sqrt(area2) > 1e-9 * longest**2)


def _numbers(values: np.ndarray, width: int, words: str, notes: Notes) -> np.ndarray:
    """Return (n, width) float32 without what is no number."""
    values = np.asarray(values, np.float32)[:, :width]
    if np.isfinite(values).all():
        return values
    notes.mend(words, int((~np.isfinite(values)).any(1).sum()))
    return np.nan_to_num(values, nan=0.0, posinf=0.0, neginf=0.0)


def fans(counts: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return, for faces of `counts` corners each, (m, 3) corner numbers of their triangles, and whose face each is.

    Each face is a fan about its first corner, which is right for convex ones; `ears` mends the others.
    """
    counts = np.asarray(counts, np.int64)
    first = np.cumsum(counts) - counts
    n = np.maximum(counts - 2, 0)
    face = np.repeat(np.arange(len(counts)), n)
    k = np.arange(int(n.sum())) - np.repeat(np.cumsum(n) - n, n)
    start = first[face]
    return np.stack([start, start + k + 1, start + k + 2], axis=1), face


def triangulated(counts: np.ndarray, points: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return the same for faces with (n, 3) corner points, those that are not convex cut by their ears.

    counts: corners of each face; points: of all corners in a row.
    """
    counts = np.asarray(counts, np.int64)
    corners, face = fans(counts)
    many = np.flatnonzero(counts > 3)
    if not len(many):
        return corners, face
    p = points[corners].astype(float)
    with np.errstate(all="ignore"):
        normal = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    whole = np.zeros((len(counts), 3))
    np.add.at(whole, face, normal)
    against = (normal * whole[face]).sum(1) < 0
    dented = np.unique(face[against])
    if not len(dented):
        return corners, face
    import mapbox_earcut

    first = np.cumsum(counts) - counts
    keep = ~np.isin(face, dented)
    made, of = [corners[keep]], [face[keep]]
    for f in dented.tolist():
        axis = int(np.abs(whole[f]).argmax())
        ring = np.delete(points[first[f] : first[f] + counts[f]].astype(float), axis, axis=1)
        if not np.isfinite(ring).all():
            continue
        cut = mapbox_earcut.triangulate_float64(ring, np.array([counts[f]], np.uint32)).reshape(-1, 3).astype(np.int64)
        turned = (whole[f, axis] > 0) ^ (axis == 1)  # without y, x and z turn the other way round
        a, b = ring[cut[:, 1]] - ring[cut[:, 0]], ring[cut[:, 2]] - ring[cut[:, 0]]
        area = float((a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum())
        if (area > 0) != turned:
            cut = cut[:, ::-1]
        made.append(cut + first[f])
        of.append(np.full(len(cut), f))
    corners, face = np.concatenate(made), np.concatenate(of)
    order = np.argsort(face, kind="stable")
    return corners[order], face[order]

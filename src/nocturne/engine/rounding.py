"""Which hard edges are near each triangle, so that a hit can be shaded as if they were rounded.

Edges lie between two faces whose normals differ there. An edge rounds only the face it bounds: not the other side of a
thin plate. Each has two rows, one for either face, with the normals of the other one at its ends.
"""

import weakref
from dataclasses import dataclass

import numpy as np

from nocturne.engine.layout import instance as inst
from nocturne.engine.layout import rounded as layout
from nocturne.engine.things import Drawn
from nocturne.kept import kept
from nocturne.scene import smoothing
from nocturne.scene.materials import Material
from nocturne.scene.shapes import Mesh
from nocturne.scene.smoothing import welded

MOST_TANGENT = 4.0  # of half the angle between the normals: sharper edges are rounded no wider
_BATCH = 400_000


@dataclass(frozen=True)
class Rounds:
    """first (m, 2) int32: where the rows of each triangle begin, and how many; rows (n, layout.ROW) float32."""

    first: np.ndarray
    rows: np.ndarray


def rounds(mesh: Mesh, *, reach: float, angle_deg: float) -> Rounds:
    """Return the edges of a mesh that are nearer to each of its triangles than they may round.

    Parameters
    ----------
    mesh : Mesh
    reach : float
        Largest radius, in the mesh's own units, > 0.
    angle_deg : float
        Edges whose normals differ by less stay as they are.
    """
    none = Rounds(np.zeros((len(mesh.triangles), 2), np.int32), np.zeros((0, layout.ROW.width), np.float32))
    if not len(mesh.triangles) or reach <= 0:
        return none
    ends, triangles, normals, patch = _edges(mesh, np.cos(np.radians(angle_deg)))
    if not len(ends):
        return none
    cosine = np.clip((normals[:, 0] * normals[:, 1]).sum(2).mean(1), -0.999, 1.0)
    tangent = np.minimum(np.sqrt((1 - cosine) / (1 + cosine)), MOST_TANGENT)
    # One row for each side: the face it rounds, and the normals on the other.
    side_patch = patch[triangles].T.ravel()
    rows = layout.ROW.width
    table = np.zeros((2 * len(ends), rows), np.float32)
    for side in (0, 1):
        at = slice(side * len(ends), (side + 1) * len(ends))
        table[at, layout.ROW.span("START")], table[at, layout.ROW.span("END")] = ends[:, 0], ends[:, 1]
        table[at, layout.ROW.span("NORMAL_START")] = normals[:, 1 - side, 0]
        table[at, layout.ROW.span("NORMAL_END")] = normals[:, 1 - side, 1]
    triangle, edge = _near(mesh, np.tile(ends, (2, 1, 1)), np.tile(tangent * reach, 2), side_patch, patch)
    order = np.lexsort((edge, triangle))
    triangle, edge = triangle[order], edge[order]
    counts = np.bincount(triangle, minlength=len(mesh.triangles))
    first = np.stack([np.cumsum(counts) - counts, counts], axis=1).astype(np.int32)
    return Rounds(first, table[edge])


def _edges(mesh: Mesh, most_cosine: float) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Return hard edges: ends (e, 2, 3), triangles (e, 2), normals (e, side, end, 3); and each triangle's face."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    t = mesh.triangles.astype(np.int64)
    place = welded(mesh.vertices, 0.0)[t]
    a, b = place, np.roll(place, -1, 1)
    va, vb = t, np.roll(t, -1, 1)
    turned = a > b
    low, high = np.where(turned, b, a).ravel(), np.where(turned, a, b).ravel()
    v_low, v_high = np.where(turned, vb, va).ravel(), np.where(turned, va, vb).ravel()
    order = np.lexsort((high, low))
    same = (low[order][1:] == low[order][:-1]) & (high[order][1:] == high[order][:-1])
    begins = np.flatnonzero(np.append(True, ~same))
    sizes = np.diff(np.append(begins, len(order)))
    i = order[begins[sizes == 2]]
    j = order[begins[sizes == 2] + 1]
    keep = low[i] != high[i]
    i, j = i[keep], j[keep]
    face = _face_normals(mesh)
    normals = np.stack([_corner_normals(mesh, face, k, v_low, v_high) for k in (i, j)], axis=1)
    hard = (normals[:, 0] * normals[:, 1]).sum(2).mean(1) < most_cosine
    triangles = np.stack([i // 3, j // 3], axis=1)
    soft = triangles[~hard]
    graph = coo_array((np.ones(len(soft)), (soft[:, 0], soft[:, 1])), shape=(len(t), len(t)))
    patch = connected_components(graph, directed=False)[1]
    ends = mesh.vertices[np.stack([v_low[i], v_high[i]], axis=1)[hard]].astype(float)
    return ends, triangles[hard], normals[hard], patch


def _face_normals(mesh: Mesh) -> np.ndarray:
    p = mesh.vertices[mesh.triangles].astype(float)
    n = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    return n / np.maximum(np.linalg.norm(n, axis=1, keepdims=True), 1e-300)


def _corner_normals(mesh: Mesh, face: np.ndarray, corner: np.ndarray, low: np.ndarray, high: np.ndarray) -> np.ndarray:
    """Return (e, 2, 3) unit normals at both ends of edges, on the side of some corners; the face's if there is none."""
    n = mesh.normals[np.stack([low[corner], high[corner]], axis=1)].astype(float)
    size = np.linalg.norm(n, axis=2, keepdims=True)
    return np.where(size > 1e-6, n / np.maximum(size, 1e-300), face[corner // 3][:, None])


def _near(
    mesh: Mesh, ends: np.ndarray, reach: np.ndarray, side_patch: np.ndarray, patch: np.ndarray
) -> tuple[np.ndarray, np.ndarray]:
    """Return pairs (triangle, edge side) of one face that are within the edge's reach."""
    from scipy.spatial import cKDTree

    p = mesh.vertices[mesh.triangles].astype(float)
    centre = p.mean(1)
    radius = np.linalg.norm(p - centre[:, None], axis=2).max(1)
    tree = cKDTree(centre)
    middle, half = ends.mean(1), np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1) / 2
    found_t, found_e = [], []
    # Large triangles are few: they are compared with every edge side of their face; small ones are looked up.
    is_large = radius > 4 * max(float(np.median(radius)), float(reach.max()))
    small_most = float(radius[~is_large].max()) if (~is_large).any() else 0.0
    lists = tree.query_ball_point(middle, half + reach + small_most)
    for e, near in enumerate(lists):
        near = np.asarray(near, np.int64)
        near = near[(patch[near] == side_patch[e]) & ~is_large[near]]
        found_t.append(near)
        found_e.append(np.full(len(near), e))
    by_patch = np.argsort(side_patch, kind="stable")
    starts = np.searchsorted(side_patch[by_patch], np.arange(patch.max() + 2))
    for triangle in np.flatnonzero(is_large):
        edges = by_patch[starts[patch[triangle]] : starts[patch[triangle] + 1]]
        edges = edges[_distance(np.broadcast_to(p[triangle], (len(edges), 3, 3)), ends[edges]) <= reach[edges]]
        found_t.append(np.full(len(edges), triangle))
        found_e.append(edges)
    triangle, edge = np.concatenate(found_t), np.concatenate(found_e)
    is_near = np.zeros(len(triangle), bool)
    for k in range(0, len(triangle), _BATCH):
        part = slice(k, k + _BATCH)
        is_near[part] = _distance(p[triangle[part]], ends[edge[part]]) <= reach[edge[part]]
    return triangle[is_near], edge[is_near]


def _distance(corners: np.ndarray, ends: np.ndarray) -> np.ndarray:
    """Return the least distance of segments (n, 2, 3) to the borders of triangles (n, 3, 3)."""
    least = np.full(len(corners), np.inf)
    for k in range(3):
        side = np.stack([corners[:, k], corners[:, (k + 1) % 3]], axis=1)
        least = np.minimum(least, _between(side, ends))
    return least


def _between(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """Return the distance between segments, (n, 2, 3) each (Ericson 2005, 5.1.9)."""
    d1, d2, r = a[:, 1] - a[:, 0], b[:, 1] - b[:, 0], a[:, 0] - b[:, 0]
    l1, l2 = (d1 * d1).sum(1), (d2 * d2).sum(1)
    c, f, m = (d1 * r).sum(1), (d2 * r).sum(1), (d1 * d2).sum(1)
    den = l1 * l2 - m * m
    s = np.clip(np.where(den > 1e-12 * l1 * l2, (m * f - c * l2) / np.maximum(den, 1e-300), 0.0), 0, 1)
    t = (m * s + f) / np.maximum(l2, 1e-300)
    s = np.clip(np.where(t < 0, -c, np.where(t > 1, m - c, s * l1)) / np.maximum(l1, 1e-300), 0, 1)
    t = np.clip(t, 0, 1)
    return np.linalg.norm(a[:, 0] + d1 * s[:, None] - b[:, 0] - d2 * t[:, None], axis=1)


class Rounding:
    """Keeps the edges of meshes while those stay the same objects."""

    def __init__(self) -> None:
        self._kept: weakref.WeakKeyDictionary[Mesh, tuple[tuple[float, float], Rounds]] = weakref.WeakKeyDictionary()

    def tables(self, drawn: Drawn, wanted: tuple[tuple[float, float], ...]) -> dict[str, np.ndarray]:
        """Return the tables of all meshes together, as `wanted` tells.

        What relief moved has the edges of the mesh before: kernels go by where a place was.
        """
        if not wanted:
            return {
                "round_i": layout.NEAR.filled(np.int32)[None],
                "round_f": layout.ROW.filled(np.float32)[None],
            }
        meshes = [drawn.rests.get(k, (mesh, None)) for k, mesh in enumerate(drawn.meshes)]
        if not self._kept:
            self._begin([(mesh, want) for (mesh, _), want in zip(meshes, wanted) if want[0] > 0])
        firsts, rows, n = [], [np.zeros((1, layout.ROW.width), np.float32)], 1
        for (mesh, parents), want in zip(meshes, wanted):
            made = self._made(mesh, want)
            first = made.first if parents is None else made.first[parents]
            firsts.append(first + np.array([n, 0], np.int32))
            rows.append(made.rows)
            n += len(made.rows)
        return {"round_i": np.concatenate(firsts), "round_f": np.concatenate(rows)}

    def _begin(self, wanted: list[tuple[Mesh, tuple[float, float]]]) -> None:
        """Make all that a set wants when it is opened, or find it on disk."""
        if not wanted:
            return
        arrays = [array for mesh, _ in wanted for array in (mesh.vertices, mesh.triangles, mesh.normals)]
        sources = (__file__, smoothing.__file__, layout.__file__)
        found = iter(kept("rounded", (repr([want for _, want in wanted]), *arrays), sources, lambda: _flat(wanted)))
        self._kept.update({mesh: (want, Rounds(next(found), next(found))) for mesh, want in wanted})

    def _made(self, mesh: Mesh, want: tuple[float, float]) -> Rounds:
        held = self._kept.get(mesh)
        if held is None or held[0] != want:
            held = (want, rounds(mesh, reach=want[0], angle_deg=want[1]))
            self._kept[mesh] = held
        return held[1]


def _flat(wanted: list[tuple[Mesh, tuple[float, float]]]) -> tuple[np.ndarray, ...]:
    made = [rounds(mesh, reach=reach, angle_deg=angle) for mesh, (reach, angle) in wanted]
    return tuple(array for one in made for array in (one.first, one.rows))


def wanted_by(drawn: Drawn, materials: tuple[Material, ...]) -> tuple[tuple[float, float], ...]:
    """Return the reach in its own units, and the least angle, that each mesh is rounded by; reach 0: not at all.

    materials: in the order of the instances' numbers. Nothing is wanted only where no material rounds: kernels look a
    triangle up for any that does. The reach is up to a half more than what is asked, so that it stays while a thing or
    a radius is drawn larger; how far an edge really rounds is decided at the hit.
    """
    if not any(m.rounding_mm > 0 for m in materials):
        return ()
    reach, angle = np.zeros(len(drawn.meshes)), np.full(len(drawn.meshes), 180.0)
    radius = np.array([m.rounding_mm / 1000 for m in materials])
    limit = np.array([m.rounding_angle_deg for m in materials])
    if len(drawn.inst_i):
        worn, mesh = drawn.inst_i[:, inst.MATERIAL], drawn.inst_i[:, inst.MESH]
        size = np.cbrt(np.abs(np.linalg.det(drawn.inst_xf.reshape(-1, 3, 4)[:, :, :3].astype(float))))
        is_rounded = radius[worn] > 0
        np.maximum.at(reach, mesh[is_rounded], (radius[worn] / np.maximum(size, 1e-12))[is_rounded])
        np.minimum.at(angle, mesh[is_rounded], limit[worn][is_rounded])
    # Of what relief moved, edges are known where the mesh before is.
    reach[[k for k, mesh in enumerate(drawn.meshes) if mesh.rest is not None and k not in drawn.rests]] = 0
    there = reach > 0
    reach[there] = 2.0 ** (np.ceil(2 * np.log2(reach[there])) / 2)
    return tuple(zip(reach.tolist(), angle.tolist()))

"""Relief as real geometry: meshes divided until their edges are fine enough where they stand, and moved by heights.

Edges are divided or not by what is true of the edge alone, and places that several vertices share move as one: so
nothing tears, at seams of texture coordinates and at hard edges neither.
"""

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field

import numpy as np

from nocturne.scene import edit
from nocturne.scene.patterns.adjust import Constant
from nocturne.scene.patterns.evaluate import Images, Spot, driven_by
from nocturne.scene.patterns.step import Step
from nocturne.scene.shapes import Mesh

MOST_TRIANGLES = 2_000_000  # of one mesh
_MOST_ROUNDS = 24  # each halves edges
_ONE_PLACE = 1e-6  # of a mesh's size, that vertices of one place may be apart
_AT_ONCE = 16_000  # places whose patterns are worked out together: their arrays stay near the processor

# Steps, (4, 4) matrix and number of a thing -> what tells the heights (n,) at n places on it, from any thread.
Asked = Callable[[tuple[Step, ...], np.ndarray, int], Callable[[Spot], np.ndarray]]
Fineness = Callable[[np.ndarray], np.ndarray]  # (n, 3) places in the set -> (n,) how long an edge may be there, metres


@dataclass(frozen=True, eq=False)
class Relief:
    """What moves a surface: steps that drive the height, how far white of it lies over black, and what stays."""

    steps: tuple[Step, ...]
    depth: float
    middle: float = 0.0


@dataclass(frozen=True, eq=False)
class Displaced:
    """A divided and moved mesh; its `rest` is where it was.

    parents: (m,) which triangle of the mesh before each is a part of. is_cut: it would have become too large, so edges
    are longer than was wanted.
    """

    mesh: Mesh
    parents: np.ndarray
    is_cut: bool


@dataclass
class Divided:
    """A mesh with divided edges. points: which place each vertex is at; places: (p, 3) where these are.

    parents: (m,) which triangle of the mesh before each is a part of. carried: what vertices carry. is_cut: it would
    have become too large, so edges are longer than was wanted.
    """

    places: np.ndarray
    points: np.ndarray
    triangles: np.ndarray
    parents: np.ndarray
    carried: dict[str, np.ndarray] = field(default_factory=dict)
    is_cut: bool = False


def welded(vertices: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return (p, 3) places and (n,) which of them each vertex is at: those that only rounding parts are one."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components
    from scipy.spatial import cKDTree

    rows = np.ascontiguousarray(vertices + np.float32(0.0))  # no negative zeros
    _, first, points = np.unique(rows.view([("", rows.dtype)] * 3).ravel(), return_index=True, return_inverse=True)
    places, points = rows[first].astype(float), points.reshape(-1)
    near = _ONE_PLACE * float(np.ptp(places, axis=0).max(initial=0.0))
    pairs = cKDTree(places).query_pairs(near, output_type="ndarray") if near > 0 else np.zeros((0, 2), int)
    if not len(pairs):
        return places, points
    links = coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(places),) * 2)
    _, group = connected_components(links, directed=False)
    _, chosen, group = np.unique(group, return_index=True, return_inverse=True)
    return places[chosen], group.reshape(-1)[points]


def divided(
    mesh: Mesh, wanted: np.ndarray, matrix: np.ndarray, fineness: Fineness, most: int = MOST_TRIANGLES
) -> Divided:
    """Return a mesh with edges of wanted triangles (m,) divided until they are short enough."""
    places, points = welded(mesh.vertices)
    carried = {"normals": mesh.normals, "uvs": mesh.uvs, **mesh.carried(slice(None))}
    it = Divided(
        places,
        points,
        mesh.triangles.astype(np.int64),
        np.arange(len(mesh.triangles)),
        {name: array.astype(float) for name, array in carried.items()},
    )
    ready: list[tuple[np.ndarray, np.ndarray]] = []  # triangles and parents that are fine enough: for good
    n_ready = 0
    for _ in range(_MOST_ROUNDS):
        edges, ends, over = _edges(it, wanted, matrix, fineness)
        marked = over > 1
        room = most - n_ready - len(it.triangles)
        it.is_cut = int(marked[edges].sum()) > room
        if it.is_cut:
            # The longest ones first, as many as there is room for.
            users = np.bincount(edges.ravel(), minlength=len(over))
            order = np.argsort(-over, kind="stable")
            marked[order[np.cumsum(users[order]) > room]] = False
        # Whether an edge is divided is true of it alone: a triangle none of whose edges is stays as it is.
        stays = ~marked[edges].any(1)
        ready.append((it.triangles[stays], it.parents[stays]))
        n_ready += int(stays.sum())
        it.triangles, it.parents = it.triangles[~stays], it.parents[~stays]
        if not len(it.triangles):
            break
        _divide(it, edges[~stays], ends, marked)
        if it.is_cut:
            break
    else:
        it.is_cut = True
    it.triangles = np.concatenate([it.triangles, *(triangles for triangles, _ in ready)])
    it.parents = np.concatenate([it.parents, *(parents for _, parents in ready)])
    return it


def _edges(
    it: Divided, wanted: np.ndarray, matrix: np.ndarray, fineness: Fineness
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return (m, 3) which edge each side of a triangle is, their ends (e, 2) as points, and how far too long."""
    corners = it.points[it.triangles]
    sides = np.stack([corners, np.roll(corners, -1, axis=1)], axis=-1)
    sides.sort(axis=-1)
    codes = sides[..., 0] * len(it.places) + sides[..., 1]
    unique, edges = np.unique(codes, return_inverse=True)
    edges = edges.reshape(codes.shape)
    ends = np.stack(np.divmod(unique, len(it.places)), axis=1)
    a, b = (it.places[ends[:, k]] @ matrix[:3, :3].T + matrix[:3, 3] for k in (0, 1))
    over = np.linalg.norm(b - a, axis=1) / fineness(0.5 * (a + b))
    is_wanted = np.zeros(len(unique), bool)
    is_wanted[edges[wanted[it.parents]]] = True
    return edges, ends, np.where(is_wanted, over, 0.0)


def _divide(it: Divided, edges: np.ndarray, ends: np.ndarray, marked: np.ndarray) -> None:
    """Divide the marked edges in their middles, and the triangles that have some in two, three or four."""
    new_point = np.cumsum(marked) - 1 + len(it.places)
    it.places = np.concatenate([it.places, 0.5 * (it.places[ends[marked, 0]] + it.places[ends[marked, 1]])])
    # A vertex for each side that its triangles carry differently: seams stay seams.
    t, on = it.triangles, marked[edges]
    sides = np.stack([t, np.roll(t, -1, axis=1)], axis=-1)
    pairs = np.sort(sides[on], axis=-1)
    n = len(it.points)
    codes, first, which = np.unique(pairs[:, 0] * n + pairs[:, 1], return_index=True, return_inverse=True)
    ends_of = np.stack(np.divmod(codes, n), axis=1)
    middle = np.full(t.shape, -1, np.int64)
    middle[on] = n + which.reshape(-1)
    it.points = np.concatenate([it.points, new_point[edges[on][first]]])
    for name, array in it.carried.items():
        it.carried[name] = np.concatenate([array, 0.5 * (array[ends_of[:, 0]] + array[ends_of[:, 1]])])
    parts, parents = [], []
    count = on.sum(1)
    for k in range(3):  # turned so that what tells is at the same place
        a, b, c = (t[:, (k + j) % 3] for j in range(3))
        ab, bc, ca = (middle[:, (k + j) % 3] for j in range(3))
        one = (count == 1) & on[:, k]
        two = (count == 2) & ~on[:, k]
        parts += [np.stack([a, ab, c], 1)[one], np.stack([ab, b, c], 1)[one]]
        parts += [np.stack(v, 1)[two] for v in ((a, b, bc), (a, bc, ca), (ca, bc, c))]
        parents += [it.parents[one]] * 2 + [it.parents[two]] * 3
    a, b, c = (t[:, j] for j in range(3))
    ab, bc, ca = (middle[:, j] for j in range(3))
    all_three = count == 3
    parts += [np.stack(v, 1)[all_three] for v in ((a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca))]
    parents += [it.parents[all_three]] * 4
    it.triangles, it.parents = np.concatenate(parts), np.concatenate(parents)


def displaced(
    mesh: Mesh,
    it: Divided,
    of_face: np.ndarray | None,
    reliefs: tuple[Relief | None, ...],
    matrix: np.ndarray,
    images: Images,
    *,
    seed: int = 0,
    asked: Asked | None = None,
) -> Displaced:
    """Return a mesh, divided, moved along its normals by the reliefs of what its faces wear.

    Parameters
    ----------
    mesh : Mesh
    it : Divided
        The mesh as `divided` made it.
    of_face : (m,) int array or None
        Which of the reliefs each triangle has; None: all the first.
    reliefs : tuple
        None for what moves nothing.
    matrix : (4, 4) array
        How it stands in the set.
    images : mapping
        Loaded pictures by (path, space).
    seed : int
        The thing's own number, for steps that go by it.
    asked : callable, optional
        What works heights out in the place of NumPy and the images: see `Asked`.

    Notes
    -----
    What looks for near shapes, such as wear, counts for nothing here: there is no picture yet that could be asked.
    """
    of_face = np.zeros(len(mesh.triangles), np.int64) if of_face is None else np.asarray(of_face, np.int64)
    kinds = of_face[it.parents]
    rest = it.places[it.points]
    to_set = matrix[:3, :3]
    normals = it.carried["normals"] @ np.linalg.inv(to_set)
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    total, counted = np.zeros(len(it.places)), np.zeros(len(it.places))
    for k, relief in enumerate(reliefs):
        used = np.unique(it.triangles[kinds == k])
        if relief is not None:
            steps = blind(relief.steps)
            steps = _from_three_sides(steps) if mesh.is_bare else steps
            ask = asked(steps, matrix, seed) if asked is not None else _by_numpy(steps, images)
            heights = (_heights(ask, it, used, rest, normals, matrix, seed) - relief.middle) * relief.depth
            total += np.bincount(it.points[used], heights, minlength=len(total))
        counted += np.bincount(it.points[used], minlength=len(total))
    way = np.stack([np.bincount(it.points, normals[:, k], minlength=len(total)) for k in range(3)], axis=1)
    way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-12)
    moved = it.places + (way * (total / np.maximum(counted, 1))[:, None]) @ np.linalg.inv(to_set).T
    carried = {name: array for name, array in it.carried.items() if name not in ("normals", "uvs")}
    own = it.carried["normals"]
    own = own / np.maximum(np.linalg.norm(own, axis=1, keepdims=True), 1e-12)
    sets = mesh.sets[it.parents] if mesh.sets is not None else None
    made = Mesh(moved[it.points], it.triangles, own, it.carried["uvs"], sets, mesh.set_names, rest=rest, **carried)
    return Displaced(made, it.parents, it.is_cut)


def blind(steps: tuple[Step, ...]) -> tuple[Step, ...]:
    """Return steps without those that look for near shapes; inside of others they are as far from all shapes."""
    made = []
    for step in steps:
        if step.asks_shape:
            continue
        inner = tuple(_far(s) if s.asks_shape else s for s in step.steps)
        made.append(edit.changed(step, steps=tuple(blind((s,))[0] for s in inner)) if step.steps else step)
    return tuple(made)


def _from_three_sides(steps: tuple[Step, ...]) -> tuple[Step, ...]:
    """Return steps as they lie on what has no texture coordinates: in the picture the kernels see to it."""
    made = []
    for step in steps:
        values = {"where": "sides"} if step.is_placed and step.where == "uv" else {}
        made.append(step.model_copy(update={**values, "steps": _from_three_sides(step.steps)}))
    return tuple(made)


def _far(step: Step) -> Constant:
    kept = {name: getattr(step, name) for name in ("parameter", "amount", "on", "blend", "invert")}
    return Constant(value=(step.far_from_all,) * 3, **kept)


def _by_numpy(steps: tuple[Step, ...], images: Images) -> Callable[[Spot], np.ndarray]:
    return lambda spot: driven_by(steps, np.zeros(3), spot, images)[..., 0]


def _heights(
    ask: Callable[[Spot], np.ndarray],
    it: Divided,
    used: np.ndarray,
    rest: np.ndarray,
    normals: np.ndarray,
    matrix: np.ndarray,
    seed: int,
) -> np.ndarray:
    """Return (u,) the heights at the used vertices."""
    axes = matrix[:3, :3] / np.maximum(np.linalg.norm(matrix[:3, :3], axis=0), 1e-12)
    out = np.empty(len(used))

    def work_out(at: int) -> None:
        k = used[at : at + _AT_ONCE]
        place = rest[k] @ matrix[:3, :3].T
        uv = it.carried["uvs"][k]
        colour = it.carried.get("colours")
        spot = Spot(
            uv,
            it.carried["more_uvs"][k] if "more_uvs" in it.carried else uv,
            np.ones((len(k), 3)) if colour is None else colour[k],
            place @ axes,
            place + matrix[:3, 3],
            normals[k] @ axes,
            normals[k],
            normals[k],
            (seed, 0, 0),
        )
        out[at : at + _AT_ONCE] = ask(spot)

    with ThreadPoolExecutor(os.cpu_count()) as pool:
        list(pool.map(work_out, range(0, len(used), _AT_ONCE)))
    return out

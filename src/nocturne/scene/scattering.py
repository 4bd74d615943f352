"""Where the copies of a scatter stand, and what they are: the same numbers always give the same copies."""

from dataclasses import dataclass
from operator import is_

import numpy as np

from nocturne.kept import kept
from nocturne.scene import faces, parts
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.parts import local
from nocturne.scene.scatter import MOST_COPIES, Scatter
from nocturne.scene.shapes import Mesh, at_pivot, levels
from nocturne.scene.thing import Thing

_BATCH = 512  # points that are compared in pairs
_MOST_TREES = 24  # before they are made one
_DEEPEST = 6  # scatters of scatters of …
_NORTH = np.array([0.0, 0.0, 1.0])


@dataclass(frozen=True, eq=False, repr=False)
class Copies:
    """One mesh in one material, many times: (n, 4, 4) matrices in the space of what it belongs to."""

    mesh: Mesh
    material: str
    matrices: np.ndarray


def copies_of(document: Document, assets: Assets, thing: Thing, depth: int = 0) -> list[Copies]:
    """Return all that a scatter draws, in its own space; what goes round in circles is left out.

    The same objects as before as long as nothing that they hang on is another one.
    """
    if thing.scatter is None or depth >= _DEEPEST:
        return []
    hangs_on = _hangs_on(document, assets, thing)
    kept = _kept.get((thing.id, depth))
    if kept is not None and len(kept[0]) == len(hangs_on) and all(map(is_, kept[0], hangs_on)):
        return kept[1]
    made = _copies_of(document, assets, thing, depth)
    _kept.pop((thing.id, depth), None)
    _kept[(thing.id, depth)] = (hangs_on, made)
    while len(_kept) > _MOST_KEPT:
        _kept.pop(next(iter(_kept)), None)  # the picture's thread may have taken it out just now
    return made


def _hangs_on(document: Document, assets: Assets, thing: Thing) -> list[object]:
    """Return every object that a scatter's copies are made from: things, where they stand, loaded files."""
    found: dict[str, None] = {}
    left = [thing.id]
    while left:
        id = left.pop()
        if id in found:
            continue
        item = document.find("things", id)
        if item is not None:
            found[id] = None
            left += parts.members(document.things).get(id, ())
            left += [name for name in (item.scatter.named if item.scatter is not None else ()) if name]
    out: list[object] = [assets.meshes, assets.images]
    for id in found:
        out += [document.find("things", id), document.placements[id][0]]
    return out


_kept: dict[tuple[str, int], tuple[list[object], list[Copies]]] = {}
_MOST_KEPT = 64


def _copies_of(document: Document, assets: Assets, thing: Thing, depth: int) -> list[Copies]:
    scatter = thing.scatter
    if _is_flat(document.placement(thing.id)):
        return []
    stands, which = placed(document, assets, thing)
    out: list[Copies] = []
    for k, source in enumerate(scatter.sources):
        mine = stands[which == k]
        root = document.find("things", source.thing)
        if root is None or not len(mine) or root.id == thing.id:
            continue
        for part in _parts_of(document, assets, root, depth):
            n, m = len(mine), len(part.matrices)
            if n * m > MOST_COPIES:
                continue
            whole = (mine[:, None] @ part.matrices[None]).reshape(n * m, 4, 4)
            whole = whole[~_is_flat(whole)]
            if len(whole):
                out.append(Copies(part.mesh, part.material, whole))
    return out


def _is_flat(matrices: np.ndarray) -> np.ndarray:
    """Return whether (..., 4, 4) matrices leave nothing of what they place."""
    return np.abs(np.linalg.det(matrices[..., :3, :3])) < 1e-18


def _parts_of(document: Document, assets: Assets, root: Thing, depth: int) -> list[Copies]:
    """Return what a source is made of, as it is turned and sized, about its own origin; hidden members are left out."""
    out: list[Copies] = []
    start = local((0.0, 0.0, 0.0), root.turn_deg, root.size, root.pivot)
    left, seen = [(root, np.array(start))], set()
    while left:
        thing, matrix = left.pop()
        if thing.id in seen:
            continue
        seen.add(thing.id)
        mesh = assets.shape(thing)
        if mesh is not None and len(mesh.triangles):
            worn, of_face = faces.worn(thing, mesh)
            for k, material in enumerate(worn):
                piece = mesh if of_face is None else faces.cut(mesh, of_face, k)[0]
                out.append(Copies(piece, material, matrix[None]))
        if thing.scatter is not None:
            for part in copies_of(document, assets, thing, depth + 1):
                out.append(Copies(part.mesh, part.material, matrix[None] @ part.matrices))
        for id in parts.members(document.things).get(thing.id, ()):
            child = document.find("things", id)
            if child.visible:
                left.append((child, matrix @ local(child.place, child.turn_deg, child.size, child.pivot)))
    return out


def placed(document: Document, assets: Assets, thing: Thing) -> tuple[np.ndarray, np.ndarray]:
    """Return (n, 4, 4) matrices of the copies in the scatter's space, and (n,) which source each is."""
    scatter = thing.scatter
    rng = np.random.default_rng(scatter.seed)
    world = document.placement(thing.id)
    points, normals, chance = _spread(document, assets, scatter, world, rng)
    n = len(points)
    # All random numbers are drawn for all points: a limit that takes some away leaves the others as they are.
    jitter = rng.uniform(-1, 1, (n, 3)) * scatter.jitter
    turn = rng.uniform(-1, 1, (n, 3)) * np.array(scatter.turn_deg)
    if scatter.step_deg > 0:
        turn = np.round(turn / scatter.step_deg) * scatter.step_deg
    low, high = sorted((scatter.smallest, scatter.largest))
    size = np.exp(rng.uniform(np.log(low), np.log(high), n))
    weights = np.array([s.weight for s in scatter.sources], float)
    total = weights.sum()
    which = rng.random(n)
    which = np.searchsorted(np.cumsum(weights) / total, which, side="right") if total > 0 else np.full(n, -1)
    keep = rng.random(n) < chance
    if scatter.over == "grid":
        points = points + jitter
    else:  # within the surface's plane
        points = points + jitter - normals * (jitter * normals).sum(1, keepdims=True)
    keep &= _allowed(document, assets, scatter, world, points, normals)
    points, normals, turn, size, which = points[keep], normals[keep], turn[keep], size[keep], which[keep]
    if scatter.apart > 0:
        (far,) = kept("apart", (points, repr(scatter.apart)), (__file__,), lambda: (_apart(points, scatter.apart),))
        points, normals, turn, size, which = points[far], normals[far], turn[far], size[far], which[far]
    base = np.tile(np.eye(3), (len(points), 1, 1)) if scatter.upright else _upright_to(normals)
    if scatter.look_at:
        base = base @ _facing(document, scatter, world, points)
    out = np.zeros((len(points), 4, 4))
    out[:, :3, :3] = base @ _turns(turn) * size[:, None, None]
    out[:, :3, 3], out[:, 3, 3] = points, 1
    return out, np.minimum(which, len(scatter.sources) - 1)


def _spread(
    document: Document, assets: Assets, scatter: Scatter, world: np.ndarray, rng: np.random.Generator
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return points and unit normals (n, 3) in the scatter's space, and the chance of each to stay."""
    none = np.zeros((0, 3)), np.zeros((0, 3)), np.zeros(0)
    if scatter.over == "grid":
        counts = [max(round(c), 1) for c in scatter.counts]
        if np.prod(counts, dtype=float) > MOST_COPIES:
            return none
        axes = [(np.arange(c) - (c - 1) / 2) * s for c, s in zip(counts[:2], scatter.spacing[:2])]
        axes.append(np.arange(counts[2]) * scatter.spacing[2])  # upwards from the ground
        points = np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1).reshape(-1, 3)
        return points, np.tile(_NORTH, (len(points), 1)), np.ones(len(points))
    if scatter.over == "points" and not scatter.on:
        points = np.array(scatter.points, float).reshape(-1, 3)
        return points, np.tile(_NORTH, (len(points), 1)), np.ones(len(points))
    thing = document.find("things", scatter.on)
    mesh = assets.shape(thing) if thing is not None else None
    if mesh is None or not len(mesh.triangles) or _is_flat(document.placement(thing.id)):
        return none
    matrix = np.linalg.inv(world) @ document.placement(thing.id)
    vertices = mesh.vertices @ matrix[:3, :3].T + matrix[:3, 3]
    turn = np.linalg.inv(matrix[:3, :3]).T
    if scatter.over == "points":
        points, first = np.unique(np.round(vertices, 6), axis=0, return_index=True)
        normals = mesh.normals[first] @ turn.T
        return points, _unit(normals), np.ones(len(points))
    p = vertices[mesh.triangles]
    across = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    area = np.linalg.norm(across, axis=1)
    if not area.sum() > 0:
        return none
    n = scatter.number
    face = np.searchsorted(np.cumsum(area) / area.sum(), rng.random(n), side="right").clip(max=len(area) - 1)
    a, b = np.sqrt(rng.random(n)), rng.random(n)
    w = np.stack([1 - a, a * (1 - b), a * b], axis=1)
    points = (p[face] * w[..., None]).sum(1)
    normals = _unit(across[face] * (1 if np.linalg.det(matrix[:3, :3]) > 0 else -1))
    return points, normals, _density(assets, scatter, (mesh.uvs[mesh.triangles[face]] * w[..., None]).sum(1))


def _density(assets: Assets, scatter: Scatter, uv: np.ndarray) -> np.ndarray:
    """Return (n,) the picture's brightness at texture coordinates, 1 without one; v points up, the picture repeats."""
    image = assets.picture(scatter.density)
    if image is None:
        return np.ones(len(uv))
    height, width = image.shape[:2]
    x = ((uv[:, 0] - np.floor(uv[:, 0])) * width).astype(int).clip(0, width - 1)
    y = ((1 - (uv[:, 1] - np.floor(uv[:, 1]))) * height).astype(int).clip(0, height - 1)
    return image[y, x].mean(1).clip(0, 1)


def _allowed(
    document: Document, assets: Assets, scatter: Scatter, world: np.ndarray, points: np.ndarray, normals: np.ndarray
) -> np.ndarray:
    """Return (n,) True where slope and height in the set are within their limits and nothing is to be kept clear."""
    in_set = points @ world[:3, :3].T + world[:3, 3]
    up = _unit(normals @ np.linalg.inv(world[:3, :3]))[:, 2]
    keep = (in_set[:, 2] >= scatter.lowest) & (in_set[:, 2] <= scatter.highest)
    keep &= up >= np.cos(np.radians(scatter.steepest_deg)) - 1e-9
    for id in scatter.keep_out:
        for other in document.with_members((id,)):
            thing = document.find("things", other)
            mesh = assets.shape(thing) if thing is not None else None
            if mesh is None:
                continue
            matrix = document.placement(other)
            linear = matrix[:3, :3]
            scale = np.linalg.norm(linear, axis=0)
            if (scale < 1e-12).any():
                continue
            own = (in_set - matrix[:3, 3]) @ np.linalg.inv(linear).T
            low, high = mesh.bounds[0] - scatter.margin / scale, mesh.bounds[1] + scatter.margin / scale
            # Seen from above: what stands on a floor is kept clear whatever its height over it.
            keep &= ~((own[:, :2] >= low[:2]) & (own[:, :2] <= high[:2])).all(1)
    return keep


def _apart(points: np.ndarray, distance: float) -> np.ndarray:
    """Return which points stay if each must be further than a distance from all that stay before it.

    Batch by batch, so that memory stays small however dense the points are: what is near to one that stays already is
    found by trees of those, the few others of a batch by comparing them in pairs.
    """
    from scipy.spatial import cKDTree

    kept: list[np.ndarray] = []
    trees: list[cKDTree] = []
    for start in range(0, len(points), _BATCH):
        which = np.arange(start, min(start + _BATCH, len(points)))
        for tree in trees:
            far = np.isinf(tree.query(points[which], distance_upper_bound=np.nextafter(distance, np.inf))[0])
            which = which[far]
        mine = points[which]
        near = ((mine[:, None] - mine[None]) ** 2).sum(-1) <= distance**2
        stays = np.ones(len(which), bool)
        for i in range(len(which)):
            if stays[i]:
                stays[i + 1 :] &= ~near[i, i + 1 :]
        which = which[stays]
        if len(which):
            kept.append(which)
            trees.append(cKDTree(points[which]))
        if len(trees) > _MOST_TREES:
            trees = [cKDTree(points[np.concatenate(kept)])]
    return np.concatenate(kept) if kept else np.zeros(0, np.int64)


def _unit(v: np.ndarray) -> np.ndarray:
    return v / np.maximum(np.linalg.norm(v, axis=1, keepdims=True), 1e-30)


def _upright_to(normals: np.ndarray) -> np.ndarray:
    """Return (n, 3, 3) rotations whose z is the normal, turned as little as can be."""
    z = normals
    x = np.where(np.abs(z[:, :1]) < 0.9, (1.0, 0.0, 0.0), (0.0, 1.0, 0.0))
    x = _unit(x - z * (x * z).sum(1, keepdims=True))
    return np.stack([x, np.cross(z, x), z], axis=-1)


def _facing(document: Document, scatter: Scatter, world: np.ndarray, points: np.ndarray) -> np.ndarray:
    """Return (n, 3, 3) turns about z that bring each copy's front, minus y, to what it looks at."""
    target = document.placement(scatter.look_at)
    if target is None:
        return np.tile(np.eye(3), (len(points), 1, 1))
    at = (np.linalg.inv(world) @ target[:, 3])[:3]
    way = at - points
    angle = np.arctan2(way[:, 0], -way[:, 1])
    return _turns(np.degrees(np.stack([0 * angle, 0 * angle, angle], axis=1)))


def _turns(turn_deg: np.ndarray) -> np.ndarray:
    """Return (n, 3, 3) rotations about x, then y, then z."""
    a = np.radians(turn_deg)
    (cx, cy, cz), (sx, sy, sz) = np.cos(a).T, np.sin(a).T
    rows = [
        [cy * cz, sx * sy * cz - cx * sz, cx * sy * cz + sx * sz],
        [cy * sz, sx * sy * sz + cx * cz, cx * sy * sz - sx * cz],
        [-sy, sx * cy, cx * cy],
    ]
    return np.moveaxis(np.array(rows), 2, 0)


def made_real(document: Document, assets: Assets, id: str) -> list[Thing]:
    """Return a thing for each copy's source, standing as the copies do in the scatter's group; ids are left to choose.

    Each is the source as it is, with another place; what is in it is not among them.
    """
    thing = document.find("things", id)
    stands, which = placed(document, assets, thing)
    out = []
    for matrix, k in zip(stands, which.tolist()):
        root = document.find("things", thing.scatter.sources[k].thing)
        if root is None:
            continue
        stand = at_pivot(levels(matrix @ local((0.0, 0.0, 0.0), root.turn_deg, root.size, root.pivot))[0], root.pivot)
        out.append(root.model_copy(update={"parent": id, "visible": True, **stand}))
    return out

"""Every emitter as a sampled light: lamps with a place, environments, glowing meshes; a tree over the near ones."""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cache as memoize

import numpy as np

from nocturne.engine import lighttree
from nocturne.engine.layout import environment as env
from nocturne.engine.layout import glow, learned
from nocturne.engine.layout import instance as inst
from nocturne.engine.layout import light as li
from nocturne.engine.layout import mesh as mesh_row
from nocturne.engine.layout.masks import CAMERA_RAYS, INDIRECT_RAYS
from nocturne.engine.things import Drawn, matrix_rows
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.layering import emitting
from nocturne.scene.lights import Light, chroma, strength
from nocturne.scene.lights.portal import Portal
from nocturne.scene.materials import Material
from nocturne.scene.shapes import Mesh

_NEAR_SLOTS = 48  # learned chances of lights near by: of more lights, nodes of their tree share one


@dataclass(frozen=True, eq=False, repr=False)
class Lamps:
    arrays: dict[str, np.ndarray]
    n_infinite: int
    n_nodes: int
    of_instance: dict[int, int]
    lamp_i: np.ndarray
    lamp_xf: np.ndarray
    lamp_nm: np.ndarray
    lamp_masks: np.ndarray
    lamp_shapes: tuple[str, ...]
    lamp_names: tuple[str, ...]
    lamp_ids: tuple[str, ...]
    lamps_key: tuple


class _Collector:
    """Gathers light rows, environments, lamps' shapes and tree leaves in order."""

    def __init__(self, groups: tuple[str, ...], n_instances: int) -> None:
        self.groups, self.n_instances = groups, n_instances
        self.whole: list[np.ndarray] = []
        self.floats: list[np.ndarray] = []
        self.infinite: list[int] = []
        self.portals: list[int] = []
        self.emitters: list[lighttree.Emitter] = []
        self.leaves: list[int] = []
        self.environments: list[tuple[np.ndarray, tuple]] = []
        self.lamps: list[tuple[str, str, str, np.ndarray, int, int]] = []
        self.n_triangles = 0
        self.mesh_f: list[np.ndarray] = []
        self.mesh_i: list[np.ndarray] = []
        self.mesh_cdf: list[np.ndarray] = []
        self.of_instance: dict[int, int] = {}

    def add(self, kind: int, group: str, row: np.ndarray, **about: int) -> int:
        index = self.groups.index(group) if group in self.groups else 0
        self.whole.append(li.WHOLE.filled(np.int32, KIND=kind, GROUP=index, **about))
        self.floats.append(row)
        return len(self.whole) - 1

    def leaf(self, light: int, emitter: lighttree.Emitter) -> None:
        if emitter.power > 0:
            self.leaves.append(light)
            self.emitters.append(emitter)

    def lamp(self, light: Light, shape: str, index: int, matrix: np.ndarray) -> None:
        mask = INDIRECT_RAYS | (CAMERA_RAYS if light.visible else 0)
        self.lamps.append((shape, light.name, light.id, matrix, mask, index))


@dataclass(frozen=True, eq=False, repr=False)
class Glowing:
    """A placed mesh as a light: its world triangles, running area, and bounds of where it shines."""

    rows: np.ndarray
    cdf: np.ndarray
    area: float
    emitter: lighttree.Emitter


def collect(
    document: Document,
    assets: Assets,
    drawn: Drawn,
    meshes: dict,
    groups: tuple[str, ...],
    keep: Callable,
    glowing: dict[tuple, Glowing],
) -> Lamps:
    got = _Collector(groups, len(drawn.inst_i))
    used: dict[tuple, Glowing] = {}
    for light in document.standing_lights:
        if isinstance(light, Portal):
            if light.on:
                _add_portal(got, light)
            continue
        if not light.on or light.power <= 0:
            continue
        strength(light)  # a unit that its kind does not know is refused here, by name
        if light.is_infinite:
            _add_infinite(got, light, assets, keep)
        else:
            _add_near(got, light)
    glows = emitting(document)
    for instance in _glowing_instances(document, drawn).tolist():
        row = drawn.inst_i[instance]
        key = (drawn.meshes[row[inst.MESH]], drawn.inst_xf[instance].tobytes())
        if key not in glowing:
            glowing[key] = _glowing_mesh(*key)
        used[key] = glowing[key]
        worn = document.materials[row[inst.MATERIAL] - 1]
        _add_mesh(got, instance, row, glowing[key], meshes, glows[worn.id])
    glowing.clear()
    glowing.update(used)
    return _finish(got, drawn)


def _glowing_instances(document: Document, drawn: Drawn) -> np.ndarray:
    glows = emitting(document)
    emitters = [i + 1 for i, material in enumerate(document.materials) if material.id in glows]
    return np.flatnonzero(np.isin(drawn.inst_i[:, inst.MATERIAL], emitters))


def glowing_rows(document: Document, drawn: Drawn) -> bytes:
    """Return what decides the lights that are things: which instances glow, and where they stand."""
    which = _glowing_instances(document, drawn)
    return which.tobytes() + drawn.inst_i[which].tobytes() + drawn.inst_xf[which].tobytes()


def _add_near(got: _Collector, light: Light) -> None:
    made = rows()[light.kind].near(light)
    row = li.FLOATS.filled(np.float32, **made.parts, RGB=chroma(light) * made.strength)
    index = got.add(made.number, light.group, row)
    got.leaf(index, made.emitter)
    if made.shape:
        got.lamp(light, made.shape, index, made.matrix)


def _add_infinite(got: _Collector, light: Light, assets: Assets, keep: Callable) -> None:
    made = rows()[light.kind].far(light, assets, keep)
    if made is None:
        return
    first = len(got.environments)
    if made.picture:
        got.environments.append(made.picture)
    row = li.FLOATS.filled(np.float32, **made.parts)
    got.infinite.append(got.add(made.number, light.group, row, FIRST=first, SEEN=int(light.visible)))


def _add_portal(got: _Collector, light: Portal) -> None:
    from nocturne.engine.kernels.lights.portal import row_of

    got.portals.append(got.add(li.PORTAL, light.group, li.FLOATS.filled(np.float32, **row_of(light))))


@memoize
def rows() -> dict:
    """Return the file that makes the row of each kind of light; kernels are imported only when they are needed."""
    from nocturne.engine.kernels.lights.units import ROWS

    return ROWS


def _glowing_mesh(mesh: Mesh, placed: bytes) -> Glowing | None:
    matrix = np.frombuffer(placed, np.float32).reshape(3, 4).astype(float)
    world = (mesh.vertices @ matrix[:, :3].T + matrix[:, 3])[mesh.triangles]
    e1, e2 = world[:, 1] - world[:, 0], world[:, 2] - world[:, 0]
    normals = np.cross(e1, e2)
    area = np.linalg.norm(normals, axis=1) / 2
    total = float(area.sum())
    if not total > 0:
        return None
    rows = np.zeros((len(area), glow.FLOATS.width), np.float32)
    # A mirrored mesh keeps its outside, while the turn of its corners in the world is the other one.
    side = -1.0 if np.linalg.det(matrix[:, :3]) < 0 else 1.0
    parts = {"CORNER": world[:, 0], "EDGE_1": e1, "EDGE_2": e2, "AREA": area[:, None], "SIDE": side}
    for name, values in parts.items():
        rows[:, glow.FLOATS.span(name)] = values
    cdf = np.cumsum(area / total)
    cdf[-1] = 1.0
    unit = side * normals / np.maximum(2 * area[:, None], 1e-30)
    axis = unit.T @ area
    size = np.linalg.norm(axis)
    axis = axis / size if size > 1e-9 else np.array([0, 0, 1.0])
    spread = float(np.arccos(np.clip((unit[area > 0] @ axis).min(), -1, 1)))
    # Axis by axis: along one of three, NumPy takes several times as long.
    low, high = (np.array([end(world[..., k]) for k in range(3)]) for end in (np.min, np.max))
    emitter = lighttree.Emitter(low, high, axis, spread, math.pi / 2, math.pi * total)
    return Glowing(rows, cdf, total, emitter)


def _add_mesh(
    got: _Collector, instance: int, row: np.ndarray, glowing: Glowing | None, meshes: dict, material: Material
) -> None:
    if glowing is None:
        return
    n = len(glowing.rows)
    first = got.n_triangles
    got.n_triangles += n
    index = got.add(
        li.MESH,
        material.emission_group or "light",
        li.FLOATS.filled(np.float32),
        FIRST=first,
        TRIANGLES=n,
        INSTANCE=instance,
    )
    got.mesh_f.append(glowing.rows)
    mesh = row[inst.MESH]
    which = np.empty((n, glow.WHOLE.width), np.int32)
    which[:, glow.TRIANGLE] = np.arange(n) + meshes["mesh_i"][mesh][mesh_row.FIRST_TRIANGLE]
    which[:, glow.MESH] = mesh
    got.mesh_i.append(which)
    got.mesh_cdf.append(glowing.cdf)
    got.of_instance[instance] = index
    got.leaf(index, replace(glowing.emitter, power=glowing.emitter.power * (material.emission_luminance or 1.0)))


def _finish(got: _Collector, drawn: Drawn) -> Lamps:
    node_f, node_i, trails = lighttree.build(got.emitters, got.leaves)
    for light, (trail, depth) in trails.items():
        row = got.whole[light]
        row[li.TRAIL], row[li.DEPTH], row[li.IN_TREE] = trail, depth, 1
    slots = _slots(got, node_f, node_i)
    env_i, pixels, q, alias = [], [], [], []
    used = cells = 0
    for picture, (keep_share, other, _) in got.environments:
        height, width = picture.shape[:2]
        env_i.append(env.ROW.filled(np.int32, FIRST=used, WIDTH=width, HEIGHT=height, FIRST_CELL=cells))
        pixels.append(picture.reshape(-1, 3).astype(np.float32))
        q.append(keep_share)
        alias.append(other)
        used += width * height
        cells += len(other)
    lamp_rows, names, ids = [], [], []
    for _, name, id, _, _, index in got.lamps:
        lamp_rows.append(
            inst.WHOLE.filled(np.int32, MESH=-1, MATERIAL=-1, LIGHT=index, OBJECT=len(drawn.names) + len(names))
        )
        names.append(name)
        ids.append(id)
    xf, nm = matrix_rows([lamp[3] for lamp in got.lamps])

    def joined(parts: list, empty: np.ndarray) -> np.ndarray:
        return np.concatenate(parts).astype(empty.dtype) if parts else empty

    arrays = {
        "light_i": np.stack(got.whole or [li.WHOLE.filled(np.int32)]),
        "light_f": np.stack(got.floats or [li.FLOATS.filled(np.float32)]),
        "infinite": np.array(got.infinite or [0], np.int32),
        "mesh_light_f": joined(got.mesh_f, glow.FLOATS.filled(np.float32)[None]),
        "mesh_light_i": joined(got.mesh_i, glow.WHOLE.filled(np.int32)[None]),
        "mesh_light_cdf": joined(got.mesh_cdf, np.ones(1, np.float32)),
        "env_i": np.stack(env_i or [env.ROW.filled(np.int32, WIDTH=1, HEIGHT=1)]),
        "env_px": joined(pixels, np.zeros((1, 3), np.float32)),
        "env_q": joined(q, np.ones(1, np.float32)),
        "env_alias": joined(alias, np.zeros(1, np.int32)),
        "node_f": node_f,
        "node_i": node_i,
        "slots": slots,
    }
    kinds = tuple(lamp[0] for lamp in got.lamps)
    masks = np.array([lamp[4] for lamp in got.lamps], np.uint32)
    key = (kinds, xf.tobytes(), masks.tobytes())
    return Lamps(
        arrays,
        len(got.infinite),
        len(node_i) if got.emitters else 0,
        got.of_instance,
        np.array(lamp_rows, np.int32).reshape(-1, inst.WHOLE.width),
        xf,
        nm,
        masks,
        kinds,
        tuple(names),
        tuple(ids),
        key,
    )


def _slots(got: _Collector, node_f: np.ndarray, node_i: np.ndarray) -> np.ndarray:
    """Return the slots of learned chances, and enter each light's in its row."""
    slots = []
    for light in got.infinite:
        row = got.whole[light]
        ways = [0, *(portal + 1 for portal in got.portals if row[li.KIND] in li.THROUGH_PORTALS)]
        row[li.SLOT], row[li.WAYS] = len(slots), len(ways)
        slots += [learned.SLOT.filled(np.int32, NODE=-1, LIGHT=light, PORTAL=portal) for portal in ways]
    if got.emitters:
        nodes = lighttree.cut(node_f, node_i, _NEAR_SLOTS)
        by_trail = {(trail, depth): len(slots) + k for k, (_, trail, depth) in enumerate(nodes)}
        for light in got.leaves:
            row = got.whole[light]
            trail, depth = int(row[li.TRAIL]), int(row[li.DEPTH])
            found = (by_trail.get((trail & ((1 << d) - 1), d)) for d in range(depth + 1))
            row[li.SLOT] = next(slot for slot in found if slot is not None)
        slots += [learned.SLOT.filled(np.int32, NODE=node, LIGHT=-1, DEPTH=depth) for node, _, depth in nodes]
    return np.stack(slots or [learned.SLOT.filled(np.int32, NODE=-1, LIGHT=-1)])


def with_lights(rows: np.ndarray, of_instance: dict[int, int]) -> np.ndarray:
    rows = rows.copy()
    for instance, light in of_instance.items():
        rows[instance, inst.LIGHT] = light
    return rows

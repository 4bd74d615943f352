"""From document to arrays and Embree scenes; each part is kept while what it came from is the same object."""

import math
import weakref
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from nocturne.engine import albedo, gate, lighttree
from nocturne.engine.embree import CAMERA_RAYS, CLEAR_SHADOW_RAYS, INDIRECT_RAYS, SHADOW_RAYS, Shape, Stage
from nocturne.engine.environment import sampling_tables, sky_picture, sun_radiance
from nocturne.engine.layout import light as li
from nocturne.engine.layout import settings as st
from nocturne.engine.layout.limits import MAX_GROUPS, MAX_MEDIA
from nocturne.engine.types import SCENE, pack
from nocturne.errors import NotSupported
from nocturne.scene.assets import Assets
from nocturne.scene.camera import View
from nocturne.scene.daylight import SUN_RADIUS, sun_direction
from nocturne.scene.document import Document
from nocturne.scene.lights import Light, chroma, strength
from nocturne.scene.materials import Material
from nocturne.scene.outputs import Quality
from nocturne.scene.shapes import Mesh, transform

_GREY = Material(id="", name="No material", base_color=(0.5, 0.5, 0.5), specular_roughness=0.6)
_RECT = (
    np.array([[-1, -1, 0], [1, -1, 0], [1, 1, 0], [-1, 1, 0]], np.float32),
    np.array([[0, 2, 1], [0, 3, 2]], np.uint32),
)  # faces -z, the side a lamp shines to


@dataclass(frozen=True, eq=False, repr=False)
class Prepared:
    """Everything the kernels read for one picture; keeps its arrays and Embree scenes alive."""

    arrays: dict[str, np.ndarray]
    table: np.ndarray
    stage: Stage
    document: Document
    view: View
    quality: Quality
    width: int
    height: int
    groups: tuple[str, ...]
    objects: tuple[str, ...]
    object_ids: tuple[str, ...]
    materials: tuple[str, ...]
    material_ids: tuple[str, ...]
    n_lamps: int


class Preparer:
    """Prepares documents one after another, and reuses what did not change."""

    def __init__(self) -> None:
        self._kept: dict[str, tuple[tuple, Any]] = {}
        self._shapes: weakref.WeakKeyDictionary[Mesh, Shape] = weakref.WeakKeyDictionary()
        self._rect = Shape.mesh(*_RECT, name="an area light")
        self._sphere = Shape.sphere()
        self._glowing: dict[tuple, _Glowing] = {}
        self._filter = gate.inverse_filter()

    def prepare(
        self,
        document: Document,
        assets: Assets,
        *,
        view: View | None = None,
        quality: Quality | None = None,
        width: int | None = None,
        height: int | None = None,
        sampling: int = st.MODE_MIS,
    ) -> Prepared:
        """Return the tables of a document seen through a view.

        Raises
        ------
        RenderError
            If Embree refuses it, or it has more light groups than the film can hold.
        SceneError
            If a light's power has a unit its kind does not know.
        """
        view, quality = view or document.view, quality or document.quality
        width, height = width or view.width, height or view.height
        groups = document.light_groups
        if len(groups) > MAX_GROUPS:
            raise NotSupported(
                f"There are {len(groups)} light groups; {MAX_GROUPS} is the most.",
                hint="Put some lights into one group.",
            )
        materials = (_GREY, *document.materials)
        pictures = _pictures(materials, assets)
        texels = self._keep("texels", tuple(pictures.values()), lambda: _texels(list(pictures.values())))
        surface = self._keep(
            "materials",
            (document.materials, groups, tuple(pictures)),
            lambda: _materials(materials, groups, tuple(pictures)),
        )
        # Only what decides visibility to shadow rays, and what glows: other edits of a material rebuild no geometry.
        clear = tuple((m.id, _is_clear(m)) for m in document.materials)
        glow = tuple(
            (m.id, m.emission_luminance, m.emission_color, m.emission_group) for m in document.materials if m.is_emitter
        )
        drawn = self._keep("drawn", (document.things, clear, assets.meshes), lambda: _drawn(document, assets))
        meshes = self._keep("meshes", tuple(drawn.meshes), lambda: _pack_meshes(drawn.meshes))
        lights = self._keep(
            "lights",
            (document.lights, glow, drawn, groups, assets.images),
            lambda: _lights(document, assets, drawn, meshes, groups, self._kept_environment, self._glowing),
        )
        stage = self._keep("stage", (drawn, *lights.lamps_key), lambda: self._stage(drawn, lights))
        floats, whole = gate.settings_rows(quality, view.white_luminance)
        whole[st.MODE] = sampling
        whole[st.N_MATERIALS], whole[st.N_INFINITE] = len(materials), lights.n_infinite
        whole[st.N_TREE_NODES] = lights.n_nodes
        whole[st.HAS_CLEAR] = drawn.has_clear
        metal, glass = albedo.tables()
        arrays = {
            **surface,
            **texels,
            **meshes,
            **lights.arrays,
            "inst_i": np.concatenate([_with_lights(drawn.inst_i, lights.of_instance), lights.lamp_i]),
            "inst_xf": np.concatenate([drawn.inst_xf, lights.lamp_xf]),
            "inst_nm": np.concatenate([drawn.inst_nm, lights.lamp_nm]),
            "top": np.array([stage.address], np.int64),
            "camera": gate.camera_row(view, width, height),
            "settings_f": floats,
            "settings_i": whole,
            "start_medium": self._start_media(stage, drawn, view, document),
            "tab_metal": metal,
            "tab_glass": glass,
            "filter_inv": self._filter,
        }
        table = pack(SCENE, arrays)
        return Prepared(
            arrays,
            table,
            stage,
            document,
            view,
            quality,
            width,
            height,
            groups,
            (*drawn.names, *lights.lamp_names),
            (*drawn.ids, *lights.lamp_ids),
            tuple(m.name for m in materials),
            tuple(m.id for m in materials),
            len(lights.lamp_ids),
        )

    def _keep(self, name: str, key: tuple, build: Callable[[], Any]) -> Any:
        kept = self._kept.get(name)
        if kept is not None and len(kept[0]) == len(key) and all(_is_same(a, b) for a, b in zip(kept[0], key)):
            return kept[1]
        made = build()
        self._kept[name] = (key, made)
        return made

    def _kept_environment(self, name: str, key: tuple, build: Callable[[], Any]) -> Any:
        return self._keep(f"environment {name}", key, build)

    def _stage(self, drawn: "_Drawn", lights: "_Lights") -> Stage:
        for mesh in drawn.meshes:
            if mesh not in self._shapes:
                self._shapes[mesh] = Shape.mesh(mesh.vertices, mesh.triangles, name="a mesh")
        shapes = [self._shapes[drawn.meshes[row[0]]] for row in drawn.inst_i]
        shapes += [self._rect if kind == "rect" else self._sphere for kind in lights.lamp_kinds]
        return Stage(
            shapes, np.concatenate([drawn.inst_xf, lights.lamp_xf]), np.concatenate([drawn.masks, lights.lamp_masks])
        )

    def _start_media(self, stage: Stage, drawn: "_Drawn", view: View, document: Document) -> np.ndarray:
        """Find which closed media the eye is inside of: leaving hits outnumber entering ones along a ray."""
        out = np.zeros(8, np.int32)
        media = {i + 1 for i, m in enumerate(document.materials) if m.is_medium}
        if not media:
            return out
        position, direction = np.array(view.eye, float), np.array([0.0123, 0.0271, 0.99956])
        counts: dict[int, int] = {}
        for _ in range(256):
            hit = stage.first_hit(position, direction)
            if hit is None:
                break
            instance, distance, leaving = hit
            if instance < len(drawn.inst_i) and int(drawn.inst_i[instance][1]) in media:
                material = int(drawn.inst_i[instance][1])
                counts[material] = counts.get(material, 0) + (1 if leaving else -1)
            position = position + direction * (distance + 1e-5)
        inside = [m for m, n in counts.items() if n > 0][:MAX_MEDIA]
        out[0] = len(inside)
        out[1 : 1 + len(inside)] = inside
        return out


def _is_same(a: Any, b: Any) -> bool:
    # Tuples of frozen models compare quickly, because equal members are nearly always the same objects.
    return a is b or (isinstance(a, (str, bytes, tuple)) and a == b)


def _with_lights(rows: np.ndarray, of_instance: dict[int, int]) -> np.ndarray:
    rows = rows.copy()
    for instance, light in of_instance.items():
        rows[instance, 2] = light
    return rows


# ---- materials -----------------------------------------------------------------------------------------------------


def _pictures(materials: tuple[Material, ...], assets: Assets) -> dict[tuple[str, str], np.ndarray]:
    """Return the loaded pictures that materials use, in the order of their slots."""
    keys = dict.fromkeys((texture.path, texture.space) for m in materials for texture in m.textures)
    return {key: assets.images[key] for key in keys if key in assets.images}


def _texels(images: list[np.ndarray]) -> dict[str, np.ndarray]:
    if not images:
        return {
            "tex_i": np.array([[0, 1, 1]], np.int32),
            "tex_f": np.ones((1, 1), np.float32),
            "texels": np.zeros((1, 3), np.uint16),
        }
    encoded = [gate.encode_texels(image) for image in images]
    first = np.cumsum([0, *(len(texels) for texels, _ in encoded)])
    return {
        "tex_i": np.array([[at, i.shape[1], i.shape[0]] for at, i in zip(first, images)], np.int32),
        "tex_f": np.array([[scale] for _, scale in encoded], np.float32),
        "texels": np.concatenate([texels for texels, _ in encoded]),
    }


def _materials(
    materials: tuple[Material, ...], groups: tuple[str, ...], slots: tuple[tuple[str, str], ...]
) -> dict[str, np.ndarray]:
    whole, bind_i, bind_f = [], [], []
    for material in materials:
        first = len(bind_i)
        for texture in material.textures:
            key = (texture.path, texture.space)
            if key in slots:
                row_i, row_f = gate.binding(texture, slots.index(key))
                bind_i.append(row_i)
                bind_f.append(row_f)
        group = material.emission_group or "light"
        in_group = groups.index(group) if group in groups else 0
        whole.append(
            [first, len(bind_i) - first, material.is_medium, _is_clear(material), material.precedence, in_group]
        )
    return {
        "mat_f": np.stack([gate.material_row(m) for m in materials]),
        "mat_i": np.array(whole, np.int32),
        "bind_i": np.array(bind_i or [[0, 0, 0, 0]], np.int32),
        "bind_f": np.array(bind_f or [[0.0] * 6], np.float32),
    }


# ---- things --------------------------------------------------------------------------------------------------------


@dataclass(frozen=True, eq=False, repr=False)
class _Drawn:
    meshes: list[Mesh]
    inst_i: np.ndarray
    inst_xf: np.ndarray
    inst_nm: np.ndarray
    masks: np.ndarray
    names: tuple[str, ...]
    ids: tuple[str, ...]
    has_clear: int


def _is_clear(material: Material) -> bool:
    """Return True if shadow rays go through: a thin sheet of nothing but clear glass."""
    return material.geometry_thin_walled and material.transmission_weight > 0.999


def _matrix_rows(matrices: list[np.ndarray]) -> tuple[np.ndarray, np.ndarray]:
    if not matrices:
        return np.zeros((0, 12), np.float32), np.zeros((0, 9), np.float32)
    whole = np.stack(matrices)
    linear = whole[:, :3, :3]
    normal = np.linalg.inv(linear).transpose(0, 2, 1)
    return whole[:, :3, :].reshape(-1, 12).astype(np.float32), normal.reshape(-1, 9).astype(np.float32)


def _drawn(document: Document, assets: Assets) -> _Drawn:
    meshes: list[Mesh] = []
    slots: dict[int, int] = {}
    rows, matrices, masks, names, ids = [], [], [], [], []
    by_id = {m.id: i + 1 for i, m in enumerate(document.materials)}
    has_clear = 0
    for thing in document.things:
        mesh = assets.meshes.get(thing.mesh)
        matrix, shown = document.placements[thing.id]
        if mesh is None or not shown or not len(mesh.triangles) or abs(np.linalg.det(matrix[:3, :3])) < 1e-18:
            continue
        if id(mesh) not in slots:
            slots[id(mesh)] = len(meshes)
            meshes.append(mesh)
        slot = by_id.get(thing.material, 0)
        material = document.materials[slot - 1] if slot else _GREY
        thin = _is_clear(material)
        has_clear |= int(thin)
        rows.append([slots[id(mesh)], slot, -1, len(names)])
        matrices.append(matrix)
        masks.append(CAMERA_RAYS | INDIRECT_RAYS | (CLEAR_SHADOW_RAYS if thin else SHADOW_RAYS))
        names.append(thing.name)
        ids.append(thing.id)
    xf, nm = _matrix_rows(matrices)
    return _Drawn(
        meshes,
        np.array(rows, np.int32).reshape(-1, 4),
        xf,
        nm,
        np.array(masks, np.uint32),
        tuple(names),
        tuple(ids),
        has_clear,
    )


def _pack_meshes(meshes: list[Mesh]) -> dict[str, np.ndarray]:
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
        "mesh_i": np.stack([first_triangle[:-1], first_vertex[:-1]], axis=1).astype(np.int32)
        if meshes
        else np.zeros((1, 2), np.int32),
    }


# ---- lights --------------------------------------------------------------------------------------------------------


@dataclass(frozen=True, eq=False, repr=False)
class _Lights:
    arrays: dict[str, np.ndarray]
    n_infinite: int
    n_nodes: int
    of_instance: dict[int, int]
    lamp_i: np.ndarray
    lamp_xf: np.ndarray
    lamp_nm: np.ndarray
    lamp_masks: np.ndarray
    lamp_kinds: tuple[str, ...]
    lamp_names: tuple[str, ...]
    lamp_ids: tuple[str, ...]
    lamps_key: tuple


_KINDS = {
    "rect": li.RECT,
    "sphere": li.SPHERE,
    "point": li.POINT,
    "spot": li.SPOT,
    "environment": li.ENVIRONMENT,
    "dome": li.DOME,
    "sun": li.SUN,
    "sky": li.ENVIRONMENT,
}


class _Collector:
    """Gathers light rows, environments, lamps' shapes and tree leaves in order."""

    def __init__(self, groups: tuple[str, ...], n_instances: int) -> None:
        self.groups, self.n_instances = groups, n_instances
        self.whole: list[list[int]] = []
        self.floats: list[np.ndarray] = []
        self.infinite: list[int] = []
        self.emitters: list[lighttree.Emitter] = []
        self.leaves: list[int] = []
        self.environments: list[tuple[np.ndarray, tuple]] = []
        self.lamps: list[tuple[str, str, str, np.ndarray, int, int]] = []
        self.mesh_f: list[np.ndarray] = []
        self.mesh_i: list[np.ndarray] = []
        self.mesh_cdf: list[np.ndarray] = []
        self.of_instance: dict[int, int] = {}

    def add(self, kind: int, group: str, row: np.ndarray, *, first: int = 0, count: int = 0, instance: int = 0) -> int:
        index = self.groups.index(group) if group in self.groups else 0
        self.whole.append([kind, index, first, count, instance, 0, 0, 0])
        self.floats.append(row)
        return len(self.whole) - 1

    def leaf(self, light: int, emitter: lighttree.Emitter) -> None:
        if emitter.power > 0:
            self.leaves.append(light)
            self.emitters.append(emitter)

    def lamp(self, light: Light, index: int, matrix: np.ndarray) -> None:
        mask = INDIRECT_RAYS | (CAMERA_RAYS if light.visible else 0)
        self.lamps.append((light.kind, light.name, light.id, matrix, mask, index))


def _lights(
    document: Document,
    assets: Assets,
    drawn: _Drawn,
    meshes: dict,
    groups: tuple[str, ...],
    keep: Callable,
    glowing: "dict[tuple, _Glowing]",
) -> _Lights:
    got = _Collector(groups, len(drawn.inst_i))
    used: dict[tuple, _Glowing] = {}
    for light in document.lights:
        if not light.on or light.power <= 0:
            continue
        if light.is_infinite:
            _add_infinite(got, light, assets, keep)
        else:
            _add_near(got, light)
    for instance, row in enumerate(drawn.inst_i):
        slot = int(row[1])
        if slot and document.materials[slot - 1].is_emitter:
            key = (drawn.meshes[row[0]], drawn.inst_xf[instance].tobytes())
            if key not in glowing:
                glowing[key] = _glowing_mesh(*key)
            used[key] = glowing[key]
            _add_mesh(got, instance, row, glowing[key], meshes, document.materials[slot - 1])
    glowing.clear()
    glowing.update(used)
    return _finish(got, drawn)


def _add_near(got: _Collector, light: Light) -> None:
    row = gate.light_row(light)
    index = got.add(_KINDS[light.kind], light.group, row)
    at = np.array(light.place, float)
    y = float(strength(light))
    down = -transform((0, 0, 0), light.turn_deg)[:3, 2]
    if light.kind == "rect":
        corners = np.array(
            [at + a * row[li.X : li.X + 3] + b * row[li.Y : li.Y + 3] for a in (-1, 1) for b in (-1, 1)], float
        )
        power = math.pi * y * light.width * light.height
        got.leaf(index, lighttree.Emitter(corners.min(0), corners.max(0), down, 0.0, math.pi / 2, power))
        matrix = transform(light.place, light.turn_deg, (light.width / 2, light.height / 2, 1.0))
        got.lamp(light, index, matrix)
    elif light.kind == "sphere":
        power = 4 * math.pi**2 * light.radius**2 * y
        got.leaf(
            index,
            lighttree.Emitter(at - light.radius, at + light.radius, np.array([0, 0, 1.0]), math.pi, math.pi / 2, power),
        )
        got.lamp(light, index, transform(light.place, (0, 0, 0), (light.radius,) * 3))
    elif light.kind == "spot":
        # The tree ranks by what arrives at a point: a spot's narrow beam counts with its intensity.
        got.leaf(index, lighttree.Emitter(at, at, down, 0.0, math.radians(light.outer_deg), 4 * math.pi * y))
    else:
        got.leaf(index, lighttree.Emitter(at, at, np.array([0, 0, 1.0]), math.pi, math.pi / 2, 4 * math.pi * y))


def _add_infinite(got: _Collector, light: Light, assets: Assets, keep: Callable) -> None:
    row = np.zeros(32, np.float32)
    row[li.TURN : li.TURN + 9] = np.eye(3).ravel()
    first = 0
    if light.kind == "dome":
        row[li.RGB : li.RGB + 3] = chroma(light) * strength(light)
    elif light.kind == "sun":
        row[li.RGB : li.RGB + 3] = sun_radiance(light, strength(light))
        row[li.X : li.X + 3] = sun_direction(math.radians(light.azimuth_deg), math.radians(light.elevation_deg))
        row[li.COS_OUTER], row[li.RADIUS] = math.cos(SUN_RADIUS), math.sin(SUN_RADIUS)
    else:
        if light.kind == "sky":
            key = (str((light.azimuth_deg, light.elevation_deg, light.turbidity, light.ground)),)
            picture, tables = keep(light.id, key, lambda: _with_tables(sky_picture(light)))
            row[li.RGB : li.RGB + 3] = light.power
        else:
            image = assets.images.get((light.image, "colour"))
            if image is None:
                return
            picture, tables = keep(light.id, (image,), lambda: _with_tables(image))
            tint = np.array(light.colour) if light.colour_from == "colour" else np.ones(3)
            row[li.RGB : li.RGB + 3] = light.power * tint
            turn = math.radians(light.azimuth_deg)
            c, s = math.cos(turn), math.sin(turn)
            row[li.TURN : li.TURN + 9] = [c, s, 0, -s, c, 0, 0, 0, 1]
        first = len(got.environments)
        got.environments.append((picture, tables))
    index = got.add(_KINDS[light.kind], light.group, row, first=first, instance=int(light.visible))
    got.infinite.append(index)


def _with_tables(picture: np.ndarray) -> tuple[np.ndarray, tuple]:
    return picture, sampling_tables(picture)


@dataclass(frozen=True, eq=False, repr=False)
class _Glowing:
    """A placed mesh as a light: its world triangles, running area, and bounds of where it shines."""

    rows: np.ndarray
    cdf: np.ndarray
    area: float
    emitter: lighttree.Emitter


def _glowing_mesh(mesh: Mesh, placed: bytes) -> _Glowing | None:
    matrix = np.frombuffer(placed, np.float32).reshape(3, 4).astype(float)
    world = mesh.vertices[mesh.triangles] @ matrix[:, :3].T + matrix[:, 3]
    e1, e2 = world[:, 1] - world[:, 0], world[:, 2] - world[:, 0]
    normals = np.cross(e1, e2)
    area = np.linalg.norm(normals, axis=1) / 2
    total = float(area.sum())
    if not total > 0:
        return None
    rows = np.zeros((len(area), 12), np.float32)
    rows[:, 0:3], rows[:, 3:6], rows[:, 6:9], rows[:, 9] = world[:, 0], e1, e2, area
    cdf = np.cumsum(area / total)
    cdf[-1] = 1.0
    unit = normals / np.maximum(2 * area[:, None], 1e-30)
    axis = unit.T @ area
    size = np.linalg.norm(axis)
    axis = axis / size if size > 1e-9 else np.array([0, 0, 1.0])
    spread = float(np.arccos(np.clip((unit[area > 0] @ axis).min(), -1, 1)))
    emitter = lighttree.Emitter(world.min((0, 1)), world.max((0, 1)), axis, spread, math.pi / 2, math.pi * total)
    return _Glowing(rows, cdf, total, emitter)


def _add_mesh(
    got: _Collector, instance: int, row: np.ndarray, glowing: _Glowing | None, meshes: dict, material: Material
) -> None:
    if glowing is None:
        return
    n = len(glowing.rows)
    first = sum(len(r) for r in got.mesh_f)
    index = got.add(
        li.MESH, material.emission_group or "light", np.zeros(32, np.float32), first=first, count=n, instance=instance
    )
    got.mesh_f.append(glowing.rows)
    got.mesh_i.append(np.stack([np.arange(n) + meshes["mesh_i"][row[0]][0], np.full(n, row[0])], axis=1))
    got.mesh_cdf.append(glowing.cdf)
    got.of_instance[instance] = index
    got.leaf(index, replace(glowing.emitter, power=glowing.emitter.power * material.emission_luminance))


def _finish(got: _Collector, drawn: _Drawn) -> _Lights:
    node_f, node_i, trails = lighttree.build(got.emitters, got.leaves)
    for light, (trail, depth) in trails.items():
        got.whole[light][5:8] = [trail, depth, 1]
    env_i, pixels, q, alias, pdf = [], [], [], [], []
    used = 0
    for picture, (keep_share, other, density) in got.environments:
        height, width = picture.shape[:2]
        env_i.append([used, width, height])
        pixels.append(picture.reshape(-1, 3).astype(np.float32))
        q.append(keep_share)
        alias.append(other)
        pdf.append(density)
        used += width * height
    lamp_rows, names, ids = [], [], []
    for _, name, id, _, _, index in got.lamps:
        lamp_rows.append([-1, -1, index, len(drawn.names) + len(names)])
        names.append(name)
        ids.append(id)
    xf, nm = _matrix_rows([lamp[3] for lamp in got.lamps])

    def joined(parts: list, empty: np.ndarray) -> np.ndarray:
        return np.concatenate(parts).astype(empty.dtype) if parts else empty

    arrays = {
        "light_i": np.array(got.whole or [[0] * 8], np.int32),
        "light_f": np.stack(got.floats) if got.floats else np.zeros((1, 32), np.float32),
        "infinite": np.array(got.infinite or [0], np.int32),
        "mesh_light_f": joined(got.mesh_f, np.zeros((1, 12), np.float32)),
        "mesh_light_i": joined(got.mesh_i, np.zeros((1, 2), np.int32)),
        "mesh_light_cdf": joined(got.mesh_cdf, np.ones(1, np.float32)),
        "env_i": np.array(env_i or [[0, 1, 1]], np.int32),
        "env_px": joined(pixels, np.zeros((1, 3), np.float32)),
        "env_q": joined(q, np.ones(1, np.float32)),
        "env_alias": joined(alias, np.zeros(1, np.int32)),
        "env_pdf": joined(pdf, np.ones(1, np.float32)),
        "node_f": node_f,
        "node_i": node_i,
    }
    kinds = tuple(lamp[0] for lamp in got.lamps)
    masks = np.array([lamp[4] for lamp in got.lamps], np.uint32)
    key = (kinds, xf.tobytes(), masks.tobytes())
    return _Lights(
        arrays,
        len(got.infinite),
        len(node_i) if got.emitters else 0,
        got.of_instance,
        np.array(lamp_rows, np.int32).reshape(-1, 4),
        xf,
        nm,
        masks,
        kinds,
        tuple(names),
        tuple(ids),
        key,
    )

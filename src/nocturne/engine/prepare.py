"""From document to arrays and Embree scenes; each part is kept while what it came from is the same object."""

import threading
import weakref
from collections.abc import Callable, Mapping
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from nocturne.engine import albedo, brushed, fuzz, gate, spectrum
from nocturne.engine.embree import Shape, Stage, hit_error
from nocturne.engine.heights import Heights
from nocturne.engine.lamps import Glowing, Lamps, collect, glowing_rows, with_lights
from nocturne.engine.layout import bright, learned, mat
from nocturne.engine.layout import camera as cam
from nocturne.engine.layout import instance as inst
from nocturne.engine.layout import media as media_row
from nocturne.engine.layout import settings as st
from nocturne.engine.layout.masks import CLEAR_SHADOW_RAYS
from nocturne.engine.nearness import Nearness, asked_things
from nocturne.engine.pictures import Pictures
from nocturne.engine.program import Program, letter
from nocturne.engine.relief import Look, Moved, Reliefs, displacing, looks
from nocturne.engine.rounding import Rounding, wanted_by
from nocturne.engine.slots import by_slot
from nocturne.engine.things import NO_MATERIAL, Drawn, drawn_things, pack_meshes
from nocturne.engine.types import SCENE, pack
from nocturne.scene.assets import Assets
from nocturne.scene.camera import View
from nocturne.scene.document import Document
from nocturne.scene.fields import within
from nocturne.scene.glowing import settled
from nocturne.scene.layering import by_id, chain
from nocturne.scene.materials import Material
from nocturne.scene.outputs import Quality
from nocturne.scene.ownrounding import with_own_rounding
from nocturne.scene.patterns import every
from nocturne.scene.projection import camera_axes, pixel_ray
from nocturne.scene.shapes import Mesh

_RECT = (
    np.array([[-1, -1, 0], [1, -1, 0], [1, 1, 0], [-1, 1, 0]], np.float32),
    np.array([[0, 2, 1], [0, 3, 2]], np.uint32),
)  # faces -z, the side a lamp shines to


_AT_ONCE = 3  # pictures, letters of signs, or shapes, that are worked out; one of them waits for others
_MOST_LAMPS = 64  # passed on the way to what is focused on
_SIDES = 256  # of what is round: its outline is off by less than a ten-thousandth


def _ring() -> np.ndarray:
    a = np.arange(_SIDES) / _SIDES * 2 * np.pi
    return np.stack([np.cos(a), np.sin(a)], axis=1)


def _disc() -> tuple[np.ndarray, np.ndarray]:
    """Return a disc of radius 1 that faces -z, as a fan."""
    ring, k = _ring(), np.arange(_SIDES)
    vertices = np.concatenate([np.zeros((1, 3)), np.pad(ring, ((0, 0), (0, 1)))])
    triangles = np.stack([np.zeros_like(k), (k + 1) % _SIDES + 1, k + 1], axis=1)
    return vertices.astype(np.float32), triangles.astype(np.uint32)


def _tube() -> tuple[np.ndarray, np.ndarray]:
    """Return the side of a cylinder of radius 1 about x, from -1 to 1, facing outwards."""
    ring, k = _ring(), np.arange(_SIDES)
    vertices = np.concatenate([np.insert(ring, 0, x, axis=1) for x in (-1.0, 1.0)])
    after = (k + 1) % _SIDES
    low = np.stack([k, after, k + _SIDES], axis=1)
    high = np.stack([after, after + _SIDES, k + _SIDES], axis=1)
    return vertices.astype(np.float32), np.concatenate([low, high]).astype(np.uint32)


@dataclass(frozen=True, eq=False, repr=False)
class Prepared:
    """Everything the kernels read for one picture; keeps its arrays and Embree scenes alive."""

    arrays: dict[str, np.ndarray]
    table: np.ndarray
    stages: tuple[Stage, Stage | None]
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
    pieces: dict[int, np.ndarray]  # of instances that are a part of their thing's mesh: which triangles of it
    moved: tuple[Moved, ...]  # things whose relief is real geometry
    near_by: tuple  # what the rows of `near` point to

    @property
    def stage(self) -> Stage:
        """Return the stage of everything, beside which there may be one of clear things."""
        return self.stages[0]

    def using(self, arrays: dict[str, np.ndarray], *, size: tuple[int, int] | None = None) -> "Prepared":
        """Return the same with other arrays in the place of some, perhaps for a picture of another (width, height)."""
        width, height = size or (self.width, self.height)
        if size is not None:
            arrays = {**arrays, "camera": gate.camera_row(self.view, width, height)}
        arrays = {**self.arrays, **arrays}
        return replace(self, arrays=arrays, table=pack(SCENE, arrays), width=width, height=height)

    def names_in(self, document: Document) -> tuple[str, ...]:
        """Return what its things and lamps are called in a document, in the order of `objects`."""
        n = len(self.object_ids) - self.n_lamps
        things = _names(document.things, self.object_ids[:n], self.objects[:n])
        return things + _names(document.lights, self.object_ids[n:], self.objects[n:])

    @property
    def eye(self) -> np.ndarray:
        """Return (17,) float32: position, right, up, ahead of the camera; half its picture's size; shift; kind."""
        row = self.arrays["camera"]
        names = ("POS", "RIGHT", "UP", "FORWARD", "HALF_X", "HALF_Y", "SHIFT_X", "SHIFT_Y", "KIND")
        return np.concatenate([row[cam.ROW.span(name)] for name in names])

    @property
    def blur(self) -> tuple[float, float]:
        """Return how the picture blurs: pixels of the circle of confusion at 1 / m from the focus, and that in metres.

        A thin lens draws a point at distance z as a circle whose radius is that of the opening times |1/z - 1/focus|.
        """
        row = self.arrays["camera"]
        pixels = row[cam.LENS_RADIUS] * row[cam.WIDTH] / (2 * row[cam.HALF_X])
        if row[cam.KIND] == cam.PARALLEL:  # there a circle is as large in the picture as it is in the set
            pixels *= row[cam.FOCUS]
        return float(pixels), float(row[cam.FOCUS])

    def material_names_in(self, document: Document) -> tuple[str, ...]:
        """Return what its materials are called in a document, in the order of `materials`."""
        return _names(document.materials, self.material_ids, self.materials)


def nothing_learned(n_slots: int) -> dict[str, np.ndarray]:
    """Return the arrays of a set whose lights nothing is known of but what they are."""
    return {
        "learned_f": learned.FLOATS.filled(np.float32),
        "learned_cdf": np.zeros((1, n_slots), np.float32),
        "sums": np.zeros((1, 1), np.int64),
        "bright": np.zeros((1, bright.ROW.width), np.float32),
        "bright_share": np.zeros((1, 2), np.float32),
        "bright_sums": np.zeros((1, 1), np.int64),
        "reached_sums": np.zeros(1, np.int64),
    }


def _names(part: tuple, ids: tuple[str, ...], otherwise: tuple[str, ...]) -> tuple[str, ...]:
    names = {item.id: item.name for item in part}
    return tuple(map(names.get, ids, otherwise))


class _Here(Executor):
    """Does what it is given at once."""

    def submit(self, work: Callable, /, *given: Any) -> Future:
        done: Future = Future()
        done.set_result(work(*given))
        return done


class Preparer:
    """Prepares documents one after another, whichever thread asks, and reuses what did not change."""

    def __init__(self) -> None:
        self._kept: dict[str, tuple[tuple, Any]] = {}
        self._free = threading.Lock()
        self._shapes: weakref.WeakKeyDictionary[Mesh, Shape] = weakref.WeakKeyDictionary()
        self._lamp_shapes = {
            "rect": Shape.mesh(*_RECT, name="an area light"),
            "disc": Shape.mesh(*_disc(), name="a disc light"),
            "tube": Shape.mesh(*_tube(), name="a tube light"),
            "sphere": Shape.sphere(),
        }
        self._glowing: dict[tuple, Glowing] = {}
        self._filter = gate.inverse_filter()
        self._pictures = Pictures()
        self._images: Mapping | None = None  # the last ones
        self._nearness = Nearness()
        self._rounding = Rounding()
        self._reliefs = Reliefs()

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
            If Embree refuses it.
        SceneError
            If a light's power has a unit its kind does not know.
        """
        view, quality = view or document.view, quality or document.quality
        size = width or view.width, height or view.height
        with self._free:
            # What is done beside each other works on whole arrays, which holds no interpreter. Edits have none of it.
            is_new, self._images = self._images is not assets.images, assets.images
            with ThreadPoolExecutor(_AT_ONCE, "nocturne-prepare") if is_new else _Here() as pool:
                return self._prepared(document, assets, view, quality, size, sampling, pool)

    def _prepared(
        self,
        document: Document,
        assets: Assets,
        view: View,
        quality: Quality,
        size: tuple[int, int],
        sampling: int,
        pool: Executor,
    ) -> Prepared:
        width, height = size
        as_given, document = document, with_own_rounding(settled(document, assets))
        groups = document.lit_groups
        materials = (NO_MATERIAL, *document.materials)
        targets = asked_things(document.materials)
        # What takes long and waits for nothing is begun first, and the set is put up meanwhile.
        pictured = pool.submit(self._pictured, materials, assets, pool)
        lettered = pool.submit(letter, document.materials)
        if displacing(document):
            pictures, lists, texels = pictured.result()
            self._reliefs.heights = Heights(tuple(pictures), lists, texels)
        # Only what decides visibility to shadow rays, and what glows: other edits of a material rebuild no geometry.
        clear = tuple((m.id, m.is_clear, m.layer_over) for m in document.materials)
        glow = tuple(
            (m.id, m.emission_luminance, m.emission_color, m.emission_group) for m in document.materials if m.is_emitter
        ) + tuple((m.id, m.layer_over) for m in document.materials if m.layer_over)
        asks_parts = any(step.asks_parts for m in document.materials for step in every(m.steps) if step.on)
        look = Look.of(view, width)
        drawn = self._keep(
            "drawn",
            (
                document.things,
                clear,
                assets.meshes,
                _scattered_by(document, assets),
                *_displaced_by(document, assets, look),
            ),
            lambda: drawn_things(document, assets, look, self._reliefs, self._before("drawn")),
        )
        shaped = pool.submit(lambda: [self._shape(mesh) for mesh in drawn.meshes])
        meshes = self._keep(
            "meshes",
            (*drawn.meshes, str(asks_parts)),
            lambda: pack_meshes(drawn.meshes, with_parts=asks_parts),
        )
        rounded = wanted_by(drawn, materials)
        rounds = self._keep(
            "rounds",
            (*(drawn.meshes if rounded else ()), rounded),
            lambda: self._rounding.tables(drawn, rounded),
        )
        lights = self._keep(
            "lights",
            # Of the things only those that glow, and how many there are: a moved chair moves no light.
            (
                document.standing_lights,
                glow,
                glowing_rows(document, drawn),
                str(len(drawn.names)),
                meshes,
                groups,
                assets.images,
            ),
            lambda: collect(document, assets, drawn, meshes, groups, self._kept_environment, self._glowing),
        )
        stage = self._keep("stage", (drawn, *lights.lamps_key), lambda: self._stage(drawn, lights, shaped.result()))
        clear_stage = self._clear_stage(drawn)
        if view.depth_of_field and view.focus_middle:
            view = _focused_on_middle(view, stage, len(drawn.names))
        near, near_by = self._nearness.table(targets, drawn)
        floats, whole = gate.settings_rows(
            quality,
            view.white_luminance,
            MODE=sampling,
            N_MATERIALS=len(materials),
            N_INFINITE=lights.n_infinite,
            N_TREE_NODES=lights.n_nodes,
            HAS_CLEAR=drawn.has_clear,
        )
        pictures, lists, texels = pictured.result()
        lettered.result()
        surface = self._keep(
            "materials",
            (document.materials, groups, tuple(pictures), *lists.values()),
            lambda: _materials(materials, groups, tuple(pictures), lists, targets),
        )
        metal, glass = albedo.tables()
        arrays = {
            **surface,
            **texels,
            **meshes,
            **rounds,
            **lights.arrays,
            "near": near,
            "inst_i": np.concatenate([with_lights(drawn.inst_i, lights.of_instance), lights.lamp_i]),
            "inst_xf": np.concatenate([drawn.inst_xf, lights.lamp_xf]),
            "inst_nm": np.concatenate([drawn.inst_nm, lights.lamp_nm]),
            "top": np.array([stage.address, clear_stage.address if clear_stage else 0], np.int64),
            "camera": gate.camera_row(view, width, height),
            "settings_f": floats,
            "settings_i": whole,
            "start_medium": self._start_media(stage, drawn, view, document),
            "tab_metal": metal,
            "tab_glass": glass,
            "tab_brushed": brushed.table(),
            "tab_fuzz": fuzz.table(),
            "tab_film": spectrum.film_table(),
            "tab_wave": spectrum.wave_table(),
            "filter_inv": self._filter,
            **nothing_learned(len(lights.arrays["slots"])),
        }
        table = pack(SCENE, arrays)
        return Prepared(
            arrays,
            table,
            (stage, clear_stage),
            as_given,
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
            drawn.pieces,
            drawn.moved,
            near_by,
        )

    def _pictured(self, materials: tuple[Material, ...], assets: Assets, pool: Executor) -> tuple[dict, dict, dict]:
        """Return the pictures that materials use and their lists, both by slot, and the tables of all pictures."""
        pictures, lists = by_slot(materials, assets, pool)
        every_one = tuple(pictures.values())
        return pictures, lists, self._keep("texels", every_one, lambda: self._pictures.tables(list(every_one), pool))

    def _keep(self, name: str, key: tuple, build: Callable[[], Any]) -> Any:
        kept = self._kept.get(name)
        if kept is not None and len(kept[0]) == len(key) and all(_is_same(a, b) for a, b in zip(kept[0], key)):
            return kept[1]
        made = build()
        self._kept[name] = (key, made)
        return made

    def _before(self, name: str) -> Any:
        """Return what was built last under a name, None if there is nothing."""
        return self._kept[name][1] if name in self._kept else None

    def _kept_environment(self, name: str, key: tuple, build: Callable[[], Any]) -> Any:
        return self._keep(f"environment {name}", key, build)

    def _stage(self, drawn: Drawn, lights: Lamps, of_meshes: list[Shape]) -> Stage:
        shapes = [of_meshes[k] for k in drawn.inst_i[:, inst.MESH].tolist()]
        shapes += [self._lamp_shapes[shape] for shape in lights.lamp_shapes]
        return Stage(
            shapes,
            np.concatenate([drawn.inst_xf, lights.lamp_xf]),
            np.concatenate([drawn.masks, lights.lamp_masks]),
            self._before("stage"),
        )

    def _clear_stage(self, drawn: Drawn) -> Stage | None:
        """Return a stage of the things that shadow rays may go through, None if there are none."""
        rows = np.flatnonzero(drawn.masks & CLEAR_SHADOW_RAYS)
        if not len(rows):
            return None
        shapes = [self._shape(drawn.meshes[k]) for k in drawn.inst_i[rows, inst.MESH]]
        xf = drawn.inst_xf[rows]
        return self._keep(
            "clear stage",
            (rows.tobytes(), xf.tobytes(), tuple(shapes)),
            lambda: Stage(shapes, xf, drawn.masks[rows], ids=rows),
        )

    def _shape(self, mesh: Mesh) -> Shape:
        if mesh not in self._shapes:
            self._shapes[mesh] = Shape.mesh(mesh.vertices, mesh.triangles, name="a mesh")
        return self._shapes[mesh]

    def _start_media(self, stage: Stage, drawn: Drawn, view: View, document: Document) -> np.ndarray:
        """Find which closed media the eye is inside of: leaving hits outnumber entering ones along a ray."""
        out = media_row.ROW.filled(np.int32)
        media = {i + 1 for i, m in enumerate(document.materials) if m.is_medium}
        if not media:
            return out
        position = np.array(view.eye, float)
        if view.projection != "panorama":
            position += camera_axes(view)[2] * view.cut_m
        direction = np.array([0.0123, 0.0271, 0.99956])
        counts: dict[int, int] = {}
        for _ in range(256):
            hit = stage.first_hit(position, direction)
            if hit is None:
                break
            instance, distance, leaving = hit
            material = int(drawn.inst_i[instance][inst.MATERIAL]) if instance < len(drawn.inst_i) else 0
            if material in media:
                counts[material] = counts.get(material, 0) + (1 if leaving else -1)
            at = position + direction * distance
            position = at + direction * hit_error(at)
        inside = [m for m, n in counts.items() if n > 0][: media_row.MAX_MEDIA]
        out[media_row.HOW_MANY] = len(inside)
        out[media_row.ROW.span("ENTRIES")][: len(inside)] = inside
        return out


def _focused_on_middle(view: View, stage: Stage, n_things: int) -> View:
    """Return a view focused on the first thing along the ray through the middle of its frame; as it is if none is."""
    origin, direction = pixel_ray(view, 0.5, 0.5)
    ahead = 1.0 if view.projection == "panorama" else float(direction @ camera_axes(view)[2])
    way = view.cut_m / ahead
    for _ in range(_MOST_LAMPS):
        at = origin + direction * way
        hit = stage.first_hit(at, direction)
        if hit is None or (view.far_m and (way + hit[1]) * ahead > view.far_m):
            return view
        way += hit[1]
        if hit[0] < n_things:
            return view.model_copy(update={"focus_m": within(View, "focus_m", way * ahead)})
        way += hit_error(at + direction * hit[1])
    return view


def _scattered_by(document: Document, assets: Assets) -> Any:
    """Return the pictures if a scatter goes by one, else what never changes."""
    return assets.images if any(t.scatter is not None and t.scatter.density for t in document.things) else ()


def _displaced_by(document: Document, assets: Assets, look: Look) -> tuple:
    """Return what moves surfaces, and what that goes by; nothing if none is moved."""
    moving = displacing(document)
    return (moving, assets.images, looks(document, assets, look)) if moving else ()


def _is_same(a: Any, b: Any) -> bool:
    # Tuples of frozen models compare quickly, because equal members are nearly always the same objects.
    return a is b or (isinstance(a, (str, bytes, tuple)) and a == b)


# ---- materials -----------------------------------------------------------------------------------------------------


def _materials(
    materials: tuple[Material, ...],
    groups: tuple[str, ...],
    slots: tuple[tuple[str, ...], ...],
    evened: dict[tuple[str, ...], np.ndarray],
    targets: tuple[str, ...],
) -> dict[str, np.ndarray]:
    program, whole = Program({key: slot for slot, key in enumerate(slots)}, evened, targets), []
    # No two rank alike, or what exists would hang on which a ray enters first: of equal ones the earlier in the list.
    ranks = {
        i: rank for rank, i in enumerate(sorted(range(len(materials)), key=lambda i: (materials[i].precedence, -i)))
    }
    numbers, known = {m.id: i for i, m in enumerate(materials)}, by_id(materials)
    for i, material in enumerate(materials):
        # What would lie over itself lies over nothing.
        below = chain(known, material.id)[1:]
        group = material.emission_group or "light"
        in_group = groups.index(group) if group in groups else 0
        whole.append(
            mat.WHOLE.filled(
                np.int32,
                **program.add_material(material),
                IS_MEDIUM=material.is_medium,
                IS_THIN=material.geometry_thin_walled,
                MURKY=material.is_medium and material.transmission_depth > 0 and max(material.transmission_scatter) > 0,
                CUT=material.may_be_cut,
                OVER=numbers[below[0].id] if below else -1,
                PASSES=material.is_medium and material.light_passes,
                PRECEDENCE=ranks[i],
                GROUP=in_group,
            )
        )
    return {
        "mat_f": np.stack([gate.material_row(m) for m in materials]),
        "mat_i": np.stack(whole),
        **program.tables(),
    }

"""The set's things as instances of meshes: tables, transforms, visibility."""

import zlib
from dataclasses import dataclass, replace

import numpy as np

from nocturne.engine.layout import corner
from nocturne.engine.layout import instance as inst
from nocturne.engine.layout import mesh as layout
from nocturne.engine.layout import more as more_row
from nocturne.engine.layout.masks import CAMERA_RAYS, CLEAR_SHADOW_RAYS, INDIRECT_RAYS, SHADOW_RAYS
from nocturne.engine.pictures import aligned
from nocturne.engine.relief import Look, Moved, Reliefs, displacing
from nocturne.scene import faces
from nocturne.scene.assets import Assets
from nocturne.scene.cutting import CUT_FACE, Cutter, clear_of, cut_by, cutters
from nocturne.scene.document import Document
from nocturne.scene.layering import clear_ids
from nocturne.scene.materials import Material
from nocturne.scene.parts import differing
from nocturne.scene.scattering import copies_of
from nocturne.scene.shapes import Mesh
from nocturne.scene.thing import Thing

NO_MATERIAL = Material(id="", name="No material", base_color=(0.5, 0.5, 0.5), specular_roughness=0.6)


@dataclass(frozen=True, eq=False, repr=False)
class Drawn:
    """The things that are drawn, and what they were made from: an instance each, or one for each of its materials.

    first_row, n_rows: the instances of each thing of the document; none if it is not drawn. pieces: for instances that
    are a part of their thing's mesh, which triangles of it they are. rests: of meshes that relief moved, by their
    number, the mesh before, and which triangle of that each of theirs is a part of.
    """

    meshes: list[Mesh]
    rests: dict[int, tuple[Mesh, np.ndarray]]
    inst_i: np.ndarray
    inst_xf: np.ndarray
    inst_nm: np.ndarray
    masks: np.ndarray
    names: tuple[str, ...]
    ids: tuple[str, ...]
    first_row: np.ndarray
    n_rows: np.ndarray
    pieces: dict[int, np.ndarray]
    cut: dict[str, tuple]  # of each thing that is cut away: where it stands, and by what
    scattered: dict[str, tuple]  # of each scatter: its copies, where it stands, whether it is shown
    moved: tuple[Moved, ...]  # things whose relief is real geometry
    made_from: tuple[Document, Assets]

    @property
    def has_clear(self) -> int:
        """Return 1 if shadow rays may go through one of them."""
        return int(((self.masks & CLEAR_SHADOW_RAYS) != 0).any())


def matrix_rows(matrices: np.ndarray | list[np.ndarray]) -> tuple[np.ndarray, np.ndarray]:
    whole = np.array(matrices).reshape(-1, 4, 4)
    normal = np.linalg.inv(whole[:, :3, :3]).transpose(0, 2, 1)
    return (
        whole[:, :3, :].reshape(-1, inst.TO_WORLD).astype(np.float32),
        normal.reshape(-1, inst.NORMALS_TO_WORLD).astype(np.float32),
    )


def seed_of(id: str) -> int:
    """Return a thing's own number, 0 to 2^31 - 1: the same in every document that has a thing of this id."""
    return zlib.crc32(id.encode()) & 0x7FFFFFFF


def drawn_things(
    document: Document, assets: Assets, look: Look, reliefs: Reliefs, before: Drawn | None = None
) -> Drawn:
    """Return the instances; of those of an earlier document, only what changed is made anew."""
    altered = _altered(document, assets, before) if before is not None else None
    if altered is not None:
        return altered
    reliefs.begin(document, assets, look)
    made = _made(document, assets, reliefs)
    reliefs.end()
    return made


def _mask(is_clear: bool) -> int:
    return CAMERA_RAYS | INDIRECT_RAYS | (CLEAR_SHADOW_RAYS if is_clear else SHADOW_RAYS)


def _made(document: Document, assets: Assets, reliefs: Reliefs) -> Drawn:
    meshes: list[Mesh] = []
    rests: dict[int, tuple[Mesh, np.ndarray]] = {}
    slots: dict[int, int] = {}
    rows: list[tuple[int, int]] = []  # mesh and material of each
    matrices: list[np.ndarray] = []  # (n, 4, 4) each
    masks, names, ids, seeds = [], [], [], []
    by_id = {m.id: i + 1 for i, m in enumerate(document.materials)}
    placements = document.placements
    whole = np.array([placements[thing.id][0] for thing in document.things]).reshape(-1, 4, 4)
    flat = _are_flat(whole)
    first_row = np.zeros(len(document.things), np.int64)
    n_rows = np.zeros(len(document.things), np.int64)
    objects: list[int] = []
    copies_at: list[int] = []  # which copy of a scatter each is
    pieces: dict[int, np.ndarray] = {}
    scattered: dict[str, tuple] = {}
    clear = clear_ids(document)
    by = cutters(document)
    for i, thing in enumerate(document.things):
        mesh = assets.shape(thing)
        matrix, shown = placements[thing.id]
        if thing.scatter is not None:
            copies = copies_of(document, assets, thing) if shown and not flat[i] else []
            scattered[thing.id] = (copies, matrix, shown)
            first_row[i] = len(rows)
            for part in _cut_copies(copies, matrix, by.get(thing.id, ())):
                stands, shape = part.stands, part.mesh
                # All copies share one mesh: it is as fine as the first one needs.
                moved = (
                    reliefs.of(shape, None, (part.material,), stands[0], seed=0, thing=thing.id)
                    if len(stands)
                    else None
                )
                rest = None
                if moved is not None:
                    shape, rest = moved.mesh, (shape, moved.parents)
                if id(shape) not in slots:
                    slots[id(shape)] = len(meshes)
                    meshes.append(shape)
                    if rest is not None:
                        rests[slots[id(shape)]] = rest
                n = len(stands)
                rows += [(slots[id(shape)], by_id.get(part.material, 0))] * n
                matrices.append(stands)
                masks += [_mask(part.material in clear)] * n
                names += [thing.name] * n
                ids += [thing.id] * n
                seeds += [seed_of(thing.id)] * n
                objects += [first_row[i]] * n
                copies_at += range(1, n + 1)
            continue
        if not _is_drawn(mesh, shown) or flat[i]:
            continue
        worn, of_face = faces.worn(thing, mesh)
        whole_of = None
        if thing.id in by:
            mesh, of_face, worn, whole_of = _cut_open(thing, mesh, matrix, by[thing.id], of_face, worn)
            if mesh is None:
                continue
        moved, before = reliefs.of(mesh, of_face, worn, matrix, seed=seed_of(thing.id), thing=thing.id), mesh
        if moved is not None:
            mesh = moved.mesh
            of_face = of_face[moved.parents] if of_face is not None else None
            whole_of = moved.parents if whole_of is None else whole_of[moved.parents]
        first_row[i], n_rows[i] = len(rows), len(worn)
        for k, material in enumerate(worn):
            piece, parents = mesh, moved.parents if moved is not None else None
            if of_face is not None:
                piece, chosen = faces.cut(mesh, of_face, k)
                pieces[len(rows)] = chosen
                parents = parents[chosen] if parents is not None else None
            if whole_of is not None:
                pieces[len(rows)] = whole_of[pieces[len(rows)]] if of_face is not None else whole_of
            if id(piece) not in slots:
                slots[id(piece)] = len(meshes)
                meshes.append(piece)
                if parents is not None:
                    rests[slots[id(piece)]] = before, parents
            objects.append(first_row[i])
            copies_at.append(0)
            rows.append((slots[id(piece)], by_id.get(material, 0)))
            matrices.append(matrix[None])
            masks.append(_mask(material in clear))
            names.append(thing.name)
            ids.append(thing.id)
            seeds.append(seed_of(thing.id))
    xf, nm = matrix_rows(np.concatenate(matrices) if matrices else [])
    whole = np.full((len(rows), inst.WHOLE.width), -1, np.int32)
    whole[:, [inst.MESH, inst.MATERIAL]] = np.array(rows, np.int32).reshape(-1, 2)
    whole[:, inst.OBJECT] = objects
    whole[:, inst.THING_SEED] = seeds
    whole[:, inst.COPY_SEED] = copies_at
    masks = np.array(masks, np.uint32)
    return Drawn(
        meshes,
        rests,
        whole,
        xf,
        nm,
        masks,
        tuple(names),
        tuple(ids),
        first_row,
        n_rows,
        pieces,
        _cut_as(document, by),
        scattered,
        reliefs.moved,
        (document, assets),
    )


def _cut_as(document: Document, by: dict[str, tuple[Cutter, ...]]) -> dict[str, tuple]:
    """Return for each thing that is cut what decides how."""
    return {
        id: (document.placements[id][0].tobytes(), *((c.cutaway, c.matrix.tobytes()) for c in cuts))
        for id, cuts in by.items()
        if id in document.placements
    }


def _cut_open(
    thing: Thing,
    mesh: Mesh,
    matrix: np.ndarray,
    by: tuple[Cutter, ...],
    of_face: np.ndarray | None,
    worn: tuple[str, ...],
) -> tuple[Mesh | None, np.ndarray | None, tuple[str, ...], np.ndarray]:
    """Return what is left of a mesh, the materials of its faces as `faces.worn` does, and the numbers that they had.

    Cut faces wear the thing's own material.
    """
    left, was = cut_by(mesh, matrix, by)
    if left is None:
        return None, None, worn, was
    if of_face is None:
        of_face = np.zeros(len(mesh.triangles), np.uint16)
    if thing.material not in worn and (was == CUT_FACE).any():
        worn = (*worn, thing.material)
    own = worn.index(thing.material) if thing.material in worn else 0
    kinds = np.where(was == CUT_FACE, own, of_face[np.maximum(was, 0)])
    used = np.unique(kinds)
    worn = tuple(worn[k] for k in used)
    return left, np.searchsorted(used, kinds).astype(np.uint16) if len(used) > 1 else None, worn, was


@dataclass(frozen=True, eq=False)
class _Placed:
    mesh: Mesh
    material: str
    stands: np.ndarray


def _cut_copies(copies: list, matrix: np.ndarray, by: tuple[Cutter, ...]) -> list[_Placed]:
    """Return a scatter's copies where they stand; those that are cut are meshes of their own."""
    out = []
    for part in copies:
        stands = matrix @ part.matrices
        stands = stands[~_are_flat(stands)]
        if not by:
            out.append(_Placed(part.mesh, part.material, stands))
            continue
        is_whole, is_near = clear_of(part.mesh, stands, by)
        out.append(_Placed(part.mesh, part.material, stands[is_whole]))
        for stand in stands[is_near]:
            left, _ = cut_by(part.mesh, stand, by)
            if left is not None:
                out.append(_Placed(left, part.material, stand[None]))
    return out


def _is_drawn(mesh: Mesh | None, shown: bool) -> bool:
    return mesh is not None and shown and len(mesh.triangles) > 0


def _are_flat(matrices: np.ndarray) -> np.ndarray:
    return np.abs(np.linalg.det(matrices[:, :3, :3])) < 1e-18


def _slots(document: Document) -> list[tuple[str, bool]]:
    """Return materials in the order of their numbers, and whether light may go straight through each."""
    clear = clear_ids(document)
    return [(m.id, m.id in clear) for m in document.materials]


def _altered(document: Document, assets: Assets, before: Drawn) -> Drawn | None:
    """Return what was drawn with the rows of changed things made anew; None if other things are drawn than before."""
    old, old_assets = before.made_from
    which = differing(old.things, document.things)
    if displacing(document) or displacing(old):
        return None
    slots = _slots(document)
    if which is None or old_assets.meshes is not assets.meshes or slots != _slots(old):
        return None
    stood, stands = old.placements, document.placements
    if stood is not stands:
        moved = (i for i, t in enumerate(document.things) if stands[t.id] is not stood.get(t.id))
        which = sorted({*which, *moved})
    if not which:
        return replace(before, made_from=(document, assets))
    things = [document.things[i] for i in which]
    placed = [stands[thing.id] for thing in things]
    flat = _are_flat(np.array([matrix for matrix, _ in placed]))
    drawn = [
        _is_drawn(assets.shape(thing), shown) and not is_flat
        for thing, (_, shown), is_flat in zip(things, placed, flat)
    ]
    if _cut_as(document, cutters(document)) != before.cut:
        return None
    # What a scatter draws hangs on all that it names: if any of that changed, or it moved, all is made anew.
    if any(_is_spread_anew(t, document, assets, before) for t in document.things if t.scatter is not None):
        return None
    if any(old.things[i].id != t.id or _shape(old.things[i]) != _shape(t) for i, t in zip(which, things)):
        return None
    n_rows = before.n_rows[which]
    if ((n_rows > 0) != drawn).any():
        return None
    if any((t.faces or old.things[i].faces) and _dress(t) != _dress(old.things[i]) for i, t in zip(which, things)):
        return None
    # Each row of a thing in several pieces is altered as the one row of another is.
    here = np.repeat(np.arange(len(which)), n_rows)
    before_each = np.repeat(np.cumsum(n_rows) - n_rows, n_rows)
    rows = np.repeat(before.first_row[which], n_rows) + np.arange(len(here)) - before_each
    inst_i, inst_xf, inst_nm, masks = (a.copy() for a in (before.inst_i, before.inst_xf, before.inst_nm, before.masks))
    names = list(before.names)
    if len(here):
        inst_xf[rows], inst_nm[rows] = matrix_rows([placed[k][0] for k in here])
    by_id = {id: (i + 1, is_clear) for i, (id, is_clear) in enumerate(slots)}
    for k, row in zip(here, rows):
        names[row] = things[k].name
        if not things[k].faces:
            slot, is_clear = by_id.get(things[k].material, (0, False))
            inst_i[row, inst.MATERIAL], masks[row] = slot, _mask(is_clear)
    return Drawn(
        before.meshes,
        before.rests,
        inst_i,
        inst_xf,
        inst_nm,
        masks,
        tuple(names),
        before.ids,
        before.first_row,
        before.n_rows,
        before.pieces,
        before.cut,
        before.scattered,
        before.moved,
        (document, assets),
    )


def _is_spread_anew(thing: Thing, document: Document, assets: Assets, before: Drawn) -> bool:
    copies, matrix, shown = before.scattered.get(thing.id, (None, None, False))
    stands = document.placements[thing.id]
    return not (
        shown == stands[1] and (not shown or (matrix is stands[0] and copies_of(document, assets, thing) is copies))
    )


def _shape(thing: Thing) -> tuple:
    return (
        *(thing.mesh, thing.form, thing.smoothing, thing.edge_deg, thing.weld_m),
        *(thing.uv_placing, thing.turned_over),
    )


def _dress(thing: Thing) -> tuple:
    return thing.material, thing.faces


def pack_meshes(meshes: list[Mesh], *, with_parts: bool = False) -> dict[str, np.ndarray]:
    """Return the tables of meshes; with_parts: also which connected part of its mesh each triangle is of."""
    first_triangle = np.cumsum([0, *(len(m.triangles) for m in meshes)])
    first_vertex = np.cumsum([0, *(len(m.vertices) for m in meshes)])

    corners = aligned((max(int(first_vertex[-1]), 1), corner.ROW.width), np.float32)
    for at, mesh in zip(first_vertex, meshes):
        rows = corners[at : at + len(mesh.vertices)]
        rows[:, corner.ROW.span("POSITION")] = mesh.vertices
        rows[:, corner.ROW.span("NORMAL")] = mesh.normals
        rows[:, [corner.U, corner.V]] = mesh.uvs
    carries = [mesh.more_uvs is not None or mesh.colours is not None for mesh in meshes]
    first_more = np.cumsum([0, *(len(m.vertices) * has for m, has in zip(meshes, carries))])
    more = np.zeros((max(int(first_more[-1]), 1), more_row.ROW.width), np.float32)
    for at, mesh, has in zip(first_more, meshes, carries):
        if has:
            rows = more[at : at + len(mesh.vertices)]
            rows[:, more_row.ROW.span("UV")] = mesh.uvs if mesh.more_uvs is None else mesh.more_uvs
            rows[:, more_row.ROW.span("COLOUR")] = 1.0 if mesh.colours is None else mesh.colours
    firsts = [at if has else -1 for at, has in zip(first_more, carries)] or [-1]
    moved = [mesh.rest is not None for mesh in meshes]
    first_rest = np.cumsum([0, *(len(m.vertices) * has for m, has in zip(meshes, moved))])
    rests = [at if has else -1 for at, has in zip(first_rest, moved)] or [-1]
    return {
        "corners": corners,
        "more": more,
        "rest": np.concatenate(
            [np.zeros((1, 3), np.float32) if not any(moved) else np.zeros((0, 3), np.float32)]
            + [m.rest for m in meshes if m.rest is not None]
        ),
        "tris": np.concatenate([m.triangles for m in meshes]) if meshes else np.zeros((1, 3), np.uint32),
        "mesh_i": np.stack(
            [
                layout.ROW.filled(
                    np.int32,
                    FIRST_TRIANGLE=t,
                    FIRST_VERTEX=v,
                    FIRST_MORE=m,
                    FIRST_REST=r,
                    IS_BARE=mesh is not None and mesh.is_bare,
                    HAS_PARTS=with_parts,
                )
                for t, v, m, r, mesh in zip(first_triangle, first_vertex, firsts, rests, meshes or [None])
            ]
        ),
        "parts": np.concatenate(list(map(faces.parts_of, meshes))) if with_parts and meshes else np.zeros(1, np.int32),
    }

"""Things: walls of glass and liquid in the same place, sizes that are not in metres, no material, camera inside."""

from collections.abc import Iterator
from pathlib import Path

import numpy as np

from nocturne.engine.embree import Shape, Stage
from nocturne.engine.layout.masks import ALL_RAYS
from nocturne.preflight.findings import Finding, Mend
from nocturne.scene import edit, navigate, placing
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document, free_id, free_name
from nocturne.scene.layering import by_id, chain
from nocturne.scene.materials import Material
from nocturne.scene.shapes import Mesh
from nocturne.scene.thing import Thing

_NEAR = 2e-4  # metres: surfaces closer than this are one to a ray
_SAMPLES = 240
_SHARE = 0.04  # of a surface that lies in the other's before it is reported
_OVERLAP = 5e-4  # metres by which a liquid is made to overlap its glass


def _surface(mesh: Mesh, matrix: np.ndarray, n: int) -> tuple[np.ndarray, np.ndarray]:
    """Return (n, 3) points spread evenly over a mesh in the set, and their normals."""
    rng = np.random.default_rng(1)
    corners = mesh.vertices[mesh.triangles].astype(float) @ matrix[:3, :3].T + matrix[:3, 3]
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(across, axis=1)
    if area.sum() <= 0:
        return np.zeros((0, 3)), np.zeros((0, 3))
    which = rng.choice(len(area), n, p=area / area.sum())
    a, b = np.sqrt(rng.random(n)), rng.random(n)
    w = np.stack([1 - a, a * (1 - b), a * b], axis=1)
    return (corners[which] * w[..., None]).sum(1), across[which] / np.maximum(area[which, None], 1e-30)


def stage_of(mesh: Mesh, matrix: np.ndarray) -> Stage:
    """Return a stage of one placed mesh."""
    row = np.ascontiguousarray(matrix[:3].reshape(1, 12), np.float32)
    return Stage([Shape.mesh(mesh.vertices, mesh.triangles)], row, np.array([ALL_RAYS], np.uint32))


def box_of(mesh: Mesh, matrix: np.ndarray) -> np.ndarray:
    """Return the (2, 3) lowest and highest corner of a placed mesh's box."""
    low, high = mesh.bounds
    corners = np.array([[x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])])
    corners = corners @ matrix[:3, :3].T + matrix[:3, 3]
    return np.stack([corners.min(0), corners.max(0)])


def shown_things(document: Document, assets: Assets) -> list[tuple[Thing, Mesh, np.ndarray]]:
    """Return the visible things that have a shape, with that and their (4, 4) matrix."""
    out = []
    for thing in document.things:
        mesh = assets.shape(thing)
        matrix, visible = document.placements[thing.id]
        if mesh is not None and visible and len(mesh.triangles):
            out.append((thing, mesh, matrix))
    return out


def coplanar_walls(document: Document, assets: Assets, folder: Path) -> Iterator[Finding]:
    """Yield pairs of closed shapes of glass or liquid whose walls lie in the same place."""
    known = by_id(document.materials)
    media = [
        (thing, mesh, matrix, box_of(mesh, matrix))
        for thing, mesh, matrix in shown_things(document, assets)
        if any(layer.is_medium for layer in chain(known, thing.material))
    ]
    for i, (a, mesh_a, matrix_a, box_a) in enumerate(media):
        for b, mesh_b, matrix_b, box_b in media[i + 1 :]:
            if (box_a[0] > box_b[1] + _NEAR).any() or (box_b[0] > box_a[1] + _NEAR).any():
                continue
            inner = (a, mesh_a, matrix_a) if np.ptp(box_a, axis=0).prod() <= np.ptp(box_b, axis=0).prod() else None
            inner = inner or (b, mesh_b, matrix_b)
            outer = (b, mesh_b, matrix_b) if inner[0] is a else (a, mesh_a, matrix_a)
            share = _shared(inner[1], inner[2], outer[1], outer[2])
            if share > _SHARE:
                words = (
                    f"{share * 100:.0f} % of “{inner[0].name}” lies in the very wall of “{outer[0].name}”. "
                    "Light cannot tell which comes first. Let them overlap; precedence says which one exists there."
                )
                mend = Mend(
                    f"Let “{inner[0].name}” reach into the wall",
                    lambda d, id=inner[0].id: _grown(d, assets, id),
                )
                yield Finding("walls in one place", words, "things", inner[0].id, (mend,))


def _shared(mesh: Mesh, matrix: np.ndarray, other: Mesh, other_matrix: np.ndarray) -> float:
    """Return the share of a surface that lies within `_NEAR` of another and runs along it."""
    points, normals = _surface(mesh, matrix, _SAMPLES)
    stage = stage_of(other, other_matrix)
    near = 0
    for p, n in zip(points, normals):
        hit = stage.first_hit(p + n * _NEAR, -n, ALL_RAYS)
        if hit is not None and hit[1] < 2 * _NEAR:
            # Runs along it, too: beside the point the other wall is as near.
            t = np.cross(n, (1, 0, 0)) if abs(n[0]) < 0.7 else np.cross(n, (0, 1, 0))
            beside = stage.first_hit(p + n * _NEAR + t / np.linalg.norm(t) * 5 * _NEAR, -n, ALL_RAYS)
            near += beside is not None and beside[1] < 3 * _NEAR
    return near / max(len(points), 1)


def _grown(document: Document, assets: Assets, id: str) -> Document:
    """Return the document with a thing half a millimetre larger on every side, about its own middle."""
    box = navigate.bounds_of(document, assets, id)
    if box is None:
        return document
    low, high = box
    factor = float(1 + 2 * _OVERLAP / max(np.min(high - low), 1e-4))
    document = placing.sized(document, "things", id, axis=3, factor=factor)
    now = navigate.bounds_of(document, assets, id)
    return placing.moved(document, "things", (id,), (low + high) / 2 - (now[0] + now[1]) / 2)


def odd_sizes(document: Document, assets: Assets, folder: Path) -> Iterator[Finding]:
    """Yield things that are so large or small that their file is probably not in metres."""
    for thing, mesh, matrix in shown_things(document, assets):
        box = box_of(mesh, matrix)
        size = float(np.ptp(box, axis=0).max())
        if 5e-4 <= size <= 20_000 or size == 0:
            continue
        factors = {"millimetres": 1e-3, "centimetres": 1e-2, "kilometres": 1e3}
        unit, factor = min(factors.items(), key=lambda pair: abs(np.log(size * pair[1])))
        words = f"“{thing.name}” is {size:.3g} m large. Its file is probably in {unit}."
        mend = Mend(
            f"Take it as {unit}",
            lambda d, i=thing.id, f=factor: placing.sized(d, "things", i, axis=3, factor=f),
        )
        yield Finding("odd sizes", words, "things", thing.id, (mend,))


def no_material(document: Document, assets: Assets, folder: Path) -> Iterator[Finding]:
    """Yield one finding for all things that have no material."""
    bare = [
        t for t in document.things if t.has_shape and not t.faces and document.find("materials", t.material) is None
    ]
    if not bare:
        return

    def given(d: Document) -> Document:
        plain = Material(id=free_id(d, "materials", "material"), name=free_name(d, "materials", "Plain grey"))
        d = edit.put(d, "materials", plain)
        for thing in bare:
            if d.find("things", thing.id) is not None:
                d = edit.alter(d, "things", thing.id, material=plain.id)
        return d

    names = ", ".join(f"“{t.name}”" for t in bare[:3]) + (f" and {len(bare) - 3} more" if len(bare) > 3 else "")
    words = (
        f"{names} {'has' if len(bare) == 1 else 'have'} no material and {'is' if len(bare) == 1 else 'are'} drawn grey."
    )
    mend = Mend("Give a plain grey that can be changed", given)
    yield Finding("no material", words, "things", bare[0].id, (mend,), is_wrong=False)


DIRECTIONS = np.array([[1, 0.1, 0.2], [-1, 0.2, 0.1], [0.1, 1, -0.2], [0.2, -1, 0.1], [0.1, 0.2, 1], [0.2, 0.1, -1.0]])


def cameras_inside(document: Document, assets: Assets, folder: Path) -> Iterator[Finding]:
    """Yield views whose eye is inside a closed shape: every way out leads through its wall from within."""
    shown = shown_things(document, assets)
    for view in document.views:
        eye = np.array(view.eye, float)
        for thing, mesh, matrix in shown:
            box = box_of(mesh, matrix)
            if (eye < box[0]).any() or (eye > box[1]).any():
                continue
            stage = stage_of(mesh, matrix)
            hits = [stage.first_hit(eye, d / np.linalg.norm(d), ALL_RAYS) for d in DIRECTIONS]
            if not all(hit is not None and hit[2] for hit in hits):
                continue
            words = f"The view “{view.name}” stands inside “{thing.name}”."
            mends = (
                Mend("Step back out of it", lambda d, i=view.id, b=box: _stepped_out(d, i, b)),
                Mend(f"Hide “{thing.name}”", lambda d, i=thing.id: edit.alter(d, "things", i, visible=False)),
            )
            yield Finding("camera inside", words, "views", view.id, mends)


def _stepped_out(document: Document, id: str, box: np.ndarray) -> Document:
    """Return the document with a view moved back along its own direction until it is out of a box."""
    view = document.find("views", id)
    _, _, ahead = navigate.axes(view)
    eye = np.array(view.eye, float)
    ways = [(eye[k] - box[0 if ahead[k] > 0 else 1][k]) / ahead[k] for k in range(3) if abs(ahead[k]) > 1e-6]
    back = max(min(ways), 0.0) + 0.05
    return edit.alter(document, "views", id, eye=tuple(round(float(v), 5) for v in eye - ahead * back))

"""How large things are: the choice, what the camera sees, the whole set; how much there is of it."""

from dataclasses import dataclass

import numpy as np

from nocturne.scene import navigate
from nocturne.scene.assets import Assets
from nocturne.scene.camera import View, half_width
from nocturne.scene.document import Document
from nocturne.scene.scattering import copies_of


def length(metres: float) -> str:
    """Return a length in the unit that suits it."""
    for factor, unit in ((1e-3, "km"), (1.0, "m"), (100.0, "cm"), (1e3, "mm")):
        if abs(metres) * factor >= 1 or unit == "mm":
            return f"{round(metres * factor, 4):.5g} {unit}"
    return ""


def box_of(document: Document, assets: Assets, ids: tuple[str, ...]) -> np.ndarray | None:
    """Return the (2, 3) box of things in the set, None if none has a shape."""
    found = [navigate.bounds_of(document, assets, id) for id in ids]
    corners = [np.stack(box) for box in found if box is not None]
    return np.stack([np.min(corners, axis=(0, 1)), np.max(corners, axis=(0, 1))]) if corners else None


def frame_at(view: View, distance: float) -> tuple[float, float]:
    """Return how wide and high what fills the frame is at a distance ahead of the lens, metres."""
    width = 2 * half_width(view, distance)
    return width, width * view.height / view.width


@dataclass(frozen=True)
class Totals:
    """How much there is: things with a shape, triangles kept and triangles drawn, memory of the meshes in bytes."""

    things: int
    triangles: int
    drawn: int
    memory: int


def totals(document: Document, assets: Assets) -> Totals:
    """Return how much a set holds; hidden things are kept, but not drawn."""
    meshes, n, drawn = {}, 0, 0
    for thing in document.things:
        mesh = assets.shape(thing)
        shown = document.placements[thing.id][1]
        if mesh is not None:
            meshes[id(mesh)] = mesh
            n += 1
            drawn += len(mesh.triangles) if shown else 0
        if thing.scatter is not None and shown:
            for part in copies_of(document, assets, thing):
                drawn += len(part.mesh.triangles) * len(part.matrices)
    arrays = [(m.vertices, m.triangles, m.normals, m.uvs, *m.carried(slice(None)).values()) for m in meshes.values()]
    memory = sum(array.nbytes for group in arrays for array in group)
    return Totals(n, sum(len(m.triangles) for m in meshes.values()), drawn, memory)


def told(document: Document, assets: Assets, ids: tuple[str, ...]) -> list[tuple[str, str]]:
    """Return what there is to say of sizes, as pairs of a heading and words."""

    def sides(box: np.ndarray | None) -> str:
        return " × ".join(length(float(v)) for v in np.ptp(box, axis=0)) if box is not None else "nothing"

    view, whole = document.view, totals(document, assets)
    distance = float(np.linalg.norm(np.subtract(view.target, view.eye)))
    width, height = frame_at(view, distance)
    rows = [("The choice", sides(box_of(document, assets, ids)))] if ids else []
    top = tuple(thing.id for thing in document.things if not thing.parent)
    rows.append(("The frame at its aim", f"{length(width)} × {length(height)}, {length(distance)} away"))
    rows.append(("The whole set", sides(box_of(document, assets, top))))
    rows.append(("Things", f"{whole.things:,}"))
    rows.append(("Triangles", f"{whole.triangles:,} kept, {whole.drawn:,} drawn"))
    rows.append(("Meshes take", f"{whole.memory / 2**20:,.1f} MB"))
    return rows

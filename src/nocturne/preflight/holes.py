"""Open shapes of what needs an inside: glass, liquid, wax. Light that goes in there never comes out as it should."""

from collections.abc import Iterator
from pathlib import Path

import numpy as np

from nocturne.preflight.findings import Finding, Mend
from nocturne.preflight.shapes import shown_things
from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.faces import border, materials_of
from nocturne.scene.layering import by_id, chain
from nocturne.scene.materials import Material

_PIN = 1e-3  # of a shape's size: rims that are shorter in all are pinholes, where points nearly meet


def open_insides(document: Document, assets: Assets, folder: Path) -> Iterator[Finding]:
    """Yield things with holes whose material, or one that it lies over, fills closed shapes."""
    known = by_id(document.materials)
    told: set[tuple[str, int]] = set()
    for thing, mesh, _ in shown_things(document, assets):
        layers = [layer for id in materials_of(thing) for layer in chain(known, id)]
        filled = next((m for m in layers if _has_inside(m)), None)
        if filled is None or (filled.id, id(mesh)) in told:
            continue
        rims = border(mesh, np.ones(len(mesh.triangles), bool))
        size = float(np.linalg.norm(mesh.bounds[1] - mesh.bounds[0]))
        if np.linalg.norm(rims[:, 1] - rims[:, 0], axis=1).sum() <= _PIN * size:
            continue
        told.add((filled.id, id(mesh)))
        wears = filled.is_medium
        what = (
            "so light that enters never leaves it as it should"
            if wears
            else "so light that enters gets lost: it is dark"
        )
        words = f"“{thing.name}” is open, and “{filled.name}” needs a closed shape, {what}."
        mends = [
            Mend(
                "Make it a thin sheet",
                lambda d, i=filled.id: edit.alter(d, "materials", i, geometry_thin_walled=True),
            )
        ]
        if not wears:
            mends.append(
                Mend(
                    "Without subsurface",
                    lambda d, m=filled: edit.alter(
                        d, "materials", m.id, subsurface_weight=0.0, base_color=m.subsurface_color
                    ),
                )
            )
        yield Finding("open inside", words, "things", thing.id, tuple(mends))


def _has_inside(material: Material) -> bool:
    return material.is_medium or (material.subsurface_weight > 0 and not material.geometry_thin_walled)

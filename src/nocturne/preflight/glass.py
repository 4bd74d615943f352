"""Lamps and windows behind closed glass, whose light is hardly ever found as it bends on its way."""

from collections import Counter
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from nocturne.engine.embree import Stage
from nocturne.engine.layout.masks import ALL_RAYS
from nocturne.engine.overlaps import overlaps
from nocturne.jobs import run
from nocturne.preflight.findings import Finding, Mend
from nocturne.preflight.shapes import DIRECTIONS, box_of, shown_things, stage_of
from nocturne.scene import edit, mediaorder
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.layering import by_id, chain
from nocturne.scene.lights import Light, Placed
from nocturne.scene.lights.portal import Portal
from nocturne.scene.materials import Material
from nocturne.scene.shapes import rotation

_POLISHED = 0.05  # rougher glass spreads light: it cannot be looked through straight
_REACH = 0.5  # metres from a portal to the pane in its window


def light_behind_glass(document: Document, assets: Assets, folder: Path) -> Iterator[Finding]:
    """Yield closed polished glass, once for each material, that a lamp stands in or a portal looks through."""
    told: set[str] = set()
    known = by_id(document.materials)
    placed = [light for light in document.standing_lights if light.on and isinstance(light, Placed)]
    for thing, mesh, matrix in shown_things(document, assets) if placed else []:
        # Of layers any may be the glass.
        layers = chain(known, thing.material)
        glass = next((m for m in layers if _is_dark(m)), None)
        if glass is None or glass.id in told:
            continue
        box, stage = box_of(mesh, matrix), None
        for light in placed:
            at = np.array(light.place, float)
            reach = _REACH if isinstance(light, Portal) else 0.0
            if (at < box[0] - reach).any() or (at > box[1] + reach).any():
                continue
            stage = stage or stage_of(mesh, matrix)
            if _is_behind(stage, light, at):
                told.add(glass.id)
                yield _finding(thing.name, glass, light)
                break


def unsettled_media(document: Document, assets: Assets, folder: Path) -> Iterator[Finding]:
    """Yield pairs of glass and liquid that overlap and have the same precedence."""
    counts = Counter(m.precedence for m in mediaorder.media(document))
    if not document.quality.overlaps or max(counts.values(), default=0) < 2:
        return
    meetings = run(overlaps(document, assets)).meetings
    for tied in mediaorder.unsettled(document, meetings):
        words = (
            f"“{tied.names[0]}” and “{tied.names[1]}” overlap, and both have the same precedence: only their place in "
            "the list of materials says which one exists there."
        )
        mend = Mend("Order them as the shapes suggest", lambda d: mediaorder.settled(d, meetings))
        yield Finding("unsettled media", words, "materials", tied.winner, (mend,))


def _is_dark(material: Material) -> bool:
    return material.is_medium and not material.light_passes and material.specular_roughness < _POLISHED


def _is_behind(stage: Stage, light: Light, at: np.ndarray) -> bool:
    if not isinstance(light, Portal):
        directions = DIRECTIONS / np.linalg.norm(DIRECTIONS, axis=1, keepdims=True)
        return all(stage.first_hit(at, d, ALL_RAYS) is not None for d in directions)
    x, y, z = rotation(light.turn_deg).T
    places = [at + a * light.width / 4 * x + b * light.height / 4 * y for a in (-1, 1) for b in (-1, 1)]
    hits = [[stage.first_hit(p, d, ALL_RAYS) for d in (z, -z)] for p in places]
    return sum(any(hit is not None and hit[1] < _REACH for hit in pair) for pair in hits) >= 3


def _finding(name: str, glass: Material, light: Light) -> Finding:
    where = "is the pane of" if isinstance(light, Portal) else "encloses"
    words = (
        f"“{name}” {where} “{light.name}”: light bends in closed glass, so little of it is found, as bright speckles. "
        "Let light pass it straight if bright figures are not what it is for."
    )
    mend = Mend(
        f"Let light pass “{glass.name}” straight",
        lambda d, i=glass.id: edit.alter(d, "materials", i, light_passes=True),
    )
    return Finding("light behind glass", words, "materials", glass.id, (mend,), is_wrong=False)

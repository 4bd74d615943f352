"""Materials that lie over others: which ones a surface shows."""

from collections.abc import Iterable, Mapping

from nocturne.scene.document import Document
from nocturne.scene.materials import Material

MOST = 8  # materials over each other


def chain(materials: Mapping[str, Material], id: str) -> tuple[Material, ...]:
    """Return a material and what it lies over, from the top; what would lie over itself ends there."""
    found: list[Material] = []
    seen: set[str] = set()
    while id in materials and id not in seen and len(found) < MOST:
        seen.add(id)
        found.append(materials[id])
        id = materials[id].layer_over
    return tuple(found)


def by_id(materials: Iterable[Material]) -> dict[str, Material]:
    """Return materials by their ids."""
    return {material.id: material for material in materials}


def clear_ids(document: Document) -> set[str]:
    """Return the ids of materials that light may go straight through somewhere, by any of their layers."""
    known = by_id(document.materials)
    return {m.id for m in document.materials if any(layer.is_clear for layer in chain(known, m.id))}


def emitting(document: Document) -> dict[str, Material]:
    """Return by its id, for each material that gives light somewhere, the layer that gives it."""
    known = by_id(document.materials)
    found = {}
    for material in document.materials:
        layer = next((m for m in chain(known, material.id) if m.is_emitter), None)
        if layer is not None:
            found[material.id] = layer
    return found


def may_lie_over(document: Document, id: str) -> list[Material]:
    """Return the materials that one may lie over: none of them lies over it."""
    known = by_id(document.materials)
    return [m for m in document.materials if all(layer.id != id for layer in chain(known, m.id))]


def with_those_below(document: Document, ids: set[str]) -> set[str]:
    """Return ids of materials and of all that they lie over."""
    known = by_id(document.materials)
    return {layer.id for id in ids for layer in chain(known, id)}

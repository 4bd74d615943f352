"""Things whose edges are rounded by themselves: for the engine they wear materials of their own that say so."""

from nocturne.scene import edit
from nocturne.scene.document import Document
from nocturne.scene.faces import materials_of
from nocturne.scene.layering import by_id, chain
from nocturne.scene.materials import Material
from nocturne.scene.parts import of_two
from nocturne.scene.thing import Thing


def with_own_rounding(document: Document) -> Document:
    """Return the document in which each thing of a rounding of its own wears materials of that rounding.

    They are called as those it wears; itself if no thing has one. The parts are the same objects as long as they are
    made of the same.
    """
    if not any(thing.rounding_mm > 0 for thing in document.things):
        return document
    things, materials = of_two(document.things, document.materials, lambda: _made(document))
    return document.model_copy(update={"things": things, "materials": materials})


def _made(document: Document) -> tuple[tuple[Thing, ...], tuple[Material, ...]]:
    known = by_id(document.materials)
    made: dict[str, Material] = {}
    things = tuple(_wearing_own(thing, known, made) if thing.rounding_mm > 0 else thing for thing in document.things)
    return things, (*document.materials, *made.values())


def _wearing_own(thing: Thing, known: dict[str, Material], made: dict[str, Material]) -> Thing:
    new = {"": ""}
    for worn in materials_of(thing):
        for layer in chain(known, worn):
            own = _own(layer.id, thing)
            new[layer.id] = own
            if own not in made:
                below = _own(layer.layer_over, thing) if layer.layer_over in known else ""
                made[own] = edit.changed(
                    layer,
                    id=own,
                    rounding_mm=thing.rounding_mm,
                    rounding_angle_deg=thing.rounding_angle_deg,
                    layer_over=below,
                )
    faces = tuple(edit.changed(face, material=new.get(face.material, face.material)) for face in thing.faces)
    return edit.changed(thing, material=new.get(thing.material, thing.material), faces=faces)


def _own(id: str, thing: Thing) -> str:
    return f"{id}~{thing.rounding_mm:g}~{thing.rounding_angle_deg:g}"

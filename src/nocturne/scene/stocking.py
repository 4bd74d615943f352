"""Materials taken out of a set with all that they lie over, and put into another."""

from collections.abc import Callable, Mapping, Sequence

from nocturne.scene import edit
from nocturne.scene.bringing import Ids
from nocturne.scene.document import Document, free_group, free_name
from nocturne.scene.files import renamed
from nocturne.scene.layering import by_id, chain
from nocturne.scene.materials import Material
from nocturne.scene.patterns import asking


def joined(
    document: Document,
    materials: Sequence[Material],
    *,
    moved: Callable[[str], str],
    ids: Ids,
    things: Mapping[str, str],
) -> tuple[list[Material], dict[str, str]]:
    """Return those of some materials that a document lacks, as it is to have them, and the new ids by the old ones.

    Materials that are there already are shared. moved: how the document names a file that they name. things: new ids
    of things by the old ones, for steps that ask for one.
    """
    known = {_look(m): m.id for m in document.materials}
    # One of no light group is any that is alike, whatever group that got.
    for m in document.materials:
        known.setdefault(_look(m.model_copy(update={"emission_group": ""})), m.id)
    worn: dict[str, str] = {"": ""}
    new = []
    among = by_id(materials)
    # What lies below comes first: its new id is known then.
    for material in sorted(materials, key=lambda m: len(chain(among, m.id))):
        material = renamed(material, moved)
        if material.layer_over:
            material = material.model_copy(update={"layer_over": worn.get(material.layer_over, "")})
        steps = asking(material.steps, things)
        material = material if steps is material.steps else material.model_copy(update={"steps": steps})
        look = _look(material)
        if look not in known:
            known[look] = ids.free("materials", "material")
            name = free_name(document, "materials", material.name)
            new.append(material.model_copy(update={"id": known[look], "name": name}))
        worn[material.id] = known[look]
    return new, worn


def _look(material: Material) -> Material:
    """Return what two materials have in common that look the same, whatever they are called."""
    return material.model_copy(update={"id": "", "name": ""})


def stocked(
    document: Document, materials: Sequence[Material], *, moved: Callable[[str], str] = lambda name: name
) -> tuple[Document, str]:
    """Return the document with a material, the first of some, and those below it; and the id that it has there.

    One that is there already is not put in again. What glows gets a light group of its own.
    """
    new, worn = joined(document, materials, moved=moved, ids=Ids(document), things={})
    groups = document
    for i, material in enumerate(new):
        if material.is_emitter and not material.emission_group:
            fader = free_group(groups, material.name)
            new[i] = material.model_copy(update={"emission_group": fader})
            groups = edit.changed(groups, groups=(*groups.light_groups, fader))
    if new:
        # The one that is wanted stands before those below it.
        document = edit.changed(document, materials=(*document.materials, *reversed(new)))
    return document, worn[materials[0].id]


def alone(document: Document, id: str) -> Document:
    """Return a document of a material and those below it, and nothing else; it is called as the material is."""
    materials = chain(by_id(document.materials), id)
    return Document(
        name=materials[0].name, materials=tuple(m.model_copy(update={"emission_group": ""}) for m in materials)
    )

"""Sets of pictures of one stuff, recognised by how their file names end, and the steps that they become."""

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from pathlib import PurePath

from nocturne.scene.materials import HEIGHT, Material
from nocturne.scene.numbered import TILES
from nocturne.scene.patterns import Picture, Step

# What the ends of names stand for; the longest that fits counts.
_ENDINGS = {
    "colour": "basecolor base_color basecolour base_colour albedo diffuse diff color colour col rgb",
    "roughness": "roughness rough rgh",
    "gloss": "glossiness gloss smoothness",
    "normal": "normal normals nrm nor norm normalgl normal_gl normalopengl nor_gl",
    "normal, green down": "normaldx normal_dx normaldirectx nor_dx",
    "height": "height displacement displace disp bump",
    "metalness": "metalness metallic metal mtl",
    "occlusion": "ambientocclusion ambient_occlusion occlusion ao",
    "specular": "specular spec specularlevel",
    "emission": "emissive emission emit glow",
    "opacity": "opacity alpha cutout",
}
_OF_ENDING = {ending: what for what, endings in _ENDINGS.items() for ending in endings.split()}
_NO_EQUAL = ("opacity",)
_SIZE = re.compile(r"^(\d+k|\d{3,5}|\d{2,5}x\d{2,5}|\d+bit|v\d+)$")
_PARTS = re.compile(r"[_\-. ]+|(?<=[a-z0-9])(?=[A-Z][a-z])")
GLOW_NITS = 1000.0


@dataclass
class PictureSet:
    """Pictures of one stuff: its name, and each picture's path by what it holds, as in `_ENDINGS`."""

    name: str
    pictures: dict[str, str] = field(default_factory=dict)


def held_by(path: str) -> tuple[str, str]:
    """Return (name of the stuff, what a picture holds) by its file's name; what it holds is "" if that says nothing."""
    parts = [part for part in _PARTS.split(PurePath(path).stem.replace(TILES, "")) if part]
    sizes = [part for part in parts if _SIZE.match(part.lower())]
    words = [part for part in parts if part not in sizes]
    for n in (3, 2, 1):
        for joint in ("_", ""):
            what = _OF_ENDING.get(joint.join(words[-n:]).lower()) if len(words) >= n else None
            if what is not None:
                return " ".join(words[:-n]) or PurePath(path).parent.name, what
    return " ".join(words), ""


def sets_of(paths: Iterable[str]) -> tuple[list[PictureSet], list[str]]:
    """Return the sets that pictures make, by the names that they share, and those whose names say nothing."""
    sets: dict[str, PictureSet] = {}
    unknown = []
    for path in paths:
        name, what = held_by(path)
        if not what:
            unknown.append(path)
            continue
        found = sets.setdefault(name.lower(), PictureSet(name or "Pictures"))
        found.pictures.setdefault(what, path)
    return list(sets.values()), unknown


def wired(item: Material, pictures: PictureSet, named: Callable[[str], str]) -> tuple[Material, list[str]]:
    """Return a material that a set of pictures drives, each read as it should be, and what of it has no equal here.

    What drove the same parameters before is replaced. named: from a path to what the document calls it.
    """
    steps: list[Step] = []
    values: dict[str, object] = {}
    has = pictures.pictures

    def add(what: str, parameter: str, space: str = "data", **more: object) -> None:
        if what in has:
            steps.append(Picture(parameter=parameter, path=named(has[what]), space=space, **more))

    add("colour", "base_color", "colour")
    add("occlusion", "base_color", blend="multiply")
    if "roughness" in has or "gloss" not in has:
        add("roughness", "specular_roughness")
    else:
        add("gloss", "specular_roughness", invert=True)
    add("metalness", "base_metalness")
    add("specular", "specular_weight")
    if "normal" in has:
        add("normal", "geometry_normal")
    else:
        add("normal, green down", "geometry_normal", green_down=True)
    add("height", HEIGHT)
    if "emission" in has:
        add("emission", "emission_color", "colour", blend="multiply")
        values["emission_luminance"] = item.emission_luminance or GLOW_NITS
    driven = {step.parameter for step in steps}
    kept = tuple(step for step in item.steps if step.parameter not in driven)
    told = [PurePath(has[what]).name for what in _NO_EQUAL if what in has]
    return item.model_copy(update={**values, "steps": (*kept, *steps)}), told

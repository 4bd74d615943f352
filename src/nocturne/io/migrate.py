"""Bringing older projects up to the format of today, one version at a time, on plain JSON values."""

from collections.abc import Callable

from nocturne.scene.camera import View
from nocturne.scene.desk import Strip
from nocturne.scene.fields import Model, limits_of_parts
from nocturne.scene.lights import KINDS
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Picture
from nocturne.scene.thing import Thing


def _finish_becomes_a_stack(raw: dict) -> dict:
    """1 to 2: the finish had fixed values; it became a stack of steps in the order in which they were applied."""
    old = raw.get("finish")
    if not isinstance(old, dict):
        return raw
    steps = []

    def add(kind: str, names: dict[str, str], neutral: dict[str, float]) -> None:
        values = {new: old[name] for name, new in names.items() if name in old}
        if any(values.get(new, value) != value for new, value in neutral.items()):
            steps.append({"kind": kind, "id": f"{kind}-1", **values})

    add("bloom", {"bloom": "bloom", "bloom_size": "size"}, {"bloom": 0.0})
    add("vignette", {"vignette": "strength"}, {"strength": 0.0})
    add("exposure", {"exposure": "stops"}, {"stops": 0.0})
    add("saturation", {"saturation": "saturation"}, {"saturation": 1.0})
    tone = {name: name for name in ("contrast", "highlights", "shadows")}
    add("tone", tone, {"contrast": 1.0, "highlights": 0.0, "shadows": 0.0})
    return {**raw, "finish": {"steps": steps, "view": old.get("view", "aces")}}


def _pictures_count_whole(raw: dict) -> dict:
    """2 to 3: a picture's amount counted for normal maps only; for all others it was as if it were 1."""
    materials = raw.get("materials")
    if not isinstance(materials, list):
        return raw

    def whole(texture: object) -> object:
        counts = isinstance(texture, dict) and texture.get("parameter") != "geometry_normal"
        return {**texture, "amount": 1.0} if counts else texture

    def with_whole(material: object) -> object:
        if not (isinstance(material, dict) and isinstance(material.get("textures"), list)):
            return material
        return {**material, "textures": [whole(texture) for texture in material["textures"]]}

    return {**raw, "materials": [with_whole(material) for material in materials]}


def _colours_are_shares(raw: dict) -> dict:
    """3 to 4: colours and vectors got limits; what lies beyond them is brought to the nearest that is allowed."""

    def held(item: object, model: type[Model]) -> object:
        if not isinstance(item, dict):
            return item
        out = dict(item)
        for name, (_, low, high) in limits_of_parts(model).items():
            value = out.get(name)
            if isinstance(value, list) and all(isinstance(v, (int, float)) for v in value):
                out[name] = [min(max(v, low), high) for v in value]
        return out

    def each(items: object, model: type[Model]) -> object:
        return [held(item, model) for item in items] if isinstance(items, list) else items

    out = dict(raw)
    if isinstance(out.get("lights"), list):
        out["lights"] = [held(light, _kind_of(light)) for light in out["lights"]]
    for part, model in (("things", Thing), ("materials", Material), ("views", View)):
        if part in out:
            out[part] = each(out[part], model)
    if isinstance(out.get("materials"), list):
        out["materials"] = [
            {**m, "textures": each(m["textures"], Picture)} if isinstance(m, dict) and "textures" in m else m
            for m in out["materials"]
        ]
    if "desk" in out:
        out["desk"] = each(out["desk"], Strip)
    if isinstance(out.get("cues"), list):
        out["cues"] = [
            {**cue, "strips": each(cue["strips"], Strip)} if isinstance(cue, dict) and "strips" in cue else cue
            for cue in out["cues"]
        ]
    return out


def _kind_of(light: object) -> type[Model]:
    kind = light.get("kind", "rect") if isinstance(light, dict) else ""
    return KINDS.get(kind, Model) if isinstance(kind, str) else Model


def _lights_are_kinds(raw: dict) -> dict:
    """4 to 5: every light had the fields of all kinds; each kind has its own, and points and spots may have a size."""
    lights = raw.get("lights")
    if not isinstance(lights, list):
        return raw

    def own(light: object) -> object:
        kind = _kind_of(light)
        if kind is Model:
            return light
        names = kind.model_fields.keys() & _OF_FORMAT_4
        unknown = {name: value for name, value in light.items() if name not in _OF_FORMAT_4}
        kept = {name: value for name, value in light.items() if name in names}
        return {"kind": "rect", **kept, **unknown}

    return {**raw, "lights": [own(light) for light in lights]}


def _steps_are_kinds(raw: dict) -> dict:
    """5 to 6: all that drove a parameter was a picture; it became one kind of step among others."""
    materials = raw.get("materials")
    if not isinstance(materials, list):
        return raw

    def told(material: object) -> object:
        if not (isinstance(material, dict) and isinstance(material.get("textures"), list)):
            return material
        steps = [{"kind": "picture", **step} if isinstance(step, dict) else step for step in material["textures"]]
        return {**material, "textures": steps}

    return {**raw, "materials": [told(material) for material in materials]}


def _things_may_be_made_here(raw: dict) -> dict:
    """6 to 7: things may be shapes, scatters, in several materials and placings, lights in groups: all of it new."""
    return raw


def _steps_hold_steps(raw: dict) -> dict:
    """7 to 8: steps go together with what lies under them in several ways, and can be driven themselves.

    Kinds got the names of the MaterialX standard. What drove an emission colour always multiplied it.
    """
    materials = raw.get("materials")
    if not isinstance(materials, list):
        return raw
    kinds = {"picture": "image", "checker": "checkerboard", "colours": "geomcolor"}

    def step_of(step: object) -> object:
        if not isinstance(step, dict):
            return step
        kept = {name: value for name, value in step.items() if name != "multiply"}
        if "kind" in kept and isinstance(kept["kind"], str):
            kept["kind"] = kinds.get(kept["kind"], kept["kind"])
        if step.get("multiply") is True or step.get("parameter") == "emission_color":
            kept["blend"] = "multiply"
        return kept

    def told(material: object) -> object:
        if not (isinstance(material, dict) and "textures" in material):
            return material
        steps = material["textures"]
        kept = {name: value for name, value in material.items() if name != "textures"}
        return {**kept, "steps": [step_of(step) for step in steps] if isinstance(steps, list) else steps}

    return {**raw, "materials": [told(material) for material in materials]}


_OF_FORMAT_4 = frozenset(
    "id name kind group on power unit efficacy colour_from kelvin colour place turn_deg width height radius inner_deg "
    "outer_deg image azimuth_deg elevation_deg turbidity ground together visible".split()
)
_STEPS: dict[int, Callable[[dict], dict]] = {
    1: _finish_becomes_a_stack,
    2: _pictures_count_whole,
    3: _colours_are_shares,
    4: _lights_are_kinds,
    5: _steps_are_kinds,
    6: _things_may_be_made_here,
    7: _steps_hold_steps,
}


def migrated(raw: dict, version: int) -> dict:
    """Return a document's JSON in the format of `version`; what is newer or has no version is returned as it is."""
    found = raw.get("version") if isinstance(raw, dict) else None
    while isinstance(found, int) and found < version and found in _STEPS:
        raw = {**_STEPS[found](raw), "version": found + 1}
        found += 1
    return raw

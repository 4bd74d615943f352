"""glTF materials as materials of a document.

References
----------
glTF 2.0, section 3.9; KHR_materials_clearcoat, _transmission, _volume, _ior, _specular, _emissive_strength, _sheen,
_iridescence, _anisotropy, _dispersion, _unlit, _diffuse_transmission; KHR_texture_transform.
"""

import math
from collections.abc import Callable
from typing import Any

import numpy as np

from nocturne.colour.spaces import rec709_to_working
from nocturne.io.models.arrival import Notes
from nocturne.io.models.surfaces import held, with_brighter_index
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Levels, MeshColours, Picture, Step

MESH_COLOURS = MeshColours(parameter="base_color", blend="multiply")
UNLIT_NIT = 100.0  # of what shows its colour without any light: about a screen
ABBE_OF_DISPERSION = 20.0  # KHR_materials_dispersion is this over the Abbe number
ALL_ONWARD = 1.0  # all that a thin sheet scatters goes to its other side
_UNKNOWN = {"KHR_materials_pbrSpecularGlossiness": "the reflection by glossiness"}
_EDGE = 1e-3  # of a cut-out, in alpha


def material_of(
    about: dict,
    *,
    id: str,
    name: str,
    picture: Callable[[Any], tuple[str, str] | None],
    notes: Notes,
    has_mesh_colours: bool = False,
) -> Material:
    """Return a material; picture: gives a texture's image and how it goes on by the texture's number, or None.

    has_mesh_colours: its base colour is multiplied by the colours of the meshes that wear it.
    """
    made = _Reader(about, name, picture, notes).material(id)
    return made.model_copy(update={"steps": (*made.steps, MESH_COLOURS)}) if has_mesh_colours else made


def mesh_coloured(id: str, name: str) -> Material:
    """Return a material for meshes that bring colours and nothing else."""
    return Material(id=id, name=name, base_color=(1.0, 1.0, 1.0), specular_roughness=0.6, steps=(MESH_COLOURS,))


class _Reader:
    """Reads one material; what it has and Nocturne has not is noted."""

    def __init__(self, about: dict, name: str, picture: Callable[[Any], tuple[str, str] | None], notes: Notes) -> None:
        self.about, self.name, self._picture, self.notes = about, name, picture, notes
        self.values: dict[str, Any] = {}
        self.steps: list[Step] = []

    def material(self, id: str) -> Material:
        extensions = _dict(self.about.get("extensions"))
        metal = _dict(self.about.get("pbrMetallicRoughness"))
        factor = _floats(metal.get("baseColorFactor"), (1, 1, 1, 1))
        self.colour("base_color", factor[:3], metal.get("baseColorTexture"))
        self.number("base_metalness", _number(metal, "metallicFactor", 1.0), metal, "metallicRoughnessTexture", "blue")
        self.number(
            "specular_roughness", _number(metal, "roughnessFactor", 1.0), metal, "metallicRoughnessTexture", "green"
        )
        self._bumps()
        self._glow(_number(_dict(extensions.get("KHR_materials_emissive_strength")), "emissiveStrength", 1.0))
        self._specular(_dict(extensions.get("KHR_materials_specular")))
        self.values["specular_ior"] = _number(_dict(extensions.get("KHR_materials_ior")), "ior", 1.5) or 3.0
        self._coat(_dict(extensions.get("KHR_materials_clearcoat")))
        self._glass(extensions, metal)
        self._brushed(_dict(extensions.get("KHR_materials_anisotropy")), metal)
        self._fuzz(_dict(extensions.get("KHR_materials_sheen")))
        self._film(_dict(extensions.get("KHR_materials_iridescence")))
        self._leaf(_dict(extensions.get("KHR_materials_diffuse_transmission")))
        self._cut(float(factor[3]), metal)
        if "KHR_materials_unlit" in extensions:
            self._unlit()
        if "occlusionTexture" in self.about:
            self.notes.lose(f"“{self.name}”: its baked occlusion (light is computed here)")
        for key, words in _UNKNOWN.items():
            if key in extensions:
                self.notes.lose(f"“{self.name}”: {words}")
        values = held(with_brighter_index(self.values), lambda what: self.notes.lose(f"“{self.name}”: {what}"))
        return Material(id=id, name=self.name, steps=tuple(self.steps), **values)

    def _bumps(self) -> None:
        normal = _dict(self.about.get("normalTexture"))
        if normal:
            amount = min(max(_number(normal, "scale", 1.0), 0.0), 4.0)
            self.step("geometry_normal", normal, "data", amount=amount)

    def _glow(self, strength: float) -> None:
        factor = np.maximum(_floats(self.about.get("emissiveFactor"), (0, 0, 0)), 0)
        largest = float(factor.max())
        if largest <= 0 or strength <= 0:
            return
        self.values["emission_luminance"] = largest * strength
        self.values["emission_color"] = _working(factor / largest)
        self.step("emission_color", _dict(self.about.get("emissiveTexture")), "colour", blend="multiply")

    def _specular(self, about: dict) -> None:
        if about:
            self.number("specular_weight", _number(about, "specularFactor", 1.0), about, "specularTexture", "alpha")
            factor = _floats(about.get("specularColorFactor"), (1, 1, 1))
            self.colour("specular_color", factor, about.get("specularColorTexture"))
            if factor.max() > 1:
                self.values["specular_color"] = tuple(float(v) for v in rec709_to_working() @ np.maximum(factor, 0))

    def _coat(self, about: dict) -> None:
        if about and _number(about, "clearcoatFactor", 0.0) > 0:
            self.number("coat_weight", _number(about, "clearcoatFactor", 0.0), about, "clearcoatTexture", "red")
            rough = _number(about, "clearcoatRoughnessFactor", 0.0)
            self.number("coat_roughness", rough, about, "clearcoatRoughnessTexture", "green")
            self.values["coat_ior"], self.values["coat_darkening"] = 1.5, 0.0  # the extension's coat is that thin
            own, base = (
                _dict(x).get("index") for x in (about.get("clearcoatNormalTexture"), self.about.get("normalTexture"))
            )
            # Without a normal map of its own a coat lies smooth over the base's.
            self.values["coat_levelling"] = 0.0 if own is not None and own == base else 1.0
            if own not in (None, base):
                self.notes.lose(f"“{self.name}”: the normal map of its coat")

    def _brushed(self, about: dict, metal: dict) -> None:
        strength = min(max(_number(about, "anisotropyStrength", 0.0), 0.0), 1.0)
        if strength <= 0:
            return
        # There alpha along is mixed towards 1 and alpha across is the roughness' own; here both keep a mean.
        across = max(self.values["specular_roughness"] ** 2, 1e-3)
        along = across + (1 - across) * strength**2
        self.values["specular_roughness_anisotropy"] = 1 - across / along
        if "metallicRoughnessTexture" not in metal:
            self.values["specular_roughness"] = ((along**2 + across**2) / 2) ** 0.25
        self.values["specular_rotation_deg"] = math.degrees(_number(about, "anisotropyRotation", 0.0))
        if "anisotropyTexture" in about:
            self.notes.lose(f"“{self.name}”: the picture of its brushing; it is brushed alike all over")

    def _fuzz(self, about: dict) -> None:
        colour = np.clip(_floats(about.get("sheenColorFactor"), (0, 0, 0)), 0, 1)
        most = float(colour.max())
        if most <= 0:
            return
        self.values["fuzz_weight"] = most
        self.colour("fuzz_color", colour / most, about.get("sheenColorTexture"))
        rough = _number(about, "sheenRoughnessFactor", 0.0)
        self.number("fuzz_roughness", rough, about, "sheenRoughnessTexture", "alpha")

    def _film(self, about: dict) -> None:
        if _number(about, "iridescenceFactor", 0.0) <= 0:
            return
        self.number("thin_film_weight", _number(about, "iridescenceFactor", 0.0), about, "iridescenceTexture", "red")
        self.values["thin_film_ior"] = _number(about, "iridescenceIor", 1.3)
        thickest = _number(about, "iridescenceThicknessMaximum", 400.0)
        self.number("thin_film_thickness_nm", thickest, about, "iridescenceThicknessTexture", "green")
        if "iridescenceThicknessTexture" in about and _number(about, "iridescenceThicknessMinimum", 100.0) > 0:
            self.notes.lose(f"“{self.name}”: how thin its film is at least; its picture scales the thickness from 0")

    def _leaf(self, about: dict) -> None:
        share = min(max(_number(about, "diffuseTransmissionFactor", 0.0), 0.0), 1.0)
        if share <= 0:
            return
        self.number("subsurface_weight", share, about, "diffuseTransmissionTexture", "alpha")
        tint = _floats(about.get("diffuseTransmissionColorFactor"), (1, 1, 1))
        self.colour("subsurface_color", tint, about.get("diffuseTransmissionColorTexture"))
        self.values |= {"geometry_thin_walled": True, "subsurface_scatter_anisotropy": ALL_ONWARD}

    def _cut(self, alpha: float, metal: dict) -> None:
        """Take the alpha of the base colour: as it is, or cut at a value."""
        mode = self.about.get("alphaMode", "OPAQUE")
        if mode not in ("MASK", "BLEND"):
            return
        cutoff = _number(self.about, "alphaCutoff", 0.5)
        texture = _dict(metal.get("baseColorTexture"))
        if texture:
            self.number("geometry_opacity", min(max(alpha, 0.0), 1.0), metal, "baseColorTexture", "alpha")
            if mode == "MASK":
                edges = {"inlow": cutoff - _EDGE, "inhigh": cutoff}
                self.steps.append(Levels(parameter="geometry_opacity", **edges))
        elif mode == "MASK":
            self.values["geometry_opacity"] = 1.0 if alpha >= cutoff else 0.0
        else:
            self.values["geometry_opacity"] = min(max(alpha, 0.0), 1.0)

    def _unlit(self) -> None:
        """Have it give its colour as light, and reflect nothing."""
        self.steps = [
            step.model_copy(update={"parameter": "emission_color"})
            for step in self.steps
            if step.parameter == "base_color"
        ] + [step for step in self.steps if step.parameter == "geometry_opacity"]
        keeps = {"geometry_opacity": self.values.get("geometry_opacity", 1.0)}
        self.values = {
            **keeps,
            "emission_color": self.values["base_color"],
            "emission_luminance": UNLIT_NIT,
            "base_color": (0.0, 0.0, 0.0),
            "base_metalness": 0.0,
            "specular_weight": 0.0,
            "specular_ior": 1.0,
        }

    def _glass(self, extensions: dict, metal: dict) -> None:
        clear, volume = (
            _dict(extensions.get("KHR_materials_transmission")),
            _dict(extensions.get("KHR_materials_volume")),
        )
        if not clear or _number(clear, "transmissionFactor", 0.0) <= 0:
            return
        self.number(
            "transmission_weight", _number(clear, "transmissionFactor", 0.0), clear, "transmissionTexture", "red"
        )
        self.values["geometry_thin_walled"] = _number(volume, "thicknessFactor", 0.0) <= 0
        distance = volume.get("attenuationDistance")
        if not self.values["geometry_thin_walled"] and isinstance(distance, (int, float)) and distance > 0:
            self.values["transmission_color"] = _working(_floats(volume.get("attenuationColor"), (1, 1, 1)))
            self.values["transmission_depth"] = float(distance)
        else:
            self.colour("transmission_color", self._tint(metal), metal.get("baseColorTexture"))
        dispersion = _number(_dict(extensions.get("KHR_materials_dispersion")), "dispersion", 0.0)
        if dispersion > 0 and not self.values["geometry_thin_walled"]:
            self.values["transmission_dispersion_scale"] = 1.0
            self.values["transmission_dispersion_abbe_number"] = ABBE_OF_DISPERSION / dispersion

    def _tint(self, metal: dict) -> np.ndarray:
        return _floats(metal.get("baseColorFactor"), (1, 1, 1, 1))[:3]

    # ---- factors and textures --------------------------------------------------------------------------------------

    def colour(self, parameter: str, factor: np.ndarray, texture: Any) -> None:
        """Take a linear Rec.709 factor, and the texture that it tints."""
        self.values[parameter] = _working(factor)
        self.step(parameter, _dict(texture), "colour", blend="multiply")

    def number(self, parameter: str, factor: float, about: dict, key: str, channel: str) -> None:
        """Take a factor, and the channel of a texture that it scales."""
        self.values[parameter] = float(factor)
        self.step(parameter, _dict(about.get(key)), channel, blend="multiply")

    def step(self, parameter: str, texture: dict, space: str, *, blend: str = "replace", amount: float = 1.0) -> None:
        """Add the step of a texture, if there is one and it is there."""
        if not texture:
            return
        found = self._picture(texture.get("index"))
        if found is None:
            return
        path, wrap = found
        moved = _dict(_dict(texture.get("extensions")).get("KHR_texture_transform"))
        uv_set = moved.get("texCoord", texture.get("texCoord", 0)) or 0
        if uv_set not in (0, 1):
            self.notes.lose(f"“{self.name}”: texture coordinates beyond the second set; its texture lies by the first")
        placing = {**_placing(moved), "uv_set": 2 if uv_set == 1 else 1, "wrap": wrap}
        self.steps.append(Picture(parameter=parameter, path=path, space=space, blend=blend, amount=amount, **placing))


def _placing(moved: dict) -> dict:
    """Return repeat, offset and turn of a step: glTF's v points down and ours up (KHR_texture_transform)."""
    if not moved:
        return {}
    (ox, oy), (sx, sy) = _floats(moved.get("offset"), (0, 0)), _floats(moved.get("scale"), (1, 1))
    turn = _number(moved, "rotation", 0.0)
    c, s = math.cos(turn), math.sin(turn)
    return {
        "repeat": (float(sx), float(sy)),
        "turn_deg": float((-math.degrees(turn) + 180.0) % 360.0 - 180.0),
        "offset": (float(ox - s * sy), float(1 - c * sy - oy)),
    }


def _working(rgb: np.ndarray) -> tuple[float, float, float]:
    r, g, b = np.clip(rec709_to_working() @ np.clip(np.asarray(rgb, float), 0, 1), 0, 1)
    return float(r), float(g), float(b)


def _dict(value: Any) -> dict:
    return value if isinstance(value, dict) else {}


def _number(about: dict, key: str, default: float) -> float:
    value = about.get(key, default)
    if not isinstance(value, (int, float)) or not math.isfinite(value):
        raise ValueError(f"{key} is not a number")
    return float(value)


def _floats(value: Any, default: tuple) -> np.ndarray:
    if value is None:
        return np.array(default, float)
    out = np.array(value, float).ravel()
    if len(out) != len(default) or not np.isfinite(out).all():
        raise ValueError(f"{value!r} are not {len(default)} numbers")
    return out

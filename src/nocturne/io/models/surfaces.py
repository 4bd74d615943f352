"""Inputs of the surfaces that materials are exchanged as, and the parameters that they are.

References
----------
OpenPBR Surface 1.1; Standard Surface 1.0.1 (MaterialX 1.39); UsdPreviewSurface 2.6.
"""

import math
from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from nocturne.colour.spaces import working_to_rec709
from nocturne.scene import metals
from nocturne.scene.fields import within
from nocturne.scene.materials import Material


class Input(NamedTuple):
    """A parameter that an input is; kind: "number", "colour", "switch" or "normal"; ours is theirs times `scale`."""

    parameter: str
    kind: str = "number"
    scale: float = 1.0


def _openpbr() -> dict[str, Input]:
    colours = ("base_color", "specular_color", "transmission_color", "subsurface_color", "coat_color", "fuzz_color")
    numbers = (
        *("base_weight", "base_diffuse_roughness", "base_metalness"),
        *("specular_weight", "specular_roughness", "specular_ior", "specular_roughness_anisotropy"),
        *("transmission_weight", "transmission_depth", "transmission_scatter_anisotropy"),
        *("transmission_dispersion_scale", "transmission_dispersion_abbe_number"),
        *("subsurface_weight", "subsurface_scatter_anisotropy"),
        *("coat_weight", "coat_roughness", "coat_roughness_anisotropy", "coat_ior", "coat_darkening"),
        *("fuzz_weight", "fuzz_roughness", "emission_luminance", "thin_film_weight", "thin_film_ior"),
        "geometry_opacity",
    )
    return {
        **{name: Input(name) for name in numbers},
        **{name: Input(name, "colour") for name in (*colours, "emission_color", "transmission_scatter")},
        "subsurface_radius": Input("subsurface_radius_mm", scale=1000.0),
        "subsurface_radius_scale": Input("subsurface_radius_scale", "colour"),
        "thin_film_thickness": Input("thin_film_thickness_nm", scale=1000.0),
        "geometry_thin_walled": Input("geometry_thin_walled", "switch"),
        "geometry_normal": Input("geometry_normal", "normal"),
    }


OPENPBR = _openpbr()
# What the standard takes where an input is left out, where that is not what a material begins with here.
OPENPBR_DEFAULTS = {
    "base_color": (0.8, 0.8, 0.8),
    "specular_roughness": 0.3,
    "subsurface_radius_mm": 1000.0,
}
STANDARD = {
    "base": Input("base_weight"),
    "base_color": Input("base_color", "colour"),
    "diffuse_roughness": Input("base_diffuse_roughness"),
    "metalness": Input("base_metalness"),
    "specular": Input("specular_weight"),
    "specular_color": Input("specular_color", "colour"),
    "specular_roughness": Input("specular_roughness"),
    "specular_IOR": Input("specular_ior"),
    "specular_anisotropy": Input("specular_roughness_anisotropy"),
    "specular_rotation": Input("specular_rotation_deg", scale=360.0),
    "transmission": Input("transmission_weight"),
    "transmission_color": Input("transmission_color", "colour"),
    "transmission_depth": Input("transmission_depth"),
    "transmission_scatter": Input("transmission_scatter", "colour"),
    "transmission_scatter_anisotropy": Input("transmission_scatter_anisotropy"),
    "transmission_dispersion": Input("transmission_dispersion_abbe_number"),
    "subsurface": Input("subsurface_weight"),
    "subsurface_color": Input("subsurface_color", "colour"),
    "subsurface_scale": Input("subsurface_radius_mm", scale=1000.0),
    "subsurface_radius": Input("subsurface_radius_scale", "colour"),
    "subsurface_anisotropy": Input("subsurface_scatter_anisotropy"),
    "sheen": Input("fuzz_weight"),
    "sheen_color": Input("fuzz_color", "colour"),
    "sheen_roughness": Input("fuzz_roughness"),
    "coat": Input("coat_weight"),
    "coat_color": Input("coat_color", "colour"),
    "coat_roughness": Input("coat_roughness"),
    "coat_IOR": Input("coat_ior"),
    "coat_anisotropy": Input("coat_roughness_anisotropy"),
    "coat_rotation": Input("coat_rotation_deg", scale=360.0),
    "thin_film_thickness": Input("thin_film_thickness_nm"),
    "thin_film_IOR": Input("thin_film_ior"),
    "emission": Input("emission_luminance"),
    "emission_color": Input("emission_color", "colour"),
    "opacity": Input("geometry_opacity"),
    "thin_walled": Input("geometry_thin_walled", "switch"),
    "normal": Input("geometry_normal", "normal"),
}
STANDARD_DEFAULTS = {
    "base_weight": 1.0,
    "base_color": (0.8, 0.8, 0.8),
    "specular_roughness": 0.2,
    "subsurface_radius_mm": 1000.0,
    "subsurface_radius_scale": (1.0, 1.0, 1.0),
    "subsurface_color": (1.0, 1.0, 1.0),
    "fuzz_roughness": 0.3,
    "coat_roughness": 0.1,
    "coat_ior": 1.5,
    "coat_darkening": 0.0,
    "emission_luminance": 0.0,
    "thin_film_ior": 1.5,
    "transmission_dispersion_abbe_number": 0.0,
}
PREVIEW = {
    "diffuseColor": Input("base_color", "colour"),
    "metallic": Input("base_metalness"),
    "roughness": Input("specular_roughness"),
    "clearcoat": Input("coat_weight"),
    "clearcoatRoughness": Input("coat_roughness"),
    "ior": Input("specular_ior"),
    "emissiveColor": Input("emission_color", "colour"),
    "normal": Input("geometry_normal", "normal"),
}
GLTF = {
    "base_color": Input("base_color", "colour"),
    "metallic": Input("base_metalness"),
    "roughness": Input("specular_roughness"),
    "normal": Input("geometry_normal", "normal"),
    "transmission": Input("transmission_weight"),
    "specular": Input("specular_weight"),
    "specular_color": Input("specular_color", "colour"),
    "ior": Input("specular_ior"),
    "alpha": Input("geometry_opacity"),
    "iridescence": Input("thin_film_weight"),
    "iridescence_ior": Input("thin_film_ior"),
    "iridescence_thickness": Input("thin_film_thickness_nm"),
    "sheen_color": Input("fuzz_color", "colour"),
    "sheen_roughness": Input("fuzz_roughness"),
    "clearcoat": Input("coat_weight"),
    "clearcoat_roughness": Input("coat_roughness"),
    "emissive": Input("emission_color", "colour"),
    "emissive_strength": Input("emission_luminance"),
    "attenuation_distance": Input("transmission_depth"),
    "attenuation_color": Input("transmission_color", "colour"),
    "anisotropy_strength": Input("specular_roughness_anisotropy"),
    "anisotropy_rotation": Input("specular_rotation_deg", scale=180.0 / math.pi),
    "dispersion": Input("transmission_dispersion_abbe_number"),
}


LENGTHS = ("subsurface_radius_mm", "transmission_depth")  # which are in the scene's unit


def settled(values: dict, kind: str) -> dict:
    """Return the parameters of a surface whose inputs were read one by one, with what they mean together.

    kind: "openpbr", "standard", "gltf" or "preview". Numbers of Standard Surface that stand for two of
    ours are taken apart.
    """
    out = dict(values)
    if kind == "standard":
        radius = out.get("subsurface_radius_scale")
        if radius is not None and max(radius) > 0:
            out["subsurface_radius_mm"] = out.get("subsurface_radius_mm", 1000.0) * max(radius)
            out["subsurface_radius_scale"] = tuple(v / max(radius) for v in radius)
        if out.get("transmission_dispersion_abbe_number", 0.0) > 0:
            out["transmission_dispersion_scale"] = 1.0
        else:
            out.pop("transmission_dispersion_abbe_number", None)
        if out.get("thin_film_thickness_nm", 0.0) > 0:
            out["thin_film_weight"] = 1.0
        for name in ("specular_rotation_deg", "coat_rotation_deg"):
            if name in out:
                out[name] = (out[name] + 180.0) % 360.0 - 180.0
    if kind in ("preview", "gltf"):
        # Their coat is a thin one, of the index that glass has, and deepens nothing.
        out.setdefault("coat_ior", 1.5)
        out.setdefault("coat_darkening", 0.0)
    if kind == "gltf":
        out = with_brighter_index(out)
    if out.get("transmission_depth", 0.0) <= 0:
        out.pop("transmission_depth", None)
    if "emission_color" in out and "emission_luminance" not in out and kind != "openpbr":
        most = max(out["emission_color"])
        out["emission_luminance"] = most
        out["emission_color"] = tuple(v / max(most, 1e-12) for v in out["emission_color"])
    return out


def with_brighter_index(values: dict) -> dict:
    """Return values whose specular colour is within 1: what it has beyond that, a higher index reflects face on.

    glTF, KHR_materials_specular: the colour scales ((n - 1) / (n + 1))^2, which is held at 1.
    """
    colour = values.get("specular_color")
    if colour is None or max(colour) <= 1 or values.get("transmission_weight", 0.0) > 0:
        return values  # in glass another index would bend light another way
    ior, most = values.get("specular_ior", 1.5), max(colour)
    root = min((ior - 1) / (ior + 1) * math.sqrt(most), 0.5)  # an index of 3, the highest there is
    scale = (root * (ior + 1) / (ior - 1)) ** 2 if ior > 1 else 1.0
    return {
        **values,
        "specular_ior": (1 + root) / (1 - root) if ior > 1 else ior,
        "specular_color": tuple(min(v / scale, 1.0) if most / scale < 1.0001 else v / scale for v in colour),
    }


def held(values: dict, lose: Callable[[str], None]) -> dict:
    """Return values brought within the limits of a material's fields; `lose` is told what that takes away."""
    out = {}
    for name, value in values.items():
        if name not in Material.model_fields:
            continue
        if isinstance(value, tuple):
            most = 100.0 if name == "emission_color" else 1.0
            value = tuple(min(max(float(v), 0.0), most) for v in value)
            went = max(float(v) for v in values[name]) > most * (1 + 1e-4)
        elif isinstance(value, float):
            value = within(Material, name, value)
            went = abs(value - values[name]) > 1e-4 * max(abs(values[name]), 1.0)
        else:
            went = False
        if went:
            given = values[name]
            words = ", ".join(f"{v:g}" for v in given) if isinstance(given, tuple) else f"{given:g}"
            lose(f"its {name.replace('_', ' ')} of {words}, which is held within the limits")
        out[name] = value
    return out


def openpbr_values(material: Material) -> dict[str, object]:
    """Return what OpenPBR's inputs are for a material: floats, bools and working-space colours by input.

    A metal of measured n and k goes out by its colours face on and at the edge, which are what those come to.
    """
    out: dict[str, object] = {}
    for name, about in OPENPBR.items():
        if about.kind != "normal":
            value = getattr(material, about.parameter)
            out[name] = value / about.scale if about.kind == "number" else value
    if material.base_metalness > 0 and material.metal_from != "colour":
        out["base_color"] = metals.face_on(material)
        out["specular_color"] = metals.edge_tint(material)
        if material.metal_from in metals.BY_INDEX:
            out["base_weight"] = 1.0
    return out


def without_openpbr(material: Material) -> list[str]:
    """Return words for what a material has and OpenPBR has not."""
    m = material
    told = {
        "its measured n and k; the colours that they come to are written": m.base_metalness > 0
        and m.metal_from in metals.BY_INDEX,
        "the tail of its highlight": m.base_metalness > 0 and m.specular_tail > 0,
        "the tail of its coat's highlight": m.coat_weight > 0 and m.coat_tail > 0,
        "how far its coat lies smooth": m.coat_weight > 0 and 0 < m.coat_levelling < 1,
        "how its brushing is turned": m.specular_roughness_anisotropy > 0 and m.specular_rotation_deg != 0,
        "how its coat's brushing is turned": m.coat_weight > 0
        and m.coat_roughness_anisotropy > 0
        and m.coat_rotation_deg != 0,
        "what it lies over, where it does not cover it": bool(m.layer_over),
        "how much brighter it looks than it gives light": m.is_emitter and m.emission_look_stops != 0,
        "the rounding of its edges": m.rounding_mm > 0,
        "its relief": any(step.parameter == "geometry_height" and step.on for step in m.steps),
    }
    return [words for words, is_there in told.items() if is_there]


def beyond_rec709(material: Material) -> list[str]:
    """Return words for colours of a material that are more saturated than Rec.709, which they are written in."""
    told = []
    for name, about in OPENPBR.items():
        if about.kind == "colour" and name != "subsurface_radius_scale" and _counts(material, name):
            linear = working_to_rec709() @ np.asarray(getattr(material, about.parameter), float)
            if linear.min() < -0.004 or (name != "emission_color" and linear.max() > 1.004):
                told.append(f"its {name.replace('_', ' ')}, which is more saturated than Rec.709 has colours")
    return told


def _counts(material: Material, colour: str) -> bool:
    """Return True if a colour is of a part that the material has."""
    weight = {
        "transmission_color": material.transmission_weight,
        "transmission_scatter": material.transmission_weight,
        "subsurface_color": material.subsurface_weight,
        "coat_color": material.coat_weight,
        "fuzz_color": material.fuzz_weight,
        "emission_color": material.emission_luminance,
    }
    return weight.get(colour, 1.0) > 0

"""Materials out as glTF's; what has no equal there is told.

References
----------
glTF 2.0, section 3.9; KHR_materials_clearcoat, _transmission, _volume, _ior, _specular, _emissive_strength, _sheen,
_iridescence, _anisotropy, _dispersion, _diffuse_transmission; KHR_texture_transform.
"""

import math
from typing import Any

import numpy as np

from nocturne.colour.spaces import working_to_rec709
from nocturne.errors import FileError
from nocturne.io.models.gltfmaterials import ABBE_OF_DISPERSION
from nocturne.io.models.outgoing import Outgoing
from nocturne.io.models.surfaces import beyond_rec709
from nocturne.io.models.texturesout import alone, apart
from nocturne.scene import metals
from nocturne.scene.materials import Material
from nocturne.scene.patterns import MeshColours, Picture, Step

# Which channel of a picture glTF reads for what, and where the texture is named.
_SLOTS = {
    "base_color": ("colour", "pbrMetallicRoughness", "baseColorTexture"),
    "base_metalness": ("blue", "pbrMetallicRoughness", "metallicRoughnessTexture"),
    "specular_roughness": ("green", "pbrMetallicRoughness", "metallicRoughnessTexture"),
    "geometry_normal": ("data", "", "normalTexture"),
    "emission_color": ("colour", "", "emissiveTexture"),
    "coat_weight": ("red", "KHR_materials_clearcoat", "clearcoatTexture"),
    "coat_roughness": ("green", "KHR_materials_clearcoat", "clearcoatRoughnessTexture"),
    "transmission_weight": ("red", "KHR_materials_transmission", "transmissionTexture"),
    "specular_weight": ("alpha", "KHR_materials_specular", "specularTexture"),
    "specular_color": ("colour", "KHR_materials_specular", "specularColorTexture"),
    "geometry_opacity": ("alpha", "pbrMetallicRoughness", "baseColorTexture"),
    "fuzz_color": ("colour", "KHR_materials_sheen", "sheenColorTexture"),
    "fuzz_roughness": ("alpha", "KHR_materials_sheen", "sheenRoughnessTexture"),
    "thin_film_weight": ("red", "KHR_materials_iridescence", "iridescenceTexture"),
    "thin_film_thickness_nm": ("green", "KHR_materials_iridescence", "iridescenceThicknessTexture"),
    "subsurface_weight": ("alpha", "KHR_materials_diffuse_transmission", "diffuseTransmissionTexture"),
    "subsurface_color": ("colour", "KHR_materials_diffuse_transmission", "diffuseTransmissionColorTexture"),
}
_WRAPS = {"clamp": 33071, "mirror": 33648}  # glTF 2.0, section 5.26
_STARTS = {b"\x89PNG": "image/png", b"\xff\xd8\xff": "image/jpeg"}


class MaterialWriter:
    """Adds materials, textures and pictures to a glTF that is being written."""

    def __init__(self, writer: Any, outgoing: Outgoing) -> None:
        self.writer, self.outgoing = writer, outgoing
        self._textures: dict[tuple[str, str, str], int | None] = {}
        self._images: dict[tuple[str, str], int | None] = {}
        self._samplers: dict[str, int] = {}

    def add(self, material: Material) -> int:
        """Add a material and return its number."""
        # Faces are seen from both sides here.
        about: dict[str, Any] = {"name": material.name, "doubleSided": True, "pbrMetallicRoughness": {}}
        extensions: dict[str, dict] = {}
        m = material
        base = about["pbrMetallicRoughness"]
        base["baseColorFactor"] = [*_linear(tuple(m.base_weight * v for v in m.base_color)), 1.0]
        base["metallicFactor"], base["roughnessFactor"] = m.base_metalness, m.specular_roughness
        if m.specular_ior != 1.5:
            extensions["KHR_materials_ior"] = {"ior": m.specular_ior}
        if m.specular_weight != 1.0 or m.specular_color != (1.0, 1.0, 1.0):
            tint = _linear(m.specular_color)
            extensions["KHR_materials_specular"] = {"specularFactor": m.specular_weight, "specularColorFactor": tint}
        if m.coat_weight > 0:
            extensions["KHR_materials_clearcoat"] = {
                "clearcoatFactor": m.coat_weight,
                "clearcoatRoughnessFactor": m.coat_roughness,
            }
            if m.coat_color != (1.0, 1.0, 1.0) or m.coat_ior != 1.5 or m.coat_darkening != 0:
                self._lose(m, "its coat's own colour, IOR and darkening")
        if m.transmission_weight > 0:
            extensions["KHR_materials_transmission"] = {"transmissionFactor": m.transmission_weight}
            if m.geometry_thin_walled or m.transmission_depth <= 0:
                before, tint = base["baseColorFactor"][:3], _linear(m.transmission_color)
                base["baseColorFactor"] = [*tint, 1.0]
                if m.transmission_weight < 1 and not np.allclose(before, tint, atol=1e-4):
                    self._lose(m, "the base colour beside its clear part, which glTF tints with one colour")
            if not m.geometry_thin_walled:
                # Closed shapes are told apart by having a thickness at all; its number is for those that trace no rays.
                volume: dict[str, Any] = {"thicknessFactor": 1.0}
                if m.transmission_depth > 0:
                    volume |= {"attenuationDistance": m.transmission_depth}
                    volume |= {"attenuationColor": _linear(m.transmission_color)}
                extensions["KHR_materials_volume"] = volume
        if m.is_emitter:
            rgb = np.array(_linear(m.emission_color, high=1e6))
            largest = max(float(rgb.max()), 1e-12)
            about["emissiveFactor"] = [float(v) for v in rgb / largest]
            extensions["KHR_materials_emissive_strength"] = {"emissiveStrength": m.emission_luminance * largest}
        if m.metal_from in metals.BY_INDEX and m.base_metalness > 0:
            base["baseColorFactor"] = [*_linear(metals.face_on(m)), 1.0]
            self._lose(m, "its measured n and k; its colour face on is written")
        self._rest(m, about, extensions)
        for words in (*_without_equal(m), *beyond_rec709(m)):
            self._lose(m, words)
        for step in m.steps:
            if step.on and step.amount > 0 and not by_mesh_colours(step):
                self._step(m, step, about, extensions)
        if extensions:
            about["extensions"] = extensions
            self.writer.extensions |= dict.fromkeys(extensions)
        return self.writer.add("materials", about)

    def _rest(self, m: Material, about: dict, extensions: dict[str, dict]) -> None:
        """Write what few materials have."""
        base = about["pbrMetallicRoughness"]
        if m.specular_roughness_anisotropy > 0:
            along = max(m.specular_roughness**2 * math.sqrt(2 / (1 + (1 - m.specular_roughness_anisotropy) ** 2)), 1e-6)
            across = (1 - m.specular_roughness_anisotropy) * along
            base["roughnessFactor"] = math.sqrt(across)
            strength = math.sqrt(min(max((along - across) / max(1 - across, 1e-6), 0.0), 1.0))
            extensions["KHR_materials_anisotropy"] = {
                "anisotropyStrength": strength,
                "anisotropyRotation": math.radians(m.specular_rotation_deg),
            }
        if m.fuzz_weight > 0:
            colour = [m.fuzz_weight * v for v in _linear(m.fuzz_color)]
            rough = m.fuzz_roughness
            extensions["KHR_materials_sheen"] = {"sheenColorFactor": colour, "sheenRoughnessFactor": rough}
        if m.thin_film_weight > 0:
            extensions["KHR_materials_iridescence"] = {
                "iridescenceFactor": m.thin_film_weight,
                "iridescenceIor": m.thin_film_ior,
                "iridescenceThicknessMinimum": 0.0,
                "iridescenceThicknessMaximum": m.thin_film_thickness_nm,
            }
        if m.is_medium and m.transmission_dispersion_scale > 0:
            dispersion = ABBE_OF_DISPERSION * m.transmission_dispersion_scale / m.transmission_dispersion_abbe_number
            extensions["KHR_materials_dispersion"] = {"dispersion": dispersion}
        if m.subsurface_weight > 0 and m.geometry_thin_walled:
            onward = (1 + m.subsurface_scatter_anisotropy) / 2
            extensions["KHR_materials_diffuse_transmission"] = {
                "diffuseTransmissionFactor": m.subsurface_weight * onward,
                "diffuseTransmissionColorFactor": _linear(m.subsurface_color),
            }
        if m.geometry_opacity < 1:
            about["alphaMode"] = "BLEND"
            base["baseColorFactor"][3] = m.geometry_opacity

    def _lose(self, material: Material, what: str) -> None:
        self.writer.lost[f"“{material.name}”: {what}"] = None

    def _step(self, material: Material, step: Step, about: dict, extensions: dict[str, dict]) -> None:
        slot = _SLOTS.get(step.parameter)
        whole = step.parameter == "geometry_normal" or step.share == 1.0
        mixes = step.blend in ("replace", "multiply")
        if not isinstance(step, Picture) or not is_plainly_laid(step) or slot is None or step.invert or not whole:
            self._lose(material, driving(step))
            return
        channel, place, key = slot
        only = apart(material, step)
        fits = bool(only) or step.space == channel or (step.space == "data" and channel not in ("colour", "alpha"))
        home = about if not place else about[place] if place in about else extensions.get(place)
        if home is None or not fits or not mixes:
            self._lose(material, f"a picture that drives {step.parameter.replace('_', ' ')}")
            return
        texture = self._texture(step.path, step.wrap, only)
        if texture is None:
            self._lose(material, f"the picture {step.path}, which is of a kind that glTF does not have or not there")
            return
        named: dict[str, Any] = {"index": texture, **self._placing(step)}
        if step.uv_set == 2:
            named["texCoord"] = 1
        if home.get(key, named) != named:
            self._lose(material, f"a second picture for {step.parameter.replace('_', ' ')}")
            return
        if step.parameter == "geometry_opacity":
            about["alphaMode"] = "BLEND"
        if step.parameter == "geometry_normal" and step.amount != 1:
            named["scale"] = step.amount
        home[key] = named
        if step.parameter == "geometry_normal" and material.coat_weight > 0 and material.coat_levelling < 0.5:
            extensions["KHR_materials_clearcoat"]["clearcoatNormalTexture"] = dict(named)
        self._neutral(material, step, home, extensions)

    def _neutral(self, material: Material, step: Picture, home: dict, extensions: dict[str, dict]) -> None:
        """Set the factor that the picture would be scaled by to 1, where it replaces the parameter."""
        if step.blend == "multiply":
            return
        if step.parameter == "base_color":
            home["baseColorFactor"][:3] = [material.base_weight] * 3
        if step.parameter == "emission_color":
            home["emissiveFactor"] = [1.0, 1.0, 1.0]
            extensions["KHR_materials_emissive_strength"] = {"emissiveStrength": material.emission_luminance}
        factors = {
            "base_metalness": "metallicFactor",
            "specular_roughness": "roughnessFactor",
            "coat_weight": "clearcoatFactor",
            "coat_roughness": "clearcoatRoughnessFactor",
            "transmission_weight": "transmissionFactor",
            "specular_weight": "specularFactor",
            "fuzz_roughness": "sheenRoughnessFactor",
            "thin_film_weight": "iridescenceFactor",
        }
        if step.parameter == "geometry_opacity":
            home["baseColorFactor"][3] = 1.0
        if step.parameter in factors:
            home[factors[step.parameter]] = 1.0
        if step.parameter == "specular_color":
            home["specularColorFactor"] = [1.0, 1.0, 1.0]

    def _placing(self, step: Picture) -> dict:
        """Return the texture transform: the inverse of what the reader does with one."""
        if (step.repeat, step.offset, step.turn_deg) == ((1.0, 1.0), (0.0, 0.0), 0.0):
            return {}
        (sx, sy), turn = step.repeat, -math.radians(step.turn_deg)
        c, s = math.cos(turn), math.sin(turn)
        offset = [step.offset[0] + s * sy, 1 - c * sy - step.offset[1]]
        self.writer.extensions["KHR_texture_transform"] = None
        return {"extensions": {"KHR_texture_transform": {"offset": offset, "rotation": turn, "scale": [sx, sy]}}}

    def _texture(self, path: str, wrap: str, only: str) -> int | None:
        key = (path, wrap, only)
        if key not in self._textures:
            self._textures[key] = self._made_texture(path, wrap, only)
        return self._textures[key]

    def _image(self, path: str, only: str) -> int | None:
        if (path, only) not in self._images:
            self._images[path, only] = self._made_image(path, only)
        return self._images[path, only]

    def _made_texture(self, path: str, wrap: str, only: str) -> int | None:
        image = self._image(path, only)
        if image is None:
            return None
        if wrap == "periodic":
            return self.writer.add("textures", {"source": image})
        if wrap not in self._samplers:
            self._samplers[wrap] = self.writer.add("samplers", {"wrapS": _WRAPS[wrap], "wrapT": _WRAPS[wrap]})
        return self.writer.add("textures", {"source": image, "sampler": self._samplers[wrap]})

    def _made_image(self, path: str, only: str) -> int | None:
        try:
            data = self.outgoing.picture(path)
            data = alone(data, only) if only else data
        except FileError:
            return None
        kind = next((kind for start, kind in _STARTS.items() if data.startswith(start)), None)
        if kind is None:
            return None
        name = path.rpartition("/")[2].rpartition(".")[0] or path
        return self.writer.add("images", {"name": name, "mimeType": kind, "bufferView": self.writer.view(data)})


def driving(step: Step) -> str:
    """Return words for a step that cannot go out."""
    parameter = step.parameter.replace("_", " ")
    if isinstance(step, MeshColours):
        return f"the colours of meshes that drive its {parameter}"
    return f"a {step.title.lower()} that drives {parameter}"


def by_mesh_colours(step: Step) -> bool:
    """Return True for a step by which a mesh's colours multiply the base colour, as they do in glTF of themselves."""
    is_whole = step.on and step.blend == "multiply" and not step.invert and step.share == 1.0
    return isinstance(step, MeshColours) and step.parameter == "base_color" and is_whole


def is_plainly_laid(step: Picture) -> bool:
    """Return True if a picture lies as glTF can have it: it may be drawn out or mirrored beyond its edge."""
    return step.is_plain or (step.wrap in ("mirror", "clamp") and step.model_copy(update={"wrap": "periodic"}).is_plain)


def _without_equal(m: Material) -> list[str]:
    """Return words for what a material has and glTF has not."""
    has_coat, is_metal = m.coat_weight > 0, m.base_metalness > 0
    is_wax = m.subsurface_weight > 0 and not m.geometry_thin_walled
    told = {
        "its chalkiness": m.base_diffuse_roughness > 0 and m.base_metalness < 1,
        "what wanders below its surface": is_wax,
        "the murk inside": m.is_medium and m.transmission_depth > 0 and max(m.transmission_scatter) > 0,
        "the tail of its highlight": is_metal and m.specular_tail > 0,
        "the brushing and the tail of its coat": has_coat and (m.coat_roughness_anisotropy > 0 or m.coat_tail > 0),
        "how far its coat lies smooth": has_coat and 0 < m.coat_levelling < 1,
        "what it lies over, where it does not cover it": bool(m.layer_over),
        "how much brighter it looks than it gives light": m.is_emitter and m.emission_look_stops != 0,
        "the rounding of its edges": m.rounding_mm > 0,
        "its relief": any(step.parameter == "geometry_height" and step.on for step in m.steps),
    }
    return [words for words, is_there in told.items() if is_there]


def _linear(rgb: tuple[float, float, float], *, high: float = 1.0) -> list[float]:
    return [float(v) for v in np.clip(working_to_rec709() @ np.asarray(rgb, float), 0, high)]

"""UsdShade materials as materials of a document: UsdPreviewSurface, and MaterialX surfaces of OpenPBR and its elder.

References
----------
OpenUSD, UsdPreviewSurface proposal 2.6; OpenPBR Surface 1.1; Standard Surface 1.0.1 in MaterialX 1.39.
"""

import math
import re
from collections.abc import Callable
from typing import Any

import numpy as np

from nocturne.colour.spaces import rec709_to_working
from nocturne.io.models.arrival import Notes
from nocturne.io.models.surfaces import (
    LENGTHS,
    OPENPBR,
    OPENPBR_DEFAULTS,
    PREVIEW,
    STANDARD,
    STANDARD_DEFAULTS,
    Input,
    held,
    settled,
)
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Levels, MeshColours, Picture, Step

_READERS = {"UsdPrimvarReader_float3": "varname", "ND_geompropvalue_color3": "geomprop"}
_WRAPS = {"repeat": "periodic", "clamp": "clamp", "mirror": "mirror", "black": "constant"}
_CHANNELS = {"r": "red", "g": "green", "b": "blue", "a": "alpha"}
_SURFACES = {
    "UsdPreviewSurface": ("preview", PREVIEW, {}),
    "ND_standard_surface_surfaceshader": ("standard", STANDARD, STANDARD_DEFAULTS),
    "ND_open_pbr_surface_surfaceshader": ("openpbr", OPENPBR, OPENPBR_DEFAULTS),
}


def material_of(
    bound: Any, time: Any, id: str, name: str, asset: Callable[[Any], str], notes: Notes, *, unit_m: float
) -> Material:
    """Return a material of what is bound; what it has and Nocturne has not is noted. unit_m: of the stage's lengths."""
    reader = _Reader(time, name, asset, notes, unit_m)
    for context in ("mtlx", ""):
        shader = bound.ComputeSurfaceSource(context)[0]
        if shader and shader.GetIdAttr().Get() in _SURFACES:
            return reader.material(shader, id)
    shader = bound.ComputeSurfaceSource()[0]
    kind = shader.GetIdAttr().Get() if shader else None
    notes.lose(f"“{name}”: its surface “{kind}”; it is grey" if kind else f"“{name}” has no surface; it is grey")
    return Material(id=id, name=name)


def is_second(primvar: str) -> bool:
    """Return True if texture coordinates are called as a second set is: st1, UVMap_1."""
    return re.fullmatch(r"\D+_?1", primvar) is not None


def reads_display_colour(bound: Any) -> bool:
    """Return True if a material looks at the display colours of what it is bound to."""
    from pxr import Usd, UsdShade

    for prim in Usd.PrimRange(bound.GetPrim(), Usd.TraverseInstanceProxies()):
        shader = UsdShade.Shader(prim)
        key = _READERS.get(shader.GetIdAttr().Get()) if shader else None
        field = shader.GetInput(key) if key else None
        found = field.GetValueProducingAttributes() if field else []
        if found and found[0].Get() == "displayColor":
            return True
    return False


class _Reader:
    """Reads one material."""

    def __init__(self, time: Any, name: str, asset: Callable[[Any], str], notes: Notes, unit_m: float) -> None:
        self.unit_m = unit_m
        self.time, self.name, self._asset, self.notes = time, name, asset, notes
        self.values: dict[str, Any] = {}
        self.steps: list[Step] = []

    def material(self, shader: Any, id: str) -> Material:
        """Return the material of a surface shader."""
        kind, table, defaults = _SURFACES[shader.GetIdAttr().Get()]
        # What is not authored is as the standard has it; but a metre's depth of subsurface is nobody's wish.
        self.values.update({k: v for k, v in defaults.items() if k != "subsurface_radius_mm"})
        for field in shader.GetInputs():
            about = table.get(field.GetBaseName())
            if about is not None:
                self._take(field, about)
            elif self._counts(field):
                self.notes.lose(f"“{self.name}”: {field.GetBaseName()}")
        if kind == "preview":
            self._preview(shader)
        elif any(step.parameter == "geometry_normal" for step in self.steps):
            # A coat whose own normal is left out lies smooth over the base's.
            names = ("geometry_normal", "geometry_coat_normal") if kind == "openpbr" else ("normal", "coat_normal")
            base, own = (self._source(shader.GetInput(name)) for name in names)
            self.values["coat_levelling"] = 0.0 if own and own == base else 1.0
            if own and own != base:
                self.notes.lose(f"“{self.name}”: the normal map of its coat")
        return Material(id=id, name=self.name, steps=tuple(self.steps), **held(settled(self.values, kind), self._lose))

    def _lose(self, what: str) -> None:
        self.notes.lose(f"“{self.name}”: {what}")

    def _preview(self, shader: Any) -> None:
        opacity = self._constant(shader.GetInput("opacity"))
        threshold = self._constant(shader.GetInput("opacityThreshold")) or 0.0
        is_presence = threshold > 0 or self._word(shader.GetInput("opacityMode")) == "presence"
        if shader.GetInput("opacity") and shader.GetInput("opacity").HasConnectedSource():
            self._take(shader.GetInput("opacity"), Input("geometry_opacity"))
            if threshold > 0:
                edges = {"inlow": threshold - 1e-3, "inhigh": threshold}
                self.steps.append(Levels(parameter="geometry_opacity", **edges))
        elif isinstance(opacity, float) and is_presence:
            self.values["geometry_opacity"] = opacity if opacity >= threshold else 0.0
        elif isinstance(opacity, float) and opacity < 1:
            self.values |= {"transmission_weight": 1 - opacity, "geometry_thin_walled": True}
        if self._constant(shader.GetInput("useSpecularWorkflow")):
            self.notes.lose(f"“{self.name}”: its specular colour")

    def _counts(self, field: Any) -> bool:
        """Return True if an input that has no equal says something: it is driven, or is a number other than 0."""
        told = (
            "opacity",
            "useSpecularWorkflow",
            "opacityThreshold",
            "opacityMode",
            "geometry_coat_normal",
            "coat_normal",
        )
        if field.GetBaseName() in told:
            return False
        value = self._constant(field)
        if field.HasConnectedSource() or isinstance(value, tuple):
            return bool(field.HasConnectedSource())
        weights = ("weight", "displacement", "occlusion")
        return isinstance(value, float) and value != 0 and any(word in field.GetBaseName() for word in weights)

    def _constant(self, field: Any) -> Any:
        """Return the value of an input: a float, a bool, a tuple of floats; None if it has none."""
        if not field:
            return None
        attributes = field.GetValueProducingAttributes()
        value = attributes[0].Get(self.time) if attributes else field.Get(self.time)
        if isinstance(value, bool):
            return value
        if isinstance(value, (int, float)):
            return float(value) if math.isfinite(value) else None
        try:
            out = tuple(float(v) for v in value)
        except (TypeError, ValueError):
            return None
        return out if all(map(math.isfinite, out)) else None

    def _source(self, field: Any) -> str:
        """Return where what drives an input is, empty if nothing does."""
        sources = field.GetConnectedSources()[0] if field and field.HasConnectedSource() else []
        return str(sources[0].source.GetPrim().GetPath()) if sources else ""

    def _word(self, field: Any) -> str:
        return str(field.Get(self.time) or "") if field else ""

    def _take(self, field: Any, about: Input) -> None:
        from pxr import UsdShade

        parameter = about.parameter
        source = field.GetConnectedSources()[0] if field.HasConnectedSource() else []
        if source:
            shader = UsdShade.Shader(source[0].source.GetPrim())
            if shader and shader.GetIdAttr().Get():
                self._driven(shader, source[0].sourceName, parameter)
                return
        value = self._constant(field)
        if value is None or parameter == "geometry_normal":
            return
        if about.kind == "colour" and isinstance(value, tuple) and parameter == "subsurface_radius_scale":
            value = tuple(value[:3])  # lengths, not a colour
        elif about.kind == "colour" and isinstance(value, tuple):
            value = tuple(float(v) for v in rec709_to_working() @ np.array(value[:3]))
        elif isinstance(value, tuple):
            value = float(np.mean(value[:3]))
        elif about.kind == "number":
            value = float(value) * about.scale * (self.unit_m if parameter in LENGTHS else 1.0)
        self.values[parameter] = value

    def _driven(self, shader: Any, output: str, parameter: str) -> None:
        """Take a texture that an input hangs on, through a normal map node if there is one."""
        from pxr import UsdShade

        kind = shader.GetIdAttr().Get()
        if kind.startswith("ND_normalmap"):
            field = shader.GetInput("in")
            source = field.GetConnectedSources()[0] if field and field.HasConnectedSource() else []
            if source:
                self._driven(UsdShade.Shader(source[0].source.GetPrim()), source[0].sourceName, parameter)
            return
        if kind in _READERS and self._named(shader, _READERS[kind]) == "displayColor":
            self.steps.append(MeshColours(parameter=parameter, blend="multiply"))
            self.values[parameter] = (1.0, 1.0, 1.0)
            return
        is_preview = kind == "UsdUVTexture"
        if not is_preview and not kind.startswith(("ND_image_", "ND_tiledimage_")):
            self.notes.lose(f"“{self.name}”: the {kind} that drives {parameter.replace('_', ' ')}")
            return
        file = shader.GetInput("file")
        asset = file.GetAttr().Get(self.time) if file else None
        if file and file.HasConnectedSource():
            found = file.GetValueProducingAttributes()
            asset = found[0].Get(self.time) if found else asset
        if asset is None or not getattr(asset, "path", ""):
            return
        is_colour = parameter.endswith("_color") or parameter == "transmission_scatter"
        space = "colour" if is_colour else "data"
        if not is_colour and parameter != "geometry_normal":
            space = _CHANNELS.get(output, "data") if is_preview else "red"
        placing = self._placing(shader) if is_preview else self._tiled(shader)
        step = Picture(parameter=parameter, path=self._asset(asset), space=space, **placing)
        self.steps += self._scaled(shader, step, output) if is_preview else [step]
        if parameter == "emission_color":
            self.steps[-1] = self.steps[-1].model_copy(update={"blend": "multiply"})
            self.values.setdefault("emission_color", (1.0, 1.0, 1.0))

    def _scaled(self, shader: Any, step: Picture, output: str) -> list[Step]:
        """Return the steps of a texture that has a scale and a bias: of normals, of a colour or of a number."""
        wraps = [_WRAPS.get(self._word(shader.GetInput(name)), "periodic") for name in ("wrapS", "wrapT")]
        if wraps[0] != wraps[1]:
            self._lose("that a picture lies another way across than along beyond its edge")
        step = step.model_copy(update={"wrap": wraps[0]})
        scale = np.array((self._constant(shader.GetInput("scale")) or (1.0,) * 4)[:4], float)
        bias = np.array((self._constant(shader.GetInput("bias")) or (0.0,) * 4)[:4], float)
        if step.parameter == "geometry_normal":
            # As stored 0 to 1 it would be (2, 2, 2) and (-1, -1, -1); a green that points down is turned over so.
            return [step.model_copy(update={"green_down": bool(scale[1] < 0)})]
        if step.parameter.endswith("_color"):
            if not np.allclose(scale[:3], 1.0, atol=1e-6):
                self.values[step.parameter] = tuple(float(v) for v in rec709_to_working() @ np.maximum(scale[:3], 0))
                step = step.model_copy(update={"blend": "multiply"})
            if np.abs(bias[:3]).max() > 1e-6:
                self._lose(f"what is added to the picture of its {step.parameter.replace('_', ' ')}")
            return [step]
        k = "rgba".find(output)
        a, b = (float(scale[k]), float(bias[k])) if k >= 0 else (float(scale[0]), float(bias[0]))
        if (a, b) == (1.0, 0.0):
            return [step]
        if b == 0:
            self.values[step.parameter] = a
            return [step.model_copy(update={"blend": "multiply"})]
        return [step, Levels(parameter=step.parameter, outlow=b, outhigh=a + b)]

    def _named(self, shader: Any, name: str) -> str:
        field = shader.GetInput(name)
        found = field.GetValueProducingAttributes() if field else []
        return str(found[0].Get(self.time)) if found else ""

    def _placing(self, shader: Any) -> dict:
        """Return repeat, offset and turn of a UsdTransform2d before a texture."""
        from pxr import UsdShade

        field = shader.GetInput("st")
        source = field.GetConnectedSources()[0] if field and field.HasConnectedSource() else []
        if not source:
            return {}
        node = UsdShade.Shader(source[0].source.GetPrim())
        kind = node.GetIdAttr().Get() if node else ""
        if kind == "UsdPrimvarReader_float2":
            return {"uv_set": 2 if is_second(self._named(node, "varname")) else 1}
        if kind != "UsdTransform2d":
            return {}
        turn = self._constant(node.GetInput("rotation")) or 0.0
        before = node.GetInput("in")
        before = before.GetConnectedSources()[0] if before and before.HasConnectedSource() else []
        reader = UsdShade.Shader(before[0].source.GetPrim()) if before else None
        return {
            "uv_set": 2 if reader and is_second(self._named(reader, "varname")) else 1,
            "repeat": (self._constant(node.GetInput("scale")) or (1.0, 1.0))[:2],
            "turn_deg": (turn + 180.0) % 360.0 - 180.0,
            "offset": (self._constant(node.GetInput("translation")) or (0.0, 0.0))[:2],
        }

    def _tiled(self, shader: Any) -> dict:
        tiling, offset = (self._constant(shader.GetInput(name)) for name in ("uvtiling", "uvoffset"))
        return {"repeat": (tiling or (1.0, 1.0))[:2], "offset": (offset or (0.0, 0.0))[:2]}

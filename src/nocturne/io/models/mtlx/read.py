"""Materials of MaterialX documents as materials of a document.

References
----------
MaterialX 1.39 specification, physically based shading nodes; OpenPBR Surface 1.1; glTF PBR; UsdPreviewSurface.
"""

import math
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from nocturne.io.models.arrival import Arrival, Names, Notes
from nocturne.io.models.border import Border
from nocturne.io.models.mtlx import library
from nocturne.io.models.mtlx.graph import Graph, Patch, Place, Unlike, in_working
from nocturne.io.models.mtlx.steps import Driven, Maker, is_colour, scaled
from nocturne.io.models.surfaces import (
    GLTF,
    OPENPBR,
    OPENPBR_DEFAULTS,
    PREVIEW,
    STANDARD,
    STANDARD_DEFAULTS,
    Input,
    held,
    settled,
)
from nocturne.scene.materials import DRIVEN, HEIGHT, Material
from nocturne.scene.patterns import Levels, Picture, Step

READS = (".mtlx",)
BAKED_PX = 1024
_MEAN = 32
_SURFACES: dict[str, tuple[str, dict[str, Input], dict]] = {
    "open_pbr_surface": ("openpbr", OPENPBR, OPENPBR_DEFAULTS),
    "standard_surface": ("standard", STANDARD, STANDARD_DEFAULTS),
    "gltf_pbr": ("gltf", GLTF, {}),
    "UsdPreviewSurface": ("preview", PREVIEW, {}),
}
# Inputs that say what follows from others, or what is worked out apart.
_APART = {
    *(
        "tangent",
        "geometry_tangent",
        "geometry_coat_normal",
        "geometry_coat_tangent",
        "coat_normal",
        "clearcoat_normal",
    ),
    *("occlusion", "alpha_mode", "alpha_cutoff", "thickness", "emissive_strength", "sheen_color", "opacityThreshold"),
    *("opacityMode", "useSpecularWorkflow", "coat_affect_color", "coat_affect_roughness", "displacement"),
}


def read(path: Path, border: Border) -> Arrival:
    """Return the materials of a document; what has no equal here is listed.

    Raises
    ------
    FileError
        If it is damaged.
    """
    document = library.opened(path)
    notes, names = Notes(), Names()
    for name in library.includes(path):
        notes.lose(f"the file “{name}” that it takes in: bring that in, too")
    graph = Graph(document)
    for words in graph.units.unknown(document):
        notes.lose(words)
    materials = []
    for i, node in enumerate(document.getMaterialNodes()):
        name = node.getAttribute("uiname") or node.getName().replace("_", " ").strip()
        reader = _Reader(graph, names.free(name), notes, border)
        materials.append(reader.material(node, f"material-{i + 1}"))
    return notes.told(Arrival(materials=tuple(materials), unit_m=1.0, up="y", is_told=True))


def picture_bytes(path: Path, name: str, border: Border) -> bytes:
    """Return what a node puts out over all of texture space, as a picture file; `name` is as `read` made it.

    "material:input", with "*most" behind it where white stands for more than 1.

    Raises
    ------
    FileError
        If the document is damaged.
    KeyError
        If it has no such node.
    """
    from nocturne.io.picture import colour_bytes, png_bytes

    document = library.opened(path)
    graph = Graph(document)
    material, _, asked = name.rpartition(":")
    field, _, most = asked.partition("*")
    node = document.getNode(material)
    shader = _shader(graph, node, "surfaceshader") if node is not None else None
    if shader is None:
        raise KeyError(name)
    value = graph.number(Place(shader.node, shader.around), field, Patch.square(BAKED_PX, _images(border, graph)))
    rgb = np.broadcast_to(value, (BAKED_PX, BAKED_PX, value.shape[-1]))
    rgb = (np.repeat(rgb, 3, axis=-1) if rgb.shape[-1] == 1 else rgb[..., :3]) / float(most or 1)
    kind = shader.node.getInput(field).getType()
    if kind.startswith("color"):
        return colour_bytes(in_working(rgb, graph.own))[0]
    return png_bytes(rgb)


def _images(border: Border, graph: Graph) -> Callable[[str, str], np.ndarray | None]:
    """Return what loads pictures beside a document, linear in its space; None for what is not there."""
    from nocturne.errors import FileError
    from nocturne.io import image
    from nocturne.io.models.mtlx.graph import from_working

    known: dict[tuple[str, str], np.ndarray | None] = {}

    def load(name: str, encoding: str) -> np.ndarray | None:
        if (name, encoding) not in known:
            space = "data" if not encoding else "colour" if encoding == "by file" else f"colour:{encoding}"
            known[name, encoding] = None
            there = border.find(name)
            try:
                if there is not None:
                    found = image.read(border.folder / there, space=space).astype(float)
                    known[name, encoding] = from_working(found, graph.own) if encoding else found
            except FileError:
                pass  # nodes that ask for it have no picture, which is told
        return known[name, encoding]

    return load


def _shader(graph: Graph, node: Any, name: str) -> Place | None:
    found, at = graph.input_of(Place(node), name)
    source = graph.source(found, at) if found is not None else None
    return source[0] if source is not None else None


class _Reader:
    """Reads one material."""

    def __init__(self, graph: Graph, name: str, notes: Notes, border: Border) -> None:
        self.graph, self.name, self.notes, self.border = graph, name, notes, border
        self.maker = Maker(graph)
        self.values: dict[str, Any] = {}
        self.steps: list[Step] = []

    def _lose(self, what: str) -> None:
        self.notes.lose(f"“{self.name}”: {what}")

    def material(self, node: Any, id: str) -> Material:
        """Return the material of a surface material node."""
        self.node = node
        shader = _shader(self.graph, node, "surfaceshader")
        for other in ("backsurfaceshader", "volumeshader"):
            if _shader(self.graph, node, other) is not None:
                self._lose(f"its {other}")
        if shader is None:
            self.notes.lose(f"“{self.name}” has no surface; it is grey")
            return Material(id=id, name=self.name)
        category = shader.node.getCategory()
        if category == "surface_unlit":
            self._unlit(shader)
            return Material(id=id, name=self.name, steps=tuple(self.steps), **held(self.values, self._lose))
        if category not in _SURFACES:
            self.notes.lose(f"“{self.name}”: its surface “{category}”; it is grey")
            return Material(id=id, name=self.name)
        kind, table, defaults = _SURFACES[category]
        self.values.update({k: v for k, v in defaults.items() if k != "subsurface_radius_mm"})
        for name, about in table.items():
            if not self._says(shader, name):
                continue
            try:
                self._take(shader, name, about)
            except (ValueError, IndexError):
                self._lose(f"{name.replace('_', ' ')}, whose nodes do not go together")
        self._apart(shader, kind)
        self._tell_rest(shader, table)
        self._displacement()
        if kind == "standard" and not self._says(shader, "base"):
            self.values["base_weight"] = 1.0
        return Material(id=id, name=self.name, steps=tuple(self.steps), **held(settled(self.values, kind), self._lose))

    def _says(self, shader: Place, name: str) -> bool:
        return shader.node.getInput(name) is not None

    def _take(self, shader: Place, name: str, about: Input) -> None:
        """Take an input as a value, as steps, or as a picture of what its nodes put out."""
        parameter = about.parameter
        if self.graph.input_of(shader, name)[0] is None:
            return
        driven = self._driven(shader, name, about)
        if driven is not None and driven.steps and parameter not in DRIVEN:
            driven = self._mean(shader, name)
        if driven is None:
            return
        if driven.steps:
            self._add(driven, about)
        if parameter != "geometry_normal" and not (driven.steps and isinstance(driven.steps[0], Picture)):
            # What steps work on is scaled with them, after the last.
            self.values[parameter] = self._value(driven.base, about._replace(scale=1.0) if driven.steps else about)
        elif parameter == "emission_color":
            self.values[parameter] = (1.0, 1.0, 1.0)

    def _driven(self, shader: Place, name: str, about: Input) -> Driven | None:
        """Return an input as a value, as steps or as a picture; None if its nodes cannot be told, which is said."""
        try:
            return self.maker.driven(shader, name, about.parameter)
        except Unlike as unlike:
            return self._baked(shader, name, about, unlike)

    def _add(self, driven: Driven, about: Input) -> None:
        self.steps += (*driven.steps, *scaled(about.parameter, about.scale if about.kind == "number" else 1.0))

    def _value(self, value: np.ndarray, about: Input) -> Any:
        if about.kind == "switch":
            return bool(value[0])
        if about.kind == "colour":
            rgb = np.repeat(value, 3) if len(value) == 1 else value[:3]
            if is_colour(about.parameter):
                rgb = in_working(rgb, self.graph.own)
            return tuple(float(v) for v in rgb)
        return float(np.mean(value[:3])) * about.scale

    def _baked(self, shader: Place, name: str, about: Input, unlike: Unlike) -> Driven | None:
        """Return a picture of what an input's nodes put out over texture space; None if that cannot be told."""
        patch = Patch.square(_MEAN, _images(self.border, self.graph))
        words = name.replace("_", " ")
        try:
            value = self.graph.number(shader, name, patch)
        except Unlike as last:
            self._lose(f"the node “{last.category}” that drives {words}")
            return None
        if "position" in patch.asked or about.parameter not in DRIVEN or about.kind == "switch":
            self._lose(f"the node “{unlike.category}” that drives {words}; its mean is taken")
            return Driven(value.reshape(-1, value.shape[-1]).mean(0))
        self.notes.mend(f"“{self.name}”: the nodes that drive {words} are baked to a picture")
        space = "colour" if is_colour(about.parameter) else "data"
        # White stands for a power of two that is above all: between the places asked it may be somewhat more.
        most = 2 ** math.ceil(math.log2(float(value.max()))) if value.max() > 1 else 1
        path = f"#{self.node.getName()}:{name}" + (f"*{most}" if most > 1 else "")
        picture = Picture(parameter=about.parameter, path=path, space=space)
        return Driven(np.ones(3), (picture, *scaled(about.parameter, most)))

    def _mean(self, shader: Place, name: str) -> Driven | None:
        """Return the mean of what drives an input; None if that cannot be told. Either is said."""
        patch = Patch.square(_MEAN, _images(self.border, self.graph))
        words = name.replace("_", " ")
        try:
            value = self.graph.number(shader, name, patch)
        except Unlike as unlike:
            self._lose(f"the node “{unlike.category}” that drives {words}")
            return None
        self._lose(f"what drives {words}; its mean is taken")
        return Driven(value.reshape(-1, value.shape[-1]).mean(0))

    def _number(self, shader: Place, name: str) -> float:
        try:
            return self.maker.plain(shader, name)
        except Unlike:
            mean = self._mean(shader, name)
            return float(mean.base[0]) if mean is not None else 0.0

    def _apart(self, shader: Place, kind: str) -> None:
        """Take what stands for several of ours together."""
        if kind == "gltf":
            self._gltf(shader)
        if kind == "preview":
            self._preview(shader)
        base, own = {"openpbr": ("geometry_normal", "geometry_coat_normal"), "standard": ("normal", "coat_normal")}.get(
            kind, ("normal", "clearcoat_normal")
        )
        if self._drives("geometry_normal"):
            sources = [self._source(shader, name) for name in (base, own)]
            self.values["coat_levelling"] = 0.0 if kind == "preview" or sources[0] == sources[1] else 1.0
            if sources[1] and sources[0] != sources[1]:
                self._lose("the normal map of its coat")

    def _source(self, shader: Place, name: str) -> str:
        found, at = self.graph.input_of(shader, name)
        source = self.graph.source(found, at) if found is not None else None
        return source[0].node.getNamePath() if source is not None else ""

    def _drives(self, parameter: str) -> bool:
        return any(step.parameter == parameter for step in self.steps)

    def _gltf(self, shader: Place) -> None:
        if self._drives("fuzz_color") or max(self.values.get("fuzz_color", (0.0,))) > 0:
            self.values["fuzz_weight"] = 1.0
        mode = int(self._number(shader, "alpha_mode"))
        if mode == 0:
            self.values.pop("geometry_opacity", None)
            self.steps = [step for step in self.steps if step.parameter != "geometry_opacity"]
        elif mode == 1:
            cut = self._number(shader, "alpha_cutoff")
            if not self._drives("geometry_opacity"):
                self.values["geometry_opacity"] = 1.0 if self.values.get("geometry_opacity", 1.0) >= cut else 0.0
            self.steps += [
                Levels(parameter="geometry_opacity", inlow=cut - 1e-3, inhigh=cut)
                for _ in [step for step in self.steps if step.parameter == "geometry_opacity"][:1]
            ]
        is_clear = self._drives("transmission_weight") or self.values.get("transmission_weight", 0) > 0
        if is_clear and self._number(shader, "thickness") <= 0:
            self.values["geometry_thin_walled"] = True
            self.values["transmission_color"] = self.values.get("base_color", (1.0, 1.0, 1.0))
            if self._drives("base_color"):
                self._lose("the pattern of its base colour where light goes through it")
        elif is_clear and self.values.get("transmission_depth", 0.0) <= 0:
            # Without a distance nothing is absorbed on the way: the base colour tints what goes in.
            self.values["transmission_color"] = self.values.get("base_color", (1.0, 1.0, 1.0))
        if self._says(shader, "dispersion") and self._number(shader, "dispersion") > 0:
            self.values["transmission_dispersion_scale"] = 1.0
            self.values["transmission_dispersion_abbe_number"] = 20.0 / self._number(shader, "dispersion")

    def _preview(self, shader: Place) -> None:
        threshold = self._number(shader, "opacityThreshold")
        if not self._says(shader, "opacity"):
            return
        driven = self._driven(shader, "opacity", Input("geometry_opacity"))
        if driven is None:
            return
        if driven.steps:
            self.steps += driven.steps
            if threshold > 0:
                self.steps.append(Levels(parameter="geometry_opacity", inlow=threshold - 1e-3, inhigh=threshold))
        elif threshold > 0 or self.graph.word(shader, "opacityMode") == "presence":
            self.values["geometry_opacity"] = float(driven.base[0]) if driven.base[0] >= threshold else 0.0
        elif driven.base[0] < 1:
            self.values |= {"transmission_weight": 1 - float(driven.base[0]), "geometry_thin_walled": True}

    def _unlit(self, shader: Place) -> None:
        self.values = {"base_color": (0.0, 0.0, 0.0), "specular_weight": 0.0, "emission_luminance": 1.0}
        for name, about in (
            ("emission", Input("emission_luminance")),
            ("emission_color", Input("emission_color", "colour")),
            ("opacity", Input("geometry_opacity")),
        ):
            if self._says(shader, name):
                self._take(shader, name, about)

    def _tell_rest(self, shader: Place, table: dict[str, Input]) -> None:
        """Tell of inputs that say something and have no equal."""
        for field in shader.node.getInputs():
            name = field.getName()
            if name in table or name in _APART or name == "opacity":
                continue
            definition = self.graph.definition(shader.node)
            usual = definition.getActiveInput(name) if definition else None
            is_usual = usual is not None and usual.getValueString() == field.getValueString()
            if field.getConnectedNode() is not None or field.getNodeGraphString() or not is_usual:
                self._lose(name.replace("_", " "))
        if self._source(shader, "occlusion"):
            self._lose("its occlusion, which the picture works out itself")

    def _displacement(self) -> None:
        shader = _shader(self.graph, self.node, "displacementshader")
        if shader is None:
            return
        if shader.node.getCategory() != "displacement":
            self._lose(f"its displacement by “{shader.node.getCategory()}”")
            return
        try:
            height = self.maker.driven(shader, "displacement", HEIGHT)
            scale = self.maker.plain(shader, "scale") if self._says(shader, "scale") else 1.0
        except Unlike as unlike:
            self._lose(f"its displacement: the node “{unlike.category}”")
            return
        if height.steps and scale > 0 and math.isfinite(scale):
            self.steps += height.steps
            self.values |= {"relief_depth": scale, "relief_style": "surface"}
        elif height.steps:
            self._lose(f"its displacement by {scale:g} times its height")

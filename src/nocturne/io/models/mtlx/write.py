"""Materials of a document as a MaterialX document of OpenPBR surfaces, checked by the standard's own library."""

import re
from pathlib import Path
from typing import Any

import numpy as np

from nocturne.errors import FileError
from nocturne.io.atomic import write_bytes, write_text
from nocturne.io.models.mtlx import library
from nocturne.io.models.mtlx.plan import Baked, Colours, Image, Plain, Plan, planned
from nocturne.io.models.outgoing import Outgoing
from nocturne.io.models.surfaces import OPENPBR, Input, openpbr_values, without_openpbr
from nocturne.io.picture import colour_bytes, png_bytes
from nocturne.scene.materials import HEIGHT, Material
from nocturne.scene.patterns import Picture, Spot, Step, driven_by, every
from nocturne.scene.patterns.adjust import FAMILY as ADJUSTS

WRITES = (".mtlx",)
BAKED_PX, BAKED_M = 1024, 1.0
_SLACK = 1e-3  # below 0, which rounding makes
_TYPES = {"number": "float", "colour": "color3", "switch": "boolean", "normal": "vector3"}
_CHANNELS = {"red": 0, "green": 1, "blue": 2, "alpha": 3}


def write(path: Path, outgoing: Outgoing) -> tuple[str, ...]:
    """Write all materials of a set, and the pictures that they name or that stand for their patterns, beside it.

    Returns what has no equal there.

    Raises
    ------
    FileError
        If it, or a picture, cannot be written.
    """
    document = library.empty()
    document.setColorSpace("acescg")
    writer = _Writer(document, path, outgoing)
    for material in outgoing.materials:
        writer.add(material)
    text = library.written(document)
    folder = writer.folder
    for name, data in writer.files.items():
        try:
            folder.mkdir(exist_ok=True)
            write_bytes(folder / name, data)
        except OSError as error:
            raise FileError(folder / name, f"it could not be written ({error.strerror or error}).") from error
    write_text(path, text)
    return tuple(dict.fromkeys(writer.lost))


class _Writer:
    """Gathers nodes, and the files beside the document."""

    def __init__(self, document: Any, path: Path, outgoing: Outgoing) -> None:
        self.document, self.outgoing = document, outgoing
        self.folder = path.with_name(f"{path.stem}-pictures")
        self.files: dict[str, bytes] = {}
        self.lost: list[str] = []
        self._names: dict[str, str] = {}  # of pictures in the folder, by their paths

    def add(self, material: Material) -> None:
        """Add a material: its surface and what drives it."""
        m = material
        stem = self.document.createValidChildName(re.sub(r"[^A-Za-z0-9]+", "_", m.name).strip("_") or "material")
        shader = self.document.addNode("open_pbr_surface", f"{stem}_surface", "surfaceshader")
        usual = shader.getNodeDef()
        for name, value in openpbr_values(m).items():
            self._value(shader, name, OPENPBR[name], value, usual)
        by_parameter: dict[str, list[Step]] = {}
        for step in m.steps:
            if step.on and step.amount > 0:
                by_parameter.setdefault(step.parameter, []).append(step)
        inputs = {about.parameter: (name, about) for name, about in OPENPBR.items()}
        graph = None
        for parameter, steps in by_parameter.items():
            if parameter == HEIGHT:
                continue  # told with what OpenPBR has not
            if parameter not in inputs:
                self._lose(m, f"what drives its {parameter.replace('_', ' ')}")
                continue
            name, about = inputs[parameter]
            graph = graph or self.document.addNodeGraph(f"NG_{stem}")
            output = graph.addOutput(f"{name}_out", _TYPES[about.kind])
            node = self._driven(graph, m, steps, about)
            output.setNodeName(node.getName())
            field = shader.getInput(name) or shader.addInput(name, _TYPES[about.kind])
            field.removeAttribute("value")
            field.setConnectedOutput(output)
        if graph is not None and shader.getInput("geometry_normal") is not None and m.coat_levelling < 1:
            coat = shader.addInput("geometry_coat_normal", "vector3")
            coat.setConnectedOutput(graph.getOutput("geometry_normal_out"))
        node = self.document.addNode("surfacematerial", stem, "material")
        node.setAttribute("uiname", m.name)
        node.addInput("surfaceshader", "surfaceshader").setNodeName(shader.getName())
        for words in without_openpbr(m):
            self._lose(m, words)

    def _lose(self, material: Material, words: str) -> None:
        self.lost.append(f"“{material.name}”: {words}")

    def _value(self, shader: Any, name: str, about: Input, value: Any, usual: Any) -> None:
        import MaterialX as mx

        kind = _TYPES[about.kind]
        default = usual.getActiveInput(name) if usual is not None else None
        if default is not None and default.getType() != kind:
            kind = default.getType()
        field = shader.addInput(name, kind)
        if about.kind == "switch":
            field.setValue(bool(value))
        elif about.kind == "number":
            field.setValue(float(value), kind)
        else:
            rgb = [float(v) for v in value]
            field.setValue(mx.Vector3(*rgb) if kind == "vector3" else mx.Color3(*rgb), kind)

    # ---- what drives an input --------------------------------------------------------------------------------------

    def _driven(self, graph: Any, m: Material, steps: list[Step], about: Input) -> Any:
        """Return the node that drives an input: nodes that do the same as the steps, and pictures of what has none."""
        if about.kind == "normal":
            made = self._normal(graph, m, steps, about)
        else:
            base, (low, high) = getattr(m, about.parameter), _limits(about)
            plan = planned(steps, base, is_colour=about.kind == "colour", low=low, high=high)
            made = self._made(graph, m, plan, _TYPES[about.kind], about)
        if about.scale != 1.0:
            made = self._node(graph, "multiply", _TYPES[about.kind], in1=made, in2=1.0 / about.scale)
        return made

    def _normal(self, graph: Any, m: Material, steps: list[Step], about: Input) -> Any:
        first, *rest = steps
        if rest or not isinstance(first, Picture) or not first.is_plain or first.space != "data":
            return self._baked(graph, m, Baked(tuple(steps), (0.5, 0.5, 1.0), 0.0, 1.0), "vector3", about)
        image = self._image(graph, first, "vector3", m)
        node = self._node(graph, "normalmap", "vector3", **{"in": image})
        node.addInput("scale", "float").setValue(float(first.amount))
        return node

    def _made(self, graph: Any, m: Material, plan: Plan, kind: str, about: Input) -> Any:
        """Return the node of a plan."""
        if isinstance(plan, Plain):
            return self._node(graph, "constant", kind, value=plan.value)
        if isinstance(plan, Image):
            return self._image(graph, plan.step, kind, m)
        if isinstance(plan, Colours):
            return graph.addNode("geomcolor", "", kind)
        if isinstance(plan, Baked):
            return self._baked(graph, m, plan, kind, about)
        given = {}
        for name, part in plan.inputs:
            of = "float" if name == "mix" else kind
            given[name] = part.value if isinstance(part, Plain) else self._made(graph, m, part, of, about)
        if plan.category == "range":
            return self._range(graph, given["in"], dict(plan.own), kind)
        return self._node(graph, plan.category, kind, **given, **dict(plan.own))

    def _image(self, graph: Any, step: Picture, kind: str, m: Material) -> Any:
        """Return the node of a picture, laid as the step lays it."""
        import MaterialX as mx

        channel = _CHANNELS.get(step.space)
        read = kind if channel is None else ("color4" if channel == 3 else "color3")
        node = graph.addNode("image", "", read)
        file = node.addInput("file", "filename")
        file.setValue(self._file(step.path, m), "filename")
        if read.startswith("color"):
            # Data in the document's own space is left as it is.
            file.setColorSpace(
                ("lin_rec709" if _is_linear(step.path) else "srgb_texture") if step.is_colour else "acescg"
            )
        uv = graph.addNode("texcoord", "", "vector2")
        uv.addInput("index", "integer").setValue(step.uv_set - 1)
        matrix = step.affine()
        # As sums of products: nodes that turn and scale do so about the other way round.
        parts = []
        for row in matrix:
            product = graph.addNode("dotproduct", "", "float")
            product.addInput("in1", "vector2").setNodeName(uv.getName())
            product.addInput("in2", "vector2").setValue(mx.Vector2(float(row[0]), float(row[1])))
            total = graph.addNode("add", "", "float")
            total.addInput("in1", "float").setNodeName(product.getName())
            total.addInput("in2", "float").setValue(float(row[2]))
            parts.append(total)
        laid = graph.addNode("combine2", "", "vector2")
        for i, part in enumerate(parts):
            laid.addInput(f"in{i + 1}", "float").setNodeName(part.getName())
        node.addInput("texcoord", "vector2").setNodeName(laid.getName())
        if channel is None:
            return node
        taken = graph.addNode("extract", "", "float")
        taken.addInput("in", read).setNodeName(node.getName())
        taken.addInput("index", "integer").setValue(channel)
        return taken

    def _range(self, graph: Any, under: Any, numbers: dict[str, Any], kind: str) -> Any:
        node = self._node(graph, "range", kind, **{"in": under})
        for name, value in numbers.items():
            if name == "doclamp":
                node.addInput(name, "boolean").setValue(bool(value))
            else:
                node.addInput(name, "float").setValue(float(value))
        if kind != "float":
            node.setNodeDefString(f"ND_range_{kind}FA")
        return node

    def _node(self, graph: Any, category: str, kind: str, **given: Any) -> Any:
        """Return a node of which each input is another node, a colour or a number; a mask is always a number."""
        import MaterialX as mx

        node = graph.addNode(category, "", kind)
        for name, part in given.items():
            of = "float" if name == "mix" else kind
            field = node.addInput(name, of)
            if not isinstance(part, (int, float, tuple)):
                field.setNodeName(part.getName())
                continue
            rgb = part if isinstance(part, tuple) else (part,) * 3
            field.setValue(mx.Color3(*map(float, rgb)) if of == "color3" else float(rgb[0]), of)
        return node

    def _baked(self, graph: Any, m: Material, plan: Baked, kind: str, about: Input) -> Any:
        """Return a picture of what steps put out over a metre of the surface."""
        base, words = np.resize(np.asarray(plan.base, float), 3), about.parameter.replace("_", " ")
        value = driven_by(
            plan.steps, base, Spot.of_patch(BAKED_PX, BAKED_M), self.outgoing.images, low=plan.low, high=plan.high
        )
        most = max(float(value.max()), 1.0) if kind != "vector3" else 1.0
        is_colour = kind == "color3"
        stem = re.sub(r"\W+", "-", f"{m.name}-{about.parameter}".casefold()).strip("-")
        if value.min() < -_SLACK:
            self._lose(m, f"what is below 0 in the pattern of its {words}: 0 in the picture that is written")
        shown = np.clip(value / most, 0, 1)
        data, ending = colour_bytes(shown) if is_colour else (png_bytes(shown), ".png")
        name = self._free(f"{stem}{ending}")
        self.files[name] = data
        if any(step.where != "uv" if step.is_placed else step.family != ADJUSTS for step in every(plan.steps)):
            self._lose(m, f"the pattern of its {words}: a picture of 1 m of it is written")
        node = graph.addNode("image", "", kind)
        file = node.addInput("file", "filename")
        file.setValue(f"{self.folder.name}/{name}", "filename")
        if is_colour:
            file.setColorSpace("srgb_texture" if ending == ".png" else "acescg")
        if kind == "vector3":
            return self._node(graph, "normalmap", "vector3", **{"in": node})
        return node if most == 1.0 else self._node(graph, "multiply", kind, in1=node, in2=most)

    def _free(self, name: str) -> str:
        stem, dot, ending = name.rpartition(".")
        found, n = name, 2
        while found in self.files:
            found, n = f"{stem}-{n}{dot}{ending}", n + 1
        return found

    def _file(self, path: str, m: Material) -> str:
        """Return the name of a picture from the document; its file is taken along."""
        if path not in self._names:
            inner = re.sub(r"[^\w.\-]+", "-", path.rpartition("#")[2].rpartition("/")[2]) or "picture"
            name = self._free(inner if "." in inner else f"{inner}.png")
            try:
                self.files[name] = self.outgoing.picture(path)
            except FileError as error:
                self._lose(m, f"its picture “{path}”: {error}")
                return path
            self._names[path] = name
        return f"{self.folder.name}/{self._names[path]}"


def _limits(about: Input) -> tuple[float | None, float | None]:
    """Return what a parameter is kept within after each step."""
    info = Material.model_fields[about.parameter].json_schema_extra
    return (0.0, info["high"] or 1.0) if about.kind == "colour" else (info["low"], info["high"])


def _is_linear(path: str) -> bool:
    return path.lower().endswith((".exr", ".hdr"))

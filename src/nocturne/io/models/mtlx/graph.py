"""Going up a graph of MaterialX nodes: what an input is, as numbers over a patch of texture space.

Nodes that the standard makes of others are gone into; those that are its own are in `nodes`.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from nocturne.colour.named import is_known, to_working
from nocturne.colour.spaces import rec709_to_working, working_to_rec709
from nocturne.io.models.mtlx.nodes import LUMA, PRIMITIVES, WIDTHS, fitted
from nocturne.io.models.mtlx.units import Units

_DEEP = 60  # nodes above each other
SPACE = "lin_rec709"  # what a document's colours are in where it does not say


class Unlike(Exception):
    """A node that cannot be worked out off a surface."""

    def __init__(self, category: str) -> None:
        super().__init__(category)
        self.category = category


@dataclass(frozen=True)
class Place:
    """Where a node is: the node itself, and those around it if it is inside of one that is made of others."""

    node: Any
    around: "Place | None" = None


@dataclass(eq=False)
class Patch:
    """Where a graph is asked: (h, w, 2) texture coordinates; images by path, linear in the document's space."""

    uv: np.ndarray
    images: Callable[[str, str], np.ndarray | None]
    memo: dict[tuple, np.ndarray] = field(default_factory=dict)
    asked: set[str] = field(default_factory=set)  # what was looked at: "uv", "second uv", "position", "image"

    @classmethod
    def square(cls, size: int, images: Callable[[str, str], np.ndarray | None]) -> "Patch":
        """Return all of texture space, the top row at v = 1."""
        at = (np.arange(size) + 0.5) / size
        u, v = np.meshgrid(at, at[::-1])
        return cls(np.stack([u, v], axis=-1), images)


def space_of(document: Any) -> str:
    """Return the linear space that a document's colours are reckoned in."""
    name = document.getColorSpace()
    return name if name in ("acescg", "lin_ap1") else SPACE


def into(rgb: np.ndarray, space: str, own: str) -> np.ndarray:
    """Return colours of a named space in a document's own one."""
    if not space or space == own or not is_known(space):
        return rgb
    return from_working(np.asarray(to_working(rgb[..., :3], space), float), own, rgb[..., 3:])


def from_working(rgb: np.ndarray, own: str, rest: np.ndarray | None = None) -> np.ndarray:
    """Return working-space colours in a document's own space; rest: further channels, kept as they are."""
    out = rgb if own != SPACE else rgb @ working_to_rec709().T
    return out if rest is None or not rest.shape[-1] else np.concatenate([out, rest], axis=-1)


def in_working(rgb: np.ndarray, own: str) -> np.ndarray:
    """Return a document's colours in the working space."""
    return rgb @ rec709_to_working().T if own == SPACE else rgb


class Graph:
    """A document, asked for what its inputs come to."""

    def __init__(self, document: Any) -> None:
        self.document = document
        self.own = space_of(document)
        self.units = Units(document)

    # ---- finding the way -------------------------------------------------------------------------------------------

    def definition(self, node: Any) -> Any:
        """Return the definition of a node, None if the standard has none."""
        return node.getNodeDef()

    def input_of(self, place: Place, name: str) -> tuple[Any, Place | None]:
        """Return the input by a name that really counts, and where it is: through the interfaces around; None if none.

        What a node leaves out is as its definition has it.
        """
        found = place.node.getInput(name)
        around = place.around
        for _ in range(_DEEP):
            if found is None:
                definition = self.definition(place.node)
                return (definition.getActiveInput(name) if definition else None), None
            interface = found.getInterfaceName()
            if not interface:
                return found, Place(found.getParent(), around)
            if around is not None:
                name, place = interface, around
                found, around = place.node.getInput(name), place.around
                continue
            graph = found.getParent()
            while graph is not None and not isinstance(graph, _graph_type()):
                graph = graph.getParent()
            found = graph.getInput(interface) if graph is not None else None
            if found is None:
                return None, None
        raise Unlike("endless")

    def source(self, found: Any, at: Place | None) -> tuple[Place, str] | None:
        """Return the node that drives an input and the output it is taken from, None if it is a value."""
        if found is None or at is None:
            return None
        around = at.around
        if found.getNodeGraphString() and not found.getNodeName():
            port = found.getConnectedOutput()
            return self.of_output(port, None) if port is not None else None
        node = found.getConnectedNode()
        if node is None and found.getOutputString():
            return self.of_output(found.getConnectedOutput(), around)
        return (Place(node, around), found.getOutputString()) if node is not None else None

    def of_output(self, port: Any, around: Place | None) -> tuple[Place, str] | None:
        """Return the node that an output of a graph is taken from."""
        node = port.getConnectedNode() if port is not None else None
        return (Place(node, around), port.getOutputString()) if node is not None else None

    def inside(self, place: Place, output: str) -> tuple[Place, str] | None:
        """Return what a node that is made of others puts out, as a node inside of it; None if it is none such."""
        made = place.node.getImplementation()
        if made is None or not isinstance(made, _graph_type()):
            return None
        ports = made.getOutputs()
        port = made.getOutput(output) if output else None
        return self.of_output(port or (ports[0] if ports else None), place)

    # ---- numbers ---------------------------------------------------------------------------------------------------

    def number(self, place: Place, name: str, patch: Patch, deep: int = 0) -> np.ndarray:
        """Return what an input comes to.

        Raises
        ------
        Unlike
            If a node has no value off a surface.
        """
        found, at = self.input_of(place, name)
        if found is None:
            raise Unlike(f"{place.node.getCategory()} without {name}")
        width = WIDTHS.get(found.getType(), 1)
        source = self.source(found, at)
        if source is not None:
            return fitted(self.value(*source, patch, deep + 1), width)
        if found.getValueString() == "" and found.hasAttribute("defaultgeomprop"):
            return fitted(self._geometry(found.getAttribute("defaultgeomprop"), patch), width)
        return fitted(self.constant(place, name, found, is_own=at is not None), width)

    def constant(self, place: Place, name: str, found: Any, *, is_own: bool) -> np.ndarray:
        """Return the value that counts for an input of a node: in the unit that the node takes, and in its colours.

        found: where the value is said. is_own: in the document itself, whose colours are in its own space.
        """
        value = self._said(found, is_own)
        if not found.getUnit():
            return value
        definition = self.definition(place.node)
        asked = definition.getActiveInput(name) if definition else None
        return value * self.units.factor(found, place.node.getCategory(), asked)

    def _said(self, found: Any, is_own: bool) -> np.ndarray:
        value = found.getValue()
        if isinstance(value, bool):
            return np.full((1, 1, 1), float(value))
        if isinstance(value, (int, float)):
            return np.full((1, 1, 1), float(value))
        if isinstance(value, str) or value is None:
            return np.zeros((1, 1, WIDTHS.get(found.getType(), 1)))
        out = np.array([value[i] for i in range(WIDTHS.get(found.getType(), 1))], float)[None, None]
        if is_own and found.getType().startswith("color"):
            out = into(out, found.getActiveColorSpace(), self.own)
        return out

    def word(self, place: Place, name: str) -> str:
        """Return the text of an input, "" if it has none."""
        found, _ = self.input_of(place, name)
        return found.getValueString() if found is not None else ""

    def value(self, place: Place, output: str, patch: Patch, deep: int = 0) -> np.ndarray:
        """Return what a node puts out over a patch.

        Raises
        ------
        Unlike
            If it, or what it goes by, has no value off a surface.
        """
        if deep > _DEEP:
            raise Unlike("endless")
        key = (place.node.getNamePath(), _path(place.around), output)
        if key not in patch.memo:
            patch.memo[key] = self._value(place, output, patch, deep)
        return patch.memo[key]

    def _value(self, place: Place, output: str, patch: Patch, deep: int) -> np.ndarray:
        category = place.node.getCategory()
        if category == "texcoord":
            index = int(self.number(place, "index", patch, deep).flat[0])
            return self._geometry("UV1" if index > 0 else "UV0", patch)
        if category == "image":
            return self._image(place, patch, deep)
        if category == "convert":
            kind = place.node.getType()
            return fitted(self.number(place, "in", patch, deep), WIDTHS.get(kind, 1))
        if category in ("normalmap", "position", "normal", "tangent", "bitangent", "geomcolor"):
            return self._geometry({"position": "Pobject"}.get(category, category), patch)
        if category in PRIMITIVES:
            try:
                with np.errstate(all="ignore"):
                    out = PRIMITIVES[category](lambda name: self._asked(place, name, patch, deep))
            except (ValueError, IndexError) as error:
                # Inputs of kinds that do not go together.
                raise Unlike(category) from error
            return np.nan_to_num(np.asarray(out, float), posinf=1e9, neginf=-1e9)
        within = self.inside(place, output)
        if within is None:
            raise Unlike(category)
        return self.value(*within, patch, deep + 1)

    def _asked(self, place: Place, name: str, patch: Patch, deep: int) -> np.ndarray:
        if name == "lumacoeffs" and place.node.getInput(name) is None:
            return LUMA[None, None]
        return self.number(place, name, patch, deep)

    def _geometry(self, what: str, patch: Patch) -> np.ndarray:
        if what in ("UV0", "UV1"):
            patch.asked.add("uv")
            if what == "UV1":
                patch.asked.add("second uv")
            return patch.uv
        if what.startswith("P"):
            patch.asked.add("position")
            return np.concatenate([patch.uv, np.zeros_like(patch.uv[..., :1])], axis=-1)
        raise Unlike(what)

    def _image(self, place: Place, patch: Patch, deep: int) -> np.ndarray:
        """Return a picture at its coordinates, between its pixels."""
        found, _ = self.input_of(place, "file")
        image = patch.images(found.getValueString() if found is not None else "", self.encoding(place))
        width = WIDTHS.get(place.node.getType(), 1)
        if image is None:
            return self.number(place, "default", patch, deep)
        patch.asked.add("image")
        uv = self.number(place, "texcoord", patch, deep)
        modes = [self.word(place, f"{axis}addressmode") or "periodic" for axis in "uv"]
        return fitted(_looked_up(image, uv, modes), width)

    def encoding(self, place: Place) -> str:
        """Return the colour space that a picture node says its file is in, "" if it is numbers."""
        found, _ = self.input_of(place, "file")
        if found is None or not place.node.getType().startswith("color"):
            return ""
        return found.getActiveColorSpace() or "by file"


def _graph_type() -> Any:
    import MaterialX as mx

    return mx.NodeGraph


def _path(place: Place | None) -> str:
    return "" if place is None else f"{_path(place.around)}>{place.node.getNamePath()}"


def _looked_up(image: np.ndarray, uv: np.ndarray, modes: list[str]) -> np.ndarray:
    h, w = image.shape[:2]
    x, y = uv[..., 0] * w - 0.5, (1 - uv[..., 1]) * h - 0.5
    x0, y0 = np.floor(x), np.floor(y)
    fx, fy = (x - x0)[..., None], (y - y0)[..., None]

    def held(i: np.ndarray, n: int, mode: str) -> np.ndarray:
        i = i.astype(np.int64)
        if mode == "clamp" or mode == "constant":
            return np.clip(i, 0, n - 1)
        if mode == "mirror":
            i = i % (2 * n)
            return np.where(i < n, i, 2 * n - 1 - i)
        return i % n

    columns = [held(x0 + k, w, modes[0]) for k in (0, 1)]
    rows = [held(y0 + k, h, modes[1]) for k in (0, 1)]
    top = image[rows[0], columns[0]] * (1 - fx) + image[rows[0], columns[1]] * fx
    low = image[rows[1], columns[0]] * (1 - fx) + image[rows[1], columns[1]] * fx
    return top * (1 - fy) + low * fy


def affine(graph: Graph, place: Place) -> dict | None:
    """Return how a picture's coordinates lie over the surface's, as a `Picture` says it; None if they do not evenly."""
    at = np.array([[0, 0], [1, 0], [0, 1], [0.37, 0.73], [1.7, -0.4]], float)[None]
    patch = Patch(at, lambda *_: None)
    try:
        uv = graph.number(place, "texcoord", patch)
    except Unlike:
        return None
    uv = np.broadcast_to(uv, (1, 5, 2))[0]
    origin, ex, ey = uv[0], uv[1] - uv[0], uv[2] - uv[0]
    if not np.allclose(origin + at[0, 3:] @ np.stack([ex, ey]), uv[3:], atol=1e-5):
        return None
    # ex = rx (cos, sin), ey = ry (-sin, cos): see `Step.affine`.
    rx = math.hypot(*ex)
    turn = math.atan2(ex[1], ex[0]) if rx > 1e-9 else math.atan2(-ey[0], ey[1])
    ry = float(-ey[0] * math.sin(turn) + ey[1] * math.cos(turn))
    if abs(ey[0] * math.cos(turn) + ey[1] * math.sin(turn)) > 1e-4 * max(abs(ry), 1e-9):
        return None
    return {
        "uv_set": 2 if "second uv" in patch.asked else 1,
        "repeat": (round(rx, 6), round(ry, 6)),
        "turn_deg": round(math.degrees(turn), 4),
        "offset": (round(float(origin[0]), 6), round(float(origin[1]), 6)),
    }

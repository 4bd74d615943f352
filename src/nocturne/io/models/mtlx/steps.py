"""Graphs of MaterialX nodes as steps of a pattern, where there are steps that do the same."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from pydantic import ValidationError

from nocturne.io.models.mtlx.graph import Graph, Patch, Place, Unlike, affine, in_working
from nocturne.scene.patterns import (
    Cells,
    Clamp,
    Constant,
    Contrast,
    Fractal,
    Levels,
    Maths,
    MeshColours,
    Mix,
    Noise,
    Picture,
    Step,
)

# Nodes of two that lie over each other: their blend, and which input lies under the other.
_BLENDS = {
    "multiply": ("multiply", "in1", "in2"),
    "add": ("plus", "in1", "in2"),
    "subtract": ("minus", "in1", "in2"),
    "plus": ("plus", "bg", "fg"),
    "minus": ("minus", "bg", "fg"),
    "screen": ("screen", "bg", "fg"),
    "overlay": ("overlay", "bg", "fg"),
    "burn": ("burn", "bg", "fg"),
    "dodge": ("dodge", "bg", "fg"),
    "difference": ("difference", "bg", "fg"),
    "min": ("darken", "in1", "in2"),
    "max": ("lighten", "in1", "in2"),
}
# Of those, what one number does for all colours, however large it is: the operation, and the number's sign.
_AS_MATHS = {"multiply": ("multiply", 1), "plus": ("add", 1), "minus": ("add", -1)}
_DEEP = 40  # nodes above each other
_SLACK = 1e-3  # of colours that another space brings slightly out of 0 to 1
_WRAPS = {"periodic": "periodic", "mirror": "mirror", "clamp": "clamp", "constant": "constant"}
_CHANNELS = ("red", "green", "blue", "alpha")
_PROBES = np.array([[0.1, 0.2], [0.83, 0.41], [0.37, 0.9], [0.62, 0.07], [0.05, 0.66], [0.93, 0.97]])[None]
_FREQUENCIES = np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]])[None]


@dataclass(frozen=True)
class Driven:
    """A base value, in the document's space, and the steps over it."""

    base: np.ndarray
    steps: tuple[Step, ...] = ()


class Maker:
    """Makes steps of a document's graphs."""

    def __init__(self, graph: Graph) -> None:
        self.graph = graph
        self._deep = 0

    def folded(self, place: Place, output: str) -> np.ndarray | None:
        """Return what a node comes to if that is the same everywhere, None if it is not."""
        patch = Patch(_PROBES, _probe)
        try:
            value = self.graph.value(place, output, patch)
        except Unlike:
            return None
        # What looks alike at a few places need not be so between them.
        return None if patch.asked else value.reshape(-1, value.shape[-1])[0]

    def driven(self, place: Place, name: str, parameter: str) -> Driven:
        """Return what an input of a node is: a value, or steps that drive a parameter.

        Raises
        ------
        Unlike
            If there are no steps like its nodes.
        """
        found, at = self.graph.input_of(place, name)
        if found is None:
            raise Unlike(f"{place.node.getCategory()} without {name}")
        source = self.graph.source(found, at)
        if source is None:
            return Driven(self.graph.constant(place, name, found, is_own=at is not None).reshape(-1))
        return self.of_node(*source, parameter)

    def of_node(self, place: Place, output: str, parameter: str) -> Driven:
        """Return a node as a value, or steps that drive a parameter.

        Raises
        ------
        Unlike
            If there are none like it.
        """
        value = self.folded(place, output)
        if value is not None:
            return Driven(value)
        if self._deep > _DEEP:
            raise Unlike("endless")
        self._deep += 1
        try:
            return self._of_node(place, output, parameter)
        except (ValidationError, ValueError, IndexError) as error:
            raise Unlike(place.node.getCategory()) from error
        finally:
            self._deep -= 1

    def _of_node(self, place: Place, output: str, parameter: str) -> Driven:
        category = place.node.getCategory()
        if category in ("convert", "dot"):
            return self.driven(place, "in", parameter)
        if category == "normalmap":
            inner = self.driven(place, "in", parameter)
            scale = float(self.graph.number(place, "scale", Patch(_PROBES, _probe)).flat[0])
            return Driven(inner.base, _with_amount(inner.steps, scale))
        if category == "image":
            return self._picture(place, parameter)
        if category == "extract":
            return self._channel(place, parameter)
        if category in _BLENDS:
            return self._laid(place, parameter, *_BLENDS[category])
        if category == "mix":
            return self._mix(place, parameter)
        if category in ("geomcolor", "geompropvalue"):
            if category == "geompropvalue" and self.graph.word(place, "geomprop") != "displayColor":
                raise Unlike("geompropvalue")
            return Driven(np.ones(3), (MeshColours(parameter=parameter),))
        if category in _ADJUSTING:
            under = self.driven(place, "in", parameter)
            return Driven(under.base, (*under.steps, *_ADJUSTING[category](self, place, parameter)))
        if category in ("noise3d", "noise2d", "fractal3d", "worleynoise3d"):
            return self._noise(place, category, parameter)
        within = self.graph.inside(place, output)
        if within is None:
            raise Unlike(category)
        return self.of_node(*within, parameter)

    def plain(self, place: Place, name: str) -> float:
        """Return the number of an input that must be the same everywhere, and for each colour.

        Raises
        ------
        Unlike
            If it is not.
        """
        value = self.driven(place, name, "base_color")
        if value.steps:
            raise Unlike(f"{place.node.getCategory()} whose {name} is driven")
        return self._one(place, name, value)

    def _one(self, place: Place, name: str, value: Driven) -> float:
        if np.ptp(value.base[:3]) > 0:
            raise Unlike(f"{place.node.getCategory()} whose {name} is another for each colour")
        return float(value.base[0])

    def shown(self, value: np.ndarray, parameter: str) -> tuple[float, float, float]:
        """Return a value as three numbers of a step that drives a parameter.

        Raises
        ------
        Unlike
            If one is not within what a step's colours may be, 0 to 1.
        """
        rgb = np.repeat(value, 3) if len(value) == 1 else value[:3]
        if len(rgb) < 3:
            rgb = np.concatenate([rgb, np.zeros(3 - len(rgb))])
        if is_colour(parameter):
            rgb = in_working(rgb, self.graph.own)
        if rgb.min() < -_SLACK or rgb.max() > 1 + _SLACK:
            raise Unlike("a constant beyond 0 to 1")
        return tuple(float(v) for v in np.clip(rgb, 0, 1))

    def _picture(self, place: Place, parameter: str) -> Driven:
        laid = affine(self.graph, place)
        if laid is None:
            raise Unlike("an image laid by a pattern")
        encoding = self.graph.encoding(place)
        modes = {_WRAPS.get(self.graph.word(place, f"{axis}addressmode"), "periodic") for axis in "uv"}
        if len(modes) > 1:
            raise Unlike("an image that goes on differently across and up")
        found, _ = self.graph.input_of(place, "file")
        values: dict[str, Any] = {"space": "colour" if encoding and is_colour(parameter) else "data"}
        if values["space"] == "colour" and encoding not in ("by file", "srgb_texture"):
            values["encoding"] = encoding
        path = found.getValueString() if found is not None else ""
        picture = Picture(parameter=parameter, path=path, wrap=modes.pop(), **values, **laid)
        return Driven(np.ones(3), (picture,))

    def _channel(self, place: Place, parameter: str) -> Driven:
        inner = self.driven(place, "in", parameter)
        i = int(self.plain(place, "index"))
        *before, last = inner.steps
        if before or not isinstance(last, Picture) or not 0 <= i < 4:
            raise Unlike("extract")
        return Driven(np.ones(1), (last.model_copy(update={"space": _CHANNELS[i], "encoding": ""}),))

    def _laid(self, place: Place, parameter: str, blend: str, under_name: str, over_name: str) -> Driven:
        amount = 1.0
        if under_name == "bg":
            amount = self.plain(place, "mix")
        under, over = self.driven(place, under_name, parameter), self.driven(place, over_name, "value")
        if not under.steps and over.steps and blend in ("multiply", "plus", "darken", "lighten", "screen"):
            # The steps come first, so that what is plain lies over them.
            under, over = self.driven(place, over_name, parameter), Driven(under.base)
        most = 1.0
        if not over.steps and amount == 1:
            if blend in _AS_MATHS and np.ptp(over.base[:3]) == 0 and not 0 <= over.base[0] <= 1:
                operation, sign = _AS_MATHS[blend]
                step: Step = Maths(parameter=parameter, operation=operation, number=sign * float(over.base[0]))
                return Driven(under.base, (*under.steps, step))
            if blend == "multiply":
                most = max(float(over.base[:3].max()), 1.0)
        step = Constant(
            parameter=parameter,
            value=self.shown(over.base / most, parameter),
            blend=blend,
            amount=amount,
            steps=over.steps,
        )
        return Driven(under.base, (*under.steps, step, *scaled(parameter, most)))

    def _mix(self, place: Place, parameter: str) -> Driven:
        parts = {name: self.driven(place, name, name) for name in ("bg", "fg", "mix")}
        values = {name: self.shown(parts[name].base, parameter) for name in ("bg", "fg")}
        values["mix"] = min(max(self._one(place, "mix", parts["mix"]), 0.0), 1.0)
        inner = tuple(step for part in parts.values() for step in part.steps)
        return Driven(np.ones(3), (Mix(parameter=parameter, steps=inner, **values),))

    def _noise(self, place: Place, category: str, parameter: str) -> Driven:
        """Return a noise that lies evenly in the thing's own space, or over its texture coordinates."""
        name = "texcoord" if category.endswith("2d") else "position"
        patch = Patch(_FREQUENCIES, _probe)
        at = self.graph.number(place, name, patch)
        at = np.broadcast_to(at, (1, 3, at.shape[-1]))[0]
        steps = np.stack([at[1] - at[0], at[2] - at[0]])[:, :2]
        frequency = float(abs(steps[0, 0]))
        if frequency <= 1e-9 or not np.allclose(steps, np.eye(2) * steps[0, 0], atol=1e-6 * frequency):
            raise Unlike(category)
        offset = tuple(float(-v / frequency) for v in np.resize(np.append(at[0], (0.0, 0.0)), 3))
        where = {"where": "uv"} if name == "texcoord" else {"where": "solid", "origin": offset}
        scale = {"scale": 1.0 / frequency, **where}
        if category == "worleynoise3d":
            return Driven(
                np.zeros(1),
                (Cells(parameter=parameter, output="distance", jitter=self.plain(place, "jitter"), **scale),),
            )
        amplitude = self.plain(place, "amplitude")
        pivot = self.plain(place, "pivot") if "noise" in category else 0.0
        if category == "fractal3d":
            about = {name: self.plain(place, name) for name in ("lacunarity", "diminish")}
            step: Step = Fractal(parameter=parameter, octaves=round(self.plain(place, "octaves")), **about, **scale)
        else:
            step = Noise(parameter=parameter, **scale)
        levels = Levels(parameter=parameter, outlow=pivot - amplitude, outhigh=pivot + amplitude, doclamp=False)
        return Driven(np.zeros(1), (step,) if (amplitude, pivot) == (0.5, 0.5) else (step, levels))


def _remapped(maker: Maker, place: Place, parameter: str, *, has_gamma: bool) -> tuple[Step, ...]:
    values = {name: maker.plain(place, name) for name in ("inlow", "inhigh", "outlow", "outhigh")}
    holds = False
    if has_gamma:
        values["gamma"] = maker.plain(place, "gamma")
        holds = maker.graph.word(place, "doclamp") == "true"
    return (Levels(parameter=parameter, doclamp=holds, **values),)


_ADJUSTING = {
    "remap": lambda maker, place, parameter: _remapped(maker, place, parameter, has_gamma=False),
    "range": lambda maker, place, parameter: _remapped(maker, place, parameter, has_gamma=True),
    "clamp": lambda maker, place, parameter: (
        Clamp(parameter=parameter, low=maker.plain(place, "low"), high=maker.plain(place, "high")),
    ),
    "invert": lambda maker, place, parameter: (
        Levels(
            parameter=parameter,
            outlow=maker.plain(place, "amount"),
            outhigh=maker.plain(place, "amount") - 1.0,
            doclamp=False,
        ),
    ),
    "contrast": lambda maker, place, parameter: (
        Contrast(parameter=parameter, strength=maker.plain(place, "amount"), pivot=maker.plain(place, "pivot")),
    ),
    "absval": lambda maker, place, parameter: (Maths(parameter=parameter, operation="absval"),),
}


def scaled(parameter: str, by: float) -> tuple[Step, ...]:
    """Return the steps that multiply what drives a parameter by a number: none for 1."""
    return () if by == 1 else (Maths(parameter=parameter, operation="multiply", number=by),)


def is_colour(parameter: str) -> bool:
    """Return True if numbers that drive it are colours: a parameter's, or those inside a step."""
    return parameter.endswith("_color") or parameter in ("transmission_scatter", "bg", "fg", "value")


def _with_amount(steps: tuple[Step, ...], scale: float) -> tuple[Step, ...]:
    *before, last = steps
    return (*before, last.model_copy(update={"amount": min(max(scale, 0.0), 4.0)}))


def _probe(path: str, encoding: str) -> np.ndarray | None:
    return np.random.default_rng(3).random((7, 5, 4)) if path else None

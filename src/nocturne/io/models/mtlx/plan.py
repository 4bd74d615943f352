"""Which nodes do the same as steps of a pattern, before any is written; what has no equal stands there as a picture.

A node's inputs are plans in their turn. Where more than one picture would have to stand in for something, all steps
together are one: then nothing is gained by the nodes between.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from nocturne.scene.patterns import (
    Clamp,
    Constant,
    Contrast,
    Levels,
    Maths,
    MeshColours,
    Mix,
    Picture,
    Step,
)

# Blends, as nodes of (under, over): the category, and the names of both inputs.
_BLENDS = {
    "multiply": ("multiply", "in1", "in2"),
    "plus": ("add", "in1", "in2"),
    "minus": ("subtract", "in1", "in2"),
    "darken": ("min", "in1", "in2"),
    "lighten": ("max", "in1", "in2"),
    "screen": ("screen", "bg", "fg"),
    "difference": ("difference", "bg", "fg"),
}
_MATHS = {"multiply": "multiply", "add": "add", "min": "min", "max": "max"}


@dataclass(frozen=True)
class Plain:
    """A number or a colour."""

    value: Any


@dataclass(frozen=True)
class Image:
    """A picture of the document, as its step lays it."""

    step: Picture


@dataclass(frozen=True)
class Colours:
    """The mesh's own colours."""


@dataclass(frozen=True)
class Baked:
    """A picture of what steps make of a base value, kept within limits after each."""

    steps: tuple[Step, ...]
    base: Any
    low: float | None = None
    high: float | None = None


@dataclass(frozen=True)
class Node:
    """A node: its category, and its inputs; those of `own` are numbers or switches whatever the node's type is."""

    category: str
    inputs: tuple[tuple[str, "Plan"], ...]
    own: tuple[tuple[str, Any], ...] = ()


Plan = Plain | Image | Colours | Baked | Node


def planned(
    steps: Sequence[Step], base: Any, *, is_colour: bool, low: float | None = None, high: float | None = None
) -> Plan:
    """Return what drives a number or a colour, whose value is `base` where no step counts, kept within limits."""
    within = _Planner(is_colour, low, high)
    plan = within.over(base, steps)
    return plan if sum(isinstance(part, Baked) for part in every(plan)) <= 1 else Baked(tuple(steps), base, low, high)


def every(plan: Plan) -> Iterator[Plan]:
    """Yield a plan and all within it."""
    yield plan
    for _, part in plan.inputs if isinstance(plan, Node) else ():
        yield from every(part)


def _drives_only(step: Step, *names: str) -> bool:
    return all(inner.parameter in names for inner in step.steps)


def _asks_under(step: Step) -> bool:
    """Return True if what a step makes of a place hangs on what lies under it, beside how it is laid over that."""
    shows_it = "under" in (getattr(step, "wrap", ""), getattr(step, "beside", ""))
    return step.needs_under or shows_it or any(inner.parameter == "amount" for inner in step.steps)


class _Planner:
    def __init__(self, is_colour: bool, low: float | None, high: float | None) -> None:
        self.is_colour, self.low, self.high = is_colour, low, high

    def over(self, base: Any, steps: Sequence[Step]) -> Plan:
        """Return what steps make of a value; of a colour that is asked for as a number, the first part counts."""
        is_part = isinstance(base, tuple) and not self.is_colour
        under: Plan = Plain(base[0] if is_part else base)
        done: list[Step] = []
        for step in steps:
            if not step.on or step.amount <= 0:
                continue
            done.append(step)
            made = self._made(step, under)
            if made is None and _asks_under(step):
                under = self._baked(done, base)
                continue
            if made is None:
                alone = step.model_copy(update={"blend": "replace", "amount": 1.0, "invert": False})
                made = self._baked([alone], base)
            laid = self._laid(step, under, made)
            under = self._baked(done, base) if laid is None else self._held(step, laid)
        return under

    def _baked(self, steps: list[Step], base: Any) -> Baked:
        return Baked(tuple(steps), base, self.low, self.high)

    def _made(self, step: Step, under: Plan) -> Plan | None:
        """Return what a step puts out before it is inverted and laid over what is under it, None if nothing does."""
        if isinstance(step, Picture):
            is_plain = step.model_copy(update={"blend": "replace"}).is_plain
            return Image(step) if is_plain and step.is_colour == self.is_colour else None
        if isinstance(step, MeshColours) and not step.steps and self.is_colour:
            return Colours()
        if isinstance(step, Constant) and _drives_only(step, "value"):
            return self._driven(step, "value", self.is_colour)
        if isinstance(step, Mix) and _drives_only(step, "bg", "fg", "mix"):
            parts = [(name, self._driven(step, name, self.is_colour)) for name in ("bg", "fg")]
            return Node("mix", (*parts, ("mix", self._driven(step, "mix", False))))
        if step.steps:
            return None
        if isinstance(step, Levels):
            names = ("inlow", "inhigh", "gamma", "outlow", "outhigh", "doclamp")
            return Node("range", (("in", under),), tuple((name, getattr(step, name)) for name in names))
        if isinstance(step, Clamp):
            return Node("clamp", (("in", under),), (("low", step.low), ("high", step.high)))
        if isinstance(step, Contrast):
            bent = Node("contrast", (("in", under),), (("amount", step.strength), ("pivot", step.pivot)))
            return Node("max", (("in1", bent), ("in2", Plain(0.0))))
        if isinstance(step, Maths) and step.operation in _MATHS:
            return Node(_MATHS[step.operation], (("in1", under), ("in2", Plain(step.number))))
        if isinstance(step, Maths) and step.operation == "absval":
            return Node("absval", (("in", under),))
        return None

    def _driven(self, step: Step, name: str, is_colour: bool) -> Plan:
        value, info = getattr(step, name), type(step).model_fields[name].json_schema_extra
        inner = [s for s in step.steps if s.parameter == name]
        return _Planner(is_colour, info["low"], info["high"]).over(value, inner)

    def _laid(self, step: Step, under: Plan, over: Plan) -> Plan | None:
        """Return a step's output over what is under it, None if no nodes do so."""
        if step.invert:
            turned = Node("invert", (("in", over),), (("amount", 1.0),))
            # What was brighter than white becomes black.
            over = Node("max", (("in1", turned), ("in2", Plain(0.0)))) if isinstance(over, Node) else turned
        if step.blend != "replace":
            if step.blend not in _BLENDS or (step.amount > 1 and step.blend in ("plus", "minus")):
                return None
            category, below, above = _BLENDS[step.blend]
            over = Node(category, ((below, under), (above, over)))
        if step.amount >= 1:
            return over
        return Node("mix", (("bg", under), ("fg", over), ("mix", Plain(float(step.amount)))))

    def _held(self, step: Step, plan: Plan) -> Plan:
        """Return a plan within the limits of what it drives, if a step may lead out of them."""
        # What drives a step's own colour may become as bright as it likes; a mask may not.
        leads_out = step.blend in ("plus", "minus") or isinstance(step, Maths | Contrast)
        leads_out |= any(inner.parameter in ("value", "bg", "fg") for inner in step.steps)
        if isinstance(step, Levels):
            ends = (step.outlow, step.outhigh)
            leads_out |= not step.doclamp or not 0 <= min(ends) <= max(ends) <= 1
        if not leads_out:
            return plan
        if self.low is not None and self.high is not None:
            return Node("clamp", (("in", plan),), (("low", self.low), ("high", self.high)))
        for category, limit in (("max", self.low), ("min", self.high)):
            if limit is not None:
                plan = Node(category, (("in1", plan), ("in2", Plain(limit))))
        return plan

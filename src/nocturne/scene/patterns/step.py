"""What every step of a pattern has: what it drives, how it goes with what is under it, and where it lies.

A material's parameters are driven by steps, and so are the numbers and colours inside a step: each step names in
`parameter` the one field of its owner that it drives. Several that drive the same one lie over each other in order.
"""

import math
from collections.abc import Iterator
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import PlainValidator, ValidationError, model_validator

from nocturne.scene.fields import Model, Vector, described

MOST_DEEP = 6  # steps inside of steps
TOO_DEEP = f"steps inside of steps go at most {MOST_DEEP} deep"
_DRIVABLE = {"number": 1, "percent": 1, "whole": 1, "colour": 3, "lengths": 3, "angles": 3, "vector": 3}
_PLACING = ("amount", "offset", "repeat", "turn_deg")

BLENDS = (
    ("replace", "Over it"),
    ("multiply", "Multiply"),
    ("plus", "Add"),
    ("minus", "Subtract"),
    ("screen", "Screen"),
    ("overlay", "Overlay"),
    ("dodge", "Dodge"),
    ("burn", "Burn"),
    ("darken", "Darker of both"),
    ("lighten", "Lighter of both"),
    ("difference", "Difference"),
)
PLACES = (
    ("uv", "Texture coordinates"),
    ("solid", "The solid, in metres"),
    ("flat", "Laid on from above"),
    ("sides", "From three sides"),
    ("cylinder", "Around a cylinder"),
    ("ball", "Around a ball"),
    ("camera", "Thrown from a camera"),
)

Where = Literal[tuple(name for name, _ in PLACES)]


def lies_by(default: str) -> Any:
    """Return the field that tells by what a step lies, with the default of a kind."""
    return described(
        default,
        "Lies by",
        "Texture coordinates, or places in the set. From three sides needs no coordinates and has no seams.",
        kind="choice",
        choices=PLACES,
    )


KINDS: "dict[str, type[Step]]" = {}  # the package enters them


def _as_step(raw: Any) -> "Step":
    """Return the step of the kind that it names.

    Not by a schema of all kinds: each kind holds steps of every kind, and to write that out for each takes a second at
    every start.
    """
    if isinstance(raw, Step):
        return raw
    if not isinstance(raw, dict):
        raise ValueError("a step of a pattern has a kind and values")
    if _is_deeper(raw, MOST_DEEP):
        raise ValueError(TOO_DEEP)
    kind = raw.get("kind")
    model = KINDS.get(kind) if isinstance(kind, str) else None
    if model is None:
        raise ValueError(f"no step of the kind “{kind}” is known")
    try:
        return model.model_validate(raw)
    except ValidationError as error:
        first = error.errors()[0]
        where = "/".join(map(str, first["loc"]))
        raise ValueError(f"{where}: {first['msg']}" if where else first["msg"]) from None


def _is_deeper(raw: Any, most: int) -> bool:
    """Return True if values of a step hold steps more than so many deep; what is no step counts for none."""
    inner = raw.get("steps") if isinstance(raw, dict) else None
    if most <= 0:
        return True
    return isinstance(inner, list | tuple) and any(_is_deeper(s, most - 1) for s in inner if isinstance(s, dict))


AnyStep = Annotated[Any, PlainValidator(_as_step)]


class Step(Model):
    """One step of what drives a number or a colour; later ones lie over earlier ones."""

    title: ClassVar[str] = ""
    about: ClassVar[str] = ""  # what it is good for, in a line
    family: ClassVar[str] = ""  # under which heading it is offered
    is_placed: ClassVar[bool] = True  # what it puts out depends on where it lies
    asks_shape: ClassVar[bool] = False  # it looks for what is near on the shape
    asks_parts: ClassVar[bool] = False  # it asks which connected part of the mesh a place is on
    needs_under: ClassVar[bool] = False  # it works on what lies under it
    baked: ClassVar[tuple[str, ...]] = ()  # fields that go into its list, so that nothing can drive them
    sections: ClassVar[dict[str, tuple[str, ...]]] = {}  # its own fields by headings, if they are many

    parameter: str = described("base_color", "Drives", "What this step drives.", kind="hidden")
    amount: float = described(
        1.0,
        "Amount",
        "How much the step counts over what lies under it; of a normal map, its strength.",
        low=0,
        high=4,
        soft_high=1,
    )
    on: bool = described(True, "Counts", "Off: it looks as it would without this step.", kind="switch")
    blend: Literal[tuple(name for name, _ in BLENDS)] = described(
        "replace", "Blend", "How it goes together with what lies under it.", kind="choice", choices=BLENDS
    )
    invert: bool = described(False, "Invert", "Dark becomes light and light dark.", kind="switch")
    where: Where = lies_by("uv")
    anchor: Literal["thing", "set"] = described(
        "thing",
        "Held by",
        "The thing: it goes along when the thing moves. The set: it stays, and runs on from thing to thing.",
        kind="choice",
        choices=(("thing", "The thing"), ("set", "The set")),
    )
    uv_set: int = described(
        1, "UV set", "Which texture coordinates: the mesh's first or its second.", kind="whole", low=1, high=2
    )
    size: Vector = described(
        (1.0, 1.0, 1.0),
        "Size",
        "How much room one unit takes: of a picture, one repeat.",
        kind="lengths",
        unit="m",
        low=1e-6,
        high=1e6,
    )
    origin: Vector = described((0.0, 0.0, 0.0), "Origin", "Where it begins.", kind="lengths", unit="m")
    tilt: Vector = described((0.0, 0.0, 0.0), "Tilt", "Turns it in space about x, y and z.", kind="angles", unit="°")
    spread: float = described(
        0.2, "Soft edge", "How softly one side goes over into the next.", kind="percent", low=0, high=1
    )
    repeat: tuple[float, float] = described(
        (1.0, 1.0), "Repeats", "How often it repeats, across and up.", kind="vector"
    )
    offset: tuple[float, float] = described((0.0, 0.0), "Offset", "Moves it, in parts of its size.", kind="vector")
    turn_deg: float = described(0.0, "Turn", "Turns it about its corner.", unit="°", low=-360, high=360)
    steps: tuple[AnyStep, ...] = ()

    @property
    def share(self) -> float:
        """Return how much of what lies under it the step replaces; the strength of a normal map is apart."""
        return 1.0 if self.parameter == "geometry_normal" else min(self.amount, 1.0) if self.is_mixed else self.amount

    @property
    def is_mixed(self) -> bool:
        """Return True if an amount above 1 would go beyond what the step puts out."""
        return self.blend not in ("plus", "minus")

    @property
    def picture(self) -> tuple[str, str] | None:
        """Return (path, space) of the picture that the step needs, as `Assets.images` is keyed, None if none."""
        return None

    @property
    def table(self) -> np.ndarray | None:
        """Return (n, 4) numbers of the step that are a list, such as the stops of a ramp, None if it has none."""
        return None

    @property
    def far_from_all(self) -> float:
        """Return what it puts out where nothing is near, if it looks for near shapes."""
        return 0.0

    @property
    def asked_thing(self) -> str:
        """Return the id of the thing whose distance the step asks for, "" if none."""
        return ""

    @property
    def extent(self) -> float:
        """Return how wide a piece shows what the step is like, in its coordinates or metres."""
        return 1.0

    @property
    def corner(self) -> tuple[float, float]:
        """Return where that piece begins."""
        return (0.0, 0.0)

    @property
    def unseen(self) -> set[str]:
        """Return its own fields that count for nothing as it is set."""
        return set()

    @property
    def known_as(self) -> str:
        """Return what a row calls it."""
        return self.title

    @classmethod
    def made_for(cls, parameter: str, *, is_colour: bool, **values: Any) -> "Step":
        """Return a new one that drives a parameter, a colour or a number, with values that suit it."""
        return cls(parameter=parameter, **values)

    def driving(self, parameter: str, *, is_colour: bool) -> dict[str, Any]:
        """Return what else is to change when it comes to drive another parameter of the material."""
        return {}

    def for_picture(self) -> "Step":
        """Return it as a small picture shows it."""
        return self

    @property
    def is_plain(self) -> bool:
        """Return True if it lies by texture coordinates, over or on what is under it, and nothing drives it."""
        return self.where == "uv" and not self.steps and self.blend in ("replace", "multiply")

    @property
    def is_colour(self) -> bool:
        """Return True if what it puts out is colour, not numbers."""
        return self.parameter.endswith("_color")

    def affine(self) -> np.ndarray:
        """Return the (2, 3) matrix from coordinates of the surface to those of the step."""
        c, s = math.cos(math.radians(self.turn_deg)), math.sin(math.radians(self.turn_deg))
        rx, ry = self.repeat
        return np.array([[rx * c, -ry * s, self.offset[0]], [rx * s, ry * c, self.offset[1]]])

    def frame(self) -> np.ndarray:
        """Return the (3, 4) matrix from metres of its space to units about its origin: tilt, then size.

        A camera stands in the origin and looks along -z; its size is that of its picture a metre before it.
        """
        x, y, z = np.radians(self.tilt)
        about_x = np.array([[1, 0, 0], [0, np.cos(x), -np.sin(x)], [0, np.sin(x), np.cos(x)]])
        about_y = np.array([[np.cos(y), 0, np.sin(y)], [0, 1, 0], [-np.sin(y), 0, np.cos(y)]])
        about_z = np.array([[np.cos(z), -np.sin(z), 0], [np.sin(z), np.cos(z), 0], [0, 0, 1]])
        turned = (about_z @ about_y @ about_x).T / np.asarray(self.size)[:, None]
        return np.concatenate([turned, -(turned @ np.asarray(self.origin))[:, None]], axis=1)

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) values before they are inverted: what the kernels work out at each hit.

        Parameters
        ----------
        f : namespace
            The step's own numbers and colours by field name: as they are in the step, or (...) and (..., 3) arrays
            where a pattern drives them; choices are the number of the choice.
        q : (..., 3) float array
            The step's own coordinates.
        spot : Spot
            Where it is asked.
        under : (..., 3) float array
            What lies under it.
        image : (h, w, 3) float array or None
            Linear values of its picture, if it needs one.
        """
        raise NotImplementedError

    @classmethod
    def own_fields(cls) -> dict[str, int]:
        """Return the step's own fields that a kernel reads, by name: how many numbers each is."""
        shared = Step.model_fields
        found = {}
        for name, info in cls.model_fields.items():
            extra = info.json_schema_extra
            if name in shared or name in cls.baked or not isinstance(extra, dict):
                continue
            if extra["kind"] in _DRIVABLE:
                found[name] = _DRIVABLE[extra["kind"]]
            elif extra["kind"] in ("choice", "switch"):
                found[name] = 1
        return found

    @classmethod
    def drivable(cls) -> dict[str, int]:
        """Return the step's fields that a pattern can drive, by name: how many numbers each is."""
        own = {n: k for n, k in cls.own_fields().items() if cls.model_fields[n].json_schema_extra["kind"] in _DRIVABLE}
        placing = {name: 1 if name in ("amount", "turn_deg") else 2 for name in _PLACING}
        return own | (placing if cls.is_placed else {"amount": 1})

    def number_of(self, name: str) -> Any:
        """Return a field as kernels read it: a choice as its number, a switch as 0 or 1."""
        value, extra = getattr(self, name), type(self).model_fields[name].json_schema_extra
        if extra["kind"] == "choice":
            return [choice for choice, _ in extra["choices"]].index(value)
        return float(value) if extra["kind"] == "switch" else value

    @model_validator(mode="after")
    def _drives_what_there_is(self):
        for step in self.steps:
            if step.parameter not in self.drivable():
                raise ValueError(f"{self.title.lower() or 'a step'} has no “{step.parameter}” that could be driven")
        if depth_of(self) > MOST_DEEP:
            raise ValueError(TOO_DEEP)
        return self


def depth_of(step: Step) -> int:
    """Return how deep a step goes: 1 if none is inside of it."""
    return 1 + max(map(depth_of, step.steps), default=0)


def replaced(steps: "tuple[Step, ...]", old: Step, new: Step | None) -> "tuple[Step, ...]":
    """Return steps with those that equal one exchanged, or left out, also inside of others."""
    out = []
    for step in steps:
        if step == old:
            out += [] if new is None else [new]
            continue
        inner = replaced(step.steps, old, new)
        out.append(step if inner == step.steps else step.model_copy(update={"steps": inner}))
    return tuple(out)


def asking(steps: "tuple[Step, ...]", ids: dict[str, str]) -> "tuple[Step, ...]":
    """Return steps that ask for other things in the place of some, by their ids; the same tuple if none does."""
    made = []
    for step in steps:
        values: dict[str, Any] = {"thing": ids[step.asked_thing]} if step.asked_thing in ids else {}
        inner = asking(step.steps, ids)
        if inner is not step.steps:
            values["steps"] = inner
        made.append(step.model_copy(update=values) if values else step)
    return steps if all(a is b for a, b in zip(made, steps)) else tuple(made)


def every(steps: "tuple[Step, ...]") -> Iterator[Step]:
    """Yield all steps, and those inside of them."""
    for step in steps:
        yield step
        yield from every(step.steps)

"""How a field of the document is described once: label, unit, limits, default and what it does to the picture.

The description travels with the pydantic field; sheets, tooltips, validation and the file's schema all read it.
"""

from dataclasses import dataclass
from functools import cache
from typing import Any

from pydantic import BaseModel, ConfigDict, Field, model_validator

Colour = tuple[float, float, float]
Vector = tuple[float, float, float]


class Model(BaseModel):
    """A frozen part of the document; unknown or wrong values are refused on load and on edit."""

    # Built when first used: what checks a whole document has all of it in itself, and few are made on their own.
    model_config = ConfigDict(
        frozen=True, extra="forbid", allow_inf_nan=False, validate_default=False, defer_build=True
    )

    @model_validator(mode="after")
    def _parts_are_within_limits(self):
        for name, (label, low, high) in limits_of_parts(type(self)).items():
            for value in getattr(self, name):
                if not low <= value <= high:
                    raise ValueError(f"{label.lower()}: each part is between {low:g} and {high:g}, not {value:g}")
        return self


# What each part of a colour or a vector may be where its field does not say: reflectances and tints are shares; places
# and sizes stay far from where single precision ends.
_OF_PARTS = {
    "colour": (0.0, 1.0),
    "vector": (-1e6, 1e6),
    "channels": (-1e6, 1e6),
    "lengths": (-1e8, 1e8),
    "angles": (-1e6, 1e6),
}


@cache
def limits_of_parts(model: "type[Model]") -> dict[str, tuple[str, float, float]]:
    """Return (label, low, high) of a model's fields that have several parts, by name."""
    found = {}
    for name, info in model.model_fields.items():
        extra = info.json_schema_extra
        if isinstance(extra, dict) and extra.get("kind") in _OF_PARTS:
            low, high = _OF_PARTS[extra["kind"]]
            low = low if extra["low"] is None else extra["low"]
            found[name] = (info.title or name, low, high if extra["high"] is None else extra["high"])
    return found


@cache
def file_fields(model: "type[Model]") -> dict[str, str]:
    """Return what the files are that a model's fields name, by field: "model", "picture" or "table"."""
    extras = {name: info.json_schema_extra for name, info in model.model_fields.items()}
    return {name: extra["holds"] for name, extra in extras.items() if isinstance(extra, dict) and extra.get("holds")}


@dataclass(frozen=True, slots=True)
class Description:
    """What an editor needs to know about one field."""

    name: str
    label: str
    kind: str
    unit: str
    low: float | None
    high: float | None
    soft_high: float | None
    logarithmic: bool
    choices: tuple[tuple[str, str], ...]
    default: Any
    help: str


_WITHOUT_LIMITS = (
    *("colour", "vector", "lengths", "angles", "text", "file", "choice", "switch", "curve", "hidden"),
    *("channels", "profile", "openings", "stops", "lines", "face", "metal"),
)


def described(
    default: Any,
    label: str,
    help: str = "",
    *,
    kind: str = "number",
    unit: str = "",
    low: float | None = None,
    high: float | None = None,
    soft_high: float | None = None,
    log: bool = False,
    choices: tuple[tuple[str, str], ...] = (),
    holds: str = "",
) -> Any:
    """Return a pydantic field with a description for editors.

    kind: number, whole, colour, vector, channels (red, green, blue), lengths, angles, switch, choice, curve (over
    stops), share curve (from 0 to 1), text, lines (of text), face (to letter with), metal (of the measured ones), file,
    hidden.
    holds: of a field that names a file, what is in it: "model", "picture" or "table".
    """
    extra = {"kind": kind, "unit": unit, "soft_high": soft_high, "log": log, "choices": list(choices), "holds": holds}
    limits = {} if kind in _WITHOUT_LIMITS else {"ge": low, "le": high}
    return Field(
        default, title=label, description=help, json_schema_extra={**extra, "low": low, "high": high}, **limits
    )


def rounding_field(help: str) -> Any:
    """Return the field of the radius that hard edges are shaded with."""
    return described(0.0, "Rounded edges", help, unit="mm", low=0, high=1000, soft_high=10)


def rounding_angle_field() -> Any:
    """Return the field of the angle from which on edges are rounded."""
    help = "Edges whose faces turn by less stay as they are."
    return described(30.0, "Edges above", help, unit="°", low=1, high=179)


def within(model: type[Model], name: str, value: float) -> float:
    """Return a value brought within the limits of a field; for values that are worked out, not typed."""
    extra = model.model_fields[name].json_schema_extra
    low, high = extra["low"], extra["high"]
    value = value if low is None else max(value, low)
    return value if high is None else min(value, high)


def descriptions(*models: type[Model]) -> dict[str, Description]:
    """Return the descriptions of models' fields by name, in order; fields without one are left out.

    What several kinds of one noun call the same is described the same: the first description counts.
    """
    found = {}
    for name, info in ((name, info) for model in models for name, info in model.model_fields.items()):
        extra = info.json_schema_extra
        if name in found or not isinstance(extra, dict) or extra["kind"] == "hidden":
            continue
        found[name] = Description(
            name,
            info.title or name,
            extra["kind"],
            extra["unit"],
            extra["low"],
            extra["high"],
            extra["soft_high"],
            extra["log"],
            tuple(tuple(c) for c in extra["choices"]),
            info.default,
            info.description or "",
        )
    return found

"""Ready materials: what one is, and short words to write them with."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from nocturne.colour.spaces import from_srgb
from nocturne.scene.fields import Colour
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Levels, Ramp, Step


@dataclass(frozen=True)
class Ready:
    """A material that can be put into any set, with all that it lies over.

    kind: the heading that it is found under; words: what else it is found by; materials: it, and those below it, from
    the top. stand, size_m: what its swatch is shown on. folder: of an own one, with the files that it names; None: it
    ships.
    """

    id: str
    name: str
    kind: str
    words: str
    materials: tuple[Material, ...]
    stand: str = "ball"
    size_m: float = 0.1
    folder: Path | None = None

    @property
    def is_own(self) -> bool:
        """Return True if whoever works here kept it."""
        return self.folder is not None

    def matches(self, words: str) -> bool:
        """Return True if all of some words are said of it."""
        told = f"{self.name} {self.kind} {self.words}".casefold()
        return all(word in told for word in words.casefold().split())


def ready(
    kind: str,
    name: str,
    tags: str = "",
    *,
    below: tuple[Material, ...] = (),
    stand: str = "ball",
    size: float = 0.1,
    **values: Any,
) -> Ready:
    """Return a ready material of a kind, from the fields of a material; below: what it lies over, from the top."""
    id = name.casefold().replace(",", "").replace(" ", "-")
    chain = [id, *(f"{id}-{i}" for i in range(1, len(below) + 1))]
    over = [*chain[1:], ""]
    top = Material(id=chain[0], name=name, layer_over=over[0], **values)
    rest = [m.model_copy(update={"id": i, "layer_over": o}) for m, i, o in zip(below, chain[1:], over[1:])]
    return Ready(id, name, kind, tags, (top, *rest), stand, size)


def below(name: str, **values: Any) -> Material:
    """Return a material that another one lies over."""
    return Material(id="below", name=name, **values)


def rgb(display: str) -> Colour:
    """Return the working-space colour that a display shows as “a1b2c3”."""
    return from_srgb(*(int(display[i : i + 2], 16) / 255 for i in (0, 2, 4)))


def tinted(pattern: Step, *stops: tuple[float, str], parameter: str = "base_color", **over: Any) -> tuple[Step, Step]:
    """Return steps that give a colour the tones of a pattern: (where, display colour) from its dark to its light."""
    ramp = Ramp(parameter=parameter, stops=tuple((at, *rgb(colour)) for at, colour in stops), **over)
    return pattern.model_copy(update={"parameter": parameter}), ramp


def ranged(pattern: Step, parameter: str, low: float, high: float, *, cut: tuple[float, float] = (0.0, 1.0)):
    """Return steps that lead a number from low to high by a pattern; cut: which of its tones are the ends."""
    levels = Levels(parameter=parameter, inlow=cut[0], inhigh=cut[1], outlow=low, outhigh=high)
    return pattern.model_copy(update={"parameter": parameter}), levels


def relief(pattern: Step, depth_mm: float) -> dict[str, Any]:
    """Return the fields of a shaded relief by a pattern: a step is in `steps`."""
    return {
        "relief_depth": depth_mm / 1000,
        "steps": (pattern.model_copy(update={"parameter": "geometry_height"}),),
    }

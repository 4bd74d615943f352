"""The order of closed glass and liquid: which one exists where several overlap, and what meets at their walls."""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from nocturne.colour.clears import Clear, known_as
from nocturne.scene import edit
from nocturne.scene.document import Document
from nocturne.scene.materials import Material

AIR = ""


@dataclass(frozen=True)
class Meeting:
    """Two media that overlap somewhere: ids of materials, by what the shapes say the first should win.

    names: of two things that do.
    """

    winner: str
    loser: str
    names: tuple[str, str]


def media(document: Document) -> list[Material]:
    """Return the materials that fill closed shapes, the one that wins over all others first; ties by the list."""
    found = [m for m in document.materials if m.is_medium]
    return sorted(found, key=lambda m: -m.precedence)


def place_of(document: Document, id: str) -> tuple[int, int]:
    """Return a medium's place in the order, from 1, and how many there are; place 0: it is none."""
    ids = [m.id for m in media(document)]
    return (ids.index(id) + 1 if id in ids else 0), len(ids)


def ordered(document: Document, ids: Sequence[str]) -> Document:
    """Return the document with the media in an order, the winner first; those that are not named come last.

    Raises
    ------
    SceneError
        If one of them is not there.
    """
    rest = [m.id for m in media(document) if m.id not in ids]
    every = [*ids, *rest]
    return edit.alter_each(document, "materials", {id: {"precedence": len(every) - i} for i, id in enumerate(every)})


def suggested(ids: Iterable[str], meetings: Iterable[Meeting]) -> list[str]:
    """Return media in the order that their shapes suggest; those that do not meet stay as near as they can be.

    What wins over another comes before it. Where shapes contradict each other, the present order stands.
    """
    left = list(ids)
    above: dict[str, set[str]] = {id: set() for id in left}
    for meeting in meetings:
        if meeting.winner in above and meeting.loser in above:
            above[meeting.loser].add(meeting.winner)
    out: list[str] = []
    while left:
        free = next((id for id in left if not above[id] & set(left) - {id}), left[0])
        left.remove(free)
        out.append(free)
    return out


def unsettled(document: Document, meetings: Iterable[Meeting]) -> list[Meeting]:
    """Return the meetings of media of one precedence: which of them exists, only their place in the list says."""
    precedence = {m.id: m.precedence for m in media(document)}
    return [m for m in meetings if m.winner in precedence and precedence[m.winner] == precedence.get(m.loser)]


def settled(document: Document, meetings: Iterable[Meeting]) -> Document:
    """Return the document with its media in the order that the shapes suggest, no two of one precedence."""
    return ordered(document, suggested([m.id for m in media(document)], meetings))


def ratio(document: Document, above: str, below: str) -> float:
    """Return the index of one medium over another's as light comes from the first; "" is air."""
    return index(document, below) / index(document, above)


def index(document: Document, id: str) -> float:
    """Return the refractive index of a medium, 1 for air."""
    material = document.find("materials", id) if id else None
    return material.specular_ior if material is not None else 1.0


def bent(angle: float, ratio: float) -> float | None:
    """Return the angle, radians to the normal, behind a wall of an index ratio; None: all is reflected (Snell)."""
    s = math.sin(angle) / ratio
    return math.asin(s) if abs(s) <= 1 else None


def substance(material: Material) -> Clear | None:
    """Return the measured substance that a material's index and Abbe number are those of, None if of none.

    How much of its dispersion counts is left out: without it there is less noise.
    """
    return known_as(material.specular_ior, material.transmission_dispersion_abbe_number)


def as_substance(document: Document, id: str, clear: Clear) -> Document:
    """Return the document with a material that bends light and parts colours as a measured substance does."""
    values: dict = {"specular_ior": clear.index, "transmission_dispersion_scale": float(clear.abbe is not None)}
    if clear.abbe is not None:
        values["transmission_dispersion_abbe_number"] = clear.abbe
    return edit.alter(document, "materials", id, **values)

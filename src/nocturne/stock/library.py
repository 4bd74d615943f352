"""The ready materials that ship, by kind: made of patterns and measured numbers. Reading this file takes a second."""

from functools import cache

from nocturne.stock.cloth import FABRICS, LEATHERS, PAPERS
from nocturne.stock.glasses import GLASSES, LIQUIDS
from nocturne.stock.glows import GLOWS
from nocturne.stock.metals import METALS
from nocturne.stock.paints import CERAMICS, PAINTS
from nocturne.stock.plastics import PLASTICS
from nocturne.stock.ready import Ready
from nocturne.stock.soft import SOFT
from nocturne.stock.stones import PLASTERS, STONES
from nocturne.stock.woods import WOODS


@cache
def shipped() -> dict[str, Ready]:
    """Return the materials that ship, by id, in the order of their kinds."""
    every = (
        *(WOODS, METALS, PLASTICS, GLASSES, LIQUIDS, STONES, PLASTERS, FABRICS, LEATHERS, PAPERS, PAINTS, CERAMICS),
        *(SOFT, GLOWS),
    )
    return {one.id: one for group in every for one in group}


def kinds() -> tuple[str, ...]:
    """Return the headings, in order."""
    return tuple(dict.fromkeys(one.kind for one in shipped().values()))

"""Units of MaterialX values: what a number is in, and what it comes to where it is used (MaterialX 1.39, Units)."""

import math
from typing import Any

# Lengths are in the scene's unit, which is a metre here, but for films, whose surfaces say what they take.
_TAKEN = {
    ("open_pbr_surface", "thin_film_thickness"): "micron",
    ("standard_surface", "thin_film_thickness"): "nanometer",
    ("gltf_pbr", "iridescence_thickness"): "nanometer",
    ("gltf_pbr", "anisotropy_rotation"): "radian",
}
_USUAL = {"distance": "meter", "angle": "degree"}


class Units:
    """The units that a document knows, its own ones and the standard's."""

    def __init__(self, document: Any) -> None:
        self._scales: dict[str, dict[str, float]] = {}
        for about in document.getUnitDefs():
            known = self._scales.setdefault(about.getUnitType(), {})
            for unit in about.getUnits():
                scale = _number(unit.getAttribute("scale"))
                if 0 < scale < math.inf:
                    known[unit.getName()] = scale

    def factor(self, found: Any, category: str, asked: Any) -> float:
        """Return what an input's value is multiplied with to be in the unit in which its node takes it.

        found: the input that says the value. asked: the node's definition of the input it counts for, None if there is
        none. 1 where it says no unit, or one that is not known (`unknown`).
        """
        unit, kind = found.getUnit(), self._kind(found, asked)
        scales = self._scales.get(kind, {})
        if unit not in scales:
            return 1.0
        name = asked.getName() if asked is not None else found.getName()
        taken = _TAKEN.get((category, name)) or (asked.getUnit() if asked is not None else "") or _USUAL.get(kind, "")
        return scales[unit] / scales[taken] if taken in scales else 1.0

    def _kind(self, found: Any, asked: Any) -> str:
        given = found.getUnitType() or (asked.getUnitType() if asked is not None else "")
        return given or next((kind for kind, scales in self._scales.items() if found.getUnit() in scales), "")

    def unknown(self, document: Any) -> list[str]:
        """Return what values of a document are said to be in that is not known, or is not followed, in words."""
        out: dict[str, None] = {}
        known = {name for scales in self._scales.values() for name in scales}
        for element in document.traverseTree():
            unit = element.getAttribute("unit")
            if not unit:
                continue
            if unit not in known:
                out[f"the unit “{unit}”: its numbers are taken as they are"] = None
            elif element.getType() == "filename":
                out[f"“{unit}”, in which the values of a picture are: they are taken as they are"] = None
        return list(out)


def _number(text: str) -> float:
    try:
        return float(text)
    except ValueError:
        return 0.0

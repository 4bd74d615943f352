"""UsdLux lights as lights of a document.

References
----------
OpenUSD 26.11, UsdLux: intensity is the luminance of what shines in nits; with `normalize` it is divided by the area.
"""

import math
from collections.abc import Callable
from typing import Any

import numpy as np

from nocturne.colour.blackbody import blackbody
from nocturne.colour.spaces import luminance, rec709_to_working
from nocturne.io.models.arrival import Notes
from nocturne.scene.fields import within
from nocturne.scene.lights import KINDS, Light, make_light
from nocturne.scene.shapes import transform

# Where the middle, the left and the top of a dome's picture lie, as columns: here and, untransformed, in USD (the
# latitude-longitude map of OpenEXR: z in its middle, x to its left, y at its top).
PICTURE_IN_USD = np.array([[0.0, 1, 0], [0, 0, 1], [1, 0, 0]])
_UP = transform((0.0, 0.0, 0.0), (90.0, 0.0, 0.0))[:3, :3]  # brings y up to z up


def _picture_stands(prim: Any, world: np.ndarray) -> tuple[float, bool]:
    """Return the azimuth of the middle of a dome's picture, degrees, z up, and whether its top is above."""
    from pxr import UsdGeom

    is_z_up = UsdGeom.GetStageUpAxis(prim.GetStage()) == UsdGeom.Tokens.z
    stands = world[:3, :3] / np.maximum(np.linalg.norm(world[:3, :3], axis=0), 1e-12)
    pole = prim.GetAttribute("poleAxis").Get() if prim.HasAttribute("poleAxis") else "Y"
    if pole == "Z" or (pole == "scene" and is_z_up):
        stands = stands @ _UP
    middle, left, top = ((stands if is_z_up else _UP @ stands) @ PICTURE_IN_USD).T
    is_upright = bool(top[2] > math.cos(math.radians(1.0)) and np.cross(middle, left) @ top > 0)
    return math.degrees(math.atan2(middle[1], middle[0])), is_upright


def light_of(
    prim: Any, time: Any, world: np.ndarray, id: str, asset: Callable[[Any], str], notes: Notes, *, unit_m: float
) -> Light | None:
    """Return a light of a prim, without its place; None if it has no equal, which is noted.

    world: its (4, 4) matrix, by which its sizes grow. asset: names a picture. unit_m: the stage's unit; sizes are in
    it, candela are of metres.
    """
    from pxr import UsdLux

    kind, name = prim.GetTypeName(), prim.GetDisplayName() or prim.GetName()

    def get(field: str, default: float = 0.0) -> float:
        value = prim.GetAttribute(f"inputs:{field}").Get(time)
        return float(value) if value is not None and math.isfinite(float(value)) else default

    size = np.linalg.norm(world[:3, :3], axis=0)
    rgb = rec709_to_working() @ np.array(prim.GetAttribute("inputs:color").Get(time) or (1.0, 1.0, 1.0), float)
    if prim.GetAttribute("inputs:enableColorTemperature").Get(time):
        rgb = rgb * blackbody(min(max(get("colorTemperature", 6500.0), 800.0), 40000.0))
    rgb = np.clip(np.nan_to_num(rgb), 0, None)
    bright = get("intensity", 1.0) * 2.0 ** min(get("exposure"), 64.0) * float(luminance(rgb))
    colour = tuple(float(v) for v in rgb / max(float(rgb.max()), 1e-12))
    is_normal = bool(prim.GetAttribute("inputs:normalize").Get(time))
    shaping = UsdLux.ShapingAPI(prim)
    cone = get("shaping:cone:angle", 90.0) if prim.HasAPI(UsdLux.ShapingAPI) else 90.0
    if prim.HasAPI(UsdLux.ShapingAPI) and shaping.GetShapingIesFileAttr().Get(time):
        notes.lose(f"“{name}”: its photometric profile")

    def made(which: str, power: float, unit: str, **values: Any) -> Light:
        fields = KINDS[which].model_fields
        held = {
            key: within(KINDS[which], key, float(v)) if isinstance(v, float) else v
            for key, v in values.items()
            if key in fields
        }
        power = min(max(power, 0.0), 1e12)
        return make_light(
            kind=which, id=id, name=name, unit=unit, power=power, colour_from="colour", colour=colour, **held
        )

    def nits(area: float) -> float:
        return bright / max(area, 1e-12) if is_normal else bright

    if kind == "RectLight":
        w, h = get("width", 1.0) * size[0], get("height", 1.0) * size[1]
        return made("rect", nits(w * h), "nit", width=float(w), height=float(h))
    if kind in ("DiskLight", "SphereLight") and cone < 90.0:
        r = get("radius", 0.5) * float(size.mean())
        candela = nits(math.pi * r * r * (4 if kind == "SphereLight" else 1)) * math.pi * (r * unit_m) ** 2
        inner = cone * (1 - min(max(get("shaping:cone:softness"), 0.0), 1.0))
        return made(
            "spot", candela, "cd", outer_deg=float(max(cone, 0.1)), inner_deg=float(min(inner, 89.0)), bulb_radius=r
        )
    if kind == "DiskLight":
        r = get("radius", 0.5) * float(size[:2].mean())
        return made("disc", nits(math.pi * r * r), "nit", radius=r)
    if kind == "SphereLight":
        r = get("radius", 0.5) * float(size.mean())
        if prim.GetAttribute("treatAsPoint").Get(time) or r <= 0:
            # A point has no surface: it shines with that of a ball of its radius, or of the default one.
            r = r if r > 0 else 0.5 * float(size.mean())
            return made("point", nits(4 * math.pi * r * r) * math.pi * (r * unit_m) ** 2, "cd")
        return made("sphere", nits(4 * math.pi * r * r), "nit", radius=r)
    if kind == "CylinderLight":
        r, long = get("radius", 0.5) * float(size[1:].mean()), get("length", 1.0) * float(size[0])
        return made("tube", nits(2 * math.pi * r * long), "nit", radius=r, length=long)
    if kind == "DistantLight":
        angle = min(max(get("angle", 0.53), 0.1), 90.0)
        sine = math.sin(math.radians(angle) / 2) ** 2
        return made("distant", bright if is_normal else bright * math.pi * sine, "lx", angle_deg=angle)
    if kind == "DomeLight" or kind.startswith("DomeLight"):
        picture = prim.GetAttribute("inputs:texture:file").Get(time)
        if picture is not None and picture.path:
            azimuth, is_upright = _picture_stands(prim, world)
            if not is_upright:
                notes.lose(f"“{name}”: how its picture is tilted or mirrored; it stands upright")
            return made("environment", bright, "nit", image=asset(picture), azimuth_deg=azimuth)
        return made("dome", bright, "nit")
    notes.lose(f"“{name}”: {kind}")
    return None

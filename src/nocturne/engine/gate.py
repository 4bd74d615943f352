"""From document parts to the numbers the kernels read; nothing after this file checks again."""

import math
from functools import cache

import numpy as np

from nocturne.engine.layout import camera as cam
from nocturne.engine.layout import mat
from nocturne.engine.layout import pattern as pat
from nocturne.engine.layout import settings as st
from nocturne.scene.camera import View, aperture_radius, half_width
from nocturne.scene.materials import Material
from nocturne.scene.outputs import Quality
from nocturne.scene.patterns import Step
from nocturne.scene.projection import camera_axes

_ENDLESS = 1e30
_OFFSETS = {
    "base_color": (mat.BASE, 3),
    "base_metalness": (mat.METALNESS, 1),
    "specular_roughness": (mat.ROUGHNESS, 1),
    "specular_color": (mat.SPECULAR_COLOR, 3),
    "specular_weight": (mat.SPECULAR_WEIGHT, 1),
    "specular_ior": (mat.IOR, 1),
    "coat_ior": (mat.COAT_IOR, 1),
    "transmission_weight": (mat.TRANSMISSION, 1),
    "transmission_color": (mat.TRANS_COLOR, 3),
    "coat_weight": (mat.COAT, 1),
    "coat_color": (mat.COAT_COLOR, 3),
    "coat_roughness": (mat.COAT_ROUGHNESS, 1),
    "emission_color": (mat.EMISSION, 3),
    "geometry_normal": (mat.NORMAL, 3),
}


def absorption(colour: tuple[float, float, float], depth: float) -> np.ndarray:
    """Return the (3,) absorption coefficient, 1/m, that leaves `colour` of white after `depth` (Beer and Lambert)."""
    if depth <= 0:
        return np.zeros(3)
    return -np.log(np.clip(colour, 1e-6, 1.0)) / depth


def material_row(material: Material) -> np.ndarray:
    """Return the float32 row of a material."""
    m = material
    normal = next((x for x in reversed(m.textures) if x.parameter == "geometry_normal" and x.on), None)
    return mat.FLOATS.filled(
        np.float32,
        BASE=np.maximum(m.base_color, 0),
        METALNESS=m.base_metalness,
        ROUGHNESS=m.specular_roughness,
        IOR=m.specular_ior,
        TRANSMISSION=m.transmission_weight,
        TRANS_DEPTH=m.transmission_depth,
        TRANS_COLOR=np.maximum(m.transmission_color, 0),
        COAT=m.coat_weight,
        COAT_ROUGHNESS=m.coat_roughness,
        COAT_IOR=m.coat_ior,
        COAT_COLOR=np.maximum(m.coat_color, 0),
        COAT_DARKENING=m.coat_darkening,
        EMISSION=np.maximum(m.emission_color, 0) * np.float64(m.emission_luminance),
        N=m.metal_n,
        K=m.metal_k,
        HAS_NK=m.metal_from == "nk",
        SPECULAR_COLOR=np.maximum(m.specular_color, 0),
        SPECULAR_WEIGHT=m.specular_weight,
        NORMAL=(0.5, 0.5, 1.0),
        NORMAL_AMOUNT=normal.amount if normal else 0,
        SIGMA_A=absorption(m.transmission_color, m.transmission_depth) if m.is_medium else 0,
    )


@cache
def _steps() -> dict:
    """Return the file that works out each kind of step; kernels are imported only when they are needed."""
    from nocturne.engine.kernels.patterns.steps import STEPS

    return STEPS


def binding(step: Step, slot: int) -> tuple[np.ndarray, np.ndarray]:
    """Return the integer and float row of a step that drives a parameter; slot: of its picture, if it has one."""
    offset, channels = _OFFSETS[step.parameter]
    blend = pat.MULTIPLY if step.multiply or step.parameter == "emission_color" else pat.REPLACE
    is_inverted = step.invert and step.parameter != "geometry_normal"
    to_u, to_v = step.affine()
    made = _steps()[step.kind]
    whole = {"PARAMETER": offset, "CHANNELS": channels, "KIND": made.NUMBER, "TEXTURE": slot, "BLEND": blend}
    whole["SECOND_SET"] = int(step.uv_set == 2)
    stretch = math.sqrt(abs(to_u[0] * to_v[1] - to_u[1] * to_v[0]))
    floats = {"TO_U": to_u, "TO_V": to_v, "STRETCH": stretch, "SHARE": step.share, "IS_INVERTED": is_inverted}
    return pat.BINDING.filled(np.int32, **whole), pat.PLACEMENT.filled(np.float32, **floats, **made.parts(step))


def camera_row(view: View, width: int, height: int) -> np.ndarray:
    """Return the float32 row of a view for a picture of width x height pixels.

    The sensor's width spans the view's own proportion; a picture of another proportion shows at least that much.
    """
    right, up, forward = camera_axes(view)
    kinds = {"perspective": cam.PERSPECTIVE, "orthographic": cam.PARALLEL, "panorama": cam.AROUND}
    half = half_width(view, 1.0)
    own, wanted = view.width / view.height, width / height
    half_x = half if wanted <= own else half * wanted / own
    is_parallel = view.projection == "orthographic"
    return cam.ROW.filled(
        np.float32,
        POS=view.eye,
        RIGHT=right,
        UP=up,
        FORWARD=forward,
        KIND=kinds[view.projection],
        HALF_X=half_x,
        HALF_Y=half_x / wanted,
        LENS_RADIUS=aperture_radius(view),
        FOCUS=view.focus_m,
        BLADES=view.blades if view.blades >= 3 else 0,
        BLADES_TURN=math.radians(view.blades_turn_deg),
        CUT=view.cut_m,
        FAR=view.far_m or _ENDLESS,
        WIDTH=width,
        HEIGHT=height,
        PIXEL=0.0 if is_parallel else 2 * half_x / width,
        PIXEL_WIDTH=2 * half_x / width if is_parallel else 0.0,
        SHIFT_X=view.shift_x,
        SHIFT_Y=view.shift_y,
    )


def settings_rows(quality: Quality, white: float, **counts: int) -> tuple[np.ndarray, np.ndarray]:
    """Return the float32 and int32 settings; what depends on the scene is given by name in `counts`."""
    return st.FLOATS.filled(np.float32, CLAMP=quality.clamp * white, REGULARISE=quality.regularise**2), st.WHOLE.filled(
        np.int32,
        DIFFUSE=quality.diffuse_bounces,
        REFLECTION=quality.reflections,
        TRANSMISSION=quality.transmissions,
        TOTAL=quality.bounces,
        **counts,
    )


def inverse_filter(n: int = 256, radius: float = 1.5) -> np.ndarray:
    """Return (n + 1,) float32 inverse of the Blackman-Harris filter's running sum, pixels (Harris 1978)."""
    x = np.linspace(-radius, radius, 4097)
    t = (x / radius + 1) / 2
    w = 0.35875 - 0.48829 * np.cos(2 * np.pi * t) + 0.14128 * np.cos(4 * np.pi * t) - 0.01168 * np.cos(6 * np.pi * t)
    running = np.concatenate([[0], np.cumsum((w[1:] + w[:-1]) / 2)])
    return np.interp(np.linspace(0, 1, n + 1), running / running[-1], x).astype(np.float32)

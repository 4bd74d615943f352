"""From document parts to the numbers the kernels read; nothing after this file checks again."""

import math

import numpy as np

from nocturne.engine.layout import camera as cam
from nocturne.engine.layout import light as li
from nocturne.engine.layout import mat
from nocturne.engine.layout import settings as st
from nocturne.scene.camera import View, aperture_radius
from nocturne.scene.lights import Light, chroma, strength
from nocturne.scene.materials import Material, Texture
from nocturne.scene.outputs import Quality
from nocturne.scene.patterns import affine
from nocturne.scene.projection import camera_axes
from nocturne.scene.shapes import rotation

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
MULTIPLY, REPLACE = 1, 0


def absorption(colour: tuple[float, float, float], depth: float) -> np.ndarray:
    """Return the (3,) absorption coefficient, 1/m, that leaves `colour` of white after `depth` (Beer and Lambert)."""
    if depth <= 0:
        return np.zeros(3)
    return -np.log(np.clip(colour, 1e-6, 1.0)) / depth


def material_row(material: Material) -> np.ndarray:
    """Return the (48,) float32 row of a material."""
    m, out = material, np.zeros(mat.COUNT, np.float32)
    out[mat.BASE : mat.BASE + 3] = np.maximum(m.base_color, 0)
    out[mat.METALNESS], out[mat.ROUGHNESS], out[mat.IOR] = m.base_metalness, m.specular_roughness, m.specular_ior
    out[mat.TRANSMISSION], out[mat.TRANS_DEPTH] = m.transmission_weight, m.transmission_depth
    out[mat.TRANS_COLOR : mat.TRANS_COLOR + 3] = np.maximum(m.transmission_color, 0)
    out[mat.COAT], out[mat.COAT_ROUGHNESS], out[mat.COAT_IOR] = m.coat_weight, m.coat_roughness, m.coat_ior
    out[mat.COAT_COLOR : mat.COAT_COLOR + 3] = np.maximum(m.coat_color, 0)
    out[mat.COAT_DARKENING] = m.coat_darkening
    out[mat.EMISSION : mat.EMISSION + 3] = np.maximum(m.emission_color, 0) * np.float64(m.emission_luminance)
    out[mat.N : mat.N + 3], out[mat.K : mat.K + 3] = m.metal_n, m.metal_k
    out[mat.HAS_NK] = m.metal_from == "nk"
    out[mat.SPECULAR_COLOR : mat.SPECULAR_COLOR + 3] = np.maximum(m.specular_color, 0)
    out[mat.SPECULAR_WEIGHT] = m.specular_weight
    out[mat.NORMAL : mat.NORMAL + 3] = (0.5, 0.5, 1.0)
    if m.is_medium:
        out[mat.SIGMA_A : mat.SIGMA_A + 3] = absorption(m.transmission_color, m.transmission_depth)
    for texture in m.textures:
        if texture.parameter == "geometry_normal" and texture.on:
            out[mat.NORMAL_AMOUNT] = texture.amount
    return out


def binding(texture: Texture, slot: int) -> tuple[list[int], list[float]]:
    """Return the integer and float row of a texture that drives a parameter."""
    offset, channels = _OFFSETS[texture.parameter]
    blend = MULTIPLY if texture.parameter == "emission_color" else REPLACE
    is_inverted = texture.invert and texture.parameter != "geometry_normal"
    return [offset, channels, slot, blend], [*affine(texture).ravel(), texture.share, float(is_inverted)]


def encode_texels(image: np.ndarray) -> tuple[np.ndarray, float]:
    """Return (h * w, 3) uint16 square-root encoded texels and their scale."""
    image = np.maximum(image, 0)
    scale = max(float(image.max()), 1e-6)
    return np.rint(np.sqrt(image / scale) * 65535).astype(np.uint16).reshape(-1, 3), scale


def light_row(light: Light) -> np.ndarray:
    """Return the (32,) float32 row of a light with a place."""
    out = np.zeros(32, np.float32)
    out[li.RGB : li.RGB + 3] = chroma(light) * strength(light)
    turn = rotation(light.turn_deg)
    out[li.POS : li.POS + 3] = light.place
    if light.kind == "rect":
        out[li.X : li.X + 3] = turn[:, 0] * light.width / 2
        out[li.Y : li.Y + 3] = turn[:, 1] * light.height / 2
        out[li.N : li.N + 3] = -turn[:, 2]
        out[li.AREA] = light.width * light.height
    elif light.kind == "spot":
        out[li.X : li.X + 3] = -turn[:, 2]
        inner = min(light.inner_deg, light.outer_deg)
        out[li.COS_INNER], out[li.COS_OUTER] = math.cos(math.radians(inner)), math.cos(math.radians(light.outer_deg))
    out[li.RADIUS] = light.radius
    return out


def camera_row(view: View, width: int, height: int) -> np.ndarray:
    """Return the (32,) float32 row of a view for a picture of width x height pixels.

    The sensor's width spans the view's own proportion; a picture of another proportion shows at least that much.
    """
    out = np.zeros(32, np.float32)
    right, up, forward = camera_axes(view)
    out[cam.POS : cam.POS + 3], out[cam.RIGHT : cam.RIGHT + 3] = view.eye, right
    out[cam.UP : cam.UP + 3], out[cam.FORWARD : cam.FORWARD + 3] = up, forward
    half = view.sensor_mm / (2 * view.focal_mm)
    own, wanted = view.width / view.height, width / height
    tan_x = half if wanted <= own else half * wanted / own
    if wanted < own:
        tan_x = half
    out[cam.TAN_X], out[cam.TAN_Y] = tan_x, tan_x / wanted
    out[cam.LENS_RADIUS], out[cam.FOCUS] = aperture_radius(view), view.focus_m
    out[cam.BLADES] = view.blades if view.blades >= 3 else 0
    out[cam.BLADES_TURN], out[cam.CUT] = math.radians(view.blades_turn_deg), view.cut_m
    out[cam.WIDTH], out[cam.HEIGHT] = width, height
    out[cam.SHIFT_X], out[cam.SHIFT_Y] = view.shift_x, view.shift_y
    return out


def settings_rows(quality: Quality, white: float) -> tuple[np.ndarray, np.ndarray]:
    """Return the (16,) float32 and int32 settings; what depends on the scene is filled in by `prepare`."""
    floats, whole = np.zeros(16, np.float32), np.zeros(16, np.int32)
    floats[st.CLAMP] = quality.clamp * white
    floats[st.REGULARISE] = quality.regularise**2
    whole[st.DIFFUSE], whole[st.REFLECTION] = quality.diffuse_bounces, quality.reflections
    whole[st.TRANSMISSION], whole[st.TOTAL] = quality.transmissions, quality.bounces
    return floats, whole


def inverse_filter(n: int = 256, radius: float = 1.5) -> np.ndarray:
    """Return (n + 1,) float32 inverse of the Blackman-Harris filter's running sum, pixels (Harris 1978)."""
    x = np.linspace(-radius, radius, 4097)
    t = (x / radius + 1) / 2
    w = 0.35875 - 0.48829 * np.cos(2 * np.pi * t) + 0.14128 * np.cos(4 * np.pi * t) - 0.01168 * np.cos(6 * np.pi * t)
    running = np.concatenate([[0], np.cumsum((w[1:] + w[:-1]) / 2)])
    return np.interp(np.linspace(0, 1, n + 1), running / running[-1], x).astype(np.float32)

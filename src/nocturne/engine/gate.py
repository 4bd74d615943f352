"""From document parts to the numbers the kernels read; nothing after this file checks again."""

import math

import numpy as np

from nocturne.engine.layout import camera as cam
from nocturne.engine.layout import mat
from nocturne.engine.layout import settings as st
from nocturne.scene import metals
from nocturne.scene.camera import View, aperture_radius, half_width
from nocturne.scene.materials import Material
from nocturne.scene.outputs import Quality
from nocturne.scene.projection import camera_axes

_ENDLESS = 1e30


def absorption(colour: tuple[float, float, float], depth: float) -> np.ndarray:
    """Return the (3,) absorption coefficient, 1/m, that leaves `colour` of white after `depth` (Beer and Lambert)."""
    if depth <= 0:
        return np.zeros(3)
    return -np.log(np.clip(colour, 1e-6, 1.0)) / depth


def medium_inside(material: Material) -> tuple[np.ndarray, np.ndarray]:
    """Return (3,) extinction and scattering, 1/m, inside of a closed shape of a material.

    The transmission colour is what is left of straight light after the depth (OpenPBR 1.1, translucent base): where
    more scatters than is lost, all channels absorb more, so that none gives light back.
    """
    m = material
    if not m.is_medium or m.transmission_depth <= 0:
        return np.zeros(3), np.zeros(3)
    scattering = np.array(m.transmission_scatter) / m.transmission_depth
    absorbing = absorption(m.transmission_color, m.transmission_depth) - scattering
    absorbing -= min(float(absorbing.min()), 0.0)
    return absorbing + scattering, scattering


def material_row(material: Material) -> np.ndarray:
    """Return the float32 row of a material."""
    m = material
    extinction, scattering = medium_inside(m)
    n, k = metals.indices(m) if m.metal_from in metals.BY_INDEX else (m.metal_n, m.metal_k)
    # A metal of one colour has no tint at its edge; of a mixture, what is no metal keeps its own.
    is_plain = m.metal_from == "plain" and m.base_metalness >= 1
    normal = next((x for x in reversed(m.steps) if x.parameter == "geometry_normal" and x.on), None)
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
        EMISSION_COLOR=np.maximum(m.emission_color, 0),
        LUMINANCE=m.emission_luminance,
        EMISSION=np.maximum(m.emission_color, 0) * np.float64(m.emission_luminance) * m.geometry_opacity,
        LOOKS=2.0**m.emission_look_stops,
        N=n,
        K=k,
        HAS_NK=m.metal_from in metals.BY_INDEX,
        SPECULAR_COLOR=1 if is_plain else np.maximum(m.specular_color, 0),
        SPECULAR_WEIGHT=m.specular_weight,
        RELIEF=m.relief_depth,
        NORMAL=(0.5, 0.5, 1.0),
        NORMAL_AMOUNT=normal.amount if normal else 0,
        BASE_WEIGHT=m.base_weight,
        DIFFUSE_ROUGHNESS=m.base_diffuse_roughness,
        ANISOTROPY=m.specular_roughness_anisotropy,
        ROTATION=m.specular_rotation_deg,
        TAIL=m.specular_tail,
        TAIL_ROUGHNESS=m.specular_tail_roughness,
        COAT_ANISOTROPY=m.coat_roughness_anisotropy,
        COAT_ROTATION=m.coat_rotation_deg,
        COAT_TAIL=m.coat_tail,
        COAT_TAIL_ROUGHNESS=m.coat_tail_roughness,
        COAT_LEVELLING=m.coat_levelling,
        FUZZ=m.fuzz_weight,
        FUZZ_COLOR=m.fuzz_color,
        FUZZ_ROUGHNESS=m.fuzz_roughness,
        FILM=m.thin_film_weight,
        FILM_THICKNESS=m.thin_film_thickness_nm,
        FILM_IOR=m.thin_film_ior,
        OPACITY=m.geometry_opacity,
        SUBSURFACE=m.subsurface_weight,
        SUBSURFACE_COLOR=m.subsurface_color,
        RADIUS=m.subsurface_radius_mm,
        RADIUS_SCALE=m.subsurface_radius_scale,
        SUBSURFACE_G=m.subsurface_scatter_anisotropy,
        COVER=m.layer_cover,
        THICKNESS=m.layer_thickness_mm / 1000,
        ROUNDING=m.rounding_mm / 1000,
        ROUNDING_COSINE=math.cos(math.radians(m.rounding_angle_deg)),
        SIGMA_T=extinction,
        SIGMA_S=scattering,
        SCATTER_G=m.transmission_scatter_anisotropy,
        DISPERSION=m.transmission_dispersion_scale / m.transmission_dispersion_abbe_number if m.is_medium else 0,
    )


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
        OVERLAPS=quality.overlaps,
        **counts,
    )


def inverse_filter(n: int = 256, radius: float = 1.5) -> np.ndarray:
    """Return (n + 1,) float32 inverse of the Blackman-Harris filter's running sum, pixels (Harris 1978)."""
    x = np.linspace(-radius, radius, 4097)
    t = (x / radius + 1) / 2
    w = 0.35875 - 0.48829 * np.cos(2 * np.pi * t) + 0.14128 * np.cos(4 * np.pi * t) - 0.01168 * np.cos(6 * np.pi * t)
    running = np.concatenate([[0], np.cumsum((w[1:] + w[:-1]) / 2)])
    return np.interp(np.linspace(0, 1, n + 1), running / running[-1], x).astype(np.float32)

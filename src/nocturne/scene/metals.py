"""What a metal reflects, by whichever way it is given."""

from functools import lru_cache

import numpy as np

from nocturne.colour import metals
from nocturne.scene.materials import Material

BY_INDEX = ("table", "nk", "spectrum")


def indices(material: Material) -> tuple[tuple, tuple]:
    """Return n and k of a material's metal in red, green and blue; the typed ones where there are no others."""
    if material.metal_from == "table" and material.metal_name in metals.metals():
        metal = metals.metals()[material.metal_name]
        return metal.channel_n, metal.channel_k
    if material.metal_from == "spectrum" and len(material.metal_spectrum) >= 2:
        return _of_spectrum(material.metal_spectrum)
    return typed(material)


def typed(material: Material) -> tuple[tuple, tuple]:
    """Return the typed n and k, taken from the wavelengths they are typed at to those of the channels."""
    waves = material.metal_wavelengths_nm
    if waves == metals.CHANNELS_NM:
        return material.metal_n, material.metal_k
    order = np.argsort(waves)
    at = np.array(waves)[order]
    n, k = (np.interp(metals.CHANNELS_NM, at, np.array(v)[order]) for v in (material.metal_n, material.metal_k))
    return tuple(n.tolist()), tuple(k.tolist())


def spectrum(material: Material) -> tuple[np.ndarray, np.ndarray, np.ndarray] | None:
    """Return (wavelength in nm, n, k) of a measured metal, None if it is given by less than that."""
    if material.metal_from == "table" and material.metal_name in metals.metals():
        metal = metals.metals()[material.metal_name]
        return metal.wavelength_nm, metal.n, metal.k
    if material.metal_from == "spectrum" and len(material.metal_spectrum) >= 2:
        return tuple(np.array(material.metal_spectrum).T)
    return None


@lru_cache(64)
def _of_spectrum(rows: tuple) -> tuple[tuple, tuple]:
    return metals.of_channels(*np.array(rows).T)


def reflected(material: Material, cosine: np.ndarray) -> np.ndarray:
    """Return the (..., 3) reflectance of a material's metal in air at cosines (OpenPBR 1.1, metal; Born and Wolf)."""
    c = np.asarray(cosine, float)[..., None]
    if material.metal_from in BY_INDEX:
        n, k = (np.array(v) for v in indices(material))
        return material.specular_weight * metals.fresnel(c, n, k)
    face = np.array(material.base_color) * material.base_weight
    edge = np.ones(3) if material.metal_from == "plain" else np.array(material.specular_color)
    low = metals.EDGE
    schlick = face + (1 - face) * (1 - c) ** 5
    at_edge = face + (1 - face) * (1 - low) ** 5
    bend = at_edge * (1 - edge) / (low * (1 - low) ** 6)
    return material.specular_weight * np.clip(schlick - bend * c * (1 - c) ** 6, 0, 1)


def face_on(material: Material) -> tuple[float, float, float]:
    """Return the reflectance of a material's metal that is looked at face on, without its weight."""
    if material.metal_from not in BY_INDEX:
        return material.base_color
    n, k = (np.array(v) for v in indices(material))
    return tuple(float(v) for v in metals.fresnel(1.0, n, k))


def edge_tint(material: Material) -> tuple[float, float, float]:
    """Return OpenPBR's tint at 82 degrees that gives the reflectance there, (3,) from 0 to 1."""
    if material.metal_from == "plain":
        return (1.0, 1.0, 1.0)
    if material.metal_from not in BY_INDEX:
        return material.specular_color
    n, k = (np.array(v) for v in indices(material))
    face = metals.fresnel(1.0, n, k)
    schlick = face + (1 - face) * (1 - metals.EDGE) ** 5
    return tuple(float(v) for v in np.clip(metals.fresnel(metals.EDGE, n, k) / schlick, 0, 1))

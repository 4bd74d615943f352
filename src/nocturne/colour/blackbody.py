"""The colour of a glowing body by its temperature."""

from functools import lru_cache

import numpy as np

from nocturne.colour.spaces import AP1, adaptation, luminance, rgb_to_xyz, xy_to_xyz, xyz_to_working

_H, _C, _K = 6.62607015e-34, 2.99792458e8, 1.380649e-23
_WAVELENGTHS_NM = np.arange(360.0, 831.0, 1.0)


def _lobe(x, mean, below, above):
    t = (x - mean) * np.where(x < mean, below, above)
    return np.exp(-0.5 * t * t)


def observer(wavelength_nm: np.ndarray) -> np.ndarray:
    """Return (..., 3) CIE 1931 colour matching values (Wyman, Sloan and Shirley 2013, multi-lobe fit)."""
    w = np.asarray(wavelength_nm, float)
    x = 1.056 * _lobe(w, 599.8, 0.0264, 0.0323) + 0.362 * _lobe(w, 442.0, 0.0624, 0.0374)
    x -= 0.065 * _lobe(w, 501.1, 0.0490, 0.0382)
    y = 0.821 * _lobe(w, 568.8, 0.0213, 0.0247) + 0.286 * _lobe(w, 530.9, 0.0613, 0.0322)
    z = 1.217 * _lobe(w, 437.0, 0.0845, 0.0278) + 0.681 * _lobe(w, 459.0, 0.0385, 0.0725)
    return np.stack([x, y, z], axis=-1)


def planck(wavelength_nm: np.ndarray, kelvin: float) -> np.ndarray:
    """Return spectral radiance, W m^-3 sr^-1, of a blackbody (Planck's law)."""
    w = np.asarray(wavelength_nm, float) * 1e-9
    return 2 * _H * _C**2 / w**5 / np.expm1(_H * _C / (w * _K * kelvin))


@lru_cache(512)
def blackbody_xyz(kelvin: float) -> np.ndarray:
    """Return XYZ with Y = 1 of a blackbody, 500 K to 40,000 K."""
    xyz = planck(_WAVELENGTHS_NM, kelvin) @ observer(_WAVELENGTHS_NM)
    return xyz / xyz[1]


def blackbody(kelvin: float) -> np.ndarray:
    """Return the working-space colour with luminance 1 of a blackbody at `kelvin`, clipped to be non-negative."""
    rgb = np.maximum(xyz_to_working(blackbody_xyz(float(kelvin))), 0)
    return rgb / luminance(rgb)


def white_balance(kelvin: float) -> np.ndarray:
    """Return the (3, 3) working-space matrix that makes light of a blackbody at `kelvin` neutral.

    The light is taken as it is rendered: below about 2,100 K its blue is outside the working space and was clipped.
    """
    to_xyz = rgb_to_xyz(AP1)
    move = adaptation(to_xyz @ blackbody(float(kelvin)), xy_to_xyz(*AP1[3]))
    return np.linalg.inv(to_xyz) @ move @ to_xyz

"""Sun and clear sky of the day, from elevation and turbidity.

Sky: Preetham, Shirley and Smits 1999, A practical analytic model for daylight (luminance and chromaticity). Sun: the
extraterrestrial sun dimmed by Rayleigh, aerosol and ozone losses of the same paper's appendix, at three wavelengths.
Good by day; near and below the horizon it only stays plausible.
"""

import math

import numpy as np

from nocturne.colour.blackbody import blackbody
from nocturne.colour.spaces import luminance, xyz_to_working

SUN_RADIUS = math.radians(0.533 / 2)
EXTRATERRESTRIAL_LX = 133_100.0  # illuminance of the sun outside the atmosphere (Allen's Astrophysical Quantities)
_WAVELENGTHS_UM = np.array([0.610, 0.545, 0.455])
_OZONE_PER_CM = np.array([0.118, 0.084, 0.006])


def air_mass(elevation: float) -> float:
    """Return the relative optical air mass for an elevation in radians (Kasten and Young 1989)."""
    degrees = math.degrees(max(elevation, 0.0))
    return 1 / (math.sin(math.radians(degrees)) + 0.50572 * (degrees + 6.07995) ** -1.6364)


def sun_transmittance(elevation: float, turbidity: float) -> np.ndarray:
    """Return what is left of the sun's red, green and blue at the ground."""
    m = air_mass(elevation)
    rayleigh = np.exp(-0.008735 * _WAVELENGTHS_UM**-4.08 * m)
    beta = 0.04608 * turbidity - 0.04586
    aerosol = np.exp(-beta * _WAVELENGTHS_UM**-1.3 * m)
    ozone = np.exp(-_OZONE_PER_CM * 0.35 * m)
    return rayleigh * aerosol * ozone


def sun_colour(elevation: float, turbidity: float) -> np.ndarray:
    """Return the working-space RGB illuminance, lx, of the sun on a surface that faces it."""
    return EXTRATERRESTRIAL_LX * blackbody(5778.0) * sun_transmittance(elevation, turbidity)


def sun_illuminance(elevation: float, turbidity: float) -> float:
    """Return the illuminance, lx, of the sun on a surface that faces it."""
    return float(luminance(sun_colour(elevation, turbidity)))


def sun_direction(azimuth: float, elevation: float) -> np.ndarray:
    """Return the unit direction to the sun; azimuth from x towards y, z up, radians."""
    c = math.cos(elevation)
    return np.array([c * math.cos(azimuth), c * math.sin(azimuth), math.sin(elevation)])


def _perez(cos_theta, gamma, cos_gamma, k):
    a, b, c, d, e = k
    return (1 + a * np.exp(b / np.maximum(cos_theta, 0.01))) * (1 + c * np.exp(d * gamma) + e * cos_gamma**2)


def sky_radiance(directions: np.ndarray, *, sun: np.ndarray, turbidity: float) -> np.ndarray:
    """Return the (..., 3) working-space radiance, cd/m2, of the clear sky in unit directions above the horizon."""
    t = turbidity
    theta_s = math.acos(float(np.clip(sun[2], -1, 1)))
    cos_theta = np.clip(directions[..., 2], 0, 1)
    cos_gamma = np.clip(directions @ sun, -1, 1)
    gamma = np.arccos(cos_gamma)
    k_y = (0.1787 * t - 1.4630, -0.3554 * t + 0.4275, -0.0227 * t + 5.3251, 0.1206 * t - 2.5771, -0.0670 * t + 0.3703)
    k_cx = (
        -0.0193 * t - 0.2592,
        -0.0665 * t + 0.0008,
        -0.0004 * t + 0.2125,
        -0.0641 * t - 0.8989,
        -0.0033 * t + 0.0452,
    )
    k_cy = (
        -0.0167 * t - 0.2608,
        -0.0950 * t + 0.0092,
        -0.0079 * t + 0.2102,
        -0.0441 * t - 1.6537,
        -0.0109 * t + 0.0529,
    )
    chi = (4 / 9 - t / 120) * (math.pi - 2 * theta_s)
    zenith = max((4.0453 * t - 4.9710) * math.tan(chi) - 0.2155 * t + 2.4192, 0.05) * 1000
    s = np.array([theta_s**3, theta_s**2, theta_s, 1.0])
    turb = np.array([t * t, t, 1.0])
    x_z = (
        turb
        @ np.array(
            [
                [0.00166, -0.00375, 0.00209, 0.0],
                [-0.02903, 0.06377, -0.03202, 0.00394],
                [0.11693, -0.21196, 0.06052, 0.25886],
            ]
        )
        @ s
    )
    y_z = (
        turb
        @ np.array(
            [
                [0.00275, -0.00610, 0.00317, 0.0],
                [-0.04214, 0.08970, -0.04153, 0.00516],
                [0.15346, -0.26756, 0.06670, 0.26688],
            ]
        )
        @ s
    )

    def relative(k):
        at_zenith = _perez(1.0, theta_s, math.cos(theta_s), k)
        return _perez(cos_theta, gamma, cos_gamma, k) / at_zenith

    big_y = zenith * np.maximum(relative(k_y), 0)
    x = np.clip(x_z * relative(k_cx), 0.2, 0.6)
    y = np.clip(y_z * relative(k_cy), 0.2, 0.6)
    xyz = np.stack([x / y * big_y, big_y, (1 - x - y) / y * big_y], axis=-1)
    return np.maximum(xyz_to_working(xyz), 0)

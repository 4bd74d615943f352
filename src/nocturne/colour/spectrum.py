"""Spectra to the working space: what each of its channels takes of each wavelength."""

from functools import cache

import numpy as np

from nocturne.colour.blackbody import observer
from nocturne.colour.spaces import AP1, adaptation, rgb_to_xyz, xy_to_xyz

WAVELENGTHS_NM = np.arange(360.0, 831.0, 1.0)


@cache
def channels() -> np.ndarray:
    """Return (471, 3) shares that red, green and blue take of each of `WAVELENGTHS_NM`; each channel adds up to 1.

    A spectrum of reflectance is weighed as under light of equal energy, which is taken to the working space's white
    (Bradford): so that what reflects all wavelengths alike is grey. Shares may be below 0, where a wavelength is more
    saturated than the space's primaries.
    """
    xyz = observer(WAVELENGTHS_NM)
    xyz /= xyz.sum(axis=0)
    move = adaptation(np.ones(3), xy_to_xyz(*AP1[3]))
    shares = xyz @ (np.linalg.inv(rgb_to_xyz(AP1)) @ move).T
    shares.flags.writeable = False
    return shares


def reflectance_to_working(wavelength_nm: np.ndarray, reflectance: np.ndarray) -> np.ndarray:
    """Return the (..., 3) working-space colour of spectral reflectance, (..., n), at (n,) rising wavelengths.

    Between the wavelengths it runs straight, beyond them it stays as it is.
    """
    flat = np.asarray(reflectance, float).reshape(-1, len(wavelength_nm))
    dense = np.stack([np.interp(WAVELENGTHS_NM, wavelength_nm, row) for row in flat])
    return (dense @ channels()).reshape(*np.shape(reflectance)[:-1], 3)

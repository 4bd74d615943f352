"""Tables for what depends on the wavelength: films that light interferes in, and glass that parts its colours."""

from functools import cache

import numpy as np

from nocturne.colour.spectrum import WAVELENGTHS_NM, channels

FILM_STEPS = 1024
FILM_STEP_NM = 12.0
WAVES = 257


@cache
def film_table() -> np.ndarray:
    """Return (1024, 6) float32: means of the cosine, then of the sine, of 2 pi x / wavelength, weighed by each channel.

    x, the difference of two ways of light, grows by `FILM_STEP_NM`. So a spectrum that is a sum of such waves comes to
    a colour without its wavelengths being gone through (after Belcour and Barla 2017, A practical extension to
    microfacet theory for the modeling of varying iridescence; the transform itself instead of a fit to it).
    """
    way = np.arange(FILM_STEPS)[:, None] * FILM_STEP_NM
    phase = 2 * np.pi * way / WAVELENGTHS_NM
    table = np.concatenate([np.cos(phase) @ channels(), np.sin(phase) @ channels()], axis=1).astype(np.float32)
    table.flags.writeable = False
    return table


@cache
def wave_table() -> np.ndarray:
    """Return (257, 4) float32 by a random number: the wavelength, micrometres, and its colour over its chance.

    Wavelengths are chosen by how much all channels together take of them. The mean colour is white.
    """
    share = np.abs(channels()).sum(axis=1)
    chance = share / share.sum()
    running = np.concatenate([[0.0], np.cumsum(chance)])
    edges = np.concatenate([WAVELENGTHS_NM - 0.5, WAVELENGTHS_NM[-1:] + 0.5])
    u = np.linspace(0, 1, WAVES)
    at = np.interp(u, running, edges)
    colour = np.stack([np.interp(at, WAVELENGTHS_NM, channels()[:, k] / chance) for k in range(3)], axis=1)
    # Read between its entries, the mean over all numbers is that of the entries, the ends counted half.
    weight = np.full(WAVES, 1.0)
    weight[[0, -1]] = 0.5
    colour /= (colour * weight[:, None]).sum(axis=0) / weight.sum()
    table = np.concatenate([at[:, None] / 1000, colour], axis=1).astype(np.float32)
    table.flags.writeable = False
    return table

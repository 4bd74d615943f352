"""Environments as tables: radiance, alias table for sampling, density over solid angle; the sky as a picture."""

import math

import numpy as np

from nocturne.colour.spaces import luminance
from nocturne.engine.entries import SAFE_MATH, compiled
from nocturne.scene.daylight import SUN_RADIUS, sky_radiance, sun_colour, sun_direction
from nocturne.scene.lights import Light

SKY_SIZE = (512, 256)


def directions(width: int, height: int) -> np.ndarray:
    """Return (h, w, 3) unit directions of a latitude-longitude picture's pixel centres; z up, x in its middle."""
    phi = (0.5 - (np.arange(width) + 0.5) / width) * 2 * math.pi
    theta = (np.arange(height) + 0.5) / height * math.pi
    s = np.sin(theta)[:, None]
    return np.stack(
        [s * np.cos(phi), s * np.sin(phi), np.broadcast_to(np.cos(theta)[:, None], (height, width))], axis=-1
    )


def pixel_solid_angles(width: int, height: int) -> np.ndarray:
    """Return (h,) solid angle, sr, of a pixel in each row."""
    edges = np.cos(np.arange(height + 1) / height * math.pi)
    return (edges[:-1] - edges[1:]) * 2 * math.pi / width


@compiled("void(float64[::1], float32[::1], int32[::1], int64[::1], int64[::1])", math=SAFE_MATH)
def _alias(q, keep, alias, small, large):
    """Fill an alias table of shares q, whose mean is 1; small and large are room for as many numbers."""
    n = q.shape[0]
    n_small = n_large = 0
    for i in range(n):
        keep[i] = 1.0
        alias[i] = i
        if q[i] < 1.0:
            small[n_small] = i
            n_small += 1
        else:
            large[n_large] = i
            n_large += 1
    while n_small and n_large:
        n_small -= 1
        s = small[n_small]
        big = large[n_large - 1]
        keep[s] = q[s]
        alias[s] = big
        q[big] -= 1.0 - q[s]
        if q[big] < 1.0:
            n_large -= 1
            small[n_small] = big
            n_small += 1


def sampling_tables(radiance: np.ndarray) -> tuple[np.ndarray, np.ndarray, float]:
    """Return how directions of a latitude-longitude picture are sampled by the luminance of its bilinear lookup.

    Cells lie between four pixels' centres, in h + 1 lines of w; each counts with the mean of its corners times the sine
    at its middle. A table over pixels would miss what a bright pixel spreads to its neighbours.

    Parameters
    ----------
    radiance : (h, w, 3) array
        Not negative.

    Returns
    -------
    keep : ((h + 1) * w,) float32 array
        Alias table (Vose 1991): chance to stay in a cell.
    alias : ((h + 1) * w,) int32 array
        The other cell.
    density : float
        Density over solid angle for a luminance of 1 where the sine is that of the cell's middle; 0 if all is black.
    """
    height, width = radiance.shape[:2]
    bright = luminance(radiance)
    rows = np.concatenate([bright[:1], bright, bright[-1:]])
    pairs = rows[:-1] + rows[1:]
    means = (pairs + np.roll(pairs, 1, axis=1)) / 4
    edges = np.concatenate([[0.0], np.arange(height) + 0.5, [float(height)]])
    middle = np.sin(math.pi * (edges[:-1] + edges[1:]) / (2 * height))
    weights = means * (middle * np.diff(edges))[:, None]
    whole = float(weights.sum())
    if not whole > 0:
        n = weights.size
        return np.ones(n, np.float32), np.arange(n, dtype=np.int32), 0.0
    q = np.ascontiguousarray(weights.ravel() * (weights.size / whole), np.float64)
    keep, alias = np.empty(q.size, np.float32), np.empty(q.size, np.int32)
    _alias(q, keep, alias, np.empty(q.size, np.int64), np.empty(q.size, np.int64))
    return keep, alias, 1 / (whole * (2 * math.pi / width) * (math.pi / height))


def sky_picture(light: Light) -> np.ndarray:
    """Return the (256, 512, 3) float32 radiance of the sky, and of the lit ground below the horizon, cd/m2."""
    width, height = SKY_SIZE
    d = directions(width, height)
    azimuth, elevation = math.radians(light.azimuth_deg), math.radians(light.elevation_deg)
    sun = sun_direction(azimuth, elevation)
    picture = sky_radiance(d, sun=sun, turbidity=light.turbidity)
    above = d[..., 2] > 0
    solid = pixel_solid_angles(width, height)[:, None, None]
    from_sky = (picture * solid * np.maximum(d[..., 2:], 0)).sum((0, 1))
    from_sun = sun_colour(elevation, light.turbidity) * math.sin(elevation)
    picture[~above] = light.ground * (from_sky + from_sun) / math.pi
    return picture.astype(np.float32)


def sun_radiance(light: Light, strength: float) -> np.ndarray:
    """Return the (3,) radiance of the sun's disc; `strength` is a factor, or lux if the light's unit is lx."""
    rgb = sun_colour(math.radians(light.elevation_deg), light.turbidity)
    if light.unit == "lx":
        rgb = rgb / luminance(rgb)
    return rgb * strength / (math.pi * math.sin(SUN_RADIUS) ** 2)

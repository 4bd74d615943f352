"""What share of light facets return that are spread unevenly around the normal, as on brushed metal.

The tables of `albedo` are made for facets that are spread evenly. This one says how much more or less uneven ones
return, which depends on the direction around the normal, too, of facets that reflect all light. It is shipped beside
this file because making it takes minutes; a test makes some entries again.
"""

from functools import cache
from pathlib import Path

import numpy as np

from nocturne.engine import albedo

TABLE = Path(__file__).with_name("brushed.npz")
ROUGHNESS = np.linspace(0.0, 1.0, 32)
STRETCH = 1 - np.linspace(1.0, 0.0, 22) ** 2  # specular_roughness_anisotropy
# Of the roughness along the view: 0 as across the stretched direction, 1 as along it. Close together near 0, where a
# strong stretch leaves a few degrees only: of 60 grazing views there the worst is off by 0.003, evenly spread by 0.028.
SEEN = np.linspace(0.0, 1.0, 16) ** 2
MU = np.linspace(0.0, 1.0, 32) ** 2
_LEAST = 0.001


def widths(roughness, stretch):
    """Return GGX alpha along and across the stretched direction (OpenPBR 1.1, specular_roughness_anisotropy)."""
    along = roughness**2 * np.sqrt(2 / (1 + (1 - stretch) ** 2))
    return np.maximum(along, _LEAST), np.maximum((1 - stretch) * along, _LEAST)


def brushed_albedo(mu, across, roughness, stretch, *, n=1 << 13):
    """Return the directional albedo of uneven facets that reflect all light.

    Parameters
    ----------
    mu, across : float
        Cosine of the direction of view, and the sine of its turn from the stretched direction, 0..1.
    roughness, stretch : float
        OpenPBR's roughness and anisotropy, 0..1.
    n : int
        How many normals are taken.

    Returns
    -------
    float

    References
    ----------
    Turquin 2019, eq. 8, with anisotropic GGX (Heitz 2014).
    """
    mu = max(mu, 1e-3)
    x, y = widths(roughness, stretch)
    flat = np.sqrt(1 - mu * mu)
    wo = np.array([flat * np.sqrt(1 - across * across), flat * across, mu])
    h = albedo.visible_normals(x, y, wo, n)
    c = np.clip(wo @ h, 1e-6, 1)
    wi = 2 * c * h - wo[:, None]
    lo, li = albedo.masking(x, y, wo), albedo.masking(x, y, wi)
    return float(np.mean(np.where(wi[2] > 0, (1 + lo) / (1 + lo + li), 0)))


def across_seen(seen, stretch):
    """Return the sine of the view's turn at which facets are as rough along it as `SEEN` tells.

    The alpha that is seen, and with it what is masked, turns within the last degrees of a strong stretch; by this share
    instead of the sine, values between a table's are off by a twentieth as much (at worst of 1,500 grazing views).
    """
    least = 1 - stretch
    if least > 1 - 1e-6:
        return 0.0
    alpha = least + seen * (1 - least)
    return float(np.sqrt(np.clip((1 - alpha * alpha) / (1 - least * least), 0, 1)))


def over_even(mu, seen, roughness, stretch, *, n=1 << 13):
    """Return an entry of the table: what uneven facets return over what even ones do."""
    uneven = brushed_albedo(mu, across_seen(seen, stretch), roughness, stretch, n=n)
    return uneven / albedo.albedo(mu, roughness, None, n=n)[0]


def compute(*, n=1 << 13):
    """Return the table (32, 22, 16, 32) float16 over even facets' albedo: [roughness, stretch, seen, mu]."""
    values = [over_even(m, s, r, t, n=n) for r in ROUGHNESS for t in STRETCH for s in SEEN for m in MU]
    return np.reshape(values, (len(ROUGHNESS), len(STRETCH), len(SEEN), len(MU))).astype(np.float16)


@cache
def table():
    """Return the shipped table, read-only."""
    with np.load(TABLE) as file:
        values = file["over_even"].astype(np.float32)
    values.flags.writeable = False
    return values


if __name__ == "__main__":
    np.savez_compressed(TABLE, over_even=compute())

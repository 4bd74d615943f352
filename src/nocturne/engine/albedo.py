"""Directional albedos of rough boundaries, which make the microfacet lobes keep their energy.

The tables are integrals of the same equations as `kernels/microfacet.py`, made by `compute` and shipped beside this
file because making them takes minutes; a test makes some entries again.
"""

from functools import cache
from pathlib import Path

import numpy as np

TABLE = Path(__file__).with_name("albedo.npz")
ROUGHNESS = np.linspace(0.0, 1.0, 32)
MU = np.linspace(0.0, 1.0, 32) ** 2
FINE_ROUGHNESS = np.linspace(0.0, 1.0, 64)  # of metals, from whose table those of brushed ones are made
FINE_MU = np.linspace(0.0, 1.0, 64) ** 2
# Close together around an index ratio of 1, where the reflectance at grazing angles turns fastest.
_S = np.linspace(-1.0, 1.0, 33)
_X = 0.5 * np.sign(_S) * _S * _S
IOR = (1 + _X) / (1 - _X)
# Roberts 2018, The unreasonable effectiveness of quasirandom sequences: powers of the plastic number.
_STEP_1, _STEP_2 = 0.7548776662466927, 0.5698402909980532


def _lambda(alpha, mu):
    z2 = np.maximum(mu * mu, 1e-12)
    return 0.5 * (np.sqrt(1 + alpha * alpha * (1 - z2) / z2) - 1)


def masking(x, y, w):
    """Return Smith's auxiliary function of facets with alpha x and y for directions w, (3, ...)."""
    return 0.5 * (np.sqrt(1 + ((x * w[0]) ** 2 + (y * w[1]) ** 2) / np.maximum(w[2] ** 2, 1e-12)) - 1)


def visible_normals(x, y, wo, n):
    """Return (3, n) normals of facets with alpha x and y that are seen from wo (Dupuy and Benyoub 2023)."""
    # A grid beats with the ring of normals that matter at low roughness; points of this sequence do not.
    i = np.arange(1, n + 1)
    u1, u2 = (0.5 + i * _STEP_1) % 1, (0.5 + i * _STEP_2) % 1
    v = np.array([wo[0] * x, wo[1] * y, wo[2]])
    v /= np.linalg.norm(v)
    phi = 2 * np.pi * u1
    z = (1 - u2) * (1 + v[2]) - v[2]
    s = np.sqrt(np.maximum(1 - z * z, 0))
    h = np.stack([(s * np.cos(phi) + v[0]) * x, (s * np.sin(phi) + v[1]) * y, np.maximum(z + v[2], 1e-7)])
    return h / np.linalg.norm(h, axis=0)


def _fresnel(c, eta):
    s2 = (1 - c * c) / (eta * eta)
    total = s2 >= 1
    ct = np.sqrt(np.maximum(1 - s2, 0))
    rs = (c - eta * ct) / (c + eta * ct)
    rp = (eta * c - ct) / (eta * c + ct)
    return np.where(total, 1.0, 0.5 * (rs * rs + rp * rp))


def albedo(mu, roughness, ior, *, n=1 << 14):
    """Return the directional albedos of one rough boundary by integration over visible normals.

    Parameters
    ----------
    mu : float
        Cosine of the direction of view, 0..1.
    roughness : float
        0..1; GGX alpha is its square.
    ior : float or None
        Index ratio transmitted / incident; None for a metal with F = 1.
    n : int
        How many normals are taken.

    Returns
    -------
    (float, float)
        Reflected and transmitted together, and reflected alone.

    References
    ----------
    Turquin 2019, eq. 8; Walter et al. 2007, eqs. 20 and 21.
    """
    mu = max(mu, 1e-3)
    alpha = max(roughness * roughness, 1e-4)
    wo = np.array([np.sqrt(1 - mu * mu), 0.0, mu])
    h = visible_normals(alpha, alpha, wo, n)
    c = np.clip(wo @ h, 1e-6, 1)
    lo = _lambda(alpha, mu)
    mi = 2 * c * h[2] - mu
    g = (1 + lo) / (1 + lo + _lambda(alpha, mi))
    if ior is None:
        value = float(np.mean(np.where(mi > 0, g, 0)))
        return value, value
    f = _fresnel(c, ior)
    reflected = float(np.mean(np.where(mi > 0, f * g, 0)))
    s2 = (1 - c * c) / (ior * ior)
    ct = np.sqrt(np.maximum(1 - s2, 0))
    mt = (c / ior - ct) * h[2] - mu / ior
    g = (1 + lo) / (1 + lo + _lambda(alpha, -mt))
    through = float(np.mean(np.where((mt < 0) & (s2 < 1), (1 - f) * g, 0)))
    return reflected + through, reflected


def compute(*, n=1 << 14):
    """Return both tables: metal (64, 64) and glass (33, 32, 32, 2), float32, indexed as declared in types.py."""
    metal = np.array([[albedo(mu, r, None, n=n)[0] for mu in FINE_MU] for r in FINE_ROUGHNESS], np.float32)
    glass = np.array([[[albedo(mu, r, ior, n=n) for mu in MU] for r in ROUGHNESS] for ior in IOR], np.float32)
    return metal, glass


@cache
def tables():
    """Return the shipped tables, read-only."""
    with np.load(TABLE) as file:
        metal, glass = file["metal"], file["glass"]
    metal.flags.writeable = glass.flags.writeable = False
    return metal, glass


if __name__ == "__main__":
    made = compute()
    np.savez_compressed(TABLE, metal=made[0], glass=made[1])

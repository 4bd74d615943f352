"""What a layer of fibres over a surface scatters, which the fuzz lobe reads.

The layer is a slab of unit density and thickness, filled with mirroring flakes that stand like fibres along the normal
(Zeltner, Burley and Chiang 2022, Practical multiple-scattering sheen using linearly transformed cosines; flakes after
Heitz et al. 2015, The SGGX microflake distribution). Paths through it are followed here; what comes out on top is told
by its share and by the linearly transformed cosine that fits it best. The table is shipped beside this file because
making it takes minutes; a test makes some entries again.
"""

from functools import cache
from pathlib import Path

import numpy as np

TABLE = Path(__file__).with_name("fuzz.npz")
STEPS = 24
ROUGHNESS = np.linspace(0.0, 1.0, STEPS)
MU = np.linspace(0.0, 1.0, STEPS) ** 1.5
_LEAST_ROUGHNESS, _LEAST_MU = 0.02, 0.005
_MOST_BOUNCES = 400


def _visible_flakes(w, alpha, rng):
    """Return (n, 3) normals of the flakes that directions w, (n, 3), meet (Heitz et al. 2015, algorithm 1)."""
    side = np.where(np.abs(w[:, 2:]) < 0.9, [[0.0, 0.0, 1.0]], [[1.0, 0.0, 0.0]])
    k = np.cross(side, w)
    k /= np.linalg.norm(k, axis=1, keepdims=True)
    j = np.cross(w, k)
    size = np.array([1.0, 1.0, alpha * alpha])
    kk, jj, ii = ((v * v * size).sum(1) for v in (k, j, w))
    kj, ki, ji = ((a * b * size).sum(1) for a, b in ((k, j), (k, w), (j, w)))
    det = np.sqrt(np.abs(kk * jj * ii - kj * kj * ii - ki * ki * jj - ji * ji * kk + 2 * kj * ki * ji))
    root = 1 / np.sqrt(ii)
    inner = np.sqrt(np.maximum(jj * ii - ji * ji, 1e-20))
    r, phi = np.sqrt(rng.random(len(w))), 2 * np.pi * rng.random(len(w))
    u, v = r * np.cos(phi), r * np.sin(phi)
    up = np.sqrt(np.maximum(1 - r * r, 0))
    x = u * det / inner - v * root * (ki * ji - kj * ii) / inner + up * root * ki
    y = v * root * inner + up * root * ji
    z = up * root * ii
    flake = k * x[:, None] + j * y[:, None] + w * z[:, None]
    return flake / np.linalg.norm(flake, axis=1, keepdims=True)


def scattered(mu, roughness, *, n=40_000, seed=1):
    """Return what comes out on top of the layer, of n paths that come from a direction.

    Parameters
    ----------
    mu : float
        Cosine to the normal of the direction that is looked from, 0..1; it lies over +x.
    roughness : float
        Width of the flakes against the fibres' length, 0..1.
    n, seed : int
        How many paths, and where their random numbers begin.

    Returns
    -------
    (float, (m, 3) array)
        The share that comes out on top, and the directions in which it goes.
    """
    rng = np.random.default_rng(seed)
    mu, alpha = max(mu, _LEAST_MU), max(roughness, _LEAST_ROUGHNESS)
    d = np.tile([-np.sqrt(1 - mu * mu), 0.0, -mu], (n, 1))
    height, out = np.ones(n), []
    for _ in range(_MOST_BOUNCES):
        density = np.sqrt(d[:, 0] ** 2 + d[:, 1] ** 2 + (alpha * d[:, 2]) ** 2)
        height = height + d[:, 2] * -np.log(1 - rng.random(len(d))) / density
        out.append(d[height >= 1])
        stays = (height > 0) & (height < 1)
        d, height = d[stays], height[stays]
        if not len(d):
            break
        flake = _visible_flakes(-d, alpha, rng)
        d = d - 2 * (d * flake).sum(1, keepdims=True) * flake
    found = np.concatenate(out)
    return len(found) / n, found


def transformed_cosine(directions, a, b):
    """Return the (...,) density of (..., 3) directions under the transform that the fuzz lobe uses.

    The directions' own transform [[a, 0, b], [0, a, 0], [0, 0, 1]] leads to a cosine about the normal.
    """
    x = a * directions[..., 0] + b * directions[..., 2]
    y = a * directions[..., 1]
    z = directions[..., 2]
    square = x * x + y * y + z * z
    return np.maximum(z, 0) / np.pi * a * a / (square * square)


def fitted(directions):
    """Return the (a, b) under which directions are likeliest."""
    from scipy.optimize import minimize

    def unlikely(p):
        return -np.mean(np.log(np.maximum(transformed_cosine(directions, np.exp(p[0]), p[1]), 1e-12)))

    best = minimize(unlikely, [0.0, 0.0], method="Nelder-Mead", options={"xatol": 1e-3, "fatol": 1e-6})
    return float(np.exp(best.x[0])), float(best.x[1])


def compute(*, n=40_000):
    """Return the table (STEPS, STEPS, 3) float32: a, b and the share, by roughness and mu."""
    table = np.zeros((STEPS, STEPS, 3), np.float32)
    for i, roughness in enumerate(ROUGHNESS):
        for j, mu in enumerate(MU):
            share, directions = scattered(mu, roughness, n=n, seed=i * STEPS + j)
            table[i, j] = (*(fitted(directions) if len(directions) > 40 else (1.0, 0.0)), share)
    return table


@cache
def table():
    """Return the shipped table, read-only."""
    with np.load(TABLE) as file:
        values = file["fuzz"]
    values.flags.writeable = False
    return values


if __name__ == "__main__":
    np.savez_compressed(TABLE, fuzz=compute())

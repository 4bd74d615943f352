"""Pictures for the demo's materials, made from filtered noise; all tile."""

import numpy as np

from nocturne.colour.spaces import encode_srgb


def noise(
    shape: tuple[int, int], *, seed: int, slope: float = 2.0, stretch: float = 1.0, low: float = 1.0
) -> np.ndarray:
    """Return (h, w) tiling noise, mean 0, deviation 1, with a power spectrum falling as frequency^-slope.

    stretch > 1 draws features out along x; frequencies below `low` cycles are left out.
    """
    height, width = shape
    rng = np.random.default_rng(seed)
    spectrum = np.fft.rfft2(rng.standard_normal(shape))
    fy = np.fft.fftfreq(height) * height
    fx = np.fft.rfftfreq(width) * width * stretch
    f = np.sqrt(fy[:, None] ** 2 + fx[None, :] ** 2)
    gain = np.where(f >= low, np.maximum(f, 1e-9) ** (-slope / 2), 0)
    out = np.fft.irfft2(spectrum * gain, s=shape)
    return (out - out.mean()) / out.std()


def step(x: np.ndarray, low: float, high: float) -> np.ndarray:
    """Return a smooth step from 0 at `low` to 1 at `high`."""
    t = np.clip((x - low) / (high - low), 0, 1)
    return t * t * (3 - 2 * t)


def blend(a: tuple, b: tuple, mask: np.ndarray) -> np.ndarray:
    """Return (h, w, 3) linear colours between a and b."""
    return np.array(a) + (np.array(b) - np.array(a)) * mask[..., None]


def normals(height: np.ndarray, strength: float) -> np.ndarray:
    """Return (h, w, 3) normal map values in 0..1 of a tiling height; strength scales its slopes."""
    dx = (np.roll(height, -1, 1) - np.roll(height, 1, 1)) * 0.5 * strength
    dy = (np.roll(height, 1, 0) - np.roll(height, -1, 0)) * 0.5 * strength
    n = np.stack([-dx, -dy, np.ones_like(dx)], axis=-1)
    n /= np.linalg.norm(n, axis=-1, keepdims=True)
    return n * 0.5 + 0.5


def wood(size: int = 1024) -> dict[str, np.ndarray]:
    """Return colour (linear), roughness and normal pictures of walnut with its grain along x."""
    shape = (size, size)
    wave = noise(shape, seed=11, slope=4.0, stretch=6, low=1)
    y = np.arange(size)[:, None] / size
    rings = 0.5 + 0.5 * np.sin(2 * np.pi * (14 * y + 0.55 * wave))
    fibre = noise(shape, seed=12, slope=0.9, stretch=45, low=24)
    pores = step(noise(shape, seed=13, slope=0.2, stretch=26, low=90), 1.5, 2.6)
    mottled = noise(shape, seed=14, slope=3.0, stretch=2.5)
    tone = np.clip(0.45 * rings**1.6 + 0.16 * fibre + 0.10 * mottled + 0.25, 0, 1)
    colour = blend((0.085, 0.040, 0.018), (0.30, 0.155, 0.072), tone)
    colour *= (1 - 0.6 * pores)[..., None]
    hands = step(noise(shape, seed=15, slope=3.2, stretch=1.4), -0.4, 1.4)
    rough = np.clip(0.42 + 0.10 * fibre * 0.4 + 0.16 * pores - 0.13 * hands, 0.16, 0.8)
    return {"colour": np.clip(colour, 0, 1), "roughness": rough, "normal": normals(0.6 * fibre - 3.0 * pores, 0.05)}


def plaster(size: int = 1024) -> dict[str, np.ndarray]:
    """Return colour and normal pictures of two slate-blue plasters worked into each other with a trowel."""
    shape = (size, size)
    strokes = noise(shape, seed=21, slope=2.4, stretch=2.2, low=2)
    fine = noise(shape, seed=22, slope=0.9, low=30)
    patches = step(noise(shape, seed=23, slope=3.2) + 0.25 * strokes, -0.5, 0.8)
    colour = blend((0.115, 0.140, 0.160), (0.205, 0.215, 0.215), patches)
    colour *= (1 + 0.07 * strokes + 0.05 * fine)[..., None]
    return {"colour": np.clip(colour, 0, 1), "normal": normals(strokes * 1.6 + 0.3 * fine, 0.55)}


def banded_planet(size: int = 512) -> dict[str, np.ndarray]:
    """Return the colour picture of a banded stone."""
    shape = (size, size)
    wander = noise(shape, seed=31, slope=3.2, stretch=2.0)
    y = np.arange(size)[:, None] / size
    bands = 0.5 + 0.5 * np.sin(2 * np.pi * (7 * y + 0.10 * wander))
    swirl = step(noise(shape, seed=32, slope=2.2, stretch=3.0), -1.0, 1.5)
    return {"colour": np.clip(blend((0.36, 0.20, 0.105), (0.68, 0.55, 0.39), 0.7 * bands + 0.3 * swirl), 0, 1)}


def cratered_stone(size: int = 512) -> dict[str, np.ndarray]:
    """Return colour and normal pictures of grey stone."""
    shape = (size, size)
    rough = noise(shape, seed=41, slope=2.2)
    speckle = noise(shape, seed=42, slope=0.6, low=40)
    colour = blend((0.16, 0.15, 0.14), (0.42, 0.40, 0.37), np.clip(0.5 + 0.22 * rough + 0.08 * speckle, 0, 1))
    return {"colour": np.clip(colour, 0, 1), "normal": normals(rough + 0.1 * speckle, 1.2)}


def brushed(size: int = 512) -> dict[str, np.ndarray]:
    """Return the roughness picture of handled metal: fine turning marks, smudges."""
    shape = (size, size)
    marks = noise(shape, seed=51, slope=0.5, stretch=60, low=40)
    smudges = step(noise(shape, seed=52, slope=2.6), -0.2, 1.8)
    return {"roughness": np.clip(0.17 + 0.03 * marks + 0.16 * smudges, 0.06, 0.6)}


def drawing(size: int = 1024) -> dict[str, np.ndarray]:
    """Return the colour picture of a plan of planetary orbits, drawn in ink on toned paper."""
    v, u = np.meshgrid(np.linspace(-1, 1, size), np.linspace(-1, 1, size), indexing="ij")
    paper = noise((size, size), seed=61, slope=1.6)
    ink = np.zeros((size, size))
    width = 1.3 / size
    r = np.hypot(u, v)
    for radius in (0.14, 0.25, 0.37, 0.52, 0.70, 0.86):
        ink = np.maximum(ink, 1 - np.clip(np.abs(r - radius) / (2 * width) - 0.5, 0, 1))
    for turn in np.arange(12) * np.pi / 6:
        across = np.abs(u * np.sin(turn) - v * np.cos(turn))
        on = (r > 0.1) & (r < 0.92)
        ink = np.maximum(ink, 0.55 * on * (1 - np.clip(across / width - 0.5, 0, 1)))
    for k, radius in enumerate((0.14, 0.25, 0.37, 0.52, 0.70, 0.86)):
        a = 0.7 + 1.9 * k
        spot = np.hypot(u - radius * np.cos(a), v - radius * np.sin(a))
        ink = np.maximum(ink, 1 - np.clip((spot - 0.022 - 0.004 * k) * size / 3, 0, 1))
    edge = np.maximum(np.abs(u), np.abs(v))
    ink = np.maximum(ink, 1 - np.clip(np.abs(edge - 0.95) / (1.5 * width) - 0.5, 0, 1))
    colour = blend((0.66, 0.58, 0.42), (0.045, 0.035, 0.05), np.clip(ink, 0, 1) * 0.9)
    return {"colour": np.clip(colour * (1 + 0.03 * paper)[..., None], 0, 1)}


def all_pictures() -> dict[str, np.ndarray]:
    """Return every picture by file stem, (h, w, 3) encoded 0..1: colours in sRGB, the rest as numbers."""
    out = {}
    for name, maps in (
        ("wood", wood()),
        ("plaster", plaster()),
        ("bands", banded_planet()),
        ("stone", cratered_stone()),
        ("brushed", brushed()),
        ("drawing", drawing()),
    ):
        for use, values in maps.items():
            if values.ndim == 2:
                values = np.repeat(values[..., None], 3, axis=2)
            out[f"{name}_{use}"] = encode_srgb(values) if use == "colour" else values
    return out

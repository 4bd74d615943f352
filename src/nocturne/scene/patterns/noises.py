"""Noises: lumps, sums of lumps at ever smaller sizes, and cells; in space, or on a surface by its coordinates."""

from typing import Any, ClassVar, Literal

import numpy as np

from nocturne.scene.fields import described
from nocturne.scene.patterns.hashing import hashed, noise
from nocturne.scene.patterns.step import Step, Where, lies_by


def grey(values: np.ndarray) -> np.ndarray:
    """Return (..., 3) of numbers (...)."""
    return np.repeat(np.asarray(values, float)[..., None], 3, axis=-1)


class _Noise(Step):
    family: ClassVar[str] = "Noises"

    where: Where = lies_by("solid")
    scale: float = described(0.1, "Size", "How large a lump is.", unit="m", low=1e-5, high=1e4, soft_high=2, log=True)

    @property
    def extent(self) -> float:
        """Return a piece of several lumps."""
        return 5 * self.scale


class Noise(_Noise):
    """Soft lumps of about one size."""

    title: ClassVar[str] = "Noise"
    about: ClassVar[str] = "Soft lumps of one size."

    kind: Literal["noise3d"] = "noise3d"
    style: Literal["gradient", "value"] = described(
        "gradient",
        "Style",
        "Of gradients: even lumps. Of values: blotches.",
        kind="choice",
        choices=(("gradient", "Of gradients"), ("value", "Of values")),
    )

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) grey noise, 0..1."""
        scale = np.maximum(np.asarray(f.scale, float), 1e-6)
        return grey(np.clip(0.5 + 0.5 * noise(q / scale[..., None], is_value=f.style == 1), 0, 1))


class Fractal(_Noise):
    """Lumps on lumps: clouds, stains, rough ground."""

    title: ClassVar[str] = "Fractal noise"
    about: ClassVar[str] = "Lumps on lumps: stains, clouds, rough ground."

    kind: Literal["fractal3d"] = "fractal3d"
    style: Literal["fractal", "turbulence", "ridges"] = described(
        "fractal",
        "Style",
        "Soft; billowing, with creases; or with sharp ridges.",
        kind="choice",
        choices=(("fractal", "Soft"), ("turbulence", "Billows"), ("ridges", "Ridges")),
    )
    octaves: int = described(5, "Octaves", "How many sizes of lumps.", kind="whole", low=1, high=12)
    lacunarity: float = described(2.0, "Step of size", "How much smaller each is than the one before.", low=1.1, high=6)
    diminish: float = described(0.5, "Step of strength", "How much weaker each is.", low=0, high=1)
    warp: float = described(
        0.0, "Warp", "How far another noise pushes the places about, in lumps.", low=0, high=4, soft_high=1
    )

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) grey noise, 0..1."""
        scale = np.maximum(np.asarray(f.scale, float), 1e-6)
        p = q / scale[..., None]
        warp = np.asarray(f.warp, float)[..., None]
        push = np.stack([noise(p + at) for at in WARP_AT], axis=-1)
        return grey(fractal(p + push * warp, f.octaves, f.lacunarity, f.diminish, f.style))


WARP_AT = ((31.4, 5.2, 11.7), (7.3, 47.1, 3.9), (17.9, 23.6, 71.2))


def fractal(p: np.ndarray, octaves: Any, lacunarity: Any, diminish: Any, style: int = 0) -> np.ndarray:
    """Return (...) sums of noise at places (..., 3), 0..1; style 0 soft, 1 billows, 2 ridges (Musgrave 1993)."""
    octaves, lacunarity, diminish = (np.asarray(v, float) for v in (octaves, lacunarity, diminish))
    total = weights = np.zeros(p.shape[:-1])
    size, weight = np.ones(()), np.ones(())
    for k in range(12):
        counts = k < np.round(octaves)
        if not np.any(counts):
            break
        n = noise(p * size[..., None] + k * 17.3)
        n = n if style == 0 else 2 * np.abs(n) - 1 if style == 1 else 1 - 2 * np.abs(n)
        total = total + np.where(counts, weight * n, 0)
        weights = weights + np.where(counts, weight, 0)
        size, weight = size * lacunarity, weight * diminish
    return np.clip(0.5 + 0.5 * total / np.maximum(weights, 1e-9) * SPREAD[style], 0, 1)


SPREAD = (1.4, 1.0, 1.0)  # octaves that are added up cancel each other


class Cells(_Noise):
    """Cells about scattered points: cobbles, scales, cracks."""

    title: ClassVar[str] = "Cells"
    about: ClassVar[str] = "Cobbles, scales, cracks, patches of a colour each."

    kind: Literal["worleynoise3d"] = "worleynoise3d"
    output: Literal["distance", "edge", "id", "colour"] = described(
        "distance",
        "Puts out",
        "How far the middle is, how far the edge is, or a number or a colour of each cell's own.",
        kind="choice",
        choices=(
            ("distance", "From the middle"),
            ("edge", "From the edge"),
            ("id", "A number each"),
            ("colour", "A colour each"),
        ),
    )
    jitter: float = described(1.0, "Disorder", "0: a grid. 1: scattered.", kind="percent", low=0, high=1)

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) of the cell at coordinates (Worley 1996, A cellular texture basis function)."""
        scale = np.maximum(np.asarray(f.scale, float), 1e-6)
        p = q / scale[..., None]
        cell = np.floor(p)
        first = second = np.full(p.shape[:-1], 1e9)
        own = np.zeros(p.shape)
        for offset in np.ndindex(3, 3, 3):
            at = cell + np.array(offset) - 1
            h = np.stack(hashed(*np.moveaxis(at, -1, 0)), axis=-1)
            point = at + 0.5 + (h - 0.5) * np.asarray(f.jitter, float)[..., None]
            d = np.linalg.norm(point - p, axis=-1)
            nearer = d < first
            second = np.where(nearer, first, np.minimum(second, d))
            own = np.where(nearer[..., None], at, own)
            first = np.where(nearer, d, first)
        if f.output == 0:
            return grey(np.clip(first, 0, 1))
        if f.output == 1:
            return grey(np.clip(second - first, 0, 1))
        h = np.stack(hashed(*np.moveaxis(own + 101, -1, 0)), axis=-1)
        return grey(h[..., 0]) if f.output == 2 else h

"""Wear: edges, hollows and how open a place is, found on the shape by short rays at each hit."""

from typing import Any, ClassVar, Literal

import numpy as np

from nocturne.scene.fields import described
from nocturne.scene.patterns.hashing import noise
from nocturne.scene.patterns.noises import grey
from nocturne.scene.patterns.step import Step

SEED_STEP = 7.31  # between draws, in lumps of noise
WAVER = 0.35  # of a streak's width


def _radius(default: float) -> Any:
    return described(default, "Radius", "How far it is looked.", unit="m", low=1e-5, high=100, soft_high=0.05, log=True)


def _rays() -> Any:
    return described(
        12,
        "Rays",
        "How many are sent where the camera looks: more are smoother and slower. A quarter of them elsewhere.",
        kind="whole",
        low=1,
        high=64,
    )


class _Wear(Step):
    family: ClassVar[str] = "Wear"
    is_placed: ClassVar[bool] = False
    asks_shape: ClassVar[bool] = True
    on_a_plane: ClassVar[float] = 0.0  # what it puts out where nothing is near
    near_an_edge: ClassVar[float] = 1.0

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) what an endless plane has, or one side of a box where the patch ends: for small pictures.

        Without the shape nothing more is known.
        """
        if spot.rim is None:
            return grey(np.full(under.shape[:-1], self.on_a_plane))
        near = np.clip(1 - spot.rim / np.maximum(np.asarray(f.radius, float), 1e-9), 0, 1) ** 2
        return grey(self.on_a_plane + (self.near_an_edge - self.on_a_plane) * near)

    @property
    def far_from_all(self) -> float:
        """Return what an endless plane has."""
        return self.on_a_plane

    @property
    def extent(self) -> float:
        """Return a piece whose middle is out of reach of its edges."""
        return 4 * self.radius


class Edges(_Wear):
    """How near an edge that stands out is."""

    title: ClassVar[str] = "Edges"
    about: ClassVar[str] = "Edges that stand out, where paint wears off first."

    kind: Literal["edges"] = "edges"
    radius: float = _radius(0.004)
    rays: int = _rays()


class Hollows(_Wear):
    """How near a corner that goes in is."""

    title: ClassVar[str] = "Hollows"
    about: ClassVar[str] = "Corners that go in, where dirt stays."

    kind: Literal["hollows"] = "hollows"
    radius: float = _radius(0.01)
    rays: int = _rays()


class Drips(_Wear):
    """Streaks that ran down from an edge above: of rain under a sill, of rust under a rim."""

    title: ClassVar[str] = "Drips"
    about: ClassVar[str] = "Streaks that ran down from edges and ledges above."

    kind: Literal["drips"] = "drips"
    radius: float = described(
        0.3, "Length", "How far the longest run down.", unit="m", low=1e-4, high=100, soft_high=2, log=True
    )
    width: float = described(
        0.02, "Width", "How wide a streak is.", unit="m", low=1e-5, high=10, soft_high=0.2, log=True
    )
    dripping: float = described(0.5, "How many", "How much of an edge drips.", kind="percent", low=0, high=1)
    lip: float = described(
        0.004,
        "Least ledge",
        "How far something has to stand out for water to run from under it, or to lie behind an edge.",
        unit="m",
        low=1e-5,
        high=1,
        soft_high=0.05,
        log=True,
    )
    seed: int = described(0, "Seed", "Another draw.", kind="whole", low=0, high=9999)

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) streaks from the upper edge of the patch: for small pictures."""
        if spot.rim is None:
            return grey(np.zeros(under.shape[:-1]))
        top = spot.place[..., 1].max()
        edge = spot.place * (1, 0, 0)
        return grey(streaks(f, edge, spot.place[..., 1], top - spot.place[..., 1]))

    @property
    def extent(self) -> float:
        """Return a piece as high as they are long."""
        return 1.2 * self.radius


def streaks(f: Any, edge: np.ndarray, height: np.ndarray, below: np.ndarray) -> np.ndarray:
    """Return (...) how much has run down at places so far below an edge, metres.

    edge: (..., 3) where on the edge it came from. height: (...) of the place, by which streaks waver. Which parts of
    the edge drip, and how far, is noise over it as seen from above.
    """
    width = np.maximum(np.asarray(f.width, float), 1e-9)
    seed = np.round(np.asarray(f.seed, float)) * SEED_STEP
    waver = WAVER * noise(np.stack([edge[..., 0] / width / 4, edge[..., 1] / width / 4, height / width / 6 + seed], -1))
    across = [edge[..., k] / width + waver for k in (0, 1)]
    n = noise(np.stack([*across, np.broadcast_to(seed, across[0].shape)], axis=-1))
    far = noise(np.stack([*(a / 3 for a in across), np.broadcast_to(seed + 17.3, across[0].shape)], axis=-1))
    least = 1 - 2 * np.asarray(f.dripping, float)
    strength = np.clip((n - least) / 0.4 + 0.5, 0, 1)
    length = np.asarray(f.radius, float) * np.clip(0.6 + 1.3 * far, 0.1, 1)
    fade = np.clip(1 - below / np.maximum(length, 1e-9), 0, 1)
    return strength * strength * (3 - 2 * strength) * fade**0.75


class Curvature(_Wear):
    """Light at edges, dark in hollows, grey between."""

    title: ClassVar[str] = "Curvature"
    about: ClassVar[str] = "Light at edges, dark in hollows, grey where it is even."
    on_a_plane: ClassVar[float] = 0.5

    kind: Literal["curvature"] = "curvature"
    radius: float = _radius(0.005)
    rays: int = _rays()


class Occlusion(_Wear):
    """How open a place is to what surrounds it."""

    title: ClassVar[str] = "Ambient occlusion"
    about: ClassVar[str] = "Light where it is open, dark where other shapes are near."
    on_a_plane: ClassVar[float] = 1.0
    near_an_edge: ClassVar[float] = 0.0

    kind: Literal["ambientocclusion"] = "ambientocclusion"
    radius: float = _radius(0.2)
    rays: int = _rays()

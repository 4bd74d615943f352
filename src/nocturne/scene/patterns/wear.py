"""Wear: edges, hollows and how open a place is, found on the shape by short rays at each hit."""

from typing import Any, ClassVar, Literal

import numpy as np

from nocturne.scene.fields import described
from nocturne.scene.patterns.noises import grey
from nocturne.scene.patterns.step import Step


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

"""Pictures moved, turned and sized on a thing where they are seen: about a point of its surface."""

import math
from dataclasses import dataclass

import numpy as np

from nocturne.scene import edit
from nocturne.scene.document import Document
from nocturne.scene.fields import within
from nocturne.scene.thing import Thing


@dataclass(frozen=True, eq=False)
class Spot:
    """A point of a thing's surface, and how pictures lie there.

    across, up: unit vectors of the set in the surface's plane, across along the pictures' u, up at a right angle to it.
    to_uv: (2, 2), from metres along those to the thing's texture coordinates. uv: those at the point.
    """

    point: np.ndarray
    across: np.ndarray
    up: np.ndarray
    to_uv: np.ndarray
    uv: np.ndarray

    @property
    def normal(self) -> np.ndarray:
        """Return the unit normal of the plane."""
        return np.cross(self.across, self.up)

    def metres(self, point: np.ndarray) -> np.ndarray:
        """Return (2,) how far a point of the plane is from the spot, along across and up."""
        away = np.asarray(point, float) - self.point
        return np.array([away @ self.across, away @ self.up])


def spot_at(corners: np.ndarray, uvs: np.ndarray, point: np.ndarray) -> Spot | None:
    """Return the spot at a point of a triangle, None where texture coordinates say nothing.

    corners: (3, 3) in the set, metres; uvs: (3, 2) as the thing places them.
    """
    edges, ways = (corners[1:] - corners[0]).T, (uvs[1:] - uvs[0]).T  # (3, 2), (2, 2)
    if abs(np.linalg.det(ways)) < 1e-20:
        return None
    tangents = edges @ np.linalg.inv(ways)  # (3, 2): metres for a unit of u, and of v
    across = tangents[:, 0] / np.linalg.norm(tangents[:, 0])
    up = tangents[:, 1] - across * (across @ tangents[:, 1])
    if np.linalg.norm(up) < 1e-12:
        return None
    up /= np.linalg.norm(up)
    to_uv = np.linalg.inv(np.stack([across, up]) @ tangents)
    weights = np.linalg.lstsq(edges, np.asarray(point, float) - corners[0], rcond=None)[0]
    return Spot(np.asarray(point, float), across, up, to_uv, uvs[0] + ways @ weights)


def moved(document: Document, id: str, spot: Spot, metres: np.ndarray) -> Document:
    """Return the document with a thing's pictures moved by (2,) metres along the spot's surface."""
    thing = document.find("things", id)
    shift = np.array(thing.uv_shift) - spot.to_uv @ metres
    return edit.alter(document, "things", id, uv_shift=tuple(map(float, shift)))


def turned(document: Document, id: str, spot: Spot, angle: float) -> Document:
    """Return the document with a thing's pictures turned about the spot, in radians from across towards up."""
    thing = document.find("things", id)
    turn = thing.uv_turn_deg - math.copysign(1.0, np.linalg.det(spot.to_uv)) * math.degrees(angle)
    return _about(document, thing, spot, turn_deg=(turn + 180.0) % 360.0 - 180.0)


def sized(document: Document, id: str, spot: Spot, factor: float) -> Document:
    """Return the document with a thing's pictures so many times as large, about the spot."""
    thing = document.find("things", id)
    return _about(document, thing, spot, size=within(Thing, "uv_size", thing.uv_size * factor))


def _about(document: Document, thing: Thing, spot: Spot, **values: float) -> Document:
    """Return the document with another turn or size, by which the spot keeps its texture coordinates."""
    size, turn_deg = values.get("size", thing.uv_size), values.get("turn_deg", thing.uv_turn_deg)
    base = _turn(-thing.uv_turn_deg) @ (spot.uv - thing.uv_shift) * thing.uv_size
    shift = spot.uv - _turn(turn_deg) @ base / size
    return edit.alter(
        document, "things", thing.id, uv_size=size, uv_turn_deg=turn_deg, uv_shift=tuple(map(float, shift))
    )


def _turn(degrees: float) -> np.ndarray:
    """Return the matrix by which `uvs.placed_uvs` turns a column of coordinates."""
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return np.array([[c, -s], [s, c]])

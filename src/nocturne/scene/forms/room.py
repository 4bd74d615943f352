"""A room with openings in its walls."""

from typing import ClassVar, Literal

import numpy as np
from pydantic import model_validator

from nocturne.scene.fields import Model, described
from nocturne.scene.forms.form import Form, length
from nocturne.scene.shapes import Mesh, joined
from nocturne.scene.solids import panel

WALLS = ("front", "right", "back", "left")


class Opening(Model):
    """A hole in a wall: how far along it begins, how high, how wide and tall it is, metres.

    Along is measured from the wall's left end as seen from inside.
    """

    wall: Literal["front", "right", "back", "left"] = "back"
    along: float = 1.0
    sill: float = 0.9
    width: float = 1.2
    height: float = 1.2


class Room(Form):
    """Four walls, floor and ceiling with a thickness, open where openings are; measured inside, standing on z = 0.

    Its faces are in the sets Floor, Ceiling, Walls and Outside.
    """

    title: ClassVar[str] = "Room"
    own: ClassVar[tuple[str, ...]] = ("width", "depth", "height", "wall", "ceiling", "openings")

    kind: Literal["room"] = "room"
    width: float = length(5.0, "Width", "Inside, along x.")
    depth: float = length(4.0, "Depth", "Inside, along y.")
    height: float = length(2.7, "Height", "Inside, along z.")
    wall: float = length(0.2, "Wall", "Thickness of walls, floor and ceiling.")
    ceiling: bool = described(True, "Ceiling", "Off: open to the sky.", kind="switch")
    openings: tuple[Opening, ...] = described(
        (Opening(),), "Openings", "Holes for windows and doors; a sill of 0 is a door.", kind="openings"
    )

    @model_validator(mode="after")
    def _openings_are_sizes(self):
        for opening in self.openings:
            values = (opening.along, opening.sill, opening.width, opening.height)
            if not all(-1e6 <= v <= 1e6 for v in values) or min(opening.width, opening.height) < 0:
                raise ValueError("an opening's sizes are 0 to 1,000,000 m")
        return self

    def build(self) -> Mesh:
        """Return the room."""
        w, d, h, t = self.width / 2, self.depth / 2, self.height, self.wall
        parts: list[tuple[str, Mesh]] = [
            ("Floor", panel([(-w, -d, 0), (w, -d, 0), (w, d, 0), (-w, d, 0)])),
            ("Outside", panel([(-w - t, d + t, -t), (w + t, d + t, -t), (w + t, -d - t, -t), (-w - t, -d - t, -t)])),
        ]
        top = h + t if self.ceiling else h
        if self.ceiling:
            parts.append(("Ceiling", panel([(-w, d, h), (w, d, h), (w, -d, h), (-w, -d, h)])))
            roof = [(-w - t, -d - t, top), (w + t, -d - t, top), (w + t, d + t, top), (-w - t, d + t, top)]
            parts.append(("Outside", panel(roof)))
        # Each wall in its own space: x along it to the right as seen from inside, y out of the room, z up.
        for name, turn, long, out in zip(WALLS, (180.0, 270.0, 0.0, 90.0), (w, d, w, d), (d, w, d, w)):
            holes = [_Hole(o, long, h) for o in self.openings if o.wall == name]
            holes = [hole for hole in holes if hole.is_there]
            a = np.radians(turn)
            spin = np.array([[np.cos(a), -np.sin(a), 0], [np.sin(a), np.cos(a), 0], [0, 0, 1]])

            def stood(corners: list, spin: np.ndarray = spin) -> Mesh:
                return panel([tuple(spin @ np.array(c, float)) for c in corners])

            for x0, x1, z0, z1 in _around((-long, long, 0.0, h), holes):
                parts.append(("Walls", stood([(x0, out, z0), (x1, out, z0), (x1, out, z1), (x0, out, z1)])))
            beyond = long + t
            for x0, x1, z0, z1 in _around((-beyond, beyond, -t, top), holes):
                far = out + t
                parts.append(("Outside", stood([(x1, far, z0), (x0, far, z0), (x0, far, z1), (x1, far, z1)])))
            for hole in holes:
                parts += [("Walls", stood(c)) for c in hole.reveals(out, out + t)]
            if not self.ceiling:
                rim = [(-long, out, h), (long, out, h), (beyond, out + t, h), (-beyond, out + t, h)]
                parts.append(("Walls", stood(rim)))
        names = tuple(dict.fromkeys(name for name, _ in parts))
        whole = joined(*(mesh for _, mesh in parts))
        sets = np.concatenate([np.full(len(mesh.triangles), names.index(name)) for name, mesh in parts])
        return Mesh(whole.vertices, whole.triangles, whole.normals, whole.uvs, sets, names)


class _Hole:
    """An opening within its wall: from x0 to x1 and z0 to z1 in the wall's space."""

    def __init__(self, opening: Opening, long: float, height: float) -> None:
        self.x0 = min(max(opening.along - long, -long), long)
        self.x1 = min(max(opening.along + opening.width - long, -long), long)
        self.z0 = min(max(opening.sill, 0.0), height)
        self.z1 = min(max(opening.sill + opening.height, 0.0), height)

    @property
    def is_there(self) -> bool:
        return self.x1 - self.x0 > 1e-4 and self.z1 - self.z0 > 1e-4

    def reveals(self, near: float, far: float) -> list[list[tuple[float, float, float]]]:
        """Return the four sides of the hole, each facing into it."""
        x0, x1, z0, z1 = self.x0, self.x1, self.z0, self.z1
        return [
            [(x0, near, z0), (x1, near, z0), (x1, far, z0), (x0, far, z0)],
            [(x0, far, z1), (x1, far, z1), (x1, near, z1), (x0, near, z1)],
            [(x0, far, z0), (x0, far, z1), (x0, near, z1), (x0, near, z0)],
            [(x1, near, z0), (x1, near, z1), (x1, far, z1), (x1, far, z0)],
        ]


def _around(wall: tuple[float, float, float, float], holes: list[_Hole]) -> list[tuple[float, float, float, float]]:
    """Return the rectangles of a wall (x0, x1, z0, z1) that are in none of its holes."""
    left, right, low, high = wall
    xs = sorted({left, right, *(x for hole in holes for x in (hole.x0, hole.x1))})
    zs = sorted({low, high, *(z for hole in holes for z in (hole.z0, hole.z1))})
    out = []
    for z0, z1 in zip(zs, zs[1:]):
        start: float | None = None
        for x0, x1 in zip(xs, xs[1:]):
            x, z = (x0 + x1) / 2, (z0 + z1) / 2
            is_hole = any(hole.x0 < x < hole.x1 and hole.z0 < z < hole.z1 for hole in holes)
            if is_hole and start is not None:
                out.append((start, x0, z0, z1))
                start = None
            elif not is_hole and start is None:
                start = x0
        if start is not None:
            out.append((start, right, z0, z1))
    return out

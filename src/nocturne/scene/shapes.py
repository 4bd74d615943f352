"""Meshes, and how they stand."""

import hashlib
import weakref
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from nocturne.scene.fields import Vector

_ARRAYS = (("vertices", 3), ("triangles", 3), ("normals", 3), ("uvs", 2))


@dataclass(frozen=True, eq=False, repr=False)
class Mesh:
    """A triangle mesh; its arrays are read-only.

    vertices (n, 3), normals (n, 3), uvs (n, 2): float32, metres; triangles (m, 3): uint32, counter-clockwise outside.
    more_uvs (n, 2): a second set of texture coordinates; colours (n, 3): linear, in the working space; None: no such.
    rest (n, 3): where vertices were before relief moved them, by which patterns go; None: it moved none.
    sets (m,): uint16, the set of faces that each triangle is in, by its number in `set_names`; None: all are one.
    """

    vertices: np.ndarray
    triangles: np.ndarray
    normals: np.ndarray
    uvs: np.ndarray
    sets: np.ndarray | None = None
    set_names: tuple[str, ...] = ()
    more_uvs: np.ndarray | None = None
    colours: np.ndarray | None = None
    rest: np.ndarray | None = None

    def __post_init__(self) -> None:
        """Freeze the arrays and refuse shapes that do not fit together."""
        n = len(self.vertices)
        for name, width in (*_ARRAYS, ("more_uvs", 2), ("colours", 3), ("rest", 3)):
            array = getattr(self, name)
            if array is None:
                continue
            dtype = np.uint32 if name == "triangles" else np.float32
            array = np.ascontiguousarray(array, dtype)
            if array.ndim != 2 or array.shape[1] != width:
                raise ValueError(f"{name} must be (n, {width}), not {array.shape}")
            if name != "triangles" and len(array) != n:
                raise ValueError(f"{name} has {len(array)} rows for {n} vertices")
            array.flags.writeable = False
            object.__setattr__(self, name, array)
        if len(self.triangles) and int(self.triangles.max()) >= n:
            raise ValueError("a triangle names a vertex that is not there")
        if self.sets is not None:
            sets = np.ascontiguousarray(self.sets, np.uint16)
            if sets.shape != (len(self.triangles),):
                raise ValueError(f"sets must have one number for each of {len(self.triangles)} triangles")
            if len(sets) and int(sets.max()) >= len(self.set_names):
                raise ValueError("a triangle is in a set that has no name")
            sets.flags.writeable = False
            object.__setattr__(self, "sets", sets)

    def __setstate__(self, state: dict) -> None:
        """Freeze the arrays of a mesh that comes from another process, too."""
        self.__dict__.update(state)
        for value in state.values():
            if isinstance(value, np.ndarray):
                value.flags.writeable = False

    @cached_property
    def digest(self) -> str:
        """Return a hash of the content."""
        digest = hashlib.sha256()
        for array in (self.vertices, self.triangles, self.normals, self.uvs):
            digest.update(array.tobytes())
        if self.sets is not None:
            digest.update(self.sets.tobytes() + repr(self.set_names).encode())
        for name, array in self.carried(slice(None)).items():
            digest.update(name.encode() + array.tobytes())
        return digest.hexdigest()

    def carried(self, rows: np.ndarray | slice) -> dict[str, np.ndarray]:
        """Return what vertices may carry beside normals and texture coordinates, of some of them, by field."""
        found = {"more_uvs": self.more_uvs, "colours": self.colours, "rest": self.rest}
        return {name: array[rows] for name, array in found.items() if array is not None}

    @cached_property
    def is_bare(self) -> bool:
        """Return True if it has no texture coordinates: they are the same all over, in each set."""
        sets = [uvs for uvs in (self.uvs, self.more_uvs) if uvs is not None and len(uvs)]
        return not any((uvs != uvs[0]).any() for uvs in sets)

    @cached_property
    def bounds(self) -> np.ndarray:
        """Return the (2, 3) lowest and highest corner; zeros for an empty mesh."""
        if not len(self.vertices):
            return np.zeros((2, 3))
        return np.stack([self.vertices.min(0), self.vertices.max(0)]).astype(float)


def joined(*meshes: Mesh) -> Mesh:
    """Return several meshes as one; a single one as it is. Sets of faces of the same name become one."""
    if len(meshes) == 1:
        return meshes[0]
    starts = np.cumsum([0, *(len(m.vertices) for m in meshes)])
    names = tuple(dict.fromkeys(name for m in meshes for name in m.set_names or ("",)))
    sets = None
    if any(m.sets is not None for m in meshes):
        sets = np.concatenate(
            [
                np.array([names.index(name) for name in m.set_names or ("",)], np.uint16)[
                    m.sets if m.sets is not None else np.zeros(len(m.triangles), np.uint16)
                ]
                for m in meshes
            ]
        )
    return Mesh(
        np.concatenate([m.vertices for m in meshes]),
        np.concatenate([m.triangles + np.uint32(s) for m, s in zip(meshes, starts)]),
        np.concatenate([m.normals for m in meshes]),
        np.concatenate([m.uvs for m in meshes]),
        sets,
        names if sets is not None else (),
        **_joined_extras(meshes),
    )


def _joined_extras(meshes: tuple[Mesh, ...]) -> dict[str, np.ndarray]:
    """Return what vertices carry of several meshes: of those without, their own coordinates, and white."""
    has = {name for m in meshes for name in m.carried(slice(None))}
    rows = [
        {"more_uvs": m.uvs, "colours": np.ones_like(m.vertices), "rest": m.vertices, **m.carried(slice(None))}
        for m in meshes
    ]
    return {name: np.concatenate([row[name] for row in rows]) for name in has}


_over: "weakref.WeakKeyDictionary[Mesh, Mesh]" = weakref.WeakKeyDictionary()


def turned_over(mesh: Mesh) -> Mesh:
    """Return a mesh whose faces look to the other side, the same object each time; triangles keep their numbers."""
    if mesh not in _over:
        _over[mesh] = replace(mesh, triangles=mesh.triangles[:, ::-1], normals=-mesh.normals)
    return _over[mesh]


def smooth_normals(vertices: np.ndarray, triangles: np.ndarray) -> np.ndarray:
    """Return (n, 3) float32 unit vertex normals, weighted by triangle area."""
    v = np.asarray(vertices, float)
    t = np.asarray(triangles, np.int64)
    face = np.cross(v[t[:, 1]] - v[t[:, 0]], v[t[:, 2]] - v[t[:, 0]])
    out = np.zeros_like(v)
    for k in range(3):
        np.add.at(out, t[:, k], face)
    size = np.linalg.norm(out, axis=1, keepdims=True)
    return np.where(size > 0, out / np.maximum(size, 1e-30), (0, 0, 1)).astype(np.float32)


def rotation(turn_deg: Vector) -> np.ndarray:
    """Return the (3, 3) matrix of turns in degrees about x, then y, then z."""
    x, y, z = np.radians(turn_deg)
    cx, sx, cy, sy, cz, sz = np.cos(x), np.sin(x), np.cos(y), np.sin(y), np.cos(z), np.sin(z)
    about_x = np.array([[1, 0, 0], [0, cx, -sx], [0, sx, cx]])
    about_y = np.array([[cy, 0, sy], [0, 1, 0], [-sy, 0, cy]])
    about_z = np.array([[cz, -sz, 0], [sz, cz, 0], [0, 0, 1]])
    return about_z @ about_y @ about_x


def transform(place: Vector, turn_deg: Vector, size: Vector = (1.0, 1.0, 1.0)) -> np.ndarray:
    """Return the (4, 4) matrix that sizes, turns, then places."""
    out = np.eye(4)
    out[:3, :3] = rotation(turn_deg) * np.array(size)
    out[:3, 3] = place
    return out


def turn_of(matrix: np.ndarray) -> Vector:
    """Return the turns in degrees, about x, then y, then z, of a (3, 3) rotation."""
    m = np.asarray(matrix, float)
    y = np.arctan2(-m[2, 0], np.hypot(m[0, 0], m[1, 0]))
    if np.hypot(m[0, 0], m[1, 0]) > 1e-9:
        x, z = np.arctan2(m[2, 1], m[2, 2]), np.arctan2(m[1, 0], m[0, 0])
    else:  # x and z turn about the same line: all of it is x
        x, z = np.arctan2(-m[1, 2], m[1, 1]), 0.0
    return tuple(round(float(a), 6) + 0.0 for a in np.degrees((x, y, z)))


def unsized(linear: np.ndarray) -> np.ndarray:
    """Return the rotation nearest to a (3, 3) matrix: what is left of it without sizes, shear and mirroring."""
    u, _, vt = np.linalg.svd(linear)
    return u @ np.diag((1.0, 1.0, np.sign(np.linalg.det(u @ vt)))) @ vt


def turned_with(matrix: np.ndarray, turn_deg: Vector) -> Vector:
    """Return the turns of something that is turned within a group of a (4, 4) matrix, as it is turned in the set."""
    return turn_of(unsized(matrix[:3, :3]) @ rotation(turn_deg))


def at_pivot(stand: dict, pivot: Vector) -> dict:
    """Return place, turn and size of a thing as `levels` gives them, its place being its pivot's."""
    linear = rotation(stand["turn_deg"]) * np.array(stand["size"])
    return {**stand, "place": tuple(float(v) for v in np.array(stand["place"]) + linear @ np.array(pivot))}


def levels(matrix: np.ndarray) -> list[dict]:
    """Return the place, turn and size of the things in each other that stand as a (4, 4) matrix says: one, or two.

    Any linear map is a turn, then sizes, then another turn (singular value decomposition), so shear takes a group with
    a thing in it.
    """
    linear, place = matrix[:3, :3], tuple(float(v) for v in matrix[:3, 3])
    size = np.linalg.norm(linear, axis=0)
    if (size < 1e-12).any():
        return [{"place": place, "turn_deg": (0.0, 0.0, 0.0), "size": tuple(float(s) for s in size)}]
    turn = linear / size
    if np.linalg.det(turn) < 0:
        size[0], turn[:, 0] = -size[0], -turn[:, 0]
    if np.abs(turn.T @ turn - np.eye(3)).max() < 1e-5:
        return [{"place": place, "turn_deg": turn_of(turn), "size": tuple(float(s) for s in size)}]
    u, s, vt = np.linalg.svd(linear)
    if np.linalg.det(vt) < 0:
        vt, u = -vt, -u
    if np.linalg.det(u) < 0:
        u[:, 2], s[2] = -u[:, 2], -s[2]
    return [
        {"place": place, "turn_deg": turn_of(u), "size": tuple(float(v) for v in s)},
        {"turn_deg": turn_of(vt)},
    ]

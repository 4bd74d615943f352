"""Embree 4 through ctypes for building; its ray functions are called from compiled kernels by symbol.

Two levels: a `Shape` is a committed bottom scene of one mesh, sphere or rectangle; a `Stage` a top scene of instances.
Facts used here (measured): the default mask of geometries and instances is 1, so meshes get all bits and the instance
carries visibility; ray records must be 16-byte aligned; shared vertex buffers need 16 readable bytes behind them.
"""

import ctypes
import weakref
from ctypes import c_char_p, c_int, c_size_t, c_ssize_t, c_uint, c_void_p
from pathlib import Path

import embreex
import llvmlite.binding as llvm
import numpy as np

from nocturne.engine.layout import ray as layout
from nocturne.engine.layout.masks import ALL_RAYS, CAMERA_RAYS
from nocturne.errors import OutOfMemory, RenderError

TRIANGLES, SPHERES, INSTANCE = 0, 50, 121
UINT3, FLOAT3, FLOAT4, MATRIX_3X4_ROWS = 0x5003, 0x9003, 0x9004, 0x9134
INDEX_BUFFER, VERTEX_BUFFER = 0, 1
ROBUST = 4
MEDIUM_QUALITY = 1
_OUT_OF_MEMORY = 4

_folder = Path(embreex.__file__).resolve().parent.parent / "embreex.libs"
_library_path = str(next(_folder.glob("libembree4*")))
llvm.load_library_permanently(_library_path)
_library = ctypes.CDLL(_library_path)


# What is done at once keeps the interpreter: to let go of it for each of thousands of copies means to wait for whoever
# took it, each time.
_at_once = ctypes.PyDLL(_library_path)


def _function(name, result, *arguments, library=_library):
    function = getattr(library, name)
    function.restype, function.argtypes = result, list(arguments)
    return function


_new_device = _function("rtcNewDevice", c_void_p, c_char_p)
_device_error = _function("rtcGetDeviceError", c_int, c_void_p)
_device_property = _function("rtcGetDeviceProperty", c_ssize_t, c_void_p, c_int)
_new_scene = _function("rtcNewScene", c_void_p, c_void_p)
_release_scene = _function("rtcReleaseScene", None, c_void_p)
_scene_flags = _function("rtcSetSceneFlags", None, c_void_p, c_int)
_scene_quality = _function("rtcSetSceneBuildQuality", None, c_void_p, c_int)
_commit_scene = _function("rtcCommitScene", None, c_void_p)
_new_geometry = _function("rtcNewGeometry", c_void_p, c_void_p, c_int, library=_at_once)
_release_geometry = _function("rtcReleaseGeometry", None, c_void_p, library=_at_once)
_commit_geometry = _function("rtcCommitGeometry", None, c_void_p)
_share_buffer = _function(
    "rtcSetSharedGeometryBuffer", None, c_void_p, c_int, c_uint, c_int, c_void_p, c_size_t, c_size_t, c_size_t
)
_attach = _function("rtcAttachGeometryByID", None, c_void_p, c_void_p, c_uint, library=_at_once)
_mask = _function("rtcSetGeometryMask", None, c_void_p, c_uint, library=_at_once)
_instanced_scene = _function("rtcSetGeometryInstancedScene", None, c_void_p, c_void_p, library=_at_once)
_transform = _function("rtcSetGeometryTransform", None, c_void_p, c_uint, c_int, c_void_p, library=_at_once)
_commit_instance = _function("rtcCommitGeometry", None, c_void_p, library=_at_once)
_bounds = _function("rtcGetSceneBounds", None, c_void_p, c_void_p)
intersect_address = ctypes.cast(_library.rtcIntersect1, c_void_p).value
occluded_address = ctypes.cast(_library.rtcOccluded1, c_void_p).value
nearest_address = ctypes.cast(_library.rtcPointQuery, c_void_p).value
intersect = _function("rtcIntersect1", None, c_void_p, c_void_p, c_void_p)

_device = _new_device(b"")
if not _device:
    raise RenderError("The ray tracing library could not start.", hint="Is this an x86-64 processor with SSE4.2?")


def _check(what: str) -> None:
    code = _device_error(_device)
    if code == _OUT_OF_MEMORY:
        raise OutOfMemory(f"Not enough memory to build {what}.", hint="Hide or simplify heavy things.")
    if code:
        raise RenderError(f"The ray tracing library refused {what} (code {code}).")


def padded(vertices: np.ndarray) -> np.ndarray:
    """Return an (n, 3) float32 copy with 16 readable bytes behind its last vertex."""
    room = np.zeros(vertices.size + 4, np.float32)
    room[: vertices.size] = vertices.ravel()
    return room[: vertices.size].reshape(-1, 3)


def hit_error(point: np.ndarray) -> float:
    """Return a distance, metres, safely above the rounding error of a hit at a point: as `paths.error_of`."""
    return 1e-5 + 1.2e-6 * float(np.abs(point).max())


class Shape:
    """A committed bottom-level scene; keeps its buffers alive and releases Embree's part with itself."""

    def __init__(self, kind: int, buffers: list[tuple[int, int, np.ndarray]], what: str) -> None:
        geometry = _new_geometry(_device, kind)
        for slot, shape, array in buffers:
            stride = array.strides[0]
            _share_buffer(geometry, slot, 0, shape, array.ctypes.data, 0, stride, len(array))
        _mask(geometry, ALL_RAYS)
        _commit_geometry(geometry)
        self.address = _new_scene(_device)
        _scene_flags(self.address, ROBUST)
        _scene_quality(self.address, MEDIUM_QUALITY)
        _attach(self.address, geometry, 0)
        _release_geometry(geometry)
        _commit_scene(self.address)
        self._buffers = buffers
        weakref.finalize(self, _release_scene, self.address)
        _check(what)

    @classmethod
    def mesh(cls, vertices: np.ndarray, triangles: np.ndarray, *, name: str = "a mesh") -> "Shape":
        """Build from (n, 3) float32 vertices and (m, 3) uint32 triangles."""
        return cls(
            TRIANGLES, [(VERTEX_BUFFER, FLOAT3, padded(vertices)), (INDEX_BUFFER, UINT3, triangles)], f"“{name}”"
        )

    @classmethod
    def sphere(cls) -> "Shape":
        """Build a unit sphere at the origin."""
        return cls(SPHERES, [(VERTEX_BUFFER, FLOAT4, np.array([[0, 0, 0, 1]], np.float32))], "a sphere")


def _new_instance(shape: Shape, transform: int, mask: int) -> int:
    """Return a geometry that stands for a shape; transform: the address of its twelve numbers."""
    instance = _new_geometry(_device, INSTANCE)
    _instanced_scene(instance, shape.address)
    _transform(instance, 0, MATRIX_3X4_ROWS, transform)
    _mask(instance, mask)
    _commit_instance(instance)
    return instance


class Stage:
    """A committed top-level scene of instances of shapes."""

    def __init__(
        self,
        shapes: list[Shape],
        transforms: np.ndarray,
        masks: np.ndarray,
        before: "Stage | None" = None,
        *,
        ids: np.ndarray | None = None,
    ) -> None:
        """Build from n shapes, (n, 12) float32 row-major 3x4 transforms and (n,) visibility masks.

        before: another stage, whose instances are shared where they are the same.
        ids: by which numbers rays find them, from 0 on otherwise.
        """
        self.address = _new_scene(_device)
        _scene_flags(self.address, ROBUST)
        _scene_quality(self.address, MEDIUM_QUALITY)
        self._shapes, self._masks = shapes, np.array(masks)
        self._transforms = np.ascontiguousarray(transforms, np.float32)
        self._instances: list[int | None] = [None] * len(shapes)  # the scene keeps them
        made = []
        numbers = range(len(shapes)) if ids is None else ids.tolist()
        placed = zip(self._shared(before), shapes, self._masks.tolist(), numbers)
        first, step = self._transforms.ctypes.data, self._transforms.strides[0]
        for i, (instance, shape, mask, number) in enumerate(placed):
            if instance is None and mask:
                instance = _new_instance(shape, first + i * step, mask)
                made.append(instance)
            if instance is not None:
                _attach(self.address, instance, number)
                self._instances[i] = instance
        _commit_scene(self.address)
        for instance in made:
            _release_geometry(instance)
        weakref.finalize(self, _release_scene, self.address)
        _check("the set")

    def _shared(self, before: "Stage | None") -> list[int | None]:
        """Return for each instance the one of another stage that is the same, None where there is none."""
        n = len(self._shapes)
        if before is None:
            return [None] * n
        k = min(n, len(before._shapes))
        same = (self._transforms[:k] == before._transforms[:k]).all(1) & (self._masks[:k] == before._masks[:k])
        pairs = zip(same.tolist(), self._shapes, before._shapes, before._instances)
        return [known if is_same and a is b else None for is_same, a, b, known in pairs] + [None] * (n - k)

    def bounds(self) -> np.ndarray:
        """Return the (2, 3) lowest and highest corner, metres; infinite for an empty stage."""
        room = np.zeros(12, np.float32)
        start = (-room.ctypes.data % 16) // 4
        _bounds(self.address, room[start:].ctypes.data)
        return np.array([room[start : start + 3], room[start + 4 : start + 7]])

    def first_hit(
        self, origin: np.ndarray, direction: np.ndarray, mask: int = CAMERA_RAYS
    ) -> tuple[int, float, bool] | None:
        """Return (instance, distance along unit direction, whether the ray leaves the shape) of the nearest hit."""
        ray, ids = self._shot(origin, direction, mask)
        if ids[layout.GEOMETRY] == layout.NOTHING:
            return None
        instance = int(ids[layout.INSTANCE])
        inward = np.linalg.solve(self._linear(instance), direction)
        return instance, float(ray[layout.FAR]), bool(ray[layout.ROW.span("NORMAL")] @ inward > 0)

    def first_face(
        self, origin: np.ndarray, direction: np.ndarray, mask: int = CAMERA_RAYS
    ) -> tuple[int, int, float] | None:
        """Return (instance, triangle, distance along unit direction) of the nearest hit."""
        ray, ids = self._shot(origin, direction, mask)
        if ids[layout.GEOMETRY] == layout.NOTHING:
            return None
        return int(ids[layout.INSTANCE]), int(ids[layout.PRIMITIVE]), float(ray[layout.FAR])

    def _shot(self, origin: np.ndarray, direction: np.ndarray, mask: int) -> tuple[np.ndarray, np.ndarray]:
        """Return a ray after it was searched along, as floats and as whole numbers."""
        room = np.zeros(layout.ROW.width + 16, np.float32)
        start = (-room.ctypes.data % 64) // 4
        ray = room[start : start + layout.ROW.width]
        ids = ray.view(np.uint32)
        ray[:] = layout.ROW.filled(np.float32, ORIGIN=origin, DIRECTION=direction, FAR=np.inf)
        ids[layout.MASK], ids[layout.GEOMETRY], ids[layout.INSTANCE] = mask, layout.NOTHING, layout.NOTHING
        intersect(self.address, ray.ctypes.data, None)
        return ray, ids

    def surfaces(
        self, origins: np.ndarray, directions: np.ndarray, mask: int = CAMERA_RAYS
    ) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Return (n,) distances along (n, 3) unit directions to the nearest hits, (n, 3) unit normals, (n,) instances.

        Of a ray that hits nothing the distance is infinite, the normal 0 and the instance -1.
        """
        n = len(directions)
        room = np.zeros(n * layout.ROW.width + 16, np.float32)
        start = (-room.ctypes.data % 64) // 4
        rays = room[start : start + n * layout.ROW.width].reshape(n, layout.ROW.width)
        ids = rays.view(np.uint32)
        rays[:, layout.ROW.span("ORIGIN")], rays[:, layout.ROW.span("DIRECTION")] = origins, directions
        rays[:, layout.FAR] = np.inf
        ids[:, layout.MASK], ids[:, [layout.GEOMETRY, layout.INSTANCE]] = mask, layout.NOTHING
        first, step = rays.ctypes.data, rays.strides[0]
        for k in range(n):
            intersect(self.address, first + k * step, None)
        is_hit = ids[:, layout.GEOMETRY] != layout.NOTHING
        distances = np.where(is_hit, rays[:, layout.FAR], np.inf).astype(float)
        normals = np.zeros((n, 3))
        for instance in np.unique(ids[is_hit, layout.INSTANCE]):
            own = is_hit & (ids[:, layout.INSTANCE] == instance)
            normals[own] = rays[own][:, layout.ROW.span("NORMAL")] @ np.linalg.inv(self._linear(int(instance)))
        normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-30)
        return distances, normals, np.where(is_hit, ids[:, layout.INSTANCE].astype(np.int64), -1)

    def _linear(self, instance: int) -> np.ndarray:
        return self._transforms[instance].reshape(3, 4)[:, :3].astype(float)


def version() -> int:
    """Return Embree's version, for example 40400."""
    return _device_property(_device, 0)

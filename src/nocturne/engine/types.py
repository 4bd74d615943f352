"""The layout of everything that crosses from Python to the compiled kernels, declared once.

`SCENE` and `FILM` list the arrays that kernels read through a table of addresses: packing (`pack`) and the compiled
accessors (`kernels/jit.py`) are both made from these lists. The rows' inner layout is in `nocturne.engine.layout`.
"""

from dataclasses import dataclass

import numpy as np

from nocturne.engine.layout import scratch


@dataclass(frozen=True)
class Field:
    """One array of a table: its name, dtype code, shape (None: read from the table) and meaning."""

    name: str
    dtype: str
    shape: tuple[int | None, ...]
    meaning: str


SCENE = (
    Field("top", "i8", (1,), "address of the committed top-level RTCScene"),
    Field("verts", "f4", (None, 3), "object-space vertices of all meshes, metres"),
    Field("norms", "f4", (None, 3), "object-space vertex normals"),
    Field("uvs", "f4", (None, 2), "texture coordinates"),
    Field("tris", "u4", (None, 3), "vertex indices, relative to the mesh's first vertex"),
    Field("mesh_i", "i4", (None, 2), "first triangle, first vertex"),
    Field("inst_i", "i4", (None, 4), "mesh (-1: a lamp's own shape), material, light (-1: none), object id"),
    Field("inst_xf", "f4", (None, 12), "object to world, 3x4 row-major"),
    Field("inst_nm", "f4", (None, 9), "normals to world: inverse transpose, 3x3 row-major"),
    Field("mat_f", "f4", (None, 48), "material parameters, see Mat"),
    Field("mat_i", "i4", (None, 6), "first binding, bindings, is medium, is thin-walled, precedence, light group"),
    Field("bind_i", "i4", (None, 4), "parameter offset, channels, texture, blend (0 replace, 1 multiply)"),
    Field("bind_f", "f4", (None, 8), "uv to texture, 2x3 affine; share that is replaced; 1: inverted"),
    Field("tex_i", "i4", (None, 3), "first texel, width, height"),
    Field("tex_f", "f4", (None, 1), "scale of the square-root encoding"),
    Field("texels", "u2", (None, 3), "RGB, encoded as sqrt(value / scale) * 65535"),
    Field(
        "light_i", "i4", (None, 8), "kind, group, first table entry, entries, instance, tree trail, tree depth, in tree"
    ),
    Field("light_f", "f4", (None, 32), "see Light"),
    Field("infinite", "i4", (None,), "lights at infinity"),
    Field("mesh_light_f", "f4", (None, 12), "world triangles of mesh lights: corner, edge, edge, area, -, -"),
    Field("mesh_light_i", "i4", (None, 2), "triangle's index in tris, mesh"),
    Field("mesh_light_cdf", "f4", (None,), "running power of each mesh light's triangles, 0..1"),
    Field("env_i", "i4", (None, 4), "first pixel, width, height, first cell of each environment"),
    Field("env_px", "f4", (None, 3), "environment radiance, latitude-longitude, top row first"),
    Field("env_q", "f4", (None,), "alias table: chance to stay"),
    Field("env_alias", "i4", (None,), "alias table: other pixel"),
    Field("node_f", "f4", (None, 12), "light tree: box low 3, box high 3, axis 3, cos spread, cos emission, power"),
    Field("node_i", "i4", (None, 2), "light tree: left child (right follows) or -1, light"),
    Field("camera", "f4", (32,), "see Camera"),
    Field("settings_f", "f4", (16,), "clamp, regularise roughness"),
    Field("settings_i", "i4", (16,), "depth limits, sampling mode, counts; see Settings"),
    Field("start_medium", "i4", (8,), "count, then materials the camera starts inside"),
    Field("tab_metal", "f4", (32, 32), "GGX directional albedo, F = 1: [roughness, mu], see albedo.py for the steps"),
    Field("tab_glass", "f4", (33, 32, 32, 2), "dielectric directional albedo: [ior, roughness, mu, (all, reflected)]"),
    Field("filter_inv", "f4", (257,), "inverse of the pixel filter's running sum, pixels"),
)

FILM = (
    Field("groups", "f4", (None, None, None, 3), "sum of radiance for each light group: group, row, column"),
    Field("passes", "f4", (None, None, None, 3), "sum of radiance for each path pass"),
    Field("guides", "f4", (None, None, 14), "see Guide; sums but for depth, position and normal: the pixel's middle"),
    Field("variance", "f8", (None, None, 2), "sum and sum of squares of the luminance"),
    Field("ids", "u4", (None, None, 2, 6), "object and material ids seen, most six a pixel"),
    Field("coverage", "f4", (None, None, 2, 6), "samples of each id"),
    Field("samples", "i4", (None, None), "samples taken"),
)

DTYPES = {"i8": np.int64, "f8": np.float64, "f4": np.float32, "i4": np.int32, "u4": np.uint32, "u2": np.uint16}


def pack(fields: tuple[Field, ...], arrays: dict[str, np.ndarray]) -> np.ndarray:
    """Check arrays against their declaration and return the table of their addresses.

    Parameters
    ----------
    fields : tuple of Field
        `SCENE` or `FILM`.
    arrays : dict
        One C-contiguous array for each field; the caller keeps them alive as long as the table.

    Returns
    -------
    (n,) int64 array
        For each field its address, then its shape.

    Raises
    ------
    ValueError
        If an array is missing or has another dtype, shape or layout than declared.
    """
    table: list[int] = []
    for field in fields:
        if field.name not in arrays:
            raise ValueError(f"no array for {field.name}")
        array = arrays[field.name]
        expected = DTYPES[field.dtype]
        fits = array.ndim == len(field.shape) and all(
            want is None or want == have for want, have in zip(field.shape, array.shape)
        )
        if array.dtype != expected or not fits or not array.flags.c_contiguous:
            raise ValueError(
                f"{field.name} must be contiguous {expected.__name__} {field.shape}, not {array.dtype} {array.shape}"
            )
        table.append(array.ctypes.data)
        table.extend(array.shape)
    return np.array(table, np.int64)


def offsets(fields: tuple[Field, ...]) -> dict[str, int]:
    """Return where each field's address stands in the packed table."""
    where, at = {}, 0
    for field in fields:
        where[field.name] = at
        at += 1 + len(field.shape)
    return where


def scratch_row(groups: int = 1) -> np.ndarray:
    """Return a zeroed work row for so many light groups, its start aligned to 64 bytes, as Embree wants."""
    n = scratch.length(groups)
    room = np.zeros(n + 16, np.float32)
    start = (-room.ctypes.data % 64) // 4
    return room[start : start + n]

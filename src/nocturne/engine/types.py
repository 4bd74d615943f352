"""The tables of arrays that cross from Python to the compiled kernels.

`SCENE` and the film's `ARRAYS` list the arrays that kernels read through a table of addresses: packing (`pack`) and the
compiled accessors (`kernels/jit.py`) are both made from these lists. The rows' inner layout is in
`nocturne.engine.layout`.
"""

import numpy as np

from nocturne.engine.layout import (
    bright,
    camera,
    corner,
    environment,
    glow,
    instance,
    learned,
    light,
    mat,
    media,
    mesh,
    more,
    near,
    node,
    pattern,
    rounded,
    scratch,
    settings,
)
from nocturne.rows import DTYPES, Field

SCENE = (
    Field("top", "i8", (2,), "addresses of committed top-level RTCScenes: of everything, of clear things; 0: none"),
    Field("corners", "f4", (None, corner.ROW), "vertices of all meshes"),
    Field("tris", "u4", (None, 3), "vertex indices, relative to the mesh's first vertex"),
    Field("near", "i8", (None, near.TARGET), "things whose distance is asked"),
    Field("parts", "i4", (None,), "which connected part of its mesh each triangle is of, if that is asked"),
    Field(
        "round_i", "i4", (None, rounded.NEAR), "where the hard edges near each triangle begin, and how many; one: none"
    ),
    Field("round_f", "f4", (None, rounded.ROW), "hard edges, as one side of them is rounded"),
    Field("more", "f4", (None, more.ROW), "what vertices of some meshes carry besides"),
    Field("rest", "f4", (None, 3), "where vertices of some meshes were before relief moved them"),
    Field("mesh_i", "i4", (None, mesh.ROW), "where meshes begin"),
    Field("inst_i", "i4", (None, instance.WHOLE), "placed meshes and lamps' own shapes"),
    Field("inst_xf", "f4", (None, instance.TO_WORLD), "object to world, 3x4 row-major"),
    Field("inst_nm", "f4", (None, instance.NORMALS_TO_WORLD), "normals to world: inverse transpose, 3x3 row-major"),
    Field("mat_f", "f4", (None, mat.FLOATS), "material parameters"),
    Field("mat_i", "i4", (None, mat.WHOLE), "what materials are"),
    Field("bind_i", "i4", (None, pattern.BINDING), "steps that drive parameters"),
    Field("bind_f", "f4", (None, pattern.PLACEMENT), "how they are laid on, and their numbers"),
    Field("entries", "f4", (None, pattern.ENTRY), "lists of steps, such as the stops of ramps"),
    Field("tex_i", "i4", (None, pattern.WHOLE), "where pictures' levels begin"),
    Field("tex_f", "f4", (None, pattern.FLOATS), "scale of the square-root encoding, and how large pictures are"),
    Field("level_i", "i4", (None, pattern.LEVEL), "where levels begin, and their size"),
    Field("texels", "u2", (None, 4), "RGB, encoded as sqrt(value / scale) * 65535, in tiles of a cache line"),
    Field("light_i", "i4", (None, light.WHOLE), "what lights are"),
    Field("light_f", "f4", (None, light.FLOATS), "their numbers"),
    Field("infinite", "i4", (None,), "lights at infinity"),
    Field("mesh_light_f", "f4", (None, glow.FLOATS), "world triangles of mesh lights"),
    Field("mesh_light_i", "i4", (None, glow.WHOLE), "which triangles they are"),
    Field("mesh_light_cdf", "f4", (None,), "running power of each mesh light's triangles, 0..1"),
    Field("env_i", "i4", (None, environment.ROW), "where environments begin, and their size"),
    Field("env_px", "f4", (None, 3), "environment radiance, latitude-longitude, top row first"),
    Field("env_q", "f4", (None,), "alias table: chance to stay"),
    Field("env_alias", "i4", (None,), "alias table: other cell"),
    Field("node_f", "f4", (None, node.FLOATS), "light tree: bounds and power"),
    Field("node_i", "i4", (None, node.WHOLE), "light tree: children and lights"),
    Field("learned_f", "f4", (learned.FLOATS,), "how places are found in what was learned of lights"),
    Field("learned_cdf", "f4", (None, None), "running chances of slots by row; one row: nothing was learned"),
    Field("slots", "i4", (None, learned.SLOT), "lights that share a learned chance"),
    Field("sums", "i8", (None, None), "squared contributions by row and slot, then visits; one row: no learning"),
    Field("bright", "f4", (None, bright.ROW), "things that send back much light"),
    Field("bright_share", "f4", (None, None), "share of directions by row and bright thing, then all; one row: none"),
    Field("bright_sums", "i8", (None, None), "squared finds by row and bright thing; one row: no learning"),
    Field("reached_sums", "i8", (None,), "squared light by instance that paths went to; one: no learning"),
    Field("camera", "f4", (camera.ROW,), "the camera"),
    Field("settings_f", "f4", (settings.FLOATS,), "what holds for the whole render"),
    Field("settings_i", "i4", (settings.WHOLE,), "what holds for the whole render"),
    Field("start_medium", "i4", (media.ROW,), "materials the camera starts inside"),
    Field("tab_metal", "f4", (64, 64), "GGX directional albedo, F = 1: [roughness, mu], see albedo.py for the steps"),
    Field("tab_glass", "f4", (33, 32, 32, 2), "dielectric directional albedo: [ior, roughness, mu, (all, reflected)]"),
    Field(
        "tab_brushed", "f4", (32, 22, 16, 32), "uneven facets' albedo over even ones': [roughness, stretch, seen, mu]"
    ),
    Field("tab_fuzz", "f4", (24, 24, 3), "the fuzz lobe: [roughness, mu, (a, b, share)], see fuzz.py"),
    Field("tab_film", "f4", (1024, 6), "what a cosine over the way in a film gives of each channel, and a sine"),
    Field("tab_wave", "f4", (257, 4), "by a random number: wavelength, micrometres, and its colour over its chance"),
    Field("filter_inv", "f4", (257,), "inverse of the pixel filter's running sum, pixels"),
)


def pack(fields: tuple[Field, ...], arrays: dict[str, np.ndarray]) -> np.ndarray:
    """Check arrays against their declaration and return the table of their addresses.

    Parameters
    ----------
    fields : tuple of Field
        `SCENE`, or the film's `ARRAYS`.
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

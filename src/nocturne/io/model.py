"""Models in, through trimesh: glTF and GLB, OBJ, PLY, STL; and GLB out."""

import struct
import zlib
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import trimesh

from nocturne.errors import BadFile, MissingFile, UnknownFormat
from nocturne.io.atomic import replacing
from nocturne.io.beside import Resolver, tree_of
from nocturne.io.paths import is_file
from nocturne.jobs import FAULTS
from nocturne.scene.shapes import Mesh, smooth_normals

READS = (".glb", ".gltf", ".obj", ".ply", ".stl")
# What the library is known to let through when a file is damaged; an `ImportError`, too, for an encoding that only an
# optional package could guess.
_DAMAGE = (*FAULTS, StopIteration, struct.error, zlib.error)
_MOST_EMPTY = 1_000_000  # numbers of an accessor that has no data: they are all zero
_LARGEST_BYTES = 4 << 30
_Y_UP_TO_Z_UP = np.array([[1, 0, 0, 0], [0, 0, -1, 0], [0, 1, 0, 0], [0, 0, 0, 1.0]])


@dataclass(frozen=True, repr=False)
class Part:
    """One placed mesh of a model; `name` is unique within the file."""

    name: str
    mesh: Mesh
    matrix: np.ndarray


class Parts(list[Part]):
    """The parts of a model, and the names of those that are squeezed flat and were left out."""

    flat: tuple[str, ...] = ()


def read(path: Path | str) -> Parts:
    """Return the parts of a model, metres, z up.

    Raises
    ------
    FileError
        If it is missing, of an unknown kind, damaged, or empty.
    """
    path = Path(path)
    if not is_file(path):
        raise MissingFile(path, "there is no such file.", hint="Was it moved or renamed?")
    suffix = path.suffix.lower()
    if suffix not in READS:
        raise UnknownFormat(path, "models of this kind are not read.", hint=f"Use one of {', '.join(READS)}.")
    if path.stat().st_size > _LARGEST_BYTES:
        raise BadFile(path, "it is larger than 4 GiB.", hint="Split it into several models.")
    try:
        _refuse_bombs(path)
        with np.errstate(all="ignore"):  # numbers that are none are looked for where they matter
            loaded = trimesh.load_scene(path, process=False, resolver=Resolver(str(path)))
        turn = _Y_UP_TO_Z_UP if suffix in (".glb", ".gltf") else np.eye(4)
        parts, flat = Parts(), []
        for node in sorted(loaded.graph.nodes_geometry):
            matrix, name = loaded.graph[node]
            geometry = loaded.geometry[name]
            matrix = np.asarray(matrix, float)
            if not (np.abs(matrix) < 1e12).all():
                raise ValueError(f"the place of “{node}” is not a number")
            matrix = turn @ matrix
            if np.abs(np.linalg.det(matrix[:3, :3])) < 1e-18:
                flat.append(str(node))
                continue
            if isinstance(geometry, trimesh.Trimesh) and len(geometry.faces):
                parts.append(Part(str(node), to_mesh(geometry), matrix))
    except FileNotFoundError as error:
        name = Path(error.filename).name if error.filename else error.args[0]
        raise MissingFile(
            path, f"it names the file “{name}”, which is not beside it.", hint="Bring that file there, too."
        ) from error
    except _DAMAGE as error:
        raise BadFile(
            path,
            f"it is damaged ({type(error).__name__}: {str(error)[:120]}).",
            hint="Export it again from where it came.",
        ) from error
    if not parts:
        raise BadFile(path, "there are no triangles in it.", hint="Export it with its meshes.")
    parts.flat = tuple(flat)
    return parts


def _refuse_bombs(path: Path) -> None:
    """Refuse a glTF that announces far more numbers than it brings: they would be made up, gigabytes of zeros.

    Raises
    ------
    ValueError
        If it does.
    """
    accessors = tree_of(path).get("accessors")
    for accessor in accessors if isinstance(accessors, list) else ():
        count = accessor.get("count") if isinstance(accessor, dict) else None
        if isinstance(count, int) and count > _MOST_EMPTY and "bufferView" not in accessor:
            raise ValueError(f"an accessor announces {count:,} values and has no data")


def to_mesh(geometry: trimesh.Trimesh) -> Mesh:
    """Return a mesh with the geometry's own normals and UVs where it has them."""
    vertices = np.asarray(geometry.vertices, np.float32)
    triangles = np.asarray(geometry.faces, np.uint32)
    if not np.isfinite(vertices).all():
        raise ValueError("a vertex is not a number")
    uv = getattr(geometry.visual, "uv", None)
    uvs = np.zeros((len(vertices), 2), np.float32) if uv is None or len(uv) != len(vertices) else np.asarray(uv)[:, :2]
    own = geometry._cache.cache.get("vertex_normals")
    normals = own if own is not None and len(own) == len(vertices) else smooth_normals(vertices, triangles)
    return Mesh(vertices, triangles, np.nan_to_num(normals), np.nan_to_num(uvs))


def write_glb(path: Path | str, meshes: dict[str, Mesh]) -> None:
    """Write meshes by name as one binary glTF (y up, as the standard says)."""
    scene = trimesh.Scene()
    back = np.linalg.inv(_Y_UP_TO_Z_UP)
    for name, mesh in meshes.items():
        geometry = trimesh.Trimesh(
            mesh.vertices,
            mesh.triangles,
            vertex_normals=mesh.normals,
            process=False,
            validate=False,
            visual=trimesh.visual.TextureVisuals(uv=mesh.uvs, material=trimesh.visual.material.PBRMaterial()),
        )
        scene.add_geometry(geometry, node_name=name, geom_name=name, transform=back)
    with replacing(path) as temporary:
        temporary.write_bytes(trimesh.exchange.gltf.export_glb(scene, include_normals=True))

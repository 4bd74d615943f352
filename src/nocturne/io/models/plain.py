"""PLY and STL in, through trimesh: one mesh each, without materials."""

from pathlib import Path

import trimesh

from nocturne.io.models.arrival import Arrival, Notes
from nocturne.io.models.mend import sound_mesh
from nocturne.scene.thing import Thing

READS = (".ply", ".stl")


def read(path: Path, read_beside: object = None) -> Arrival:
    """Return what a PLY or STL brings.

    Raises
    ------
    ValueError, LookupError, TypeError
        If it is damaged.
    """
    notes = Notes()
    loaded = trimesh.load_scene(path, process=False)
    things, meshes = [], {}
    for name, geometry in loaded.geometry.items():
        if not isinstance(geometry, trimesh.Trimesh) or not len(geometry.faces):
            notes.lose("points or lines")
            continue
        own = geometry._cache.cache.get("vertex_normals")
        if getattr(geometry.visual, "kind", None) in ("vertex", "face"):
            notes.lose("the colours of its vertices")
        uvs = getattr(geometry.visual, "uv", None)
        mesh = sound_mesh(
            geometry.vertices,
            geometry.faces,
            normals=own if path.suffix.lower() == ".ply" else None,
            uvs=uvs,
            notes=notes,
        )
        if mesh is None:
            continue
        name = path.stem if len(loaded.geometry) == 1 else str(name)
        meshes[name] = mesh
        things.append(Thing(id=f"part-{len(things)}", name=name, mesh=name))
    return notes.told(Arrival(tuple(things), meshes, up="z"))

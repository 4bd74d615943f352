"""PLY and STL in, through trimesh: one mesh each, with its colours."""

from pathlib import Path

from nocturne.colour.spaces import decode_srgb, rec709_to_working
from nocturne.io.models.arrival import Arrival, Notes
from nocturne.io.models.border import Border
from nocturne.io.models.gltfmaterials import mesh_coloured
from nocturne.io.models.mend import sound_mesh
from nocturne.scene.thing import Thing

READS = (".ply", ".stl")


def read(path: Path, border: Border) -> Arrival:
    """Return what a PLY or STL brings.

    Raises
    ------
    ValueError, LookupError, TypeError
        If it is damaged.
    """
    import trimesh  # here, as it takes half a second to load

    notes = Notes()
    loaded = trimesh.load_scene(path, process=False)
    things, meshes, materials = [], {}, []
    for name, geometry in loaded.geometry.items():
        if not isinstance(geometry, trimesh.Trimesh) or not len(geometry.faces):
            notes.lose("points or lines")
            continue
        own = geometry._cache.cache.get("vertex_normals")
        colours = None
        if getattr(geometry.visual, "kind", None) == "vertex":
            colours = decode_srgb(geometry.visual.vertex_colors[:, :3] / 255.0) @ rec709_to_working().T
        elif getattr(geometry.visual, "kind", None) == "face":
            notes.lose("the colours of its faces")
        uvs = getattr(geometry.visual, "uv", None)
        mesh = sound_mesh(
            geometry.vertices,
            geometry.faces,
            normals=own if path.suffix.lower() == ".ply" else None,
            uvs=uvs,
            colours=colours,
            notes=notes,
        )
        if mesh is None:
            continue
        name = path.stem if len(loaded.geometry) == 1 else str(name)
        meshes[name] = mesh
        if colours is not None and not materials:
            materials.append(mesh_coloured("material-colours", "Mesh colours"))
        worn = materials[0].id if colours is not None else ""
        things.append(Thing(id=f"part-{len(things)}", name=name, mesh=name, material=worn))
    return notes.told(Arrival(tuple(things), meshes, tuple(materials), up="z"))

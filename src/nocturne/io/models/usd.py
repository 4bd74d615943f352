"""OpenUSD in, through its own library: usda, usdc and usdz.

References
----------
OpenUSD 26.11: UsdGeom (meshes, subsets, implicit shapes, point instancers, cameras), UsdLux, UsdShade.
"""

import math
import os
import re
import zipfile
from pathlib import Path
from typing import Any

import numpy as np

from nocturne.colour.spaces import rec709_to_working
from nocturne.io.models import usdlayers, usdlibrary
from nocturne.io.models.apart import read_apart
from nocturne.io.models.arrival import Arrival, Names, Notes
from nocturne.io.models.border import Border
from nocturne.io.models.cameras import Camera, viewed
from nocturne.io.models.gltfmaterials import mesh_coloured
from nocturne.io.models.mend import sound_mesh, triangulated
from nocturne.io.models.usdlights import light_of
from nocturne.io.models.usdmaterials import is_second, material_of, reads_display_colour
from nocturne.scene.lights import Light
from nocturne.scene.materials import Material
from nocturne.scene.shapes import Mesh, levels, transform
from nocturne.scene.smoothing import creased, distinct
from nocturne.scene.solids import ball, lathe, moved, panel, rounded_box
from nocturne.scene.thing import FaceMaterial, Thing

READS = (".usd", ".usda", ".usdc", ".usdz")
_MOST_COPIES = 2_000_000
_APERTURE = 0.1  # of the stage's unit


def read(path: Path, border: Border) -> Arrival:
    """Return what a USD stage brings, as it stands: with its references, and variants as they are chosen.

    The library reads it in a process of its own: damaged crates have it ask for absurd memory, or end.

    Raises
    ------
    ValueError
        If it is damaged.
    """
    return read_apart(__name__, border)


def read_here(border: Border) -> Arrival:
    """Return what a USD stage brings, read in this very process.

    Raises
    ------
    ValueError, RuntimeError
        If it is damaged.
    OutsideFolder
        If it draws in layers from outside its folder.
    """
    usdlibrary.ready()
    from pxr import Tf, Usd, UsdGeom, UsdUtils

    path = border.path

    told = UsdUtils.CoalescingDiagnosticDelegate()
    try:
        usdlayers.check(path, border)
        stage = Usd.Stage.Open(str(path))
        if stage is None:
            raise ValueError("it is no stage")
        return _Stage(path, stage, UsdGeom, Usd).arrival()
    except Tf.ErrorException as error:
        said = re.findall(r": '(.*?)'?$", str(error), re.MULTILINE)
        raise ValueError((said[0] if said else "the USD library refused it").replace(str(path), path.name)) from error
    finally:
        told.TakeUncoalescedDiagnostics()
        del told


def picture_bytes(path: Path, name: str, border: Border) -> bytes:
    """Return the bytes of a picture inside a usdz, which is a plain archive."""
    with zipfile.ZipFile(path) as archive:
        try:
            return archive.read(name)
        except KeyError as error:
            raise ValueError(f"there is no picture “{name}” in it") from error


class _Stage:
    """One stage while it is read."""

    def __init__(self, path: Path, stage: Any, geom: Any, usd: Any) -> None:
        self.path, self.stage, self.geom, self.usd = path, stage, geom, usd
        self.notes = Notes()
        unit = float(geom.GetStageMetersPerUnit(stage))
        self._unit_m = unit if math.isfinite(unit) and 1e-12 <= unit <= 1e12 else 1.0
        if self._unit_m != unit:
            self.notes.mend(f"unit of {unit:g} m, which is no length; a metre is taken")
        self.time = usd.TimeCode.EarliestTime()
        self.meshes: dict[str, Mesh] = {}
        self._by_digest: dict[str, str] = {}
        self._by_prim: dict[str, tuple[str, tuple[str, ...]] | None] = {}
        self._mesh_names, self._material_names = Names(), Names()
        self.materials: dict[str, Material] = {}
        self.things: list[Thing] = []
        self.lights: list[Light] = []
        self.cameras: list[Camera] = []
        self._ids: dict[str, str] = {}

    def arrival(self) -> Arrival:
        """Return all of it."""
        geom, usd = self.geom, self.usd
        walk = iter(usd.PrimRange.Stage(self.stage, usd.TraverseInstanceProxies()))
        for prim in walk:
            if prim.IsA(geom.PointInstancer):
                self._instancer(prim)
                walk.PruneChildren()
            elif prim.IsA(geom.Imageable) and geom.Imageable(prim).ComputePurpose() in ("proxy", "guide"):
                walk.PruneChildren()
            elif prim.GetTypeName() in ("Material", "Shader", "GeomSubset", "Scope") and not prim.IsA(geom.Gprim):
                if prim.GetTypeName() != "Scope":
                    walk.PruneChildren()
            elif prim.IsA(geom.Xformable):
                self._prim(prim)
        arrival = Arrival(
            tuple(self.things),
            self.meshes,
            tuple(self.materials.values()),
            tuple(self.lights),
            *viewed(self.cameras),
            unit_m=self._unit_m,
            up=str(geom.GetStageUpAxis(self.stage)).lower().replace("x", "z"),
            is_told=self.stage.HasAuthoredMetadata("metersPerUnit"),
        )
        return self.notes.told(arrival)

    def _name(self, prim: Any) -> str:
        return prim.GetDisplayName() or prim.GetName()

    def _parent(self, prim: Any) -> str:
        above = prim.GetParent()
        while above and above.GetPath() != above.GetPath().absoluteRootPath:
            if str(above.GetPath()) in self._ids:
                return self._ids[str(above.GetPath())]
            above = above.GetParent()
        return ""

    def _local(self, prim: Any) -> np.ndarray:
        xform = self.geom.Xformable(prim)
        if xform.GetResetXformStack():
            self.notes.lose(f"“{self._name(prim)}”: that it does not move with its group")
        matrix = np.array(xform.GetLocalTransformation(self.time), float).T
        if not (np.isfinite(matrix).all() and (np.abs(matrix) < 1e12).all()):
            raise ValueError(f"the place of “{self._name(prim)}” is not a number")
        return matrix

    def _world(self, prim: Any) -> np.ndarray:
        return np.array(self.geom.Xformable(prim).ComputeLocalToWorldTransform(self.time), float).T

    def _is_shown(self, prim: Any) -> bool:
        return self.geom.Imageable(prim).GetVisibilityAttr().Get(self.time) != "invisible"

    def _prim(self, prim: Any) -> None:
        geom = self.geom
        if prim.IsA(geom.Camera):
            self._view(prim)
            return
        from pxr import UsdLux

        if prim.HasAPI(UsdLux.LightAPI) and not prim.IsA(geom.Mesh):
            id, stands = f"light-{len(self.lights)}", self._world(prim)
            light = light_of(prim, self.time, stands, id, self._asset, self.notes, unit_m=self._unit_m)
            if light is not None:
                stand = levels(self._local(prim))[0]
                values: dict = {"name": self._name(prim), "parent": self._parent(prim)}
                if hasattr(light, "place"):
                    values["place"] = stand.get("place", (0.0, 0.0, 0.0))
                if hasattr(light, "turn_deg"):
                    values["turn_deg"] = stand["turn_deg"]
                values["on"] = self._is_shown(prim)
                self.lights.append(light.model_copy(update=values))
            return
        self._thing(prim, self._local(prim), self._parent(prim), f"prim-{len(self._ids)}")

    def _thing(self, prim: Any, matrix: np.ndarray, parent: str, id: str) -> None:
        shape = self._shape(prim)
        children = any(child.IsA(self.geom.Imageable) for child in prim.GetFilteredChildren(self._traversed()))
        children = children and any(
            child.GetTypeName() not in ("GeomSubset", "Material", "Shader", "Scope", "")
            for child in prim.GetFilteredChildren(self._traversed())
        )
        if shape is None and prim.IsA(self.geom.Gprim):
            return
        name = self._name(prim)
        stands = levels(matrix)
        self._ids[str(prim.GetPath())] = id
        for k, stand in enumerate(stands):
            is_last = k == len(stands) - 1
            values: dict = {"visible": self._is_shown(prim)} if is_last else {}
            if is_last and shape is not None and not children:
                values |= self._wearing(prim, *shape)
            inner = id if is_last else f"{id}-outer"
            self.things.append(Thing(id=inner, name=name, parent=parent, **stand, **values))
            parent = inner
        if shape is not None and children:
            own = f"{name} shape"
            self.things.append(Thing(id=f"{id}-shape", name=own, parent=id, **self._wearing(prim, *shape)))

    def _traversed(self) -> Any:
        return self.usd.TraverseInstanceProxies()

    # ---- shapes ----------------------------------------------------------------------------------------------------

    def _shape(self, prim: Any) -> tuple[str, tuple[str, ...]] | None:
        """Return the name of a prim's mesh and the paths of its subsets' prims; None if it has none."""
        if not prim.IsA(self.geom.Gprim):
            return None
        source = prim.GetPrimInPrototype() if prim.IsInstanceProxy() else prim
        key = str(source.GetPath())
        if key not in self._by_prim:
            self._by_prim[key] = self._made_shape(source)
        return self._by_prim[key]

    def _made_shape(self, prim: Any) -> tuple[str, tuple[str, ...]] | None:
        geom = self.geom
        subsets: tuple[str, ...] = ()
        if prim.IsA(geom.Mesh):
            mesh, subsets = self._mesh(prim)
        else:
            mesh = self._implicit(prim)
            if mesh is None:
                self.notes.lose(f"“{self._name(prim)}”: {prim.GetTypeName().lower()}")
        if mesh is None:
            return None
        # Copies that were written out whole are one here.
        if mesh.digest not in self._by_digest:
            name = self._mesh_names.free(self._name(prim))
            self._by_digest[mesh.digest] = name
            self.meshes[name] = mesh
        return self._by_digest[mesh.digest], subsets

    def _mesh(self, prim: Any) -> tuple[Mesh | None, tuple[str, ...]]:
        mesh = self.geom.Mesh(prim)
        points = _array(mesh.GetPointsAttr().Get(self.time), 3)
        counts = np.asarray(mesh.GetFaceVertexCountsAttr().Get(self.time) or (), np.int64)
        corners = np.asarray(mesh.GetFaceVertexIndicesAttr().Get(self.time) or (), np.int64)
        if (counts < 0).any() or counts.sum() != len(corners):
            raise ValueError(f"the faces of “{self._name(prim)}” do not fit its corners")
        if not len(counts) or not len(points):
            return None, ()
        there = (corners >= 0) & (corners < len(points))
        if (counts > 4).any():
            self.notes.mend("faces of more than four corners, cut into triangles", int((counts > 4).sum()))
        place = np.where(there[:, None], points[np.where(there, corners, 0)], np.nan)
        triangles, face = triangulated(counts, place)
        if mesh.GetOrientationAttr().Get() == "leftHanded":
            triangles = triangles[:, ::-1]
        holes = np.asarray(mesh.GetHoleIndicesAttr().Get(self.time) or (), np.int64)
        if len(holes):
            keep = ~np.isin(face, holes)
            triangles, face = triangles[keep], face[keep]
        scheme = mesh.GetSubdivisionSchemeAttr().Get()
        uvs, more_uvs = self._uvs(prim, corners, counts)
        normals, colours = self._normals(mesh, prim, corners, counts), self._colours(prim, corners, counts)
        subsets, of_face = self._subsets(prim, len(counts))
        # A vertex for each different corner.
        columns = [np.where(there, corners, -1)]
        for values in (uvs, normals, more_uvs, colours):
            columns += list(np.round(np.nan_to_num(values), 6).T) if values is not None else []
        first, number = distinct(columns)
        sets = of_face[face] if of_face is not None else None
        names = Names()
        set_names = ("rest", *(names.free(p.rpartition("/")[2]) for p in subsets)) if of_face is not None else ()
        made = sound_mesh(
            place[first],
            number[triangles],
            normals=normals[first] if normals is not None else None,
            uvs=uvs[first] if uvs is not None else None,
            more_uvs=more_uvs[first] if more_uvs is not None else None,
            colours=colours[first] if colours is not None else None,
            sets=sets,
            set_names=set_names,
            notes=self.notes,
        )
        if made is not None and normals is None and scheme != "none":
            self.notes.lose("subdivision: such meshes are smooth, as fine as they are")
            made = creased(made, 180.0)
        return made, subsets

    def _uvs(self, prim: Any, corners: np.ndarray, counts: np.ndarray) -> tuple[np.ndarray | None, np.ndarray | None]:
        """Return the first and the second (corners, 2) texture coordinates, None where there are none."""
        named = {p.GetPrimvarName(): p for p in self.geom.PrimvarsAPI(prim).GetPrimvarsWithValues()}
        sets = [name for name, p in named.items() if "texCoord2" in str(p.GetTypeName()) or name == "st"]
        sets.sort(key=lambda name: (name != "st", is_second(name), name))
        if len(sets) > 2:
            self.notes.lose(f"“{self._name(prim)}”: texture coordinates beyond the second set")
        found = [
            _at_corners(_array(named[s].ComputeFlattened(self.time), 2), named[s].GetInterpolation(), corners, counts)
            for s in sets[:2]
        ]
        return (*found, None, None)[:2]

    def _colours(self, prim: Any, corners: np.ndarray, counts: np.ndarray) -> np.ndarray | None:
        """Return (corners, 3) display colours, where a material asks for them or none is bound; None if there are none.

        They are linear, of Rec.709 primaries where nothing else is said.
        """
        from pxr import UsdShade

        found = self.geom.PrimvarsAPI(prim).GetPrimvar("displayColor")
        if not found or not found.HasValue():
            return None
        bound = UsdShade.MaterialBindingAPI(prim).ComputeBoundMaterial()[0]
        if bound and not reads_display_colour(bound):
            return None
        values = _array(found.ComputeFlattened(self.time), 3)
        at = _at_corners(values, found.GetInterpolation(), corners, counts)
        return at @ rec709_to_working().T if at is not None else None

    def _normals(self, mesh: Any, prim: Any, corners: np.ndarray, counts: np.ndarray) -> np.ndarray | None:
        found = self.geom.PrimvarsAPI(prim).GetPrimvar("normals")
        if found and found.HasValue():
            return _at_corners(_array(found.ComputeFlattened(self.time), 3), found.GetInterpolation(), corners, counts)
        values = mesh.GetNormalsAttr().Get(self.time)
        if values is None or not len(values):
            return None
        return _at_corners(_array(values, 3), mesh.GetNormalsInterpolation(), corners, counts)

    def _subsets(self, prim: Any, n_faces: int) -> tuple[tuple[str, ...], np.ndarray | None]:
        """Return the paths of a mesh's subsets that materials are bound to, and the number of each face's, 0: none."""
        from pxr import UsdShade

        of_face, paths = np.zeros(n_faces, np.int64), []
        for subset in UsdShade.MaterialBindingAPI(prim).GetMaterialBindSubsets():
            faces = np.asarray(subset.GetIndicesAttr().Get(self.time) or (), np.int64)
            faces = faces[(faces >= 0) & (faces < n_faces)]
            paths.append(str(subset.GetPath()))
            of_face[faces] = len(paths)
        return tuple(paths), of_face if paths else None

    def _implicit(self, prim: Any) -> Mesh | None:
        """Return the mesh of a shape that is given by numbers."""
        kind, get = prim.GetTypeName(), lambda name: prim.GetAttribute(name).Get(self.time)
        if kind == "Sphere":
            return ball(float(get("radius")), segments=96)
        if kind == "Cube":
            size = float(get("size"))
            return moved(rounded_box((size,) * 3, 0.0), transform((0, 0, -size / 2), (0, 0, 0)))
        if kind == "Plane":
            x, y = float(get("width")) / 2, float(get("length")) / 2
            flat = panel([(-x, -y, 0), (x, -y, 0), (x, y, 0), (-x, y, 0)])
            return moved(flat, _about(get("axis")))
        if kind in ("Cylinder", "Cone", "Capsule"):
            r, h = float(get("radius")), float(get("height")) / 2
            a = np.linspace(0, np.pi / 2, 13)
            profile = {
                "Cylinder": [(0, -h), (r, -h), (r, h), (0, h)],
                "Cone": [(0, -h), (r, -h), (0, h)],
                "Capsule": [
                    *((r * np.sin(t), -h - r * np.cos(t)) for t in a),
                    *((r * np.cos(t), h + r * np.sin(t)) for t in a),
                ],
            }[kind]
            return moved(lathe(profile), _about(get("axis")))
        return None

    # ---- copies ----------------------------------------------------------------------------------------------------

    def _instancer(self, prim: Any) -> None:
        """Add a thing for each copy that a point instancer makes."""
        geom = self.geom
        copies = geom.PointInstancer(prim)
        targets = copies.GetPrototypesRel().GetForwardedTargets()
        which = np.asarray(copies.GetProtoIndicesAttr().Get(self.time) or (), np.int64)
        if len(which) > _MOST_COPIES:
            raise ValueError(f"“{self._name(prim)}” makes {len(which):,} copies; {_MOST_COPIES:,} are the most")
        if not len(which) or (which < 0).any() or (which >= len(targets)).any():
            return
        self._thing(prim, self._local(prim), self._parent(prim), f"prim-{len(self._ids)}")
        group = self._ids[str(prim.GetPath())]
        found = copies.ComputeInstanceTransformsAtTime(
            self.time, self.time, copies.IncludeProtoXform, copies.IgnoreMask
        )
        matrices = np.asarray(found, float).swapaxes(1, 2)
        shown = copies.ComputeMaskAtTime(self.time)
        prototypes = [self._prototype(self.stage.GetPrimAtPath(target)) for target in targets]
        for i, (k, matrix) in enumerate(zip(which.tolist(), matrices)):
            if shown and not shown[i]:
                continue
            parts = prototypes[k]
            name = f"{self._name(self.stage.GetPrimAtPath(targets[k]))} {i + 1}"
            alone = len(parts) == 1
            holder = group
            if not alone:
                holder = f"{group}-copy-{i}"
                self.things.append(Thing(id=holder, name=name, parent=group, **levels(matrix)[0]))
            for j, (local, values, own) in enumerate(parts):
                stand = levels(matrix @ local if alone else local)[0]
                id = f"{group}-copy-{i}-{j}"
                self.things.append(Thing(id=id, name=name if alone else own, parent=holder, **stand, **values))

    def _prototype(self, root: Any) -> list[tuple[np.ndarray, dict, str]]:
        """Return (matrix within the prototype, what it wears, name) of each shape in a prototype."""
        if not root:
            return []
        above = np.linalg.inv(self._world(root))
        out = []
        for prim in self.usd.PrimRange(root, self._traversed()):
            shape = self._shape(prim)
            if shape is not None:
                out.append((above @ self._world(prim), self._wearing(prim, *shape), self._name(prim)))
        return out

    # ---- materials, cameras ----------------------------------------------------------------------------------------

    def _wearing(self, prim: Any, mesh_name: str, subsets: tuple[str, ...]) -> dict:
        from pxr import UsdShade

        values: dict = {"mesh": mesh_name, "material": self._material(prim)}
        if not values["material"] and self.meshes[mesh_name].colours is not None:
            if "" not in self.materials:
                id = f"material-{len(self.materials)}"
                self.materials[""] = mesh_coloured(id, self._material_names.free("Mesh colours"))
            values["material"] = self.materials[""].id
        faces = []
        for name, path in zip(self.meshes[mesh_name].set_names[1:], subsets):
            subset = self.stage.GetPrimAtPath(path)
            bound = UsdShade.MaterialBindingAPI(subset).ComputeBoundMaterial()[0] if subset else None
            faces.append(FaceMaterial(set=name, material=self._known(bound)))
        return {**values, "faces": tuple(faces)}

    def _material(self, prim: Any) -> str:
        from pxr import UsdShade

        return self._known(UsdShade.MaterialBindingAPI(prim).ComputeBoundMaterial()[0])

    def _known(self, bound: Any) -> str:
        if not bound:
            return ""
        prim = bound.GetPrim()
        source = prim.GetPrimInPrototype() if prim.IsInstanceProxy() else prim
        key = str(source.GetPath())
        if key not in self.materials:
            name = self._material_names.free(self._name(prim))
            id = f"material-{len(self.materials)}"
            self.materials[key] = material_of(bound, self.time, id, name, self._asset, self.notes, unit_m=self._unit_m)
        return self.materials[key].id

    def _asset(self, asset: Any) -> str:
        """Return how a picture is named: by its path from the model's folder, or within the archive."""
        whole = (asset.resolvedPath or asset.path or "").replace("\\", "/")
        if whole.endswith("]") and "[" in whole:
            return "#" + whole.rpartition("[")[2][:-1]
        if os.path.isabs(whole):
            return Path(os.path.relpath(whole, self.path.parent)).as_posix()
        return whole

    def _view(self, prim: Any) -> None:
        camera = self.geom.Camera(prim)
        name = self._name(prim)
        focal, across = (
            float(camera.GetFocalLengthAttr().Get(self.time)),
            float(camera.GetHorizontalApertureAttr().Get()),
        )
        up = float(camera.GetVerticalApertureAttr().Get(self.time))
        if not (focal > 0 and across > 0 and up > 0):
            raise ValueError(f"the camera “{name}” has no angle")
        matrix = self._world(prim)
        aspect = min(max(across / up, 0.05), 20.0)
        offset = (camera.GetHorizontalApertureOffsetAttr(), camera.GetVerticalApertureOffsetAttr())
        dx, dy = (float(attribute.Get(self.time) or 0.0) for attribute in offset)
        is_orthographic = camera.GetProjectionAttr().Get(self.time) == "orthographic"
        self.cameras.append(
            Camera(
                name,
                matrix,
                across * _APERTURE / 2 if is_orthographic else across / (2 * focal),
                aspect,
                is_orthographic=is_orthographic,
                shift=(2 * dx / across, 2 * dy / up),
                focus=float(camera.GetFocusDistanceAttr().Get(self.time) or 0.0),
                f_number=float(camera.GetFStopAttr().Get(self.time) or 0.0),
            )
        )


def _array(values: Any, width: int) -> np.ndarray:
    out = np.asarray(values if values is not None else (), np.float32)
    return out.reshape(-1, width) if out.size else np.zeros((0, width), np.float32)


def _at_corners(values: np.ndarray, how: str, corners: np.ndarray, counts: np.ndarray) -> np.ndarray | None:
    """Return (corners, k) values by how a primvar is spread; None if there are too few."""
    index = {
        "faceVarying": lambda: np.arange(len(corners)),
        "vertex": lambda: corners,
        "varying": lambda: corners,
        "uniform": lambda: np.repeat(np.arange(len(counts)), counts),
        "constant": lambda: np.zeros(len(corners), np.int64),
    }.get(how)
    if index is None:
        return None
    at = index()
    if not len(at) or len(values) <= at.max() or at.min() < 0:
        return None
    return values[at]


def _about(axis: str) -> np.ndarray:
    """Return the matrix that turns the z axis to another."""
    return transform((0, 0, 0), {"X": (0.0, 90.0, 0.0), "Y": (-90.0, 0.0, 0.0)}.get(str(axis), (0.0, 0.0, 0.0)))

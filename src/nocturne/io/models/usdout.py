"""A set out as OpenUSD: its tree, meshes, materials with their pictures, lights and cameras.

References
----------
OpenUSD 26.11: UsdGeom, UsdLux, UsdShade (UsdPreviewSurface 2.6, and OpenPBR Surface as a MaterialX node).
"""

import math
import re
import tempfile
from pathlib import Path
from typing import Any

import numpy as np

from nocturne.colour.spaces import working_to_rec709
from nocturne.errors import FileError
from nocturne.io.atomic import replacing
from nocturne.io.models import usdlibrary
from nocturne.io.models.gltfmaterialsout import by_mesh_colours, driving, is_plainly_laid
from nocturne.io.models.outgoing import Item, Outgoing
from nocturne.io.models.surfaces import OPENPBR, beyond_rec709, openpbr_values, without_openpbr
from nocturne.io.models.usdlights import PICTURE_IN_USD
from nocturne.scene.lights import Light, chroma
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Picture
from nocturne.scene.shapes import transform

WRITES = (".usda", ".usdc", ".usd", ".usdz")
_PREVIEW = {
    "base_color": "diffuseColor",
    "base_metalness": "metallic",
    "specular_roughness": "roughness",
    "specular_ior": "ior",
    "coat_weight": "clearcoat",
    "coat_roughness": "clearcoatRoughness",
}
_APERTURES_A_METRE = 10.0  # a camera's aperture is in tenths of the stage's unit
_WRAPS = {"periodic": "repeat", "mirror": "mirror", "clamp": "clamp"}
_OUTPUTS = {"colour": "rgb", "data": "rgb", "red": "r", "green": "g", "blue": "b", "alpha": "a"}


def write(path: Path | str, outgoing: Outgoing) -> tuple[str, ...]:
    """Write what goes out of a set; return what has no equal there, a sentence each.

    A .usdz holds its pictures; beside other kinds they are copied to a folder of the file's name.

    Raises
    ------
    FileError
        If it cannot be written.
    """
    usdlibrary.ready()
    from pxr import Usd, UsdUtils

    path = Path(path)
    is_packed = path.suffix.lower() == ".usdz"
    with tempfile.TemporaryDirectory(prefix="nocturne-") as folder:
        pictures = Path(folder) / f"{path.stem}-pictures"
        layer = Path(folder) / (f"{path.stem}.usdc" if is_packed else path.name)
        stage = Usd.Stage.CreateNew(str(layer))
        writer = _Writer(stage, outgoing, pictures)
        writer.set()
        stage.GetRootLayer().Save()
        if is_packed:
            packed = Path(folder) / path.name
            UsdUtils.CreateNewUsdzPackage(str(layer), str(packed))
            layer = packed
        del stage
        if not layer.is_file():
            raise FileError(path, "the USD library could not write it.", hint="Choose another place.")
        if pictures.is_dir() and not is_packed:
            for picture in sorted(pictures.iterdir()):
                with replacing(path.parent / pictures.name / picture.name) as temporary:
                    temporary.write_bytes(picture.read_bytes())
        with replacing(path) as temporary:
            temporary.write_bytes(layer.read_bytes())
    return tuple(writer.lost)


class _Writer:
    """Adds a set to a stage."""

    def __init__(self, stage: Any, outgoing: Outgoing, pictures: Path) -> None:
        self.stage, self.out, self._pictures = stage, outgoing, pictures
        self.lost = dict.fromkeys(outgoing.lost)
        self._paths: dict[str, str] = {}
        self._taken: set[str] = set()
        self._materials: dict[str, Any] = {}
        self._copied: dict[str, str | None] = {}
        self._shapes: dict[tuple, str] = {}

    def set(self) -> None:
        """Add all of it."""
        from pxr import UsdGeom

        UsdGeom.SetStageUpAxis(self.stage, UsdGeom.Tokens.z)
        UsdGeom.SetStageMetersPerUnit(self.stage, 1.0)
        root = UsdGeom.Xform.Define(self.stage, "/Set").GetPrim()
        self.stage.SetDefaultPrim(root)
        if self.out.materials:
            UsdGeom.Scope.Define(self.stage, "/Set/Materials")
        for material in self.out.materials:
            self._materials[material.id] = self._material(material)
        for item in self.out.things:
            self._thing(item)
        for light in self.out.lights:
            self._light(light)
        for view in self.out.views:
            camera = UsdGeom.Camera.Define(self.stage, self._free("/Set", view.name))
            camera.GetPrim().SetDisplayName(view.name)
            matrix = np.eye(4)
            matrix[:3, :3], matrix[:3, 3] = Outgoing.turn_of_view(view), view.eye
            _stand(camera, matrix)
            camera.CreateFocalLengthAttr(view.focal_mm)
            width = view.sensor_mm
            if view.projection == "orthographic":
                camera.CreateProjectionAttr("orthographic")
                width = view.span_m * _APERTURES_A_METRE
            camera.CreateHorizontalApertureAttr(width)
            camera.CreateVerticalApertureAttr(width * view.height / view.width)
            camera.CreateHorizontalApertureOffsetAttr(view.shift_x * width / 2)
            camera.CreateVerticalApertureOffsetAttr(view.shift_y * width * view.height / view.width / 2)
            camera.CreateFocusDistanceAttr(view.focus_m)
            camera.CreateFStopAttr(view.f_number if view.depth_of_field else 0.0)
            camera.CreateClippingRangeAttr((0.01, 1e6))

    def _free(self, parent: str, name: str) -> str:
        stem = re.sub(r"\W", "_", name, flags=re.ASCII) or "Thing"
        stem = f"_{stem}" if stem[0].isdigit() else stem
        path, n = f"{parent}/{stem}", 2
        while path in self._taken:
            path, n = f"{parent}/{stem}_{n}", n + 1
        self._taken.add(path)
        return path

    # ---- things ----------------------------------------------------------------------------------------------------

    def _thing(self, item: Item) -> None:
        from pxr import UsdGeom

        path = self._free(self._paths.get(item.parent, "/Set"), item.name)
        self._paths[item.id] = path
        if item.mesh is None or not len(item.mesh.triangles):
            made = UsdGeom.Xform.Define(self.stage, path)
        else:
            key = (id(item.mesh), item.worn, item.of_face.tobytes() if item.of_face is not None else b"")
            made = UsdGeom.Mesh.Define(self.stage, path)
            if key not in self._shapes:
                self._shapes[key] = self._shape(item)
            made.GetPrim().GetReferences().AddInternalReference(self._shapes[key])
        made.GetPrim().SetDisplayName(item.name)
        _stand(made, item.matrix)
        if not item.is_shown:
            made.CreateVisibilityAttr("invisible")

    def _shape(self, item: Item) -> str:
        """Write a mesh once, where it is not drawn, and return its path: things refer to it."""
        from pxr import Sdf, UsdGeom, UsdShade, Vt

        if not self.stage.GetPrimAtPath("/Shapes"):
            self.stage.CreateClassPrim("/Shapes")
        path = self._free("/Shapes", item.mesh_name)
        shape, mesh = UsdGeom.Mesh.Define(self.stage, path), item.mesh
        shape.CreatePointsAttr(Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(mesh.vertices)))
        shape.CreateFaceVertexCountsAttr(Vt.IntArray.FromNumpy(np.full(len(mesh.triangles), 3, np.int32)))
        corners = np.ascontiguousarray(mesh.triangles.astype(np.int32).ravel())
        shape.CreateFaceVertexIndicesAttr(Vt.IntArray.FromNumpy(corners))
        shape.CreateNormalsAttr(Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(mesh.normals)))
        shape.SetNormalsInterpolation("vertex")
        shape.CreateSubdivisionSchemeAttr("none")
        shape.CreateDoubleSidedAttr(True)  # faces are seen from both sides here
        shape.CreateExtentAttr(Vt.Vec3fArray.FromNumpy(mesh.bounds.astype(np.float32)))
        if mesh.uvs.any():
            kind = Sdf.ValueTypeNames.TexCoord2fArray
            st = UsdGeom.PrimvarsAPI(shape).CreatePrimvar("st", kind, "vertex")
            st.Set(Vt.Vec2fArray.FromNumpy(np.ascontiguousarray(mesh.uvs)))
        if mesh.more_uvs is not None:
            kind = Sdf.ValueTypeNames.TexCoord2fArray
            st = UsdGeom.PrimvarsAPI(shape).CreatePrimvar("st1", kind, "vertex")
            st.Set(Vt.Vec2fArray.FromNumpy(np.ascontiguousarray(mesh.more_uvs)))
        if mesh.colours is not None:
            linear = np.clip(mesh.colours.astype(float) @ working_to_rec709().T, 0, None).astype(np.float32)
            shown = shape.CreateDisplayColorPrimvar("vertex")
            shown.Set(Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(linear)))
        for k, worn in enumerate(item.worn):
            bound = self._materials.get(worn)
            if item.of_face is None:
                target = shape.GetPrim()
            else:
                faces = Vt.IntArray.FromNumpy(np.flatnonzero(item.of_face == k).astype(np.int32))
                api = UsdShade.MaterialBindingAPI.Apply(shape.GetPrim())
                name = self._free(path, f"faces {k + 1}").rpartition("/")[2]
                target = api.CreateMaterialBindSubset(name, faces).GetPrim()
            if bound is not None:
                UsdShade.MaterialBindingAPI.Apply(target).Bind(bound)
        return path

    # ---- lights ----------------------------------------------------------------------------------------------------

    def _light(self, light: Light) -> None:
        from pxr import UsdGeom, UsdLux

        kinds = {
            "rect": UsdLux.RectLight,
            "disc": UsdLux.DiskLight,
            "sphere": UsdLux.SphereLight,
            "tube": UsdLux.CylinderLight,
            "spot": UsdLux.SphereLight,
            "point": UsdLux.SphereLight,
            "distant": UsdLux.DistantLight,
            "dome": UsdLux.DomeLight,
            "environment": UsdLux.DomeLight,
        }
        if light.kind not in kinds:
            self.lost[f"“{light.name}”: a {light.title.lower()}"] = None
            return
        # A light's size is its own here, and grows with its group there: in groups that are sized it stands apart.
        # A picture all round does not turn with a group.
        alone = light.kind == "environment"
        home, light = ("", self.out.document.standing(light)) if alone else self.out.home_of(light)
        made = kinds[light.kind].Define(self.stage, self._free(self._paths.get(home, "/Set"), light.name))
        made.GetPrim().SetDisplayName(light.name)
        rgb = np.clip(working_to_rec709() @ chroma(light), 0, None)
        largest = float(rgb.max())
        made.CreateColorAttr(tuple(float(v / largest) for v in rgb))
        strength = light.strength()
        if light.kind == "rect":
            made.CreateWidthAttr(light.width), made.CreateHeightAttr(light.height)
        elif light.kind in ("disc", "sphere"):
            made.CreateRadiusAttr(light.radius)
        elif light.kind == "tube":
            made.CreateRadiusAttr(light.radius), made.CreateLengthAttr(light.length)
        elif light.kind in ("spot", "point"):
            # Candela as the luminance of a ball of its size, or of a millimetre.
            radius = light.bulb_radius if light.bulb_radius > 0 else 1e-3
            made.CreateRadiusAttr(radius)
            strength = strength / (math.pi * radius**2)
            if light.kind == "point" and light.bulb_radius <= 0:
                made.CreateTreatAsPointAttr(True)
                made.CreateRadiusAttr(0.5)
                strength = light.strength() / (math.pi * 0.25)
            if light.kind == "spot":
                shaping = UsdLux.ShapingAPI.Apply(made.GetPrim())
                shaping.CreateShapingConeAngleAttr(light.outer_deg)
                shaping.CreateShapingConeSoftnessAttr(1 - min(light.inner_deg / light.outer_deg, 1.0))
        elif light.kind == "distant":
            made.CreateAngleAttr(light.angle_deg)
            made.CreateNormalizeAttr(True)
            strength = light.power
        elif light.kind == "environment" and light.image:
            copied = self._copy(light.image)
            if copied is not None:
                made.CreateTextureFileAttr(copied)
        made.CreateIntensityAttr(strength * largest)
        matrix = transform(getattr(light, "place", (0.0, 0.0, 0.0)), getattr(light, "turn_deg", (0.0, 0.0, 0.0)))
        if light.kind == "environment":
            matrix = transform((0.0, 0.0, 0.0), (0.0, 0.0, light.azimuth_deg))
            matrix[:3, :3] = matrix[:3, :3] @ PICTURE_IN_USD.T
        _stand(made, matrix)
        if not light.on:
            UsdGeom.Imageable(made).CreateVisibilityAttr("invisible")

    # ---- materials -------------------------------------------------------------------------------------------------

    def _material(self, material: Material) -> Any:
        from pxr import Sdf, UsdShade

        path = self._free("/Set/Materials", material.name)
        made = UsdShade.Material.Define(self.stage, path)
        made.GetPrim().SetDisplayName(material.name)
        preview = UsdShade.Shader.Define(self.stage, f"{path}/Preview")
        preview.CreateIdAttr("UsdPreviewSurface")
        values = openpbr_values(material)
        for words in (*without_openpbr(material), *beyond_rec709(material)):
            self._lose(material, words)
        base = tuple(values["base_weight"] * v for v in values["base_color"])
        colour, number = Sdf.ValueTypeNames.Color3f, Sdf.ValueTypeNames.Float
        shown = base if material.transmission_weight <= 0 else material.transmission_color
        preview.CreateInput("diffuseColor", colour).Set(_linear(shown))
        for ours, theirs in _PREVIEW.items():
            if ours != "base_color":
                preview.CreateInput(theirs, number).Set(getattr(material, ours))
        if material.transmission_weight > 0:
            preview.CreateInput("opacity", number).Set(1 - material.transmission_weight)
        elif material.geometry_opacity < 1:
            preview.CreateInput("opacity", number).Set(material.geometry_opacity)
            preview.CreateInput("opacityMode", Sdf.ValueTypeNames.Token).Set("presence")
        if material.is_emitter:
            glow = np.array(_linear(material.emission_color, high=100)) * material.emission_luminance
            preview.CreateInput("emissiveColor", colour).Set(tuple(float(v) for v in glow))
        made.CreateSurfaceOutput().ConnectToSource(preview.ConnectableAPI(), "surface")
        whole = UsdShade.Shader.Define(self.stage, f"{path}/OpenPBR")
        whole.CreateIdAttr("ND_open_pbr_surface_surfaceshader")
        for name, value in values.items():
            if OPENPBR[name].kind == "switch":
                whole.CreateInput(name, Sdf.ValueTypeNames.Bool).Set(value)
            elif OPENPBR[name].kind == "number":
                whole.CreateInput(name, number).Set(value)
            elif name == "subsurface_radius_scale":
                whole.CreateInput(name, colour).Set(value)  # lengths, not a colour
            else:
                whole.CreateInput(name, colour).Set(_linear(value, high=100 if name == "emission_color" else 1))
        made.CreateSurfaceOutput("mtlx").ConnectToSource(whole.ConnectableAPI(), "out")
        for k, step in enumerate(material.steps):
            if step.on and step.amount > 0:
                self._step(material, step, k, path, preview, whole)
        return made

    def _lose(self, material: Material, what: str) -> None:
        self.lost[f"“{material.name}”: {what}"] = None

    def _step(self, material: Material, step: Any, k: int, path: str, preview: Any, whole: Any) -> None:
        from pxr import Sdf, UsdShade

        told = driving(step)
        is_normal = step.parameter == "geometry_normal"
        if by_mesh_colours(step) and material.base_color == (1.0, 1.0, 1.0) and k == 0:
            reader = UsdShade.Shader.Define(self.stage, f"{path}/Colours")
            reader.CreateIdAttr("UsdPrimvarReader_float3")
            reader.CreateInput("varname", Sdf.ValueTypeNames.String).Set("displayColor")
            reader.CreateOutput("result", Sdf.ValueTypeNames.Float3)
            preview.CreateInput("diffuseColor", Sdf.ValueTypeNames.Color3f).ConnectToSource(
                reader.ConnectableAPI(), "result"
            )
            found = UsdShade.Shader.Define(self.stage, f"{path}/MeshColours")
            found.CreateIdAttr("ND_geompropvalue_color3")
            found.CreateInput("geomprop", Sdf.ValueTypeNames.String).Set("displayColor")
            found.CreateOutput("out", Sdf.ValueTypeNames.Color3f)
            whole.CreateInput("base_color", Sdf.ValueTypeNames.Color3f).ConnectToSource(found.ConnectableAPI(), "out")
            return
        fits = isinstance(step, Picture) and is_plainly_laid(step.model_copy(update={"green_down": False}))
        if not fits or step.invert or (step.share < 1 and not is_normal) or step.blend not in ("replace", "multiply"):
            self._lose(material, told)
            return
        before = [s for s in material.steps[:k] if s.parameter == step.parameter and s.on and s.amount > 0]
        if before and not (len(before) == 1 and by_mesh_colours(before[0])):
            self._lose(material, told)  # a node has one source for an input
            return
        copied = self._copy(step.path)
        if copied is None:
            self._lose(material, f"the picture {step.path}, which cannot be read")
            return
        types = Sdf.ValueTypeNames
        factor = self._factor(material, step)
        # The preview has no luminance beside its glow's colour, and no weight beside its base's.
        beside = {"emission_color": material.emission_luminance, "base_color": material.base_weight}
        more = beside.get(step.parameter, 1.0)

        def defined(name: str, factor: tuple[float, ...]) -> Any:
            texture = UsdShade.Shader.Define(self.stage, f"{path}/{name}")
            texture.CreateIdAttr("UsdUVTexture")
            texture.CreateInput("file", types.Asset).Set(Sdf.AssetPath(copied))
            texture.CreateInput("sourceColorSpace", types.Token).Set("sRGB" if step.is_colour else "raw")
            for wrap in ("wrapS", "wrapT"):
                texture.CreateInput(wrap, types.Token).Set(_WRAPS[step.wrap])
            if is_normal:
                up = -1.0 if step.green_down else 1.0
                texture.CreateInput("scale", types.Float4).Set((2.0, 2.0 * up, 2.0, 1.0))
                texture.CreateInput("bias", types.Float4).Set((-1.0, -up, -1.0, 0.0))
            elif factor != (1.0,) * 4:
                texture.CreateInput("scale", types.Float4).Set(factor)
            return texture

        texture = defined(f"Picture_{k + 1}", factor)
        shown = defined(f"Preview_{k + 1}", (*(more * v for v in factor[:3]), 1.0)) if more != 1 else texture
        reader = UsdShade.Shader.Define(self.stage, f"{path}/Coordinates_{k + 1}")
        reader.CreateIdAttr("UsdPrimvarReader_float2")
        reader.CreateInput("varname", types.String).Set("st" if step.uv_set == 1 else "st1")
        placed = UsdShade.Shader.Define(self.stage, f"{path}/Placing_{k + 1}")
        placed.CreateIdAttr("UsdTransform2d")
        placed.CreateInput("in", types.Float2).ConnectToSource(reader.ConnectableAPI(), "result")
        placed.CreateInput("scale", types.Float2).Set(step.repeat)
        placed.CreateInput("rotation", types.Float).Set(step.turn_deg)
        placed.CreateInput("translation", types.Float2).Set(step.offset)
        output = "rgb" if is_normal or step.parameter.endswith("_color") else _OUTPUTS[step.space].replace("rgb", "r")
        for one in {id(texture): texture, id(shown): shown}.values():
            one.CreateInput("st", types.Float2).ConnectToSource(placed.ConnectableAPI(), "result")
            one.CreateOutput(output, types.Float3 if output == "rgb" else types.Float)
        name = "normal" if is_normal else "emissiveColor" if step.parameter == "emission_color" else None
        name = name or _PREVIEW.get(step.parameter)
        if name is not None:
            kind = types.Normal3f if is_normal else types.Color3f if output == "rgb" else types.Float
            preview.CreateInput(name, kind).ConnectToSource(shown.ConnectableAPI(), output)
        kind = types.Float3 if is_normal else types.Color3f if output == "rgb" else types.Float
        names = (
            (step.parameter, "geometry_coat_normal")
            if is_normal and material.coat_levelling < 0.5
            else (step.parameter,)
        )
        for name in names:
            whole.CreateInput(name, kind).ConnectToSource(texture.ConnectableAPI(), output)

    def _factor(self, material: Material, step: Picture) -> tuple[float, ...]:
        """Return what a picture that multiplies is multiplied with, as a texture's scale."""
        if step.blend != "multiply":
            return (1.0,) * 4
        value = openpbr_values(material).get(step.parameter, getattr(material, step.parameter, 1.0))
        if isinstance(value, tuple):
            return (*_linear(value, high=100 if step.parameter == "emission_color" else 1.0), 1.0)
        return (float(value),) * 4

    def _copy(self, path: str) -> str | None:
        """Copy a picture beside the layer and return how the layer names it."""
        if path not in self._copied:
            self._copied[path] = None
            try:
                data = self.out.picture(path)
            except FileError:
                return None
            inner = path.rpartition("#")[2].rpartition("/")[2]
            name = re.sub(r"[^\w.-]", "_", inner, flags=re.ASCII)
            starts = {b"\x89PNG": ".png", b"\xff\xd8\xff": ".jpg", b"v/1\x01": ".exr", b"#?": ".hdr"}
            suffix = next((ending for start, ending in starts.items() if data.startswith(start)), Path(name).suffix)
            stem, n = Path(name).stem if Path(name).suffix else name, 2
            while (self._pictures / f"{stem}{suffix}").exists():
                stem, n = f"{Path(name).stem}_{n}", n + 1
            self._pictures.mkdir(exist_ok=True)
            (self._pictures / f"{stem}{suffix}").write_bytes(data)
            self._copied[path] = f"./{self._pictures.name}/{stem}{suffix}"
        return self._copied[path]


def _stand(prim: Any, matrix: np.ndarray) -> None:
    from pxr import Gf

    if not np.array_equal(matrix, np.eye(4)):
        prim.AddTransformOp().Set(Gf.Matrix4d(*map(float, matrix.T.ravel())))


def _linear(rgb: tuple[float, float, float], *, high: float = 1.0) -> tuple[float, float, float]:
    r, g, b = np.clip(working_to_rec709() @ np.asarray(rgb, float), 0, high)
    return float(r), float(g), float(b)

"""Colours of vertices and second texture coordinates: from each format, and out and back."""

from dataclasses import replace

import numpy as np
import pytest
import trimesh

from nocturne.colour.spaces import decode_srgb, rec709_to_working
from nocturne.io.models import glb, usdout
from nocturne.io.models.outgoing import Outgoing
from nocturne.io.models.read import read
from nocturne.scene import solids as forms
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.materials import Material
from nocturne.scene.patterns import MeshColours, Picture
from nocturne.scene.thing import Thing

pytestmark = pytest.mark.usefixtures("usd_here")

BYTES = np.array([(255, 0, 0), (0, 255, 0), (0, 0, 255), (128, 128, 128)], np.uint8)
CORNERS = [(0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (1.0, 1.0, 0.0), (0.0, 1.0, 0.0)]
OWN = MeshColours(parameter="base_color", blend="multiply")


def by_place(mesh) -> dict[tuple, tuple]:
    return {tuple(np.round(v, 4)): tuple(c) for v, c in zip(mesh.vertices, mesh.colours)}


def working(rgb) -> np.ndarray:
    return np.asarray(rgb, float) @ rec709_to_working().T


def test_a_ply_brings_its_colours(tmp_path):
    mesh = trimesh.Trimesh(CORNERS, [(0, 1, 2), (0, 2, 3)], vertex_colors=BYTES, process=False)
    (tmp_path / "a.ply").write_bytes(mesh.export(file_type="ply"))
    arrival = read(tmp_path / "a.ply")
    (thing,), (made,), (material,) = arrival.things, arrival.meshes.values(), arrival.materials
    assert thing.material == material.id
    assert material.steps == (OWN,)
    found = by_place(made)
    for corner, byte in zip(CORNERS, BYTES):
        assert found[corner] == pytest.approx(working(decode_srgb(byte / 255)), abs=1e-5)
    assert not arrival.lost


def test_a_gltf_brings_its_colours_linear(tmp_path):
    mesh = trimesh.Trimesh(CORNERS, [(0, 1, 2), (0, 2, 3)], vertex_colors=BYTES, process=False)
    tree = trimesh.exchange.gltf.export_glb(trimesh.Scene(mesh), include_normals=True)
    (tmp_path / "a.glb").write_bytes(tree)
    arrival = read(tmp_path / "a.glb")
    worn = {m.id: m for m in arrival.materials}
    thing = next(t for t in arrival.things if t.mesh)
    assert worn[thing.material].steps[-1] == OWN
    found = by_place(arrival.meshes[thing.mesh])
    for corner, byte in zip(CORNERS, BYTES):
        assert found[corner] == pytest.approx(working(byte / 255), abs=1e-5)


@pytest.mark.parametrize("how", ["vertex", "uniform", "constant"])
@pytest.mark.parametrize("bound", ["", "reads", "other"])
def test_a_stage_brings_display_colours_where_they_are_asked_for(tmp_path, how, bound):
    from pxr import Sdf, Usd, UsdGeom, UsdShade

    stage = Usd.Stage.CreateNew(str(tmp_path / "a.usda"))
    UsdGeom.SetStageUpAxis(stage, "Z")
    mesh = UsdGeom.Mesh.Define(stage, "/Set/Panel")
    mesh.CreatePointsAttr(CORNERS)
    mesh.CreateFaceVertexCountsAttr([3, 3])
    mesh.CreateFaceVertexIndicesAttr([0, 1, 2, 0, 2, 3])
    mesh.CreateSubdivisionSchemeAttr("none")
    colours = {"vertex": BYTES / 255, "uniform": BYTES[:2] / 255, "constant": BYTES[:1] / 255}[how]
    mesh.CreateDisplayColorPrimvar(how).Set([tuple(map(float, c)) for c in colours])
    if bound:
        material = UsdShade.Material.Define(stage, "/Set/Paint")
        surface = UsdShade.Shader.Define(stage, "/Set/Paint/Surface")
        surface.CreateIdAttr("UsdPreviewSurface")
        material.CreateSurfaceOutput().ConnectToSource(surface.ConnectableAPI(), "surface")
        if bound == "reads":
            reader = UsdShade.Shader.Define(stage, "/Set/Paint/Colours")
            reader.CreateIdAttr("UsdPrimvarReader_float3")
            reader.CreateInput("varname", Sdf.ValueTypeNames.String).Set("displayColor")
            reader.CreateOutput("result", Sdf.ValueTypeNames.Float3)
            surface.CreateInput("diffuseColor", Sdf.ValueTypeNames.Color3f).ConnectToSource(
                reader.ConnectableAPI(), "result"
            )
        UsdShade.MaterialBindingAPI.Apply(mesh.GetPrim()).Bind(material)
    stage.Save()
    arrival = read(tmp_path / "a.usda")
    thing = next(t for t in arrival.things if t.mesh)
    made, worn = arrival.meshes[thing.mesh], {m.id: m for m in arrival.materials}[thing.material]
    if bound == "other":
        assert made.colours is None, "a material of its own goes before what a viewport would show"
        return
    assert worn.steps == (OWN,)
    for triangle, own in zip(made.triangles, ((0, 1, 2), (0, 2, 3)) if how == "vertex" else ((0,), (1,))):
        expected = working(colours[[0] if how == "constant" else list(own)])
        order = np.argsort([CORNERS.index(tuple(v)) for v in made.vertices[triangle].tolist()])
        seen = made.colours[triangle][order]
        assert seen == pytest.approx(np.broadcast_to(expected, (3, 3)), abs=1e-5)


@pytest.mark.parametrize("suffix", [".glb", ".usda"])
def test_what_vertices_carry_goes_out_and_comes_back(tmp_path, suffix):
    from nocturne.io import picture

    picture.write(tmp_path / "p.png", np.random.default_rng(1).random((8, 8, 3)))
    ball = forms.ball(1.0, segments=16)
    mesh = replace(ball, colours=working((ball.vertices + 1) / 2), more_uvs=ball.vertices[:, 1:])
    rough = Picture(parameter="specular_roughness", path="p.png", space="green", uv_set=2)
    tinted = Material(id="t", name="Tinted", base_color=(1.0, 1.0, 1.0), steps=(OWN, rough))
    plain = Material(id="p", name="Plain", base_color=(0.5, 0.5, 0.5))
    things = (Thing(id="a", name="A", mesh="m", material="t"), Thing(id="b", name="B", mesh="m", material="p"))
    document = Document(things=things, materials=(tinted, plain))
    path = tmp_path / f"set{suffix}"
    lost = (glb if suffix == ".glb" else usdout).write(path, Outgoing.of(document, Assets({"m": mesh}), tmp_path))
    assert not lost
    arrival = read(path)
    worn = {m.id: m for m in arrival.materials}
    first = next(t for t in arrival.things if t.name == "A")
    steps = worn[first.material].steps
    found = {(s.kind, s.parameter, s.uv_set) for s in steps}
    assert found >= {("geomcolor", "base_color", 1), ("image", "specular_roughness", 2)}
    back = arrival.meshes[first.mesh]
    # glTF stands y up; which vertex is which is told by its colour.
    which = np.abs(back.colours[:, None] - mesh.colours).sum(-1).argmin(1)
    assert back.colours == pytest.approx(mesh.colours[which], abs=1e-5)
    assert back.more_uvs == pytest.approx(mesh.more_uvs[which], abs=1e-5)
    second = next(t for t in arrival.things if t.name == "B")
    assert not any(s.kind == "geomcolor" for s in worn[second.material].steps)

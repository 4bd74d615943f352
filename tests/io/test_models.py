"""Models in and out: what a file holds arrives as it was made, and goes out and comes back equal."""

import json
from pathlib import Path

import numpy as np
import pytest
import trimesh

from nocturne.colour.spaces import from_srgb, rec709_to_working
from nocturne.deliver import convert
from nocturne.errors import BadFile, FileError, MissingFile
from nocturne.io import image, picture, project
from nocturne.io.models import glb, read, usdout
from nocturne.io.models.arrival import Arrival
from nocturne.io.models.mend import triangulated
from nocturne.io.models.outgoing import Outgoing
from nocturne.jobs import run
from nocturne.scene.assets import Assets
from nocturne.scene.bringing import Wanted, box_in_metres, brought
from nocturne.scene.camera import View
from nocturne.scene.document import Document
from nocturne.scene.faces import worn
from nocturne.scene.forms.box import Box
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Picture
from nocturne.scene.scatter import Scatter, Source
from nocturne.scene.scattering import copies_of
from nocturne.scene.shapes import Mesh, levels
from nocturne.scene.thing import FaceMaterial, Thing
from tests import sets

pytestmark = pytest.mark.usefixtures("usd_here")

BOX = Box(width=2, depth=1, height=0.5, edge=0)
TWO = Mesh(BOX.build().vertices, BOX.build().triangles, BOX.build().normals, BOX.build().uvs)
_N = len(TWO.triangles)
TWO = Mesh(TWO.vertices, TWO.triangles, TWO.normals, TWO.uvs, (np.arange(_N) >= _N // 2).astype(int), ("low", "high"))


_GLOWS = (FaceMaterial(set="high", material="glow"),)


@pytest.fixture
def whole(tmp_path) -> tuple[Document, Assets]:
    """Return a set with one of everything that GLB and OpenUSD can hold, its pictures in tmp_path."""
    rng = np.random.default_rng(3)
    for name in ("colour.png", "parts.png", "normal.png"):
        picture.write(tmp_path / name, rng.random((8, 8, 3)))
    placing = {"repeat": (3.0, 2.0), "offset": (0.25, 0.125), "turn_deg": 30.0}
    materials = (
        Material(
            id="wood",
            name="Wood",
            base_color=(0.5, 0.4, 0.3),
            specular_roughness=0.4,
            coat_weight=0.5,
            coat_roughness=0.1,
            coat_ior=1.5,
            coat_darkening=0.0,
            steps=(
                Picture(parameter="base_color", path="colour.png", blend="multiply", **placing),
                Picture(parameter="specular_roughness", path="parts.png", space="green", **placing),
                Picture(parameter="base_metalness", path="parts.png", space="blue", **placing),
                Picture(parameter="geometry_normal", path="normal.png", space="data", amount=0.5, **placing),
            ),
        ),
        Material(
            id="glass",
            name="Glass",
            base_color=(1, 1, 1),
            specular_roughness=0.02,
            specular_ior=1.33,
            transmission_weight=1.0,
            transmission_color=(0.5, 0.9, 0.7),
            transmission_depth=0.02,
        ),
        Material(id="glow", name="Glow", emission_luminance=900.0, emission_color=(1.0, 0.6, 0.3)),
    )
    things = (
        Thing(id="g", name="Group", place=(1, 2, 3), turn_deg=(10, 20, 30), size=(2, 2, 2)),
        Thing(id="a", name="Ball", parent="g", mesh="m.glb#ball", material="wood", place=(0, 0, 1)),
        Thing(id="b", name="Ball", parent="g", mesh="m.glb#ball", material="wood", turn_deg=(0, 0, 45), size=(1, 3, 1)),
        Thing(
            id="c", name="Two", mesh="m.glb#two", material="glass", faces=(FaceMaterial(set="high", material="glow"),)
        ),
        Thing(id="d", name="Hidden", form=BOX, material="glow", visible=False, size=(-1, 1, 1)),
    )
    colour = {"colour_from": "colour", "colour": (1.0, 0.7, 0.4)}
    lights = (
        make_light(id="p", kind="point", name="Bulb", parent="g", unit="cd", power=30.0, place=(0, 0, 2), **colour),
        make_light(
            id="s",
            kind="spot",
            name="Spot",
            unit="cd",
            power=500.0,
            place=(1, 1, 4),
            turn_deg=(20, 0, 0),
            outer_deg=40.0,
            inner_deg=10.0,
            **colour,
        ),
        make_light(
            id="d", kind="distant", name="Far", on=False, unit="lx", power=900.0, turn_deg=(40, 10, 0), **colour
        ),
    )
    view = View(id="v", name="Camera", eye=(4, -5, 2), target=(1, 2, 1), focal_mm=40, width=1280, height=720)
    flat = View(id="f", name="Plan", eye=(0, 0, 9), target=(0, 0, 0), projection="orthographic", span_m=7.5)
    views = (view, flat, View(id="a", name="Around", projection="panorama"))
    document = Document(things=things, materials=materials, lights=lights, views=views, active_view="v")
    return document, Assets({"m.glb#ball": sets.BALL, "m.glb#two": TWO})


def tree_of(document: Document) -> list[tuple]:
    """Return name and world matrix of each thing that has a shape, in order of names and places."""
    rows = [
        (thing.name, tuple(np.round(document.placements[thing.id][0].ravel(), 4) + 0.0))
        for thing in document.things
        if thing.has_shape
    ]
    return sorted(rows)


def back(path: Path) -> Document:
    """Return a file brought into an empty document."""
    arrival = read.read(path)
    document, _ = brought(Document(), arrival, Wanted.all_of(arrival), base=path.name, name="x", named=str)
    return document


@pytest.mark.parametrize("suffix", [".glb", ".usda", ".usdc", ".usdz"])
def test_a_set_goes_out_and_comes_back_equal(tmp_path, whole, suffix):
    document, assets = whole
    path = tmp_path / "out" / f"set{suffix}"
    path.parent.mkdir()
    lost = (glb if suffix == ".glb" else usdout).write(path, Outgoing.of(document, assets, tmp_path))
    assert lost == ("“Around”: a panorama",)
    arrival = read.read(path)
    assert (arrival.missing, arrival.lost) == ((), ())
    again = back(path)
    assert tree_of(again) == tree_of(document)
    assert [t.name for t in again.things if not t.visible] == ["Hidden"]
    balls = [t for t in again.things if t.name == "Ball"]
    assert balls[0].mesh == balls[1].mesh, "copies share their mesh"
    two = next(t for t in again.things if t.name == "Two")
    mesh = arrival.meshes[two.mesh.partition("#")[2]]
    ids, of_face = worn(two, mesh)
    names = [again.find("materials", id).name for id in ids]
    for name, k in (("Glass", 0), ("Glow", 1)):
        mine = area(mesh, of_face == names.index(name))
        assert mine == pytest.approx(area(TWO, TWO.sets == k), rel=1e-5), "faces keep their materials"
    for old in document.materials:
        new = next(m for m in again.materials if m.name == old.name)
        for field in ("base_metalness", "specular_roughness", "specular_ior", "transmission_weight", "coat_weight"):
            driven = {t.parameter for t in old.steps}
            if field not in driven:
                assert getattr(new, field) == pytest.approx(getattr(old, field), abs=1e-6), (old.name, field)
        if old.transmission_weight:
            assert new.transmission_color == pytest.approx(old.transmission_color, abs=1e-6)
            assert new.transmission_depth == pytest.approx(old.transmission_depth)
            assert not new.geometry_thin_walled
        if old.is_emitter:
            glow = np.array(new.emission_color) * new.emission_luminance
            assert glow == pytest.approx(np.array(old.emission_color) * old.emission_luminance, rel=1e-4)
    wood, old = next(m for m in again.materials if m.name == "Wood"), document.materials[0]
    if suffix == ".glb":
        assert wood.base_color == pytest.approx(old.base_color, abs=1e-6)
    assert {(t.parameter, t.space) for t in wood.steps} == {(t.parameter, t.space) for t in old.steps}
    for step in wood.steps:
        source = next(t for t in old.steps if t.parameter == step.parameter)
        assert step.affine() == pytest.approx(source.affine(), abs=1e-6)
        file = path.parent / (path.name + step.path if step.path.startswith("#") else step.path)
        taken = image.read(file, space=step.space)
        assert taken == pytest.approx(image.read(tmp_path / source.path, space=step.space), abs=1e-6)
    standing = {light.name: light for light in again.standing_lights}
    for light in document.standing_lights:
        new = standing[light.name]
        assert (new.kind, new.strength()) == (light.kind, pytest.approx(light.strength(), rel=1e-4))
        assert new.on == light.on
        assert np.array(new.colour) / max(new.colour) == pytest.approx(np.array(light.colour), abs=1e-5)
        if light.kind != "distant":
            assert new.place == pytest.approx(light.place, abs=1e-5)
        if light.kind != "point":
            for vector in ((0, 0, -1), (1, 0, 0)):
                turned = [sets.turned(item.turn_deg, vector) for item in (new, light)]
                assert turned[0] == pytest.approx(turned[1], abs=1e-5)
    spot = standing["Spot"]
    assert (spot.outer_deg, spot.inner_deg) == (pytest.approx(40.0, abs=1e-3), pytest.approx(10.0, abs=1e-3))
    view, old = next(v for v in again.views if v.name == "Camera"), document.views[0]
    assert view.eye == pytest.approx(old.eye, abs=1e-5)
    assert view.sensor_mm / view.focal_mm == pytest.approx(old.sensor_mm / old.focal_mm, rel=1e-5)
    ahead = [np.subtract(v.target, v.eye) / np.linalg.norm(np.subtract(v.target, v.eye)) for v in (view, old)]
    assert ahead[0] == pytest.approx(ahead[1], abs=1e-5)
    flat, old = next(v for v in again.views if v.name == "Plan"), document.views[1]
    assert (flat.projection, flat.span_m) == ("orthographic", pytest.approx(old.span_m, rel=1e-5))
    assert flat.width / flat.height == pytest.approx(old.width / old.height, rel=2e-3)
    assert not any(v.name == "Around" for v in again.views), "neither format has a panorama: it is told"


def test_what_goes_out_is_valid_by_the_formats_own_libraries(tmp_path, whole):
    from pxr import Usd, UsdValidation

    document, assets = whole
    usdout.write(tmp_path / "set.usdz", Outgoing.of(document, assets, tmp_path))
    registry = UsdValidation.ValidationRegistry()
    context = UsdValidation.ValidationContext(registry.GetOrLoadAllValidators())
    faults = context.Validate(Usd.Stage.Open(str(tmp_path / "set.usdz")))
    assert [e.GetMessage() for e in faults if "ND_" not in e.GetMessage()] == []
    glb.write(tmp_path / "set.glb", Outgoing.of(document, assets, tmp_path))
    scene = trimesh.load_scene(tmp_path / "set.glb", process=False)
    # glTF's y points up; hidden things go out, too.
    low, high = scene.bounds
    corners = [
        assets.shape(t).vertices @ document.placements[t.id][0][:3, :3].T + document.placements[t.id][0][:3, 3]
        for t in document.things
        if t.has_shape
    ]
    points = np.concatenate(corners)
    assert np.array([low[0], -high[2], low[1]]) == pytest.approx(points.min(0), abs=1e-4)
    assert np.array([high[0], -low[2], high[1]]) == pytest.approx(points.max(0), abs=1e-4)


def area(mesh: Mesh, chosen: np.ndarray) -> float:
    """Return the area of some of a mesh's triangles."""
    p = mesh.vertices[mesh.triangles[chosen]].astype(float)
    return float(np.linalg.norm(np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]), axis=1).sum() / 2)


def gltf(folder: Path, tree: dict, arrays: dict[str, np.ndarray]) -> Path:
    """Write a glTF of arrays by name: in `tree`, {"@": name} stands for the accessor of one."""
    blob, views, accessors, numbers = b"", [], [], {}
    kinds = {1: "SCALAR", 2: "VEC2", 3: "VEC3", 4: "VEC4"}
    for name, array in arrays.items():
        array = np.ascontiguousarray(array)
        component = {"f": 5126, "u": {1: 5121, 2: 5123, 4: 5125}.get(array.itemsize)}[array.dtype.kind]
        views.append({"buffer": 0, "byteOffset": len(blob), "byteLength": array.nbytes})
        kind = kinds[1 if array.ndim == 1 else array.shape[1]]
        about = {"bufferView": len(views) - 1, "componentType": component, "count": len(array), "type": kind}
        numbers[name] = len(accessors)
        accessors.append(about)
        blob += array.tobytes() + b"\0" * (-array.nbytes % 4)
    (folder / "a.bin").write_bytes(blob)

    def filled(value: object) -> object:
        if isinstance(value, dict):
            return numbers[value["@"]] if "@" in value else {k: filled(v) for k, v in value.items()}
        return [filled(v) for v in value] if isinstance(value, list) else value

    whole = {"asset": {"version": "2.0"}, **filled(tree), "accessors": accessors, "bufferViews": views}
    whole["buffers"] = [{"uri": "a.bin", "byteLength": len(blob)}]
    (folder / "a.gltf").write_text(json.dumps(whole))
    return folder / "a.gltf"


TRIANGLE = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], np.float32)


def test_a_gltf_keeps_its_tree_copies_and_sheared_places(tmp_path):
    shear = np.eye(4)
    shear[:3, :3] = [[1, 0.7, 0], [0, 2, 0.1], [0, 0, -1.5]]
    nodes = [
        {"name": "Top", "children": [1, 2], "translation": [1, 0, 0]},
        {"name": "Same", "mesh": 0, "rotation": [0, 0.7071067811865475, 0, 0.7071067811865476], "scale": [1, 2, 3]},
        {"name": "Same", "mesh": 0, "matrix": shear.T.ravel().tolist()},
        {
            "name": "Many",
            "mesh": 0,
            "extensions": {"EXT_mesh_gpu_instancing": {"attributes": {"TRANSLATION": {"@": "at"}}}},
        },
    ]
    tree = {
        "scenes": [{"nodes": [0, 3]}],
        "scene": 0,
        "nodes": nodes,
        "meshes": [{"name": "Tri", "primitives": [{"attributes": {"POSITION": {"@": "p"}}}]}],
    }
    at = np.array([[0, 0, 0], [0, 0, 5], [3, 0, 0]], np.float32)
    arrival = read.read(gltf(tmp_path, tree, {"p": TRIANGLE, "at": at}))
    assert list(arrival.meshes) == ["Tri"]
    document, _ = brought(Document(), arrival, Wanted.all_of(arrival), base="a", name="x", named=str)
    up = np.array([[1, 0, 0, 0], [0, 0, -1, 0], [0, 1, 0, 0], [0, 0, 0, 1.0]])
    offset = np.eye(4)
    offset[0, 3] = 1
    turn = np.eye(4)
    turn[:3, :3] = np.array([[0, 0, 1], [0, 1, 0], [-1, 0, 0]]) * [1, 2, 3]
    want = [up @ offset @ turn, up @ offset @ shear]
    for place in at:
        matrix = np.eye(4)
        matrix[:3, 3] = place
        want.append(up @ matrix)
    found = [document.placements[t.id][0] for t in document.things if t.mesh]
    assert len(found) == 5
    for matrix in want:
        assert any(np.allclose(matrix, other, atol=1e-5) for other in found), matrix
    names = [t.name for t in document.things]
    assert names.count("Same") >= 2
    assert {"Top", "Many"} <= set(names)


@pytest.mark.parametrize("seed", range(20))
def test_any_matrix_is_a_thing_or_two(seed):
    rng = np.random.default_rng(seed)
    matrix = np.eye(4)
    matrix[:3] = rng.normal(size=(3, 4)) * np.exp(rng.normal(size=(3, 1)))
    things, parent = [], ""
    for k, stand in enumerate(levels(matrix)):
        things.append(Thing(id=str(k), parent=parent, **stand))
        parent = str(k)
    assert Document(things=tuple(things)).placements[parent][0] == pytest.approx(
        matrix, abs=1e-5 * np.abs(matrix).max()
    )


def test_gltf_materials_arrive_with_their_extensions(tmp_path):
    picture.write(tmp_path / "a b.png", np.full((4, 4, 3), 0.5))
    extensions = {
        "KHR_materials_clearcoat": {"clearcoatFactor": 0.7, "clearcoatRoughnessFactor": 0.2},
        "KHR_materials_ior": {"ior": 1.7},
        "KHR_materials_specular": {"specularFactor": 0.5},
        "KHR_materials_emissive_strength": {"emissiveStrength": 50.0},
        "KHR_materials_transmission": {"transmissionFactor": 0.9},
        "KHR_materials_volume": {"thicknessFactor": 0.1, "attenuationDistance": 0.3, "attenuationColor": [1, 1, 1]},
        "KHR_materials_sheen": {"sheenColorFactor": [1, 0, 0]},
    }
    material = {
        "name": "All",
        "pbrMetallicRoughness": {
            "baseColorFactor": [0.5, 0.5, 0.5, 1],
            "baseColorTexture": {"index": 0},
            "metallicFactor": 0.25,
            "roughnessFactor": 0.75,
        },
        "emissiveFactor": [0.5, 0.5, 0.5],
        "alphaMode": "BLEND",
        "extensions": extensions,
    }
    tree = {
        "nodes": [{"mesh": 0}],
        "scenes": [{"nodes": [0]}],
        "images": [{"uri": "a%20b.png"}],
        "textures": [{"source": 0}],
        "materials": [material, {"name": "Bare"}],
        "meshes": [{"primitives": [{"attributes": {"POSITION": {"@": "p"}, "COLOR_0": {"@": "p"}}, "material": 0}]}],
    }
    arrival = read.read(gltf(tmp_path, tree, {"p": TRIANGLE}))
    m, bare = arrival.materials
    assert (m.base_metalness, m.specular_roughness, m.coat_weight, m.coat_roughness) == (0.25, 0.75, 0.7, 0.2)
    assert (m.specular_ior, m.specular_weight, m.transmission_weight, m.transmission_depth) == (1.7, 0.5, 0.9, 0.3)
    assert m.base_color == pytest.approx((0.5, 0.5, 0.5))
    assert m.emission_luminance == pytest.approx(25.0)
    step, alpha, colours = m.steps
    assert (alpha.parameter, alpha.space) == ("geometry_opacity", "alpha")
    assert m.fuzz_weight == 1
    assert m.fuzz_color == pytest.approx(tuple(rec709_to_working() @ (1.0, 0.0, 0.0)), abs=1e-6)
    assert (colours.kind, colours.parameter, colours.blend) == ("geomcolor", "base_color", "multiply")
    assert (step.path, step.space, step.blend) == ("a b.png", "colour", "multiply")
    assert (bare.base_metalness, bare.specular_roughness) == (1.0, 1.0), "the standard's own defaults"
    assert arrival.lost == ()


def test_compressed_gltf_is_read(tmp_path):
    import DracoPy
    import meshopt

    mesh = sets.BOX
    packed = DracoPy.encode(mesh.vertices, mesh.triangles, quantization_bits=16)
    draco = {"bufferView": 0, "attributes": {"POSITION": 0}}
    primitive = {"attributes": {"POSITION": 0}, "indices": 1, "extensions": {"KHR_draco_mesh_compression": draco}}
    tree = {
        "asset": {"version": "2.0"},
        "extensionsRequired": ["KHR_draco_mesh_compression"],
        "nodes": [{"mesh": 0}],
        "scenes": [{"nodes": [0]}],
        "meshes": [{"primitives": [primitive]}],
        "accessors": [
            {"componentType": 5126, "count": len(mesh.vertices), "type": "VEC3"},
            {"componentType": 5125, "count": mesh.triangles.size, "type": "SCALAR"},
        ],
        "bufferViews": [{"buffer": 0, "byteLength": len(packed)}],
        "buffers": [{"uri": "a.bin", "byteLength": len(packed)}],
    }
    (tmp_path / "a.bin").write_bytes(packed)
    (tmp_path / "a.gltf").write_text(json.dumps(tree))
    got = read.read(tmp_path / "a.gltf").bounds()
    assert got == pytest.approx(mesh.bounds, abs=1e-3)

    data = np.ascontiguousarray(mesh.vertices[:64])
    packed = bytes(meshopt.encode_vertex_buffer(data))
    about = {"buffer": 0, "byteLength": len(packed), "byteStride": 12, "count": 64, "mode": "ATTRIBUTES"}
    tree["extensionsRequired"] = ["EXT_meshopt_compression"]
    tree["meshes"] = [{"primitives": [{"attributes": {"POSITION": 0}}]}]
    tree["accessors"] = [{"bufferView": 0, "componentType": 5126, "count": 63, "type": "VEC3"}]
    view = {"buffer": 0, "byteLength": data.nbytes, "extensions": {"EXT_meshopt_compression": about}}
    tree |= {"bufferViews": [view], "buffers": [{"uri": "a.bin", "byteLength": len(packed)}]}
    (tmp_path / "a.bin").write_bytes(packed)
    (tmp_path / "a.gltf").write_text(json.dumps(tree))
    (found,) = read.read(tmp_path / "a.gltf").meshes.values()
    assert {tuple(v) for v in found.vertices} <= {tuple(v) for v in data}

    tree["extensionsRequired"] = ["EXT_unheard_of"]
    (tmp_path / "a.gltf").write_text(json.dumps(tree))
    with pytest.raises(BadFile, match="EXT_unheard_of"):
        read.read(tmp_path / "a.gltf")


def test_an_obj_arrives_with_objects_materials_and_faces_of_any_shape(tmp_path):
    (tmp_path / "maps").mkdir()
    picture.write(tmp_path / "maps" / "old wood.png", np.full((4, 4, 3), 0.5))
    (tmp_path / "a.mtl").write_text(
        "newmtl wood\nKd 0.5 0.5 0.5\nNs 98\nNi 1.4\nmap_Kd -s 2 3 1 maps\\old wood.png\n"
        "newmtl brass\nKd 1 0.5 0\nPm 1\nPr 0.3\nmap_Bump gone.png\n"
    )
    (tmp_path / "a.obj").write_text(
        "mtllib a.mtl\no Plate\nv 0 0 0\nv 2 0 0\nv 2 0 -2\nv 1 0 -0.5\nv 0 0 -2\n"
        "vt 0 0\nvt 1 0\nvt 1 1\nvt 0.5 0.5\nvt 0 1\n"
        "usemtl wood\nf 1/1 2/2 3/3 4/4 5/5\nusemtl brass\nf -5/-5 -1/-1 -2/-2\n"
        "o Bad\nv nan 0 0\nf 6 1 2\nf 1 1 2\nf 1 2\nf 1 2 99\nf 1 2 3\nl 1 2\n"
    )
    arrival = read.read(tmp_path / "a.obj")
    plate, bad = arrival.things
    assert (plate.name, bad.name) == ("Plate", "Bad")
    mesh = arrival.meshes["Plate"]
    ids, of_face = worn(plate, mesh)
    names = {m.id: m.name for m in arrival.materials}
    assert [names[i] for i in ids] == ["wood", "brass"]
    corners = mesh.vertices[mesh.triangles[of_face == 0]].astype(float)
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    assert (cross[:, 1] > 0).all(), "a dented face is cut without turning over"
    assert cross[:, 1].sum() / 2 == pytest.approx(2.5)
    assert len(arrival.meshes["Bad"].triangles) == 1
    assert any("without area" in words for words in arrival.mended)
    wood, brass = arrival.materials[:2]
    assert wood.specular_roughness == pytest.approx((2 / 100) ** 0.25)
    assert wood.steps[0].path == "maps/old wood.png"
    assert wood.steps[0].repeat == (2.0, 3.0)
    assert (brass.base_metalness, brass.specular_roughness) == (1.0, 0.3)
    assert any("map_bump" in words for words in arrival.lost)
    up = box_in_metres(arrival, Wanted.all_of(arrival))
    assert np.ptp(up, axis=0) == pytest.approx((2, 2, 0), abs=1e-6)


def test_missing_pictures_are_found_in_a_folder(tmp_path):
    (tmp_path / "model").mkdir()
    (tmp_path / "model" / "a.mtl").write_text("newmtl m\nmap_Kd C:\\work\\wood.png\n")
    (tmp_path / "model" / "a.obj").write_text("mtllib a.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nusemtl m\nf 1 2 3\n")
    arrival = read.read(tmp_path / "model" / "a.obj")
    assert len(arrival.missing) == 1
    (tmp_path / "other" / "deep").mkdir(parents=True)
    picture.write(tmp_path / "other" / "deep" / "Wood.PNG", np.zeros((2, 2, 3)))
    found = read.with_folder(arrival, tmp_path / "model" / "a.obj", tmp_path / "other")
    assert found.missing == ()
    assert found.materials[0].steps[0].path == "../other/deep/Wood.PNG"


def test_a_dome_lights_picture_is_missed_and_found_as_a_materials_is(tmp_path):
    (tmp_path / "model").mkdir()
    (tmp_path / "model" / "a.usda").write_text(
        """#usda 1.0
        def DomeLight "Dome" {
            asset inputs:texture:file = @sky/noon.hdr@
        }
        """
    )
    arrival = read.read(tmp_path / "model" / "a.usda")
    assert arrival.missing == ("sky/noon.hdr",)
    (tmp_path / "skies").mkdir()
    (tmp_path / "skies" / "noon.hdr").write_bytes(b"there")
    found = read.with_folder(arrival, tmp_path / "model" / "a.usda", tmp_path / "skies")
    assert found.missing == ()
    assert found.lights[0].image == "../skies/noon.hdr"


# Where the middle of the picture of an untransformed dome is: at +z with y up (the map of OpenEXR), so at -y here.
@pytest.mark.parametrize(
    ("up", "kind", "turn", "azimuth", "is_told"),
    [
        ("Y", "DomeLight", "", -90.0, False),
        ("Y", "DomeLight_1", "", -90.0, False),
        ("Z", "DomeLight_1", "", -90.0, False),
        ("Z", "DomeLight", "", None, True),
        ("Z", "DomeLight", "float3 xformOp:rotateXYZ = (90, 0, 0)", -90.0, False),
        ("Y", "DomeLight", "float3 xformOp:rotateXYZ = (0, 30, 0)", -60.0, False),
        ("Z", "DomeLight_1", "float3 xformOp:rotateXYZ = (0, 0, 30)", -60.0, False),
        ("Y", "DomeLight", "float3 xformOp:rotateXYZ = (20, 0, 0)", None, True),
        ("Y", "DomeLight", "float3 xformOp:scale = (-1, 1, 1)", None, True),
    ],
)
def test_the_picture_of_a_dome_stands_where_it_does_in_its_stage(tmp_path, up, kind, turn, azimuth, is_told):
    order = f'{turn}\nuniform token[] xformOpOrder = ["{turn.split()[1]}"]' if turn else ""
    (tmp_path / "a.usda").write_text(
        f"""#usda 1.0
        (
            upAxis = "{up}"
        )
        def {kind} "Dome" {{
            asset inputs:texture:file = @noon.hdr@
            {order}
        }}
        """
    )
    arrival = read.read(tmp_path / "a.usda")
    assert any("tilted" in words for words in arrival.lost) == is_told
    if azimuth is not None:
        assert arrival.lights[0].azimuth_deg == pytest.approx(azimuth, abs=1e-3)


@pytest.mark.parametrize("azimuth", [0.0, 50.0, -130.0])
def test_a_picture_all_round_goes_out_turned_and_comes_back_so(tmp_path, azimuth):
    from pxr import Usd, UsdGeom

    picture.write(tmp_path / "noon.png", np.zeros((2, 4, 3)))
    group = Thing(id="g", name="Group", turn_deg=(0, 0, 40), place=(1, 2, 3))
    light = make_light(id="l", name="Noon", kind="environment", image="noon.png", azimuth_deg=azimuth, parent="g")
    document = Document(things=(group,), lights=(light,))
    run(convert.export_set(document, Assets(), tmp_path, tmp_path / "a.usda"))
    stage = Usd.Stage.Open(str(tmp_path / "a.usda"))
    dome = next(prim for prim in stage.Traverse() if prim.GetTypeName() == "DomeLight")
    world = np.array(UsdGeom.Xformable(dome).ComputeLocalToWorldTransform(0)).T[:3, :3]
    angle = np.radians(azimuth)
    assert world @ (0, 0, 1) == pytest.approx((np.cos(angle), np.sin(angle), 0), abs=1e-6), "the picture's middle"
    assert world @ (0, 1, 0) == pytest.approx((0, 0, 1), abs=1e-6), "its top"
    arrival = read.read(tmp_path / "a.usda")
    assert arrival.lights[0].azimuth_deg == pytest.approx(azimuth, abs=1e-3)
    assert not any("tilted" in words for words in arrival.lost)


def test_names_that_come_twice_are_told_apart_and_sizes_kept_within_limits():
    wood = [Material(id=f"m{i}", name=name) for i, name in enumerate(("Wood", "Wood 2", "Wood", "Oak"))]
    lamps = tuple(make_light(id=f"l{i}", name="Lamp", kind="sphere", radius=5.0) for i in range(3))
    arrival = Arrival(materials=tuple(wood), lights=lamps, views=(View(id="v", name="View"),), unit_m=1000.0)
    start = Document(materials=(Material(id="m0", name="Wood"),))
    document, _ = brought(start, arrival, Wanted.all_of(arrival), base="a", name="x", named=str)
    for part in ("materials", "lights", "views", "things"):
        names = [item.name for item in getattr(document, part)]
        assert len(set(names)) == len(names), names
    assert document.materials[0].name == "Wood"
    assert document.materials[-1].name == "Oak"
    for light in document.lights:
        assert type(light).model_validate(light.model_dump()) == light


USDA = """#usda 1.0
(
    defaultPrim = "World"
    metersPerUnit = 0.01
    upAxis = "Y"
)
def Xform "World" (
variants = {
        string size = "big"
    }
prepend variantSets = "size"
)
{
    variantSet "size" = {
        "big"
        {
            def Cube "Chosen"
            {
                double size = 200
            }
        }
        "small"
        {
            def Cube "Other"
            {
                double size = 2
            }
        }
    }
    def Mesh "Quad" (prepend apiSchemas = ["MaterialBindingAPI"])
    {
        int[] faceVertexCounts = [4, 3]
        int[] faceVertexIndices = [0, 1, 2, 3, 1, 4, 2]
        point3f[] points = [(0,0,0), (100,0,0), (100,100,0), (0,100,0), (200,0,0)]
        texCoord2f[] primvars:st = [(0,0),(1,0),(1,1),(0,1),(0,0),(1,0),(0,1)] (interpolation = "faceVarying")
        uniform token subdivisionScheme = "none"
        uniform token subsetFamily:materialBind:familyType = "nonOverlapping"
        rel material:binding = </World/Red>
        def GeomSubset "corner" (prepend apiSchemas = ["MaterialBindingAPI"])
        {
            uniform token elementType = "face"
            uniform token familyName = "materialBind"
            int[] indices = [1]
            rel material:binding = </World/Blue>
        }
    }
    def Mesh "Proxy"
    {
        uniform token purpose = "proxy"
        int[] faceVertexCounts = [3]
        int[] faceVertexIndices = [0,1,2]
        point3f[] points = [(0,0,0), (1,0,0), (1,1,0)]
    }
    def PointInstancer "Copies"
    {
        rel prototypes = [</World/Copies/Proto>]
        int[] protoIndices = [0, 0, 0]
        point3f[] positions = [(0,0,0), (500,0,0), (0,0,500)]
        int64[] invisibleIds = [1]
        def Sphere "Proto"
        {
            double radius = 10
        }
    }
    def Material "Red"
    {
        token outputs:surface.connect = </World/Red/S.outputs:surface>
        def Shader "S"
        {
            uniform token info:id = "UsdPreviewSurface"
            color3f inputs:diffuseColor = (1, 0, 0)
            float inputs:roughness = 0.2
            token outputs:surface
        }
    }
    def Material "Blue"
    {
        token outputs:mtlx:surface.connect = </World/Blue/S.outputs:out>
        def Shader "S"
        {
            uniform token info:id = "ND_standard_surface_surfaceshader"
            color3f inputs:base_color = (0, 0, 1)
            float inputs:metalness = 1
            float inputs:sheen = 0.5
            token outputs:out
        }
    }
    def RectLight "Lamp"
    {
        float inputs:width = 100
        float inputs:height = 50
        float inputs:intensity = 300
        float inputs:exposure = 1
        double3 xformOp:translate = (0, 300, 0)
        uniform token[] xformOpOrder = ["xformOp:translate"]
    }
}
"""


def test_a_stage_arrives_with_variants_subsets_copies_and_lights(tmp_path):
    (tmp_path / "a.usda").write_text(USDA)
    referring = '(\n    metersPerUnit = 0.01\n    upAxis = "Y"\n)\ndef "In" (\n    references = @a.usda@\n)\n{\n}\n'
    (tmp_path / "b.usda").write_text(f"#usda 1.0\n{referring}")
    for name in ("a.usda", "b.usda"):
        arrival = read.read(tmp_path / name)
        document, _ = brought(Document(), arrival, Wanted.all_of(arrival), base=name, name="x", named=str)
        names = {t.name for t in document.things}
        assert names & {"Chosen", "Other", "Proxy"} == {"Chosen"}
        quad = next(t for t in document.things if t.name == "Quad")
        mesh = arrival.meshes[quad.mesh.partition("#")[2]]
        ids, of_face = worn(quad, mesh)
        assert [document.find("materials", i).name for i in ids] == ["Red", "Blue"]
        assert np.bincount(of_face).tolist() == [2, 1]
        red, blue = (document.find("materials", i) for i in ids)
        assert red.base_color == pytest.approx(from_srgb(1, 0, 0), abs=1e-5)
        assert (red.specular_roughness, blue.base_metalness) == (pytest.approx(0.2), 1.0)
        copies = [t for t in document.things if t.name.startswith("Proto")]
        at = sorted(tuple(np.round(document.placements[t.id][0][:3, 3], 5) + 0.0) for t in copies)
        assert at == [(0, -5, 0), (0, 0, 0)], "an invisible copy is none, y is up, units are centimetres"
        assert len({t.mesh for t in copies}) == 1
        (lamp,) = document.standing_lights
        assert (lamp.width, lamp.height, lamp.power) == (pytest.approx(1.0), pytest.approx(0.5), pytest.approx(600.0))
        assert lamp.place == pytest.approx((0, 0, 3))
        assert sets.turned(lamp.turn_deg, (0, 0, -1)) == pytest.approx((0, 1, 0), abs=1e-6)
        assert (red.fuzz_weight + blue.fuzz_weight) == pytest.approx(0.5)
    (tmp_path / "c.usda").write_text('#usda 1.0\ndef "In" {')
    with pytest.raises(BadFile):
        read.read(tmp_path / "c.usda")


def test_faces_are_cut_as_their_outline_says():
    # A spiral of twelve corners, and the same from behind.
    ring = np.array([(0, 0), (5, 0), (5, 5), (1, 5), (1, 2), (3, 2), (3, 3), (2, 3), (2, 4), (4, 4), (4, 1), (0, 1)])
    area = 0.5 * np.sum(ring[:, 0] * np.roll(ring[:, 1], -1) - ring[:, 1] * np.roll(ring[:, 0], -1))
    for axes in ((0, 1, 2), (1, 2, 0), (2, 0, 1), (1, 0, 2)):
        for corners in (ring, ring[::-1]):
            points = np.zeros((len(corners), 3))
            points[:, axes[0]], points[:, axes[1]] = corners.T
            triangles, face = triangulated(np.array([len(points)]), points)
            p = points[triangles]
            normal = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]) / 2
            q = points - points[0]
            whole = np.cross(q[1:-1], q[2:]).sum(0) / 2
            assert (face == 0).all()
            assert normal.sum(0) == pytest.approx(whole)
            assert np.linalg.norm(normal, axis=1).sum() == pytest.approx(abs(area)), "none turned over"


def test_convert_there_and_back(tmp_path, whole):
    document, assets = whole
    glb.write(tmp_path / "set.glb", Outgoing.of(document, assets, tmp_path))
    run(convert.convert(tmp_path / "set.glb", tmp_path / "p" / "set.nocturne"))
    opened = run(project.load(tmp_path / "p" / "set.nocturne"))
    assert opened.assets.problems == ()
    assert len(opened.assets.images) == len({t.picture for m in opened.document.materials for t in m.steps})
    assert {"Ground", "Ball", "Two", "Hidden"} <= {t.name for t in opened.document.things}
    assert opened.document.view.name == "Camera"
    run(convert.convert(tmp_path / "p" / "set.nocturne", tmp_path / "again.usda"))
    assert {t.name for t in read.read(tmp_path / "again.usda").parts} >= {"Ground", "Ball", "Two", "Hidden"}
    with pytest.raises(FileError, match="not written"):
        run(convert.convert(tmp_path / "set.glb", tmp_path / "x.obj"))
    with pytest.raises(MissingFile):
        run(convert.convert(tmp_path / "no.glb", tmp_path / "x.usda"))


def test_a_scatter_goes_out_as_its_copies(tmp_path):
    ball = Thing(id="s", name="Ball", mesh="m#ball", visible=False)
    spread = Scatter(sources=(Source(thing="s"),), counts=(3, 2, 1), spacing=(4, 4, 1), turn_deg=(0, 0, 90))
    document = Document(things=(ball, Thing(id="c", name="All", scatter=spread, place=(0, 0, 5))))
    assets = Assets({"m#ball": sets.BALL})
    (part,) = copies_of(document, assets, document.find("things", "c"))
    want = document.placement("c") @ part.matrices
    for name, module in (("a.glb", glb), ("a.usda", usdout)):
        assert module.write(tmp_path / name, Outgoing.of(document, assets, tmp_path)) == ()
        again = back(tmp_path / name)
        found = np.array([again.placements[t.id][0] for t in again.things if t.name == "All" and t.mesh])
        assert len(found) == 6
        for matrix in want:
            assert np.abs(found - matrix).max((1, 2)).min() < 1e-4
        assert len({t.mesh for t in again.things if t.mesh}) == 1


def test_copies_are_not_made_by_the_hundred_thousand(tmp_path):
    many = {"EXT_mesh_gpu_instancing": {"attributes": {"TRANSLATION": {"@": "at"}}}}
    tree = {
        "scenes": [{"nodes": [0]}],
        "nodes": [{"mesh": 0, "extensions": many}],
        "meshes": [{"primitives": [{"attributes": {"POSITION": {"@": "p"}}}]}],
    }
    with pytest.raises(BadFile, match="60,000 copies"):
        read.read(gltf(tmp_path, tree, {"p": TRIANGLE, "at": np.zeros((60_000, 3), np.float32)}))

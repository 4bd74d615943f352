"""What a model may draw in: nothing from outside its folder, whoever reads it, unless the user allows it."""

import json
import os

import numpy as np
import pytest

from nocturne.deliver.convert import convert
from nocturne.errors import FileError
from nocturne.io import image, picture
from nocturne.io.models import allowed
from nocturne.io.models import read as models
from nocturne.io.models.border import OutsideFolder
from nocturne.jobs import run

TRIANGLE = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], np.float32)
ALL_USD = """#usda 1.0
(
    upAxis = "Z"
    {sub}
)
def Mesh "A"
{{
    int[] faceVertexCounts = [3]
    int[] faceVertexIndices = [0, 1, 2]
    point3f[] points = [(0, 0, 0), (1, 0, 0), (0, 1, 0)]
    rel material:binding = </M>
}}
def Material "M"
{{
    token outputs:surface.connect = </M/S.outputs:surface>
    def Shader "S"
    {{
        uniform token info:id = "UsdPreviewSurface"
        color3f inputs:diffuseColor.connect = </M/T.outputs:rgb>
        token outputs:surface
    }}
    def Shader "T"
    {{
        uniform token info:id = "UsdUVTexture"
        asset inputs:file = @{picture}@
        float3 outputs:rgb
    }}
}}
"""


def gltf(folder, *, buffer, image_name):
    tree = {
        "asset": {"version": "2.0"},
        "buffers": [{"uri": buffer, "byteLength": 36}],
        "bufferViews": [{"buffer": 0, "byteLength": 36}],
        "accessors": [{"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3"}],
        "images": [{"uri": image_name}],
        "textures": [{"source": 0}],
        "materials": [{"pbrMetallicRoughness": {"baseColorTexture": {"index": 0}}}],
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "material": 0}]}],
        "nodes": [{"mesh": 0}],
    }
    (folder / "a.gltf").write_text(json.dumps(tree))
    return folder / "a.gltf"


def obj(folder, *, buffer, image_name):
    (folder / "a.obj").write_text(f"mtllib {buffer}\nv 0 0 0\nv 1 0 0\nv 0 1 0\nusemtl m\nf 1 2 3\n")
    return folder / "a.obj"


def usd(folder, *, buffer, image_name):
    sub = f"subLayers = [@{buffer}@]" if buffer else ""
    (folder / "a.usda").write_text(ALL_USD.format(sub=sub, picture=image_name))
    return folder / "a.usda"


def mtlx(folder, *, buffer, image_name):
    (folder / "a.mtlx").write_text(
        '<?xml version="1.0"?><materialx version="1.39"><image name="i" type="color3">'
        f'<input name="file" type="filename" value="{image_name}"/></image>'
        '<open_pbr_surface name="s" type="surfaceshader"><input name="base_color" type="color3" nodename="i"/>'
        '</open_pbr_surface><surfacematerial name="m" type="material">'
        '<input name="surfaceshader" type="surfaceshader" nodename="s"/></surfacematerial></materialx>'
    )
    return folder / "a.mtlx"


MAKERS = {".gltf": gltf, ".glb": gltf, ".obj": obj, ".mtlx": mtlx, **dict.fromkeys((".usd", ".usda", ".usdc"), usd)}
HAVE_NONE = (".ply", ".stl", ".usdz")  # name no other files; an archive's are its own


@pytest.fixture
def places(tmp_path):
    """Return a model's folder, and what lies outside it."""
    inside, outside = tmp_path / "model", tmp_path / "private"
    inside.mkdir()
    outside.mkdir()
    (outside / "data.bin").write_bytes(TRIANGLE.tobytes())
    picture.write(outside / "p.png", np.full((2, 2, 3), 0.5))
    (outside / "m.mtl").write_text("newmtl m\nKd 1 0 0\nmap_Kd ../private/p.png\n")
    (outside / "sub.usda").write_text('#usda 1.0\ndef Sphere "Other"\n{\n}\n')
    return inside, outside


BUFFERS = {gltf: "data.bin", obj: "m.mtl", usd: "sub.usda", mtlx: ""}


def named(way, inside, outside, file):
    """Return how a model names a file outside its folder."""
    if way == "link":
        link = inside / f"link-{file}"
        if not link.is_symlink():
            link.symlink_to(outside / file)
        return link.name
    return {"absolute": f"{outside}/{file}", "upwards": f"../private/{file}"}[way]


def test_every_reader_is_asked():
    assert set(models.READS) == {*MAKERS, *HAVE_NONE}


@pytest.mark.parametrize("way", ["absolute", "upwards", "link"])
@pytest.mark.parametrize("make", [gltf, obj, usd, mtlx])
def test_nothing_from_outside_is_read(places, make, way, usd_here):
    inside, outside = places
    names = {what: named(way, inside, outside, what) for what in (BUFFERS[make], "p.png") if what}
    path = make(inside, buffer=names.get(BUFFERS[make], ""), image_name=names["p.png"])
    if make in (gltf, usd):
        with pytest.raises(OutsideFolder, match="Put those files beside it"):
            models.read(path)
        inner = "data.bin" if make is gltf else ""
        if make is gltf:
            (inside / inner).write_bytes(TRIANGLE.tobytes())
        path = make(inside, buffer=inner, image_name=names["p.png"])
    arrival = models.read(path)
    assert len(arrival.outside) == 1
    for name in models.pictures_of(arrival):
        assert name.startswith("#") or os.sep not in name, "nothing leads outside any more"
    if make is obj:
        assert arrival.missing == (names["m.mtl"],)
    else:
        assert arrival.missing == (("link-p.png" if way == "link" else "p.png"),)


@pytest.mark.parametrize("make", [gltf, obj, usd, mtlx])
def test_what_the_user_allows_is_read(places, make, usd_here, monkeypatch, tmp_path):
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    inside, outside = places
    buffer = named("upwards", inside, outside, BUFFERS[make]) if BUFFERS[make] else ""
    path = make(inside, buffer=buffer, image_name="../private/p.png")
    allowed.allow(path)
    arrival = models.read(path)
    assert not arrival.outside
    assert not arrival.missing
    assert models.pictures_of(arrival) == ["../private/p.png"]
    allowed._file().write_text("[[")
    assert not allowed.is_allowed(path), "a damaged list allows nothing"


def test_a_set_written_carries_no_file_that_is_no_picture(places, tmp_path):
    inside, outside = places
    (outside / "secret.png").write_text("my diary")
    (inside / "data.bin").write_bytes(TRIANGLE.tobytes())
    allowed.allow(gltf(inside, buffer="data.bin", image_name="../private/secret.png"))
    _, lost = run(convert(inside / "a.gltf", tmp_path / "out.glb"))
    assert any("secret.png" in what for what in lost)
    assert b"diary" not in (tmp_path / "out.glb").read_bytes()


def test_pictures_inside_come_out_of_no_file_but_the_models(places):
    inside, outside = places
    (outside / "p2.png").write_bytes((outside / "p.png").read_bytes())
    tree = {
        "asset": {"version": "2.0"},
        "buffers": [{"uri": "../private/p2.png", "byteLength": 60}],
        "bufferViews": [{"buffer": 0, "byteLength": 60}],
        "images": [{"bufferView": 0}],
    }
    (inside / "a.gltf").write_text(json.dumps(tree))
    with pytest.raises(OutsideFolder):
        image.read(f"{inside / 'a.gltf'}#0")


def test_a_damaged_draco_mesh_is_told(tmp_path):
    tree = json.loads(gltf(tmp_path, buffer="data.bin", image_name="p.png").read_text())
    (tmp_path / "data.bin").write_bytes(b"DRACO" + bytes(31))
    packed = {"bufferView": 0, "attributes": {"POSITION": 0}}
    tree["meshes"][0]["primitives"][0]["extensions"] = {"KHR_draco_mesh_compression": packed}
    (tmp_path / "a.gltf").write_text(json.dumps(tree))
    with pytest.raises(FileError, match="Draco mesh is damaged"):
        models.read(tmp_path / "a.gltf")


def test_a_stage_that_refers_to_a_pipe_ends(tmp_path):
    os.mkfifo(tmp_path / "pipe.usda")
    path = usd(tmp_path, buffer="./pipe.usda", image_name="p.png")
    with pytest.raises(FileError, match="is no file"):
        models.read(path)

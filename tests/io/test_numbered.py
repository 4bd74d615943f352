"""Numbered pictures and named colour spaces: tiles found, placed and sized, frames chosen, packed whole."""

import numpy as np
import OpenImageIO as oiio
import PyOpenColorIO as ocio
import pytest

from nocturne.colour import named
from nocturne.deliver import pack
from nocturne.errors import BadFile, MissingFile
from nocturne.io import image, project
from nocturne.io.models.read import read
from nocturne.io.paths import files_of, numbered_files
from nocturne.jobs import run
from nocturne.preflight.files import missing_files
from nocturne.scene.assets import Assets, Named
from nocturne.scene.document import Document
from nocturne.scene.materials import Material
from nocturne.scene.numbered import as_sequence, as_tiles, at_frame, is_sequence, place_of
from nocturne.scene.patterns import Mix, Picture
from nocturne.scene.patterns.image import ENCODINGS
from nocturne.scene.texturing import with_frame
from nocturne.ui.numbers import Numbers


def written(path, rgb, size=(4, 2)):
    """Write a plain picture, 32-bit float where the ending can."""
    spec = oiio.ImageSpec(*size, 3, "float" if path.suffix == ".exr" else "uint8")
    out = oiio.ImageOutput.create(str(path))
    assert out.open(str(path), spec)
    assert out.write_image(np.broadcast_to(np.array(rgb, np.float32), (size[1], size[0], 3)).copy())
    out.close()
    return path


@pytest.mark.parametrize(
    ("file", "tiles", "frames"),
    [
        ("a/wall.1002.exr", "a/wall.<UDIM>.exr", ("a/wall.####.exr", 1002)),
        ("a/wall_1011_b.png", "a/wall_<UDIM>_b.png", ("", 0)),
        ("fire0037.exr", "", ("fire####.exr", 37)),
        ("fire.7.exr", "", ("fire.#.exr", 7)),
        ("2024.png", "", ("", 0)),
        ("wall.1000.exr", "", ("wall.####.exr", 1000)),
        ("wall.2024.exr", "", ("wall.####.exr", 2024)),
        ("set2.glb#4", "", ("", 0)),
        ("set.1001.glb#wood.1002.png", "", ("", 0)),
        ("wall2k.png", "", ("", 0)),
    ],
)
def test_names_tell_what_they_are_numbers_of(file, tiles, frames):
    assert (as_tiles(file), as_sequence(file)) == (tiles, frames)
    if frames[0]:
        assert at_frame(*frames) == file


@pytest.mark.parametrize("name", ["#10 colour", "#wood.png", "set.glb#4", "model.glb##.png", "plain.png"])
def test_a_name_inside_of_a_model_is_no_sequence(name):
    assert not is_sequence(name)
    assert at_frame(name, 3) == name


def test_tiles_lie_by_their_numbers(tmp_path):
    """1001 is at the lower left, one more is to the right, ten more above; a smaller one is drawn larger."""
    assert [place_of(n) for n in (1001, 1002, 1010, 1011, 1023)] == [(0, 0), (1, 0), (9, 0), (0, 1), (2, 2)]
    written(tmp_path / "w_1001.exr", (0.1, 0.2, 0.3))
    written(tmp_path / "w_1012.exr", (0.4, 0.5, 0.6), size=(8, 4))
    for number in (12, 1000, 2001):
        written(tmp_path / f"w_{number}.exr", (9, 9, 9))
    whole = image.read(tmp_path / "w_<UDIM>.exr", space="data")
    assert whole.shape == (2, 2, 4, 8, 3)
    assert whole[0, 0] == pytest.approx(np.broadcast_to((0.1, 0.2, 0.3), (4, 8, 3)), abs=1e-6)
    assert whole[1, 1] == pytest.approx(np.broadcast_to((0.4, 0.5, 0.6), (4, 8, 3)), abs=1e-6)
    assert whole[0, 1].max() == whole[1, 0].max() == 0, "black where there is none"
    with pytest.raises(MissingFile, match="no tile"):
        image.read(tmp_path / "x_<UDIM>.exr")
    (tmp_path / "w_1002.exr").write_bytes(b"no picture")
    with pytest.raises(BadFile, match="w_1002"):
        image.read(tmp_path / "w_<UDIM>.exr")


@pytest.mark.parametrize("name", ENCODINGS)
def test_colours_are_read_in_the_space_that_is_named(tmp_path, name):
    path = written(tmp_path / "c.exr", (0.5, 0.25, 0.125))
    found = image.read(path, space=f"colour:{name}")[0, 0]
    config = ocio.Config.CreateFromBuiltinConfig(named.CONFIG)
    expected = config.getProcessor(name, "ACEScg").getDefaultCPUProcessor().applyRGB([0.5, 0.25, 0.125])
    assert found == pytest.approx(expected, rel=1e-5)


def test_srgb_by_name_is_as_by_the_file(tmp_path):
    path = written(tmp_path / "c.png", (0.5, 0.25, 0.125))
    by_name = image.read(path, space=f"colour:{ENCODINGS[0]}")
    assert by_name == pytest.approx(image.read(path), abs=2e-4)
    with pytest.raises(BadFile, match="“Nowhere”"):
        image.read(path, space="colour:Nowhere")


def with_picture(**values) -> Document:
    return Document(materials=(Material(id="m", name="M", steps=(Picture(**values),)),))


def loaded(document: Document, folder) -> Assets:
    return run(project.load_assets(document, folder))


def test_of_a_sequence_the_frame_that_is_shown_is_read_and_the_next_when_it_is_changed(tmp_path):
    for frame in (7, 8, 120):
        written(tmp_path / f"fire.{frame:04d}.exr", (frame, 0, 0))
    document = with_picture(path="fire.####.exr", space="data", frame_number=8)
    assets = loaded(document, tmp_path)
    assert list(assets.images) == [("fire.0008.exr", "data")]
    assert assets.images["fire.0008.exr", "data"][0, 0, 0] == 8
    later = with_picture(path="fire.####.exr", space="data", frame_number=120)
    assert Named.of(later).but(assets).images == {("fire.0120.exr", "data")}
    assert sorted(numbered_files(tmp_path / "fire.####.exr")) == [7, 8, 120]
    assert not list(missing_files(document, assets, tmp_path))
    (found,) = missing_files(with_picture(path="fire.####.exr", frame_number=9), Assets(), tmp_path)
    assert "fire.0009.exr" in found.words


def test_a_pack_brings_all_tiles_and_all_frames(tmp_path):
    source = tmp_path / "project"
    source.mkdir()
    for n in (1001, 1002):
        written(source / f"w.{n}.exr", (n, 0, 0))
    for n in (1, 2):
        written(source / f"f.{n:02d}.exr", (n, 0, 0))
    steps = (Picture(path="w.<UDIM>.exr", space="data"), Picture(path="f.##.exr", space="data", frame_number=2))
    document = Document(materials=(Material(id="m", name="M", steps=steps),))
    target, missing = run(pack.pack(document, source, tmp_path / "packed"))
    assert missing == []
    packed = run(project.load(target))
    assert not packed.assets.problems
    before = loaded(document, source)
    for old, new in zip(document.materials[0].steps, packed.document.materials[0].steps):
        assert len(files_of(target / new.path)) == 2
        assert np.array_equal(packed.assets.images[new.picture], before.images[old.picture])


def test_a_document_at_a_frame_shows_it_in_every_sequence(tmp_path):
    inner = Picture(parameter="mix", path="m.###.png", frame_number=4)
    steps = (Mix(steps=(inner,)), Picture(path="f.##.exr"), Picture(path="plain.png"))
    document = with_frame(Document(materials=(Material(id="m", name="M", steps=steps),)), 12)
    mixed, sequence, plain = document.materials[0].steps
    assert (mixed.steps[0].picture[0], sequence.picture[0], plain.picture[0]) == ("m.012.png", "f.12.exr", "plain.png")


def test_a_stage_brings_a_set_of_tiles(tmp_path):
    from pxr import Sdf, Usd, UsdGeom, UsdShade

    for number in (1001, 1002):
        written(tmp_path / f"skin.{number}.png", (0.5, 0.5, 0.5))
    stage = Usd.Stage.CreateNew(str(tmp_path / "set.usda"))
    mesh = UsdGeom.Mesh.Define(stage, "/Skin")
    mesh.CreatePointsAttr([(0, 0, 0), (1, 0, 0), (0, 1, 0)])
    mesh.CreateFaceVertexCountsAttr([3])
    mesh.CreateFaceVertexIndicesAttr([0, 1, 2])
    material = UsdShade.Material.Define(stage, "/Looks/Skin")
    surface = UsdShade.Shader.Define(stage, "/Looks/Skin/Surface")
    surface.CreateIdAttr("UsdPreviewSurface")
    texture = UsdShade.Shader.Define(stage, "/Looks/Skin/Texture")
    texture.CreateIdAttr("UsdUVTexture")
    texture.CreateInput("file", Sdf.ValueTypeNames.Asset).Set(Sdf.AssetPath("skin.<UDIM>.png"))
    output = texture.CreateOutput("rgb", Sdf.ValueTypeNames.Float3)
    surface.CreateInput("diffuseColor", Sdf.ValueTypeNames.Color3f).ConnectToSource(output)
    material.CreateSurfaceOutput().ConnectToSource(surface.CreateOutput("surface", Sdf.ValueTypeNames.Token))
    UsdShade.MaterialBindingAPI.Apply(mesh.GetPrim()).Bind(material)
    stage.Save()
    arrival = read(tmp_path / "set.usda")
    assert arrival.missing == ()
    (step,) = [step for m in arrival.materials for step in m.steps]
    assert step.path == "skin.<UDIM>.png"


def test_a_long_run_of_numbers_is_a_sequence_and_no_set_of_tiles(tmp_path):
    numbers = Numbers(None, lambda: tmp_path)
    for number in range(1001, 1013):
        (tmp_path / f"take.{number}.exr").touch()
    assert numbers.as_set("take.1003.exr") == "take.1003.exr"
    (tmp_path / "take.1005.exr").unlink()
    assert numbers.as_set("take.1003.exr") == "take.<UDIM>.exr"


def test_packed_tiles_never_take_the_place_of_another_picture(tmp_path):
    source = tmp_path / "project"
    for folder, value in (("a", 1.0), ("b", 2.0)):
        (source / folder).mkdir(parents=True)
        for number in (1001, 1002):
            written(source / folder / f"w.{number}.exr", (value, 0, 0))
    paths = ("a/w.1001.exr", "a/w.<UDIM>.exr", "b/w.<UDIM>.exr")
    steps = tuple(Picture(path=path, space="data") for path in paths)
    document = Document(materials=(Material(id="m", name="M", steps=steps),))
    target, _ = run(pack.pack(document, source, tmp_path / "packed"))
    packed = run(project.load(target))
    values = [float(packed.assets.images[s.picture].max()) for s in packed.document.materials[0].steps]
    assert values == [1.0, 1.0, 2.0]

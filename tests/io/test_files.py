"""Files in and out, read back with the standards' own libraries; damaged ones are told, never crash."""

import json

import numpy as np
import OpenEXR
import OpenImageIO as oiio
import pytest
import trimesh

from nocturne.colour.spaces import AP1, from_srgb, rec709_to_working
from nocturne.errors import BadFile, FileError, MissingFile, NewerVersion, UnknownFormat
from nocturne.film.film import Film
from nocturne.io import cryptomatte, exr, image, picture, project, registry
from nocturne.io.atomic import replacing
from nocturne.io.models import read as models
from nocturne.io.models.glb import write_glb
from nocturne.io.paths import Relocation
from nocturne.jobs import run
from nocturne.scene import edit
from nocturne.scene.assets import Assets, Named
from nocturne.scene.desk import Cue, Strip
from nocturne.scene.document import Document
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Picture
from nocturne.scene.thing import Thing
from tests import sets
from tests.near import assert_near


@pytest.fixture(scope="module")
def rendered(engine):
    lamp = make_light(
        id="l", group="Key light", kind="rect", unit="nit", power=50, place=(0, -2, 3), turn_deg=(30, 0, 0)
    )
    dome = make_light(id="d", group="dome", kind="dome", unit="nit", power=1)
    document, assets = sets.one_thing(
        sets.BALL, Material(id="m", name="Clay"), lamp, dome, camera=sets.view(size=(40, 30)), quality=sets.deep(8)
    )
    return document, sets.picture(document, assets)


def read_exr(path) -> tuple[dict, dict]:
    with OpenEXR.File(str(path), separate_channels=True) as file:
        return dict(file.header()), {name: channel.pixels for name, channel in file.channels().items()}


def test_exr_holds_everything(rendered, tmp_path):
    document, film = rendered
    path = tmp_path / "out.exr"
    cue = Cue(id="c", name="Dim", strips=(Strip(group="Key light", stops=-1), Strip(group="dome", on=False)))
    exr.write_film(path, film, document, seed=7, denoised=film.groups / 8, cues=(cue,))
    header, channels = read_exr(path)
    stack = lambda layer, letters="RGB": np.stack([channels[f"{layer}.{c}"] for c in letters], -1)  # noqa: E731
    beauty = np.stack([channels[c] for c in "RGB"], -1)
    assert beauty == pytest.approx(film.beauty(), rel=1e-6)
    assert stack("group.Key light") + stack("group.dome") == pytest.approx(beauty, rel=1e-4)
    passes = [
        "direct_diffuse",
        "indirect_diffuse",
        "direct_reflection",
        "indirect_reflection",
        "direct_transmission",
        "indirect_transmission",
        "emission",
        "background",
    ]
    assert sum(stack(name) for name in passes) == pytest.approx(beauty, rel=1e-4, abs=1e-6)
    assert stack("normal", "XYZ") == pytest.approx(film.normal)
    assert channels["depth.Z"] == pytest.approx(film.depth)
    assert channels["A"] == pytest.approx(film.alpha)
    assert stack("denoised") == pytest.approx(beauty, rel=1e-5)
    assert stack("cue.Dim") == pytest.approx(0.5 * stack("group.Key light"), rel=1e-5)
    assert header["chromaticities"] == pytest.approx([v for xy in AP1 for v in xy], abs=1e-6)
    assert Document.model_validate_json(header["nocturne/document"]) == document
    assert header["nocturne/seed"] == "7"
    assert float(header["nocturne/samples"]) == 8
    reader = oiio.ImageInput.open(str(path))
    assert {"R", "G", "B", "A"} <= set(reader.spec().channelnames)
    reader.close()


def test_groups_and_cues_whose_names_fall_together_keep_a_layer_each(tmp_path):
    groups = ("key.1", "key_1", "key,1", "fill")
    film = Film.blank(6, 4, groups)
    film.samples[:] = 1
    film.groups[:] = np.random.default_rng(3).random(film.groups.shape)
    cues = tuple(Cue(id=str(i), name="Dusk", strips=(Strip(group=g, on=False),)) for i, g in enumerate(groups))
    exr.write_film(tmp_path / "out.exr", film, Document(), denoised=film.groups * 2, cues=cues)
    back = exr.read_film(tmp_path / "out.exr")
    assert back.film.group_names == groups
    assert back.film.groups == pytest.approx(film.groups)
    assert back.clean == pytest.approx(film.groups * 2)
    _, channels = read_exr(tmp_path / "out.exr")
    mixed = [np.stack([channels[f"cue.Dusk{n}.{c}"] for c in "RGB"], -1) for n in ("", "-2", "-3", "-4")]
    for i, with_one_off in enumerate(mixed):
        assert with_one_off == pytest.approx(2 * (film.groups.sum(0) - film.groups[i]), rel=1e-5)


def test_mattes_follow_the_specification(rendered, tmp_path):
    document, film = rendered
    exr.write_film(tmp_path / "m.exr", film, document)
    header, channels = read_exr(tmp_path / "m.exr")
    keys = [k for k in header if k.startswith("cryptomatte/") and k.endswith("/name")]
    layers = {header[k]: k.split("/")[1] for k in keys}
    assert set(layers) == {"matte.object", "matte.material"}
    assert layers["matte.material"] == f"{cryptomatte.murmur3('matte.material'):08x}"[:7]
    manifest = json.loads(header[f"cryptomatte/{layers['matte.material']}/manifest"])
    wanted = np.uint32(int(manifest["Clay"], 16)).view(np.float32)
    coverage = np.zeros(film.samples.shape)
    for level in range(3):
        for id_letter, share_letter in (("R", "G"), ("B", "A")):
            ids = channels[f"matte.material{level:02d}.{id_letter}"]
            coverage += np.where(ids == wanted, channels[f"matte.material{level:02d}.{share_letter}"], 0)
    assert coverage == pytest.approx(film.alpha, abs=1e-5)
    assert 0 < coverage.mean() < 1


def test_murmur_hash_values():
    # Published test vectors of MurmurHash3_x86_32.
    assert cryptomatte.murmur3("") == 0
    assert cryptomatte.murmur3("test") == 0xBA6BD213
    assert cryptomatte.murmur3("Hello, world!") == 0xC0363E43
    assert cryptomatte.murmur3("The quick brown fox jumps over the lazy dog") == 0x2E4FF723
    for n in range(3000):
        value = cryptomatte.id_float(f"thing {n}")
        assert np.isfinite(value)


@pytest.mark.parametrize(("name", "bits"), [("a.png", 8), ("a.png", 16), ("a.tif", 16), ("a.jpg", 8)])
def test_pictures_there_and_back(tmp_path, name, bits):
    values = np.linspace(0, 1, 48 * 32 * 3).reshape(32, 48, 3)
    picture.write(tmp_path / name, values, bits=bits)
    back = image.read(tmp_path / name, space="data")
    assert back == pytest.approx(values, abs=0.03 if name.endswith("jpg") else 1 / (2**bits - 1))
    assert not list(tmp_path.glob(".*")), "no temporary file is left"
    with pytest.raises(UnknownFormat):
        picture.write(tmp_path / "a.xyz", values)


def test_colour_is_read_into_the_working_space(tmp_path):
    picture.write(tmp_path / "c.png", np.full((4, 4, 3), (0.2, 0.5, 0.9)))
    assert image.read(tmp_path / "c.png")[0, 0] == pytest.approx(from_srgb(51 / 255, 128 / 255, 230 / 255), abs=2e-3)


@pytest.mark.parametrize(("name", "bits"), [("a.png", 8), ("a.png", 16), ("a.tif", 16)])
def test_every_whole_number_is_decoded_as_srgb(tmp_path, name, bits):
    most = 2**bits - 1
    numbers = np.arange(most + 1, dtype=np.uint16 if bits == 16 else np.uint8).reshape(16, -1)
    writer = oiio.ImageOutput.create(str(tmp_path / name))
    writer.open(str(tmp_path / name), oiio.ImageSpec(numbers.shape[1], 16, 3, "uint16" if bits == 16 else "uint8"))
    writer.write_image(np.stack([numbers, numbers[::-1], numbers[:, ::-1]], axis=-1))
    writer.close()
    back = image.read(tmp_path / name)
    # IEC 61966-2-1, one number at a time.
    linear = [v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4 for v in (numbers.ravel() / most).tolist()]
    linear = np.array(linear).reshape(numbers.shape)
    expected = np.stack([linear, linear[::-1], linear[:, ::-1]], axis=-1) @ rec709_to_working().T
    assert back.dtype == np.float32
    np.testing.assert_allclose(back, expected, atol=3e-7)


def test_a_grey_picture_with_alpha_is_grey_in_colour(tmp_path):
    writer = oiio.ImageOutput.create(str(tmp_path / "g.png"))
    spec = oiio.ImageSpec(2, 1, 2, "uint8")
    spec.attribute("oiio:UnassociatedAlpha", 1)  # what is written is what is handed over
    writer.open(str(tmp_path / "g.png"), spec)
    writer.write_image(np.array([[[51, 128], [204, 255]]], np.uint8))
    writer.close()
    back = image.read(tmp_path / "g.png")
    for pixel, grey in zip(back[0], (0.2, 0.8)):
        assert pixel == pytest.approx(from_srgb(grey, grey, grey), abs=1e-6)
    assert image.read(tmp_path / "g.png", space="alpha")[0, :, 0] == pytest.approx([128 / 255, 1], abs=1e-6)


def test_a_failed_write_keeps_the_old_file(tmp_path):
    path = tmp_path / "kept.txt"
    path.write_text("old")

    def fail_half_way() -> None:
        with replacing(path) as temporary:
            temporary.write_text("half")
            raise RuntimeError

    with pytest.raises(RuntimeError):
        fail_half_way()
    assert path.read_text() == "old"
    assert [p.name for p in tmp_path.iterdir()] == ["kept.txt"]


def test_models_there_and_back(tmp_path):
    write_glb(tmp_path / "m.glb", {"ball": sets.BALL, "box": sets.BOX})
    meshes = models.read(tmp_path / "m.glb").meshes
    assert set(meshes) == {"ball", "box"}
    assert meshes["box"].vertices == pytest.approx(sets.BOX.vertices, abs=1e-6)
    assert_near(meshes["ball"].normals, sets.BALL.normals, within=1e-5)
    assert_near(meshes["ball"].uvs, sets.BALL.uvs, within=1e-5)


@pytest.mark.parametrize("suffix", [".obj", ".ply", ".stl", ".glb"])
def test_every_kind_of_model_is_read(tmp_path, suffix):
    path = tmp_path / f"cone{suffix}"
    trimesh.creation.cone(0.5, 2.0).export(path)
    arrival = models.read(path)
    low, high = arrival.bounds()
    assert high - low == pytest.approx((1, 1, 2), abs=0.05)
    described = registry.describe(path)
    assert described["kind"] == "model"
    assert described["triangles"] == arrival.n_triangles


def damaged(data: bytes) -> list[bytes]:
    rng = np.random.default_rng(1)
    out = [b"", data[:7], data[: len(data) // 2], data[:-5] + b"\xff\xff\xff\xff\xff"]
    for _ in range(6):
        noisy = bytearray(data)
        for at in rng.integers(0, len(data), max(3, len(data) // 200)):
            noisy[at] = int(rng.integers(0, 256))
        out.append(bytes(noisy))
    return out


@pytest.mark.parametrize("suffix", [".obj", ".ply", ".stl", ".glb", ".png", ".exr", ".hdr", ".nocturne"])
@pytest.mark.filterwarnings("ignore")
def test_damaged_files_are_told(tmp_path, suffix, rendered):
    path = tmp_path / f"good{suffix}"
    if suffix in models.READS:
        trimesh.creation.icosphere(2).export(path)
    elif suffix == ".exr":
        exr.write_film(path, rendered[1], rendered[0])
    elif suffix == ".nocturne":
        project.save_document(path, rendered[0])
    elif suffix == ".hdr":
        spec = oiio.ImageSpec(16, 8, 3, "float")
        writer = oiio.ImageOutput.create(str(path))
        writer.open(str(path), spec)
        writer.write_image(np.ones((8, 16, 3), np.float32))
        writer.close()
    else:
        picture.write(path, np.zeros((16, 16, 3)))
    refused = []
    for data in damaged(path.read_bytes()):
        bad = tmp_path / f"bad{suffix}"
        bad.write_bytes(data)
        for reader in (registry.describe, image.read if suffix in image.READS else registry.describe):
            try:
                reader(bad)
            except FileError as error:
                refused.append(error)
    assert len(refused) >= 3
    assert all(str(tmp_path / f"bad{suffix}") in str(error) and error.hint for error in refused)


def test_missing_and_unknown_files(tmp_path):
    with pytest.raises(MissingFile):
        registry.describe(tmp_path / "nothing.png")
    (tmp_path / "a.xyz").write_text("?")
    with pytest.raises(UnknownFormat, match="glb"):
        registry.describe(tmp_path / "a.xyz")
    with pytest.raises(MissingFile):
        models.read(tmp_path / "nothing.glb")


def test_a_project_there_and_back(tmp_path):
    document = Document(
        name="Étude",
        things=(Thing(id="a", name="A", mesh="models/m.glb#ball", material="m"),),
        materials=(Material(id="m", steps=(Picture(path="t.png"),)),),
    )
    write_glb(tmp_path / "models" / "m.glb", {"ball": sets.BALL})
    picture.write(tmp_path / "t.png", np.full((4, 4, 3), 0.5))
    path = project.save_document(tmp_path, document)
    loaded = run(project.load(tmp_path))
    assert loaded.path == path
    assert loaded.document == document
    assert not loaded.assets.problems
    assert len(loaded.assets.meshes["models/m.glb#ball"].triangles) == len(sets.BALL.triangles)
    assert ("t.png", "colour") in loaded.assets.images
    again = run(project.load_assets(document, tmp_path, known=loaded.assets))
    assert again.meshes["models/m.glb#ball"] is loaded.assets.meshes["models/m.glb#ball"]


def test_a_project_with_missing_files_still_opens(tmp_path):
    document = Document(
        things=(Thing(id="a", mesh="gone.glb#x"), Thing(id="b", mesh="bad.ply")),
        materials=(Material(id="m", steps=(Picture(path="gone.png"),)),),
    )
    (tmp_path / "bad.ply").write_bytes(b"ply\nformat ascii 1.0\nelement vertex 999999999999\nend_header\n")
    project.save_document(tmp_path, document)
    loaded = run(project.load(tmp_path))
    assert len(loaded.assets.problems) == 3
    assert all("." in problem for problem in loaded.assets.problems)
    assert len(loaded.assets.meshes["gone.glb#x"].triangles) == 8


@pytest.mark.parametrize(
    ("change", "error", "says"),
    [
        ({"version": 999}, NewerVersion, "newer"),
        ({"format": "other"}, BadFile, "not a Nocturne project"),
        ({"views": []}, BadFile, "views"),
        ({"things": [{"id": "a", "place": "here"}]}, BadFile, "place"),
        ({"surprise": 1}, BadFile, "surprise"),
    ],
)
def test_a_project_that_says_nonsense_is_refused(tmp_path, change, error, says):
    raw = json.loads(Document().model_dump_json()) | change
    (tmp_path / "p.nocturne").write_text(json.dumps(raw))
    with pytest.raises(error, match=says):
        project.read_document(tmp_path / "p.nocturne")


def test_paths_follow_a_project_to_another_folder(tmp_path):
    document = Document(
        things=(Thing(id="a", mesh="models/m.glb#ball"), Thing(id="b", name="Group")),
        lights=(make_light(id="e", kind="environment", image="sky.exr"),),
        materials=(Material(id="m", steps=(Picture(parameter="base_color", path=str(tmp_path / "one/wood.png")),)),),
    )
    place = Relocation(tmp_path / "one", tmp_path / "two")
    moved = place.document(document)
    assert moved.things[0].mesh == "../one/models/m.glb#ball"
    assert moved.lights[0].image == "../one/sky.exr"
    assert moved.materials[0].steps[0].path == "../one/wood.png"
    assert moved.things[1] is document.things[1]
    later = edit.alter(document, "lights", "e", power=3.0)
    assert place.document(later).things is moved.things, "what two steps share they share afterwards"
    picture, mesh = np.zeros((1, 1, 3)), sets.BALL
    loaded = Assets({"models/m.glb#ball": mesh}, {("sky.exr", "colour"): picture}, {"a.cube": picture}, ("gone",))
    assets = place.assets(loaded)
    assert assets.meshes == {"../one/models/m.glb#ball": mesh}
    assert assets.images[("../one/sky.exr", "colour")] is picture
    assert not Named(luts=frozenset({"../one/a.cube"})).but(assets)
    assert assets.problems == ("gone",)

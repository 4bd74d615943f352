"""Full disks, damaged and hostile files, names that are no text: nothing is lost, nothing hangs, all of it is told."""

import json
import os
import random
import subprocess
import sys
import zlib
from pathlib import Path

import numpy as np
import pytest
import trimesh
from tools import fuzz

from nocturne.errors import BadFile, FileError, MissingFile, OutOfMemory
from nocturne.film.film import Film
from nocturne.film.memory import forecast
from nocturne.io import atomic, exr, image, lut, picture, project, proofs, registry
from nocturne.io.models import read as models
from nocturne.io.stamp import Stamp
from nocturne.jobs import run
from nocturne.scene.document import Document
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Picture
from nocturne.scene.thing import Thing

PIXELS = np.random.default_rng(0).random((300, 400, 3)).astype(np.float32)
PRIMARIES = ((0.713, 0.293), (0.165, 0.83), (0.128, 0.044), (0.32, 0.34))
WRITERS = {
    "png": lambda path: picture.write(path, PIXELS),
    "jpg": lambda path: picture.write(path, PIXELS),
    "tif": lambda path: picture.write_float(path, PIXELS, space="ACEScg"),
    "exr": lambda path: exr.write_layers(path, {"": PIXELS}, primaries=PRIMARIES),
}


@pytest.fixture
def small_disk(tmp_path):
    """Return a folder on a disk of 64 KB."""
    folder = tmp_path / "small"
    folder.mkdir()
    made = subprocess.run(["mount", "-t", "tmpfs", "-o", "size=64k", "tmpfs", str(folder)], check=False).returncode == 0
    if not made:
        pytest.skip("a small disk cannot be mounted here")
    yield folder
    subprocess.run(["umount", str(folder)], check=True)


@pytest.mark.parametrize("kind", WRITERS)
def test_a_full_disk_keeps_the_old_picture_and_the_process(small_disk, kind):
    path = small_disk / f"good.{kind}"
    path.write_bytes(b"the good one")
    with pytest.raises(FileError, match="disk full"):
        WRITERS[kind](path)
    assert path.read_bytes() == b"the good one"
    assert os.listdir(small_disk) == [path.name]


@pytest.mark.parametrize("kind", ["png", "tif", "exr"])
def test_a_codec_that_writes_too_little_is_found_out(tmp_path, kind):
    # Even where the codec's own file may not grow: the process is one of its own, as the limit cannot be lifted again.
    root = Path(__file__).resolve().parents[2]
    script = (
        f"import resource, sys\nfrom pathlib import Path\nsys.path.insert(0, {str(root)!r})\n"
        "from tests.io.test_hardening import WRITERS\n"
        "from nocturne.errors import FileError\n"
        "resource.setrlimit(resource.RLIMIT_FSIZE, (20000, 20000))\n"
        f"try:\n    WRITERS[{kind!r}](Path({str(tmp_path / ('good.' + kind))!r}))\n"
        "except FileError:\n    sys.exit(7)\n"
    )
    (tmp_path / f"good.{kind}").write_bytes(b"the good one")
    done = subprocess.run([sys.executable, "-c", script], cwd=root, capture_output=True, check=False)
    assert done.returncode == 7, done.stderr.decode()[-400:]
    assert (tmp_path / f"good.{kind}").read_bytes() == b"the good one"


def test_the_longest_names_are_written_and_longer_ones_told(tmp_path):
    longest = tmp_path / ("a" * 251 + ".txt")
    atomic.write_text(longest, "here")
    assert longest.read_text() == "here"
    with pytest.raises(FileError, match="could not be written"):
        atomic.write_text(tmp_path / ("a" * 300), "too long")
    assert os.listdir(tmp_path) == [longest.name]


def test_what_killed_writes_left_is_cleared_up(tmp_path):
    old, new, alive = (tmp_path / f".nocturne-{pid}-0123abcd.png" for pid in (999_999_99, 999_999_98, os.getpid()))
    for path in (old, new, alive):
        path.write_bytes(b"half")
    for path in (old, alive):
        os.utime(path, (1, 1))
    atomic.write_text(tmp_path / "other.txt", "")
    assert [path.exists() for path in (old, new, alive)] == [False, True, True]


def test_a_number_of_a_process_that_ended_is_not_another_one():
    pid = os.getpid()
    assert atomic.is_running(pid)
    assert atomic.is_running(pid, since=atomic.started(pid))
    assert not atomic.is_running(pid, since="another boot 17")
    for mad in (0, -1, 1 << 40, 10**30):
        assert not atomic.is_running(mad)


# ---- what files say of themselves ----------------------------------------------------------------------------------


def test_an_infinite_count_of_samples_is_none(tmp_path):
    film = Film.blank(16, 16, ("light",))
    film.samples[:] = 1
    exr.write_film(tmp_path / "a.exr", film, Document())
    for text in ("inf", "nan", "-inf", "1e300"):
        header, _, _ = exr.read_header(tmp_path / "a.exr")
        assert header["nocturne/samples"] == "1.00"
        assert exr._number(text) == 0.0
    assert exr._number("12.5") == 12.5


def with_matrix(path: Path, matrix) -> Path:
    """Write a model whose two boxes stand at a matrix and at the origin."""
    scene = trimesh.Scene()
    scene.add_geometry(trimesh.creation.box(), node_name="odd", geom_name="odd")
    scene.add_geometry(trimesh.creation.box(), node_name="plain", geom_name="plain")
    files = trimesh.exchange.gltf.export_gltf(scene, merge_buffers=True)
    tree = json.loads(files.pop("model.gltf"))
    for name, data in files.items():
        (path.parent / name).write_bytes(data)
    for node in tree["nodes"]:
        if node.get("name") == "odd":
            node["matrix"] = matrix
    path.write_text(json.dumps(tree).replace('"inf"', "1e999").replace('"nan"', "NaN"))
    return path


@pytest.mark.parametrize("value", ["inf", "nan"])
def test_a_model_whose_place_is_no_number_is_refused(tmp_path, value):
    matrix = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, value, 0, 0, 1]
    with pytest.raises(BadFile, match="damaged"):
        models.read(with_matrix(tmp_path / "a.gltf", matrix))


def test_a_part_that_is_squeezed_flat_is_left_out(tmp_path):
    matrix = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1]
    arrival = models.read(with_matrix(tmp_path / "a.gltf", matrix))
    assert [thing.mesh for thing in arrival.parts] == ["plain"]
    assert "“odd”, which is squeezed flat" in arrival.lost
    assert registry.describe(tmp_path / "a.gltf")["without_equal"] == list(arrival.lost)


def test_a_project_that_would_name_what_is_no_text_says_which_file(tmp_path):
    document = Document(things=(Thing(id="t", name="T", mesh="odd-\udcff/a.glb#x"),))
    path = project.save_document(tmp_path / "a.nocturne", Document(name="Before"))
    with pytest.raises(FileError, match=r"odd-�/a\.glb"):
        project.save_document(path, document)
    assert project.read_document(path).name == "Before"


def test_half_a_pair_of_surrogates_can_be_opened_and_saved(tmp_path):
    path = project.save_document(tmp_path / "a.nocturne", Document(name="Here"))
    path.write_text(path.read_text().replace('"Here"', '"Odd \\ud800 name"'))
    document = project.read_document(path)
    assert document.name == "Odd � name"
    project.save_document(path, document)
    assert project.read_document(path) == document


def test_a_name_that_is_too_long_is_a_missing_file_and_not_the_end(tmp_path):
    long = "a" * 400
    document = Document(
        things=(Thing(id="t", name="T", mesh=f"{long}.glb#x"),),
        materials=(Material(id="m", name="M", steps=(Picture(path=f"{long}.png"),)),),
    )
    project.save_document(tmp_path / "a.nocturne", document)
    loaded = run(project.load(tmp_path / "a.nocturne"))
    assert len(loaded.assets.problems) == 2
    assert len(loaded.assets.meshes[f"{long}.glb#x"].triangles) == 8


# ---- tables --------------------------------------------------------------------------------------------------------


def cube(*lines: str, scale: float = 1.0) -> str:
    rows = [f"{r * scale} {g * scale} {b * scale}" for b in (0, 1) for g in (0, 1) for r in (0, 1)]
    return "\n".join((*lines, "LUT_3D_SIZE 2", *rows)) + "\n"


def test_tables_with_any_words_in_any_folder_are_read(tmp_path, monkeypatch):
    monkeypatch.setenv("HOME", "/nowhere")
    folder = tmp_path / "$HOME and %HOME%"
    folder.mkdir()
    path = folder / "a.cube"
    path.write_bytes(cube('TITLE "x"', "# caf\xe9").encode("latin-1"))
    assert lut.read(path).grid[-1, 0, 0] == pytest.approx([1, 0, 0], abs=1e-5)
    path.write_text(cube(scale=0.5))
    assert lut.read(path).grid[-1, 0, 0] == pytest.approx([0.5, 0, 0], abs=1e-5), "a mended table is read again"


def test_two_tables_with_a_title_are_read(tmp_path):
    shaper = "\n".join(f"{v} {v} {v}" for v in (0.0, 0.25, 1.0))
    rows = "\n".join(f"{r} {g} {b}" for b in (0, 1) for g in (0, 1) for r in (0, 1))
    (tmp_path / "a.cube").write_text(f'TITLE "two"\nLUT_1D_SIZE 3\nLUT_3D_SIZE 2\n{shaper}\n{rows}\n')
    found = lut.read(tmp_path / "a.cube").exact(np.array([0.5, 1.0, 0.0], np.float32))
    assert found == pytest.approx([0.25, 1, 0], abs=1e-5)


def test_huge_values_stay_bright(tmp_path):
    (tmp_path / "a.cube").write_text(cube(scale=1e6))
    assert lut.read(tmp_path / "a.cube").grid[-1, -1, -1].min() > 60_000


def test_a_damaged_table_is_told_without_the_librarys_own_paths(tmp_path):
    (tmp_path / "a.cube").write_text("LUT_3D_SIZE 2\n0 0 0\n")
    with pytest.raises(BadFile) as told:
        lut.read(tmp_path / "a.cube")
    assert "nocturne-table" not in str(told.value)


# ---- bombs, pipes, fuzz --------------------------------------------------------------------------------------------


def test_pictures_that_announce_too_much_are_refused_at_once(tmp_path):
    def chunk(kind: bytes, data: bytes) -> bytes:
        return len(data).to_bytes(4, "big") + kind + data + zlib.crc32(kind + data).to_bytes(4, "big")

    size = (20_000).to_bytes(4, "big")
    bomb = b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", size + size + bytes([1, 0, 0, 0, 0]))
    bomb += chunk(b"IDAT", zlib.compress(bytes(20_000 * 2501), 9)) + chunk(b"IEND", b"")
    (tmp_path / "a.png").write_bytes(bomb)
    assert len(bomb) < 60_000
    with pytest.raises(BadFile, match="20000 × 20000"):
        image.read(tmp_path / "a.png")


def test_models_that_announce_what_they_do_not_bring_are_refused(tmp_path):
    files = trimesh.exchange.gltf.export_gltf(trimesh.Scene(trimesh.creation.box()), merge_buffers=True)
    tree = json.loads(files.pop("model.gltf"))
    for name, data in files.items():
        (tmp_path / name).write_bytes(data)
    tree["accessors"].append({"count": 300_000_000, "type": "VEC3", "componentType": 5126})
    tree["meshes"][0]["primitives"][0]["attributes"]["POSITION"] = len(tree["accessors"]) - 1
    (tmp_path / "a.gltf").write_text(json.dumps(tree))
    with pytest.raises(BadFile, match="300,000,000"):
        models.read(tmp_path / "a.gltf")


@pytest.mark.parametrize("name", ["a.png", "a.glb", "a.exr", "a.cube", "a.nocturne", "proofs/one/proof.json"])
def test_a_pipe_keeps_no_reader_waiting(tmp_path, name):
    path = tmp_path / name
    path.parent.mkdir(parents=True, exist_ok=True)
    os.mkfifo(path)
    if name.endswith("json"):
        assert proofs.listed(path.parent.parent)[0] == []
        return
    read = {".cube": lut.read, ".nocturne": project.read_document}.get(path.suffix, registry.describe)
    with pytest.raises(FileError):
        read(path)


def test_a_model_that_names_a_pipe_is_refused(tmp_path):
    files = trimesh.exchange.gltf.export_gltf(trimesh.Scene(trimesh.creation.box()), merge_buffers=True)
    (tmp_path / "a.gltf").write_bytes(files.pop("model.gltf"))
    os.mkfifo(tmp_path / next(iter(files)))
    with pytest.raises(MissingFile):
        models.read(tmp_path / "a.gltf")


def test_damaged_files_of_every_kind_raise_errors_for_users_only(tmp_path):
    good, rng = fuzz.good_files(tmp_path), random.Random(11)
    stages = {path: read for path, read in good.items() if path.suffix.startswith(".usd")}  # a process for each round
    good = {path: read for path, read in good.items() if path not in stages}
    for _ in range(4):
        assert fuzz.one_round(stages, rng) is None
    for _ in range(400):
        assert fuzz.one_round(good, rng) is None


# ---- large and deep ------------------------------------------------------------------------------------------------


def test_groups_may_be_in_groups_a_thousand_deep():
    things = tuple(
        Thing(id=f"g{k}", parent=f"g{k - 1}" if k else "", place=(1.0, 0, 0), visible=k != 700) for k in range(1200)
    )
    placements = Document(things=things[::-1]).placements
    assert placements["g1199"][0][0, 3] == 1200
    assert [placements[f"g{k}"][1] for k in (699, 700, 1199)] == [True, False, False]
    loop = (Thing(id="a", parent="b"), Thing(id="b", parent="a"), Thing(id="c", parent="a"))
    assert set(Document(things=loop).placements) == {"a", "b", "c"}


def test_memory_is_forecast_as_films_are_and_refused_with_what_fits(monkeypatch):
    film = Film.blank(64, 32, ("a", "b", "c"))
    own = sum(array.nbytes for array in film.arrays.values())
    needed = forecast(64, 32, 3).needed
    assert own < needed < 2.5 * own
    monkeypatch.setattr("nocturne.film.memory.available", lambda: 1 << 30)
    forecast(1280, 720, 5).check()
    with pytest.raises(OutOfMemory, match="16384 × 16384") as told:
        forecast(16384, 16384, 5).check()
    width, height = forecast(16384, 16384, 5).largest
    assert f"{width} × {height}" in told.value.hint
    assert forecast(width, height, 5).fits


def test_a_file_that_others_write_is_noticed_and_one_that_is_touched_is_not(tmp_path):
    path = tmp_path / "a"
    path.write_text("one")
    stamp = Stamp.of(path)
    assert not stamp.is_old(path)
    os.utime(path, (5, 5))
    assert not stamp.is_old(path), "only touched"
    path.write_text("two")
    os.utime(path, ns=(stamp.changed_ns, stamp.changed_ns + 1))
    assert stamp.is_old(path)
    path.unlink()
    assert not stamp.is_old(path), "a project that is gone is saved again"
    assert Stamp.of(path) is None

"""Kept renders on disk: whole or not there, read back as they were, named, starred, removed, moved."""

import json
import os
import signal
import subprocess
import sys
import textwrap
import time

import numpy as np
import OpenEXR
import pytest

from nocturne.errors import BadFile, FileError
from nocturne.film.film import Film
from nocturne.film.layout import PASS_NAMES
from nocturne.io import exr, proofs
from nocturne.jobs import run
from nocturne.scene import edit
from nocturne.scene.document import Document
from nocturne.scene.lights import make_light
from tests.near import assert_near

GROUPS = ("key", "sun & sky")


@pytest.fixture
def film():
    rng = np.random.default_rng(2)
    film = Film.blank(48, 32, GROUPS)
    film.samples[:] = rng.integers(1, 9, (32, 48))
    film.groups[:] = rng.random(film.groups.shape) * 900
    film.passes[:] = rng.random(film.passes.shape)
    film.guides[:] = rng.random(film.guides.shape)
    film.seconds = 12.5
    return film


@pytest.fixture
def document():
    lights = tuple(make_light(id=f"l{i}", group=g) for i, g in enumerate(GROUPS))
    return edit.set_strip(Document(name="Kept", lights=lights, groups=GROUPS), "key", stops=1.5)


def kept(folder, film, document, name="Proof 1", clean=None):
    proof = proofs.new(document, film, name=name, noise=0.03, denoised=clean is not None)
    return run(proofs.keep(folder, proof, film, document, clean=clean, thumb=np.full((9, 16, 3), 0.5)))


def test_a_proof_is_there_again_with_its_light_and_settings(tmp_path, film, document):
    clean = np.stack([film.group(i) for i in range(2)]) * 0.9
    proof = kept(tmp_path, film, document, clean=clean)
    (found,), problems = proofs.listed(tmp_path)
    assert (found, problems) == (proof, [])
    assert found.seconds == 12.5
    assert found.noise == 0.03
    assert found.quality == document.quality.name
    saved, then = run(proofs.read(tmp_path, proof.id))
    assert then == document
    assert saved.film.group_names == GROUPS
    for i in range(2):
        assert_near(saved.film.group(i), film.group(i), rel=1e-4)
    assert_near(saved.clean, clean, rel=1e-4)
    for name in PASS_NAMES:
        assert_near(saved.film.light_pass(name), film.light_pass(name), rel=1e-4)
    assert_near(saved.film.depth, film.depth, rel=1e-4)
    assert_near(saved.film.normal, film.normal, rel=1e-4)


def test_name_note_star_removal(tmp_path, film, document):
    first, second = (kept(tmp_path, film, document, name=n) for n in ("One", "Two"))
    proofs.alter(tmp_path, first.model_copy(update={"name": "Dusk", "note": "too cold", "starred": True}))
    found = {p.id: p for p in proofs.listed(tmp_path)[0]}
    assert (found[first.id].name, found[first.id].note, found[first.id].starred) == ("Dusk", "too cold", True)
    proofs.remove(tmp_path, second.id)
    assert [p.id for p in proofs.listed(tmp_path)[0]] == [first.id]
    proofs.bring_back(tmp_path, second.id)
    assert len(proofs.listed(tmp_path)[0]) == 2
    proofs.remove(tmp_path, second.id)
    proofs.clean_up(tmp_path)
    assert sorted(p.name for p in tmp_path.iterdir()) == [first.id]
    with pytest.raises(FileError, match="not there"):
        proofs.alter(tmp_path, second)


def test_proofs_move_with_the_first_save(tmp_path, film, document):
    old, new = tmp_path / "unsaved", tmp_path / "project.proofs"
    proof = kept(old, film, document)
    proofs.move(old, new)
    assert not old.exists()
    assert [p.id for p in proofs.listed(new)[0]] == [proof.id]


def test_damaged_proofs_are_left_out_and_said(tmp_path, film, document):
    good, bad = kept(tmp_path, film, document), kept(tmp_path, film, document)
    (tmp_path / bad.id / proofs.ABOUT).write_text(json.dumps({"id": 3}))
    found, problems = proofs.listed(tmp_path)
    assert [p.id for p in found] == [good.id]
    assert bad.id in problems[0]
    light = tmp_path / good.id / proofs.LIGHT
    light.write_bytes(light.read_bytes()[:2000])
    with pytest.raises(BadFile, match=r"cannot be read|not a readable"):
        run(proofs.read(tmp_path, good.id))


def test_an_exr_of_another_origin_opens_as_one_group(tmp_path):
    pixels = np.random.default_rng(1).random((6, 9, 3)).astype(np.float32)
    path = tmp_path / "plate.exr"
    OpenEXR.File({"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}, {"RGB": pixels}).write(
        str(path)
    )
    saved = exr.read_film(path)
    assert saved.film.group_names == ("light",)
    assert saved.film.beauty() == pytest.approx(pixels)
    assert saved.document is None
    data_only = tmp_path / "depth.exr"
    OpenEXR.File({"type": OpenEXR.scanlineimage}, {"Z": pixels[..., 0].copy()}).write(str(data_only))
    with pytest.raises(BadFile, match="neither light groups nor a picture"):
        exr.read_film(data_only)


def test_killed_while_keeping_leaves_whole_proofs_only(tmp_path, film, document):
    """Kill a process that keeps proofs one after another at moments of its own; what is listed can be read."""
    script = textwrap.dedent(f"""
        import numpy as np
        from nocturne.film.film import Film
        from nocturne.io import proofs
        from nocturne.jobs import run
        from nocturne.scene.document import Document
        from pathlib import Path
        film = Film.blank(320, 200, ("a", "b"))
        film.samples[:] = 1
        film.groups[:] = np.random.default_rng(0).random(film.groups.shape)
        print("ready", flush=True)
        while True:
            proof = proofs.new(Document(), film, name="x", noise=0.1, denoised=False)
            run(proofs.keep(Path({str(tmp_path)!r}), proof, film, Document(), clean=None, thumb=film.albedo))
    """)
    rng = np.random.default_rng(7)
    for _ in range(4):
        process = subprocess.Popen([sys.executable, "-c", script], stdout=subprocess.PIPE, env=os.environ)
        assert process.stdout.readline()
        time.sleep(float(rng.uniform(0.2, 0.7)))
        process.send_signal(signal.SIGKILL)
        process.wait()
        process.stdout.close()
    found, problems = proofs.listed(tmp_path)
    assert found
    assert not problems
    for proof in found[-3:]:
        saved, _ = run(proofs.read(tmp_path, proof.id))
        assert saved.film.size == (320, 200)
    proofs.clean_up(tmp_path)
    assert not [p for p in tmp_path.iterdir() if p.name.startswith(".")]


def test_proofs_of_projects_that_were_let_go_are_swept_after_a_month(tmp_path, film, document, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    assert proofs.sweep_unsaved((), now=time.time()) == []
    folders = [proofs.unsaved_folder() for _ in range(3)]
    for folder in folders:
        kept(folder, film, document)
    old, recoverable, _ = folders
    month_ago = time.time() - proofs.KEEP_UNSAVED_S - 60
    for folder in (old, recoverable):
        for path in (folder, *folder.iterdir()):
            os.utime(path, (month_ago, month_ago))
    # The clock says that a month has passed; only looks at it over that time are believed.
    now = time.time()
    assert proofs.sweep_unsaved({recoverable}, now=now) == []
    for week in range(1, 5):
        assert proofs.sweep_unsaved({recoverable}, now=now + week * 7 * 86400) == [], f"week {week}"
    for path in (folders[2], *folders[2].iterdir()):
        os.utime(path, (now + 30 * 86400,) * 2)  # one was kept there a few days ago
    assert proofs.sweep_unsaved({recoverable}, now=now + 5 * 7 * 86400) == [old]
    assert [folder.exists() for folder in folders] == [False, True, True]
    assert len(proofs.listed(recoverable)[0]) == 1

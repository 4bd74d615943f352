"""The command line as an artist uses it: what is written, what is said, how it ends."""

import json
import os
import signal
import subprocess
import sys
import time

import numpy as np
import OpenEXR
import pytest

from nocturne.cli import run as run_line
from nocturne.cli.progress import Bar
from nocturne.io import image
from nocturne.jobs import Update, duration


def nocturne(*words: str, **environment: str) -> subprocess.CompletedProcess:
    env = {**os.environ, **environment}
    return subprocess.run(
        [sys.executable, "-m", "nocturne", *words], capture_output=True, text=True, env=env, timeout=300
    )


def test_render_writes_every_cue_as_a_graded_picture(engine, demo_file, tmp_path):
    out = tmp_path / "r.png"
    done = nocturne(
        "render",
        str(demo_file),
        "--size",
        "96x54",
        "--samples",
        "4",
        "--all-cues",
        "--quality",
        "Draft",
        "--out",
        str(out),
    )
    assert done.returncode == 0, done.stderr
    written = done.stdout.split("\n")[:-1]
    names = ["Afternoon", "Dusk", "Night", "Lamp only"]
    assert [line.rsplit("-", 1)[1] for line in written] == [f"{name}.png" for name in names]
    pictures = [image.read(tmp_path / f"r-{name}.png", space="data") for name in names]
    assert pictures[0].shape == (54, 96, 3)
    assert np.abs(pictures[0] - pictures[2]).mean() > 0.02


def test_render_writes_an_exr_with_all_passes(engine, demo_file, tmp_path):
    out = tmp_path / "r.exr"
    done = nocturne(
        "render",
        str(demo_file),
        "--view",
        "orrery close-up",
        "--size",
        "64x36",
        "--samples",
        "2",
        "--no-denoise",
        "--cue",
        "Night",
        "--seed",
        "3",
        "--threads",
        "1",
        "--out",
        str(out),
    )
    assert done.returncode == 0, done.stderr
    with OpenEXR.File(str(out), separate_channels=True) as file:
        names, header = set(file.channels()), dict(file.header())
    assert {
        "R",
        "G",
        "B",
        "A",
        "group.lamp.R",
        "direct_diffuse.G",
        "depth.Z",
        "matte.object00.R",
        "cue.Night.B",
    } <= names
    assert "denoised.R" not in names
    assert header["nocturne/view"] == "Orrery close-up"
    said = json.loads(nocturne("info", "--json", str(out)).stdout)
    assert (said["width"], said["height"]) == (64, 36)
    assert said["metadata"]["nocturne/seed"] == "3"


@pytest.mark.parametrize("number", [signal.SIGINT, signal.SIGTERM])
def test_interrupting_keeps_what_is_done(engine, demo_file, tmp_path, number):
    out = tmp_path / "r.png"
    words = [
        "render",
        str(demo_file),
        "--size",
        "160x90",
        "--samples",
        "60000",
        "--noise",
        "0",
        "--no-denoise",
        "--out",
        str(out),
    ]
    process = subprocess.Popen(
        [sys.executable, "-m", "nocturne", *words], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True
    )
    for line in process.stderr:
        if "samples" in line and not line.split("%")[1].strip().startswith("0 samples"):
            break
    process.send_signal(number)
    said, errors = process.communicate(timeout=300)
    assert process.returncode == 0
    assert said.strip() == str(out)
    assert "Stopped at" in errors
    assert image.read(out, space="data").max() > 0.1


def test_a_second_interrupt_while_denoising_still_keeps_the_picture(engine, demo_file, tmp_path, monkeypatch, capsys):
    def slow(film, *, quality):
        for k in range(1000):
            os.kill(os.getpid(), signal.SIGINT)
            yield Update(k, 1000, "Denoising")

    monkeypatch.setattr("nocturne.rendering.render.denoise_groups", slow)
    out = tmp_path / "r.png"
    words = ["render", str(demo_file), "--size", "64x36", "--samples", "2", "--denoise", "--out", str(out)]
    before = signal.getsignal(signal.SIGINT)
    assert run_line(words) == 0
    assert "Denoising was stopped" in capsys.readouterr().err
    assert image.read(out, space="data").max() > 0.1
    assert signal.getsignal(signal.SIGINT) is before


def test_folders_whose_names_are_no_text_are_told_not_raised(tmp_path):
    folder = os.fsencode(tmp_path) + b"/\xff odd"
    os.mkdir(folder)
    for name in (b"a.nocturne", b"a.png"):
        done = subprocess.run(
            [sys.executable, "-m", "nocturne", "info", folder + b"/" + name], capture_output=True, check=False
        )
        assert done.returncode == 1
        assert b"Traceback" not in done.stderr
        assert b"odd" in done.stderr


@pytest.mark.parametrize(
    ("words", "code", "says"),
    [
        (["render", "nothing.nocturne", "--out", "x.png"], 1, "no such project"),
        (["render", "demo", "--out", "x.bmp"], 1, "not written"),
        (["info", "nothing.glb"], 1, "no such file"),
        (["render", "demo"], 2, "--out"),
        (["nonsense"], 2, "nonsense"),
        (["render", "demo", "--size", "big", "--out", "x.png"], 2, "1280x720"),
        (["open", "nothing.nocturne"], 1, ""),
        (["render", "demo", "--seed", str(1 << 64), "--out", "x.png"], 2, "seed"),
        (["render", "demo", "--minutes", "nan", "--out", "x.png"], 2, "minutes"),
        (["render", "demo", "--minutes", "-1", "--out", "x.png"], 2, "minutes"),
    ],
)
def test_errors_are_told_in_a_line_or_two(words, code, says, capsys, monkeypatch, tmp_path):
    monkeypatch.chdir(tmp_path)
    assert run_line(words) == code
    said = capsys.readouterr().err
    assert says in said
    assert "Traceback" not in said
    if code == 1:
        assert len(said.strip().splitlines()) <= 3


def test_an_unknown_view_lists_those_there_are(demo_file, capsys):
    assert run_line(["render", str(demo_file), "--view", "cellar", "--out", "x.png"]) == 1
    assert "Wide" in capsys.readouterr().err


def test_info_tells_what_is_in_a_project(demo_file, capsys):
    assert run_line(["info", str(demo_file)]) == 0
    said = capsys.readouterr().out
    assert "The Orrery Workshop" in said
    assert "pilots" in said


def test_demo_can_be_saved(tmp_path, capsys):
    assert run_line(["demo", "--save", str(tmp_path / "here")]) == 0
    assert (tmp_path / "here" / "project.nocturne").is_file()
    assert len(list((tmp_path / "here" / "models").glob("*.glb"))) > 5


def test_without_a_display_it_says_what_to_do():
    done = nocturne("demo", QT_QPA_PLATFORM="", DISPLAY="", WAYLAND_DISPLAY="")
    assert done.returncode == 1
    assert "nocturne render demo" in done.stderr
    assert "Traceback" not in done.stderr


def test_times_for_people():
    assert [duration(s) for s in (8, 185, 7800)] == ["8 s", "3 min 05 s", "2 h 10 min"]


def test_the_bar_draws_in_place_on_a_terminal():
    import io

    stream = io.StringIO()
    stream.isatty = lambda: True
    bar = Bar(stream)
    bar.show(0.5, "half", force=True)
    bar.end()
    assert stream.getvalue().startswith("\r[############............]  50 %  half")


def samples_in(kept) -> float:
    """Return the mean samples of a pixel on a film that was kept, 0 while there is none."""
    if not kept.exists():
        return 0.0
    with open(kept, "rb") as file, np.load(file) as film:
        return float(film["samples"].mean())


def test_what_cannot_be_kept_takes_no_picture_away(engine, demo_file, tmp_path):
    (tmp_path / "file").write_text("a file is no folder")
    out = tmp_path / "a.png"
    words = ["render", str(demo_file), "--out", str(out), "--size", "32x18", "--samples", "1", "--no-denoise"]
    done = nocturne(*words, "--keep", str(tmp_path / "file" / "a.film"))
    assert done.returncode == 0, done.stderr
    assert out.exists()
    assert "could not be kept" in done.stderr


def test_a_render_that_is_killed_goes_on_where_it_was(engine, demo_file, tmp_path):
    out, kept = tmp_path / "a.exr", tmp_path / "a.film"
    words = [sys.executable, "-m", "nocturne", "render", str(demo_file), "--out", str(out), "--size", "64x36"]
    words += ["--no-denoise", "--noise", "0", "--keep", str(kept), "--keep-every", "0.1"]
    process = subprocess.Popen([*words, "--samples", "100000"], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    try:
        deadline = time.monotonic() + 120
        while samples_in(kept) < 3 and process.poll() is None and time.monotonic() < deadline:
            time.sleep(0.05)
    finally:
        process.kill()
        process.wait()
    assert not out.exists()
    before = samples_in(kept)
    assert before >= 3
    done = subprocess.run([*words, "--samples", "1"], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    # What was kept before counts, however little is asked for now.
    assert float(OpenEXR.File(str(out)).header()["nocturne/samples"]) == pytest.approx(before, rel=1e-3)

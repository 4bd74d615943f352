"""Nothing that lies in the working folder is run, whichever of our processes starts there."""

import os
import subprocess
import sys
from importlib.metadata import packages_distributions
from pathlib import Path

import pytest

from nocturne import ownprocess
from nocturne.io import project
from nocturne.scene.document import Document

ROOT = Path(__file__).resolve().parents[1]
STAGE = """#usda 1.0
def Mesh "A"
{
    int[] faceVertexCounts = [3]
    int[] faceVertexIndices = [0, 1, 2]
    point3f[] points = [(0, 0, 0), (1, 0, 0), (0, 1, 0)]
}
"""


@pytest.fixture
def downloaded(tmp_path):
    """Return a folder with a decoy for each module that could be imported, which leaves a mark when it is."""
    folder = tmp_path / "downloaded"
    folder.mkdir()
    names = {*sys.stdlib_module_names, *packages_distributions(), "nocturne", "sitecustomize", "usercustomize"}
    for name in names:
        if name.isidentifier():
            text = f"open({str(tmp_path / 'mark')!r}, 'a').write({name!r} + '\\n')\nraise SystemExit(77)\n"
            (folder / f"{name}.py").write_text(text)
    (folder / "a.usda").write_text(STAGE)
    project.save_document(folder / "p.nocturne", Document(name="P"))
    return folder


def marks(tmp_path):
    path = tmp_path / "mark"
    return path.read_text() if path.exists() else ""


@pytest.mark.parametrize("path", ["", ":", ".", "here"])
@pytest.mark.parametrize("words", [["info", "p.nocturne"], ["convert", "a.usda", "out.glb"]])
def test_the_launcher_and_what_it_starts_run_nothing_there(downloaded, tmp_path, words, path):
    env = {key: value for key, value in os.environ.items() if key not in ("PYTHONPATH", "PYTHONSAFEPATH")}
    if path:
        env["PYTHONPATH"] = str(downloaded) if path == "here" else path
    done = subprocess.run([ROOT / "nocturne", *words], cwd=downloaded, env=env, capture_output=True, text=True)
    assert marks(tmp_path) == ""
    assert done.returncode == 0, done.stderr


@pytest.mark.parametrize("module", ["nocturne.warm", "nocturne.io.models.apart", "nocturne"])
def test_our_processes_run_nothing_there(downloaded, tmp_path, module, monkeypatch):
    monkeypatch.chdir(downloaded)
    monkeypatch.setenv("PYTHONPATH", f":.:{os.environ.get('PYTHONPATH', '')}:{downloaded}")
    words = ["--version"] if module == "nocturne" else []
    subprocess.run(ownprocess.command(module, *words), env=ownprocess.environment(), capture_output=True)
    assert marks(tmp_path) == ""


def test_the_decoys_would_be_found(downloaded, tmp_path, monkeypatch):
    monkeypatch.delenv("PYTHONSAFEPATH", raising=False)
    subprocess.run([sys.executable, "-c", "import nocturne"], cwd=downloaded, capture_output=True)
    assert marks(tmp_path), "the test can fail"


def test_only_ownprocess_starts_python():
    for path in (ROOT / "src").rglob("*.py"):
        if path.name != "ownprocess.py":
            assert "sys.executable" not in path.read_text(), f"{path}: use ownprocess.command"

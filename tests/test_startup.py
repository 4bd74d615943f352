"""What a plain import may pull in, and how the kernel cache looks after itself."""

import json
import pickle
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

import nocturne
from nocturne import warm as warm_module
from nocturne.engine import cache
from nocturne.jobs import Update, run
from nocturne.warm import warm
from tests.test_layers import imported


@pytest.mark.parametrize(
    ("module", "absent"),
    [
        ("nocturne", ("PySide6", "numba")),
        ("nocturne.scene.document", ("PySide6", "numba")),
        ("nocturne.engine.render", ("PySide6",)),
        ("nocturne.cli", ("PySide6", "numba")),
        # These compile when they are imported on the very first start, which must not hold up the window.
        ("nocturne.ui.window", ("nocturne.finish.kernels", "nocturne.engine.kernels.path.tiles")),
        ("nocturne.ui.window", ("nocturne.stock.library", "MaterialX", "pxr")),
    ],
)
def test_importing_does_not_pull_in_what_it_does_not_need(module, absent):
    code = f"import sys, {module}; print(' '.join(m for m in {absent!r} if m in sys.modules))"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == ""


def test_cache_folder_is_named_by_the_sources(engine, monkeypatch):
    key = cache.cache_key()
    assert cache.cache_folder().name == key
    listed = [p for p in cache.kernel_sources() if p.name != "camera.py"]
    monkeypatch.setattr(cache, "kernel_sources", lambda: listed)
    assert cache.cache_key() != key


def test_the_cache_follows_sources_however_deep_they_lie(engine, tmp_path, monkeypatch):
    package = tmp_path / "nocturne" / "engine"
    shutil.copytree(cache._PACKAGE, package, ignore=shutil.ignore_patterns("__pycache__"))
    for outside in ("finish/kernels.py", "finish/shares.py", "finish/upsampling.py", "film/layout.py", "rows.py"):
        (tmp_path / "nocturne" / outside).parent.mkdir(exist_ok=True, parents=True)
        shutil.copy(cache._PACKAGE.parent / outside, tmp_path / "nocturne" / outside)
    own = cache.cache_key()
    monkeypatch.setattr(cache, "_PACKAGE", package)
    assert cache.cache_key() != own, "copies do not share a folder"
    for name in ("kernels/lobes/deep/coat.py", "layout/new.py", "../film/layout.py", "../rows.py"):
        before, path = cache.cache_key(), package / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text((path.read_text() if path.exists() else "") + "\nX = 1\n")
        assert cache.cache_key() != before, name


def test_whatever_kernels_take_numbers_from_names_their_cache():
    root, sources = Path(nocturne.__file__).parent, set(cache.kernel_sources())
    # What only the Python half of a kind of light reads: it is no constant of compiled code.
    plain = ("nocturne.scene", "nocturne.engine.emitters")
    compiled = [path for path in sources if "layout" in path.parts or "kernels" in path.parts]
    missing = set()
    for path in [*compiled, root / "film" / "layout.py", root / "rows.py"]:
        for name in imported(path):
            if not name.startswith("nocturne.") or name.startswith(plain):
                continue
            file = root.joinpath(*name.split(".")[1:])
            found = [f for f in (file.with_suffix(".py"), file.parent.with_suffix(".py")) if f.is_file()]
            missing |= {str(f.relative_to(root)) for f in found if f not in sources}
    assert missing <= {"colour/spaces.py"}, "numbers of it are frozen into kernels, but it does not name their cache"


def test_kernels_that_nobody_vouches_for_are_removed(engine, tmp_path, monkeypatch):
    monkeypatch.setattr(cache, "cache_folder", lambda: tmp_path)
    monkeypatch.setattr(cache, "cache_root", lambda: tmp_path)
    (tmp_path / "kernel.nbc").write_bytes(b"machine code")
    cache.mark_warm()
    (tmp_path / "sub").mkdir()
    for name in ("other.nbc", "sub/other.nbi"):
        (tmp_path / name).write_bytes(b"damaged")
    assert cache.is_warm()
    assert sorted(p.name for p in tmp_path.rglob("*.nb?")) == ["kernel.nbc"]


def test_a_damaged_cache_is_noticed(engine, tmp_path, monkeypatch):
    monkeypatch.setattr(cache, "cache_folder", lambda: tmp_path)
    monkeypatch.setattr(cache, "cache_root", lambda: tmp_path)
    assert not cache.is_warm()
    (tmp_path / "kernel.nbc").write_bytes(b"machine code")
    cache.mark_warm()
    assert cache.is_warm()
    (tmp_path / "kernel.nbc").write_bytes(b"machine c0de")
    assert not cache.is_warm()
    (tmp_path / "complete.json").write_text("not json")
    assert not cache.is_warm()


def test_an_index_may_grow_but_must_be_readable(engine, tmp_path, monkeypatch):
    monkeypatch.setattr(cache, "cache_folder", lambda: tmp_path)
    monkeypatch.setattr(cache, "cache_root", lambda: tmp_path)
    index = tmp_path / "kernel.nbi"
    index.write_bytes(pickle.dumps("0.68") + pickle.dumps(("stamp", {"a": 1})))
    cache.mark_warm()
    index.write_bytes(pickle.dumps("0.68") + pickle.dumps(("stamp", {"a": 1, "b": 2})))
    assert cache.is_warm()
    for damage in (b"", index.read_bytes()[:-9], b"\x80\x04garbage"):
        index.write_bytes(damage)
        assert not cache.is_warm()


def test_only_one_process_compiles_and_the_others_wait_for_it(tmp_path, monkeypatch):
    monkeypatch.setenv("NOCTURNE_CACHE", str(tmp_path))
    compiled, waited = [], []

    def compile_it():
        other = warm_module.warm()
        waited.append(next(other).note)  # what a second process would do now
        other.close()
        compiled.append(True)
        yield Update(0, 1, "compiling")
        monkeypatch.setattr(cache, "is_warm", lambda: True)

    monkeypatch.setattr(cache, "is_warm", lambda: False)
    monkeypatch.setattr(warm_module, "_compile", compile_it)
    run(warm())
    assert compiled == [True]
    assert "just now" in waited[0]
    with cache.only_one() as is_mine:
        assert is_mine(), "it was let go of"


def test_a_warm_engine_is_ready_at_once(engine):
    updates = []
    run(warm(), updates.append)
    assert len(updates) == 1
    assert json.loads((cache.cache_folder() / "complete.json").read_text())

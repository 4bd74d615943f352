"""What a plain import may pull in, and how the kernel cache looks after itself."""

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

import nocturne
from nocturne import warm as warm_module
from nocturne.engine import cache
from nocturne.engine.entries import compiled
from nocturne.finish import kernels as finish
from nocturne.jobs import Update, run
from nocturne.warm import warm
from tests.test_layers import imported


@pytest.mark.parametrize(
    ("module", "absent"),
    [
        ("nocturne", ("PySide6", "numba")),
        ("nocturne.scene.document", ("PySide6", "numba")),
        ("nocturne.engine.render", ("PySide6", "numba")),
        ("nocturne.cli", ("PySide6", "numba")),
        ("nocturne.ui.window", ("numba", "nocturne.finish.kernels")),
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
    make = cache.cache_key.__wrapped__
    assert make() == key
    listed = [p for p in cache.kernel_sources() if p.name != "camera.py"]
    monkeypatch.setattr(cache, "kernel_sources", lambda: listed)
    assert make() != key


def test_the_cache_follows_sources_however_deep_they_lie(engine, tmp_path, monkeypatch):
    package = tmp_path / "nocturne" / "engine"
    shutil.copytree(cache._PACKAGE, package, ignore=shutil.ignore_patterns("__pycache__"))
    outside = [path for path in cache.kernel_sources() if not path.is_relative_to(cache._PACKAGE)]
    for path in outside:
        copy = tmp_path / "nocturne" / path.relative_to(cache._PACKAGE.parent)
        copy.parent.mkdir(exist_ok=True, parents=True)
        shutil.copy(path, copy)
    make = cache.cache_key.__wrapped__
    own = make()
    monkeypatch.setattr(cache, "_PACKAGE", package)
    assert make() == own, "copies share a folder"
    for name in ("kernels/lobes/deep/coat.py", "layout/new.py", "../film/layout.py", "../finish/blur.py", "../rows.py"):
        before, path = make(), package / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text((path.read_text() if path.exists() else "") + "\nX = 1\n")
        assert make() != before, name


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


def test_only_code_that_the_cache_vouches_for_is_loaded(engine, tmp_path, monkeypatch):
    monkeypatch.setattr(cache, "cache_folder", lambda: tmp_path)
    monkeypatch.setattr(cache, "cache_root", lambda: tmp_path)
    assert not cache.is_warm()
    cache.keep_code("kernel", b"machine code")
    assert cache.code_of("kernel") is None
    cache.mark_warm()
    cache.keep_code("other", b"machine code")
    assert cache.is_warm()
    assert cache.code_of("kernel") == b"machine code"
    assert cache.code_of("other") is None, "nobody vouches for it"
    cache.keep_code("kernel", b"machine c0de")
    assert cache.code_of("kernel") is None
    assert not cache.is_warm()
    for damage in ("not json", "[]", ""):
        (tmp_path / "complete.json").write_text(damage)
        assert not cache.is_warm()


def test_what_the_cache_does_not_hold_is_compiled_where_it_is_called(tmp_path):
    code = """
import numpy as np
from nocturne.finish import kernels
print(kernels.to_bytes(np.full((1, 1, 3), 0.5, np.float32)).tolist())
"""
    env = {**os.environ, "NOCTURNE_CACHE": str(tmp_path)}
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True, env=env)
    assert done.stdout.strip() == "[[[128, 128, 128, 255]]]"


@compiled("void(int64, int64[::1])")
def _counts(step, out):
    for i in range(0, 4, step):
        out[0] += i


def test_what_could_raise_is_not_compiled():
    from nocturne.engine.kernels.building import object_code

    # A step of 0 would.
    with pytest.raises(TypeError, match="counts could raise"):
        object_code(_counts)


def test_what_compiling_remembers_changes_nothing_of_the_code():
    code = """
import hashlib, sys, types
if sys.argv[1] == "as Numba is":
    name = "nocturne.engine.kernels.remembered"
    sys.modules[name] = types.ModuleType(name)
    import nocturne.engine.kernels
    nocturne.engine.kernels.remembered = sys.modules[name]
from numba.core import event
from nocturne.engine.entries import KERNELS
from nocturne.engine.kernels.building import object_code
for name in ("closer", "noise", "film"):
    print(name, hashlib.sha256(object_code(KERNELS[name])).hexdigest())
print(event.broadcast.__module__, file=sys.stderr)
"""
    env = {**os.environ, "PYTHONHASHSEED": "0"}  # by which Numba orders its sets
    said = []
    for way, telling in (("as Numba is", "numba.core.event"), ("remembering", "nocturne.engine.kernels.remembered")):
        words = [sys.executable, "-c", code, way]
        done = subprocess.run(words, capture_output=True, text=True, check=True, env=env)
        assert done.stderr.split()[-1] == telling
        said.append(done.stdout)
    assert said[0] == said[1]
    assert len(said[0].splitlines()) == 3


def test_a_start_loads_no_compiler(engine, demo_file):
    code = f"""
import sys
from nocturne.engine import render
from nocturne.engine.prepare import Preparer
from nocturne.finish.kernels import to_bytes
from nocturne.io import project
from nocturne.jobs import run
loaded = run(project.load({str(demo_file)!r}))
prepared = Preparer().prepare(loaded.document, loaded.assets, width=64, height=36)
film = run(render.render(prepared, render.blank_film(prepared), samples=1))
print(to_bytes(film.beauty()).mean() > 0, "numba" in sys.modules)
"""
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.split() == ["True", "False"]


def test_what_is_not_as_a_compiled_function_takes_it_is_refused(engine):
    taken = np.zeros((2, 2, 4), np.uint8)
    for shown in (np.zeros((2, 2, 3)), np.zeros((2, 3), np.float32), np.zeros((2, 2, 6), np.float32)[..., ::2]):
        with pytest.raises(TypeError, match="float32"):
            finish._to_bytes(shown, taken, 0, 2)
    with pytest.raises(TypeError, match="4 values"):
        finish._to_bytes(taken, 0, 2)


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

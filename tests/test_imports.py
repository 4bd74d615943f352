"""Every module of the core imports alone and in any order: each time in a process that has seen none of the others."""

import random
import subprocess
import sys
from pathlib import Path

import pytest

SOURCES = Path(__file__).resolve().parents[1] / "src"
CORE = sorted(
    ".".join(path.relative_to(SOURCES).with_suffix("").parts).removesuffix(".__init__")
    for path in (SOURCES / "nocturne").rglob("*.py")
    if not {"ui", "__main__"} & {*path.with_suffix("").parts}
)
KERNELS = [name for name in CORE if ".kernels" in name or name.endswith("environment")]

# One process imports the libraries once and is copied for each line of names; the copies import those.
_IMPORT = """
import os, sys
sys.path.insert(0, os.getcwd())
from nocturne.engine import cache
import importlib, numba, numpy, pydantic
for name in sys.argv[1:]:
    importlib.import_module(name)
kept = tuple(sys.argv[1:])
for name in [name for name in sys.modules if name.partition(".")[0] == "nocturne" and not name.startswith(kept)]:
    if not kept or name != "nocturne":
        del sys.modules[name]
for line in sys.stdin:
    child = os.fork()
    if not child:
        for name in line.split():
            importlib.import_module(name)
        os._exit(0)
    if os.waitpid(child, 0)[1]:
        print("failed:", line)
"""


def failed(lines: list[list[str]], *there: str) -> str:
    """Return which lines of names cannot be imported one after another; there: what has been imported before."""
    done = subprocess.run(
        [sys.executable, "-c", _IMPORT, *there],
        input="\n".join(" ".join(names) for names in lines),
        cwd=SOURCES,
        capture_output=True,
        text=True,
        check=False,
    )
    return done.stdout + (done.stderr[-1500:] if done.returncode or done.stdout else "")


@pytest.mark.parametrize("order", ["as they are named", "backwards", "shuffled"])
def test_the_core_imports_in_any_order(engine, order):
    names = CORE[::-1] if order == "backwards" else list(CORE)
    if order == "shuffled":
        random.Random(7).shuffle(names)
    assert not failed([names])


def test_kernels_import_alone(engine):
    # What they need of the document is there: in which order that can be imported is asked above.
    assert not failed([[name] for name in KERNELS], "nocturne.scene", "nocturne.film", "nocturne.colour")

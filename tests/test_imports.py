"""Every module of the core imports alone and in any order, in a process of its own."""

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


_IMPORT = "import importlib, sys\nfor name in sys.argv[1:]: importlib.import_module(name)"


def imported(names: list[str]) -> None:
    done = subprocess.run(
        [sys.executable, "-c", _IMPORT, *names],
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr[-600:]


@pytest.mark.parametrize("order", ["as they are named", "backwards", "shuffled"])
def test_the_core_imports_in_any_order(engine, order):
    names = CORE[::-1] if order == "backwards" else list(CORE)
    if order == "shuffled":
        random.Random(7).shuffle(names)
    imported(names)


@pytest.mark.parametrize("name", [name for name in CORE if ".kernels" in name or name.endswith("environment")])
def test_kernels_import_alone(engine, name):
    imported([name])

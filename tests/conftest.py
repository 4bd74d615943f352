"""What all tests share: no screen, settings and data of their own, an engine compiled once."""

import ctypes
import os
import tempfile
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["PYTHONPATH"] = str(Path(__file__).resolve().parents[1] / "src")  # for the processes that tests start
os.environ.pop("PYTHONDONTWRITEBYTECODE", None)  # else each of those compiles four hundred sources
# Kernels are shared with the program, which compiles them once; what else it keeps for later runs is not.
os.environ.setdefault(
    "NOCTURNE_CACHE", str(Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache") / "nocturne" / "kernels")
)
os.environ["XDG_CACHE_HOME"] = tempfile.mkdtemp(prefix="nocturne-test-cache-")
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp(prefix="nocturne-test-config-")
os.environ["XDG_DATA_HOME"] = tempfile.mkdtemp(prefix="nocturne-test-data-")

import pytest

from nocturne.demo import workshop
from nocturne.io import project
from nocturne.jobs import run
from nocturne.warm import warm

# Files that start whole programs: they come before windows have filled the memory.
_PROGRAMS = ("test_commands", "test_random_use", "test_real_window", "test_startup")
_LONG = ("ui", "jobs", "tests", "engine")  # folders whose files take longest


def _turn(item: pytest.Item) -> int:
    if item.path.stem in _PROGRAMS:
        return -1
    folder = item.path.parent.name
    return _LONG.index(folder) if folder in _LONG else len(_LONG)


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Begin with what takes long, so that no process waits at the end for the other one's long file."""
    items.sort(key=_turn)


@pytest.fixture(scope="module", autouse=True)
def _memory_given_back():
    """Give the system back what a file's tests have freed; by itself the allocator keeps most of it."""
    yield
    ctypes.CDLL(None).malloc_trim(0)


@pytest.fixture(scope="session")
def engine():
    """Compile the engine, in processes of its own, if the cache does not hold it."""
    run(warm())


@pytest.fixture(scope="session")
def demo_file(tmp_path_factory):
    """Write the demo project once."""
    return run(workshop.save(tmp_path_factory.mktemp("demo")))


@pytest.fixture(scope="session")
def demo(demo_file):
    """Load the demo project once."""
    return run(project.load(demo_file))

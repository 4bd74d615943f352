"""Where compiled kernels are kept between runs."""

import fcntl
import hashlib
import importlib.metadata
import json
import os
import pickle
import platform
import shutil
import sys
import tempfile
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path

from nocturne.engine.layout.steps import OFFSETS

_PACKAGE = Path(__file__).resolve().parent
_MANIFEST = "complete.json"
_COMPILED_WITH = ("numba", "llvmlite", "numpy", "embreex")


def kernel_sources() -> list[Path]:
    """Return the files whose text decides what is compiled, sorted."""
    files = [path for name in ("kernels", "layout") for path in (_PACKAGE / name).rglob("*.py")]
    outside = [
        _PACKAGE.parent / name
        for name in ("finish/kernels.py", "finish/shares.py", "finish/upsampling.py", "film/layout.py", "rows.py")
    ]
    inside = [_PACKAGE / name for name in ("types.py", "embree.py", "environment.py", "lighttree.py")]
    return sorted([*files, *outside, *inside])


def cache_key() -> str:
    """Return the hash of kernel sources, where they lie, versions and processor, that names the cache folder.

    Compiled code is kept by the path of its source: two copies of Nocturne that shared a folder would each take the
    other's kernels for files that nobody vouches for.
    """
    digest = hashlib.sha256(os.fsencode(_PACKAGE))
    for path in kernel_sources():
        digest.update(path.relative_to(_PACKAGE.parent).as_posix().encode())
        digest.update(path.read_bytes())
    # What steps of patterns are read from follows from their classes.
    digest.update(repr(sorted(OFFSETS.items())).encode())
    for name in _COMPILED_WITH:
        digest.update(importlib.metadata.version(name).encode())
    digest.update(sys.version.encode())
    digest.update(f"{platform.machine()} {_processor()}".encode())
    return digest.hexdigest()[:16]


def _processor() -> str:
    try:
        for line in Path("/proc/cpuinfo").read_text().splitlines():
            if line.startswith("flags"):
                return line
    except OSError:
        pass
    return platform.processor()


def cache_root() -> Path:
    """Return the user's folder for compiled kernels (`NOCTURNE_CACHE` overrides it)."""
    if chosen := os.environ.get("NOCTURNE_CACHE"):
        return Path(chosen)
    base = os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache"
    return Path(base) / "nocturne" / "kernels"


def cache_folder() -> Path:
    """Return the folder of this version's compiled kernels."""
    return cache_root() / cache_key()


def is_warm() -> bool:
    """Return True if the cache is complete and every file in it is sound.

    A damaged machine-code file would crash the process instead of raising, so content is checked before use. An index
    may have grown since, when a kernel was called with other types; then it only has to be readable.
    """
    folder = cache_folder()
    try:
        listed = json.loads((folder / _MANIFEST).read_text())
        _drop_unlisted(folder, listed)
        return bool(listed) and all(
            _digest(folder / name) == digest or (name.endswith(".nbi") and _is_index(folder / name))
            for name, digest in listed.items()
        )
    except (OSError, ValueError, AttributeError, TypeError):
        return False


def _drop_unlisted(folder: Path, listed: dict[str, str]) -> None:
    """Remove kernels that nobody vouches for: a damaged one would end the process. What is needed is compiled anew."""
    for path in folder.rglob("*.nb[ci]"):
        if path.relative_to(folder).as_posix() not in listed:
            path.unlink(missing_ok=True)


def _is_index(path: Path) -> bool:
    """Return True if a file has the shape of Numba's index: a version, then stamp and overloads."""
    try:
        with open(path, "rb") as file:
            version = pickle.load(file)
            _, overloads = pickle.loads(file.read())
        return isinstance(version, str) and isinstance(overloads, dict)
    except (pickle.UnpicklingError, EOFError, ValueError, TypeError, AttributeError, ImportError, IndexError, KeyError):
        return False


def _digest(path: Path) -> str:
    return hashlib.sha256(path.read_bytes()).hexdigest()


def mark_warm() -> None:
    """Note what the complete cache holds, and drop caches of other versions but the last few."""
    folder = cache_folder()
    listed = {str(p.relative_to(folder)): _digest(p) for p in sorted(folder.rglob("*")) if p.suffix in (".nbi", ".nbc")}
    temporary = folder / f"{_MANIFEST}.{os.getpid()}"
    temporary.write_text(json.dumps(listed))
    temporary.replace(folder / _MANIFEST)
    others = sorted((p for p in cache_root().iterdir() if p.is_dir() and p != folder), key=lambda p: p.stat().st_mtime)
    for old in others[:-3]:
        shutil.rmtree(old, ignore_errors=True)


@contextmanager
def only_one() -> Iterator[Callable[[], bool]]:
    """Give a function that tries to become the one process that compiles, and says whether it is.

    The system lets go of it when the process ends, however it does. Where nothing can be locked, everyone is the one.
    """
    with ExitStack() as stack:
        try:
            cache_root().mkdir(parents=True, exist_ok=True)
            file = stack.enter_context(open(cache_root() / f"{cache_key()}.lock", "w"))
        except OSError:
            yield lambda: True
            return

        def is_mine() -> bool:
            try:
                fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except BlockingIOError:
                return False
            except OSError:
                pass  # a file system without locks
            return True

        yield is_mine


def clear() -> None:
    """Remove this version's compiled kernels, so that the next start compiles them again."""
    shutil.rmtree(cache_folder(), ignore_errors=True)
    cache_folder().mkdir(parents=True, exist_ok=True)


def use_cache_folder() -> None:
    """Point Numba at the cache folder; must run before a kernel module is imported."""
    folder = cache_folder()
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError:
        # A read-only home must not stop the application: compile into a throw-away folder instead.
        folder = Path(tempfile.mkdtemp(prefix="nocturne-kernels-"))
        os.environ["NOCTURNE_CACHE"] = str(folder)
        folder = cache_folder()
        folder.mkdir(parents=True, exist_ok=True)
    os.environ["NUMBA_CACHE_DIR"] = str(folder)  # read when Numba is imported
    if "numba" in sys.modules:
        sys.modules["numba"].config.CACHE_DIR = str(folder)

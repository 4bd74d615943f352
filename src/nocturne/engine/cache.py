"""Where compiled kernels are kept between runs."""

import fcntl
import hashlib
import importlib.metadata
import json
import os
import platform
import shutil
import sys
import tempfile
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from functools import cache as memoize
from pathlib import Path

from nocturne.engine.layout.steps import OFFSETS

_PACKAGE = Path(__file__).resolve().parent
_MANIFEST = "complete.json"
_CODE = ".o"
_COMPILED_WITH = ("numba", "llvmlite", "numpy", "embreex")


def kernel_sources() -> list[Path]:
    """Return the files whose text decides what is compiled, sorted."""
    files = [path for name in ("kernels", "layout") for path in (_PACKAGE / name).rglob("*.py")]
    outside = [
        _PACKAGE.parent / name
        for name in (
            "finish/blur.py",
            "finish/kernels.py",
            "finish/shares.py",
            "finish/upsampling.py",
            "film/layout.py",
            "rows.py",
        )
    ]
    inside = [
        _PACKAGE / name
        for name in ("types.py", "embree.py", "entries.py", "environment.py", "lighttree.py", "texels.py")
    ]
    return sorted([*files, *outside, *inside])


def sources_digest() -> bytes:
    """Return a hash of the kernels' sources: samples of other ones do not go together."""
    digest = hashlib.sha256()
    for path in kernel_sources():
        digest.update(path.relative_to(_PACKAGE.parent).as_posix().encode())
        digest.update(path.read_bytes())
    return digest.digest()


@memoize
def cache_key() -> str:
    """Return the hash of kernel sources, versions and processor, that names the cache folder.

    Copies of Nocturne whose kernels are the same share a folder.
    """
    digest = hashlib.sha256(sources_digest())
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

    A damaged machine-code file would crash the process instead of raising, so content is checked before use.
    """
    listed = _listed()
    return bool(listed) and all(code_of(name) is not None for name in listed)


def code_of(name: str) -> bytes | None:
    """Return the object file of a function if it is the one that the cache vouches for."""
    try:
        code = (cache_folder() / f"{name}{_CODE}").read_bytes()
    except OSError:
        return None
    return code if hashlib.sha256(code).hexdigest() == _listed().get(name) else None


def keep_code(name: str, code: bytes) -> None:
    """Write the object file of a function; it is used once `mark_warm` has vouched for it."""
    (cache_folder() / f"{name}{_CODE}").write_bytes(code)


def _listed() -> dict[str, str]:
    """Return the digests of what the cache vouches for."""
    try:
        listed = json.loads((cache_folder() / _MANIFEST).read_text())
    except (OSError, ValueError):
        return {}
    return listed if isinstance(listed, dict) else {}


def mark_warm() -> None:
    """Note what the complete cache holds, and drop caches of other versions but the last few."""
    folder = cache_folder()
    listed = {p.stem: hashlib.sha256(p.read_bytes()).hexdigest() for p in sorted(folder.glob(f"*{_CODE}"))}
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
    """Remove this version's compiled kernels, so that they are compiled again."""
    shutil.rmtree(cache_folder(), ignore_errors=True)
    try:
        cache_folder().mkdir(parents=True, exist_ok=True)
    except OSError:
        # A read-only home must not stop the application: compile into a throw-away folder instead.
        os.environ["NOCTURNE_CACHE"] = tempfile.mkdtemp(prefix="nocturne-kernels-")
        cache_folder().mkdir(parents=True, exist_ok=True)

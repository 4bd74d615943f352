"""What takes long to work out and hangs on little, kept on disk between runs."""

import hashlib
import io
import logging
import os
import tempfile
import time
import zipfile
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from pathlib import Path

import numpy as np

_LOG = logging.getLogger(__name__)
_ENDING, _UNFINISHED = ".npz", ".part"
_STALE_S = 3600  # what is unfinished for so long was left by a process that was killed
_MOST_BYTES = 256 << 20  # of all that is kept; what was asked for longest ago goes first
_LARGEST = _MOST_BYTES // 4
_CLEARED_PER = 16  # it is cleared up each time a sixteenth of that has been written
_DIGEST_BYTES = 20

Arrays = tuple[np.ndarray, ...]
# While something is dragged or typed, files come by the dozen: whoever waits for the arrays does not wait for these.
_writer = ThreadPoolExecutor(1, thread_name_prefix="keep")
_written = _MOST_BYTES  # bytes since it was cleared up last; the first file of a process does so


def folder() -> Path:
    """Return where it is kept (`XDG_CACHE_HOME`, or `.cache` at home)."""
    return Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache") / "nocturne" / "workings"


def kept(name: str, hangs_on: tuple[bytes | str | np.ndarray, ...], sources: tuple[str, ...], make: Callable) -> Arrays:
    """Return arrays as they were made before of the same, or make and keep them.

    Parameters
    ----------
    name : str
        What they are.
    hangs_on : tuple
        All that decides them. Of an array its shape and type count, too.
    sources : tuple of str
        Files of this program that make them; what an earlier version of these made does not count.
    make : function
        Returns a tuple of arrays, without objects in them.
    """
    file = folder() / f"{name}-{_digest(hangs_on, sources)}{_ENDING}"
    try:
        with file.open("rb") as data, np.load(data, allow_pickle=False) as found:
            out = tuple(found[f"arr_{i}"] for i in range(len(found.files)))
        _note_use(file)
        return out
    except FileNotFoundError:
        pass
    except (OSError, ValueError, KeyError, EOFError, zipfile.BadZipFile) as error:
        _LOG.info("%s is made anew: %s", file, error)
    out = make()
    if sum(array.nbytes for array in out) <= _LARGEST:
        _keep(file, out)
    return out


def _note_use(file: Path) -> None:
    try:
        os.utime(file)
    except OSError as error:  # somebody else's, or gone by now: it has been read all the same
        _LOG.info("%s: %s", file, error)


def _digest(hangs_on: tuple, sources: tuple[str, ...]) -> str:
    whole = hashlib.blake2b(_of_sources(sources), digest_size=_DIGEST_BYTES)
    for part in hangs_on:
        if isinstance(part, np.ndarray):
            about, data = f"{part.dtype.str}{part.shape}", np.ascontiguousarray(part).reshape(-1).view(np.uint8)
        else:
            about, data = type(part).__name__, part.encode() if isinstance(part, str) else part
        whole.update(f"{about}{len(data)};".encode())
        whole.update(data)
    return whole.hexdigest()


@cache
def _of_sources(files: tuple[str, ...]) -> bytes:
    return hashlib.blake2b(b"".join(Path(file).read_bytes() for file in files), digest_size=_DIGEST_BYTES).digest()


def settle() -> None:
    """Wait until all is on disk that was to be kept."""
    _writer.submit(lambda: None).result()


def _keep(file: Path, arrays: Arrays) -> None:
    """Have arrays written as they are now; where nothing can be written they are made anew next time."""
    data = io.BytesIO()
    np.savez(data, *arrays)
    try:
        _writer.submit(_write, file, data.getbuffer())
    except RuntimeError as error:  # the process ends
        _LOG.info("%s is not kept: %s", file, error)


def _write(file: Path, data: memoryview) -> None:
    global _written
    try:
        file.parent.mkdir(parents=True, exist_ok=True)
        number, temporary = tempfile.mkstemp(_UNFINISHED, dir=file.parent)
        try:
            with os.fdopen(number, "wb") as out:
                out.write(data)
            Path(temporary).replace(file)
        finally:
            Path(temporary).unlink(missing_ok=True)
        _written += len(data)
        if _written * _CLEARED_PER > _MOST_BYTES:
            _clear_up(file.parent)
            _written = 0
    except OSError as error:
        _LOG.info("%s is not kept: %s", file, error)


def _clear_up(where: Path) -> None:
    """Remove what was asked for longest ago while all together is too much, and what killed processes left."""
    for file in where.glob(f"*{_UNFINISHED}"):
        if time.time() - file.stat().st_mtime > _STALE_S:
            file.unlink(missing_ok=True)
    found = []
    for file in where.glob(f"*{_ENDING}"):
        try:
            about = file.stat()
        except FileNotFoundError:
            continue  # another one clears up, too
        found.append((about.st_mtime_ns, about.st_size, file))
    total = sum(size for _, size, _ in found)
    for _, size, file in sorted(found):
        if total <= _MOST_BYTES:
            return
        file.unlink(missing_ok=True)
        total -= size

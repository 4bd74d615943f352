"""Writing a file so that a failure never leaves half of one: a temporary name beside it, then renamed."""

import errno
import logging
import os
import re
import time
import uuid
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from nocturne.errors import FileError

_log = logging.getLogger(__name__)
_TEMPORARY = re.compile(r"\.nocturne-(\d{1,10})-[0-9a-f]{8}(\.\w+)?")
_LEFT_OVER_S = 3600.0  # a folder may be shared with other machines, whose processes are not seen here


@contextmanager
def replacing(path: Path | str) -> Iterator[Path]:
    """Give a temporary path with the same ending; on success it takes the place of `path`, and is on the disk.

    Raises
    ------
    FileError
        If the folder cannot be made or written to.
    """
    path = Path(path)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(path, "its folder cannot be made.", hint="Choose another place.") from error
    # Short whatever the name's own length is, so that the longest name that can be written can be written so.
    temporary = path.with_name(temporary_name(path.suffix[:16]))
    try:
        yield temporary
        with open(temporary, "rb") as written:
            os.fsync(written.fileno())
        os.replace(temporary, path)
    except OSError as error:
        raise FileError(
            path,
            f"it could not be written ({error.strerror or error}).",
            hint="Is the disk full, or the folder read-only?",
        ) from error
    finally:
        _removed(temporary)
        _sweep(path.parent)


def whole_files(folder: Path, suffix: str) -> list[Path]:
    """Return the files of this ending in a folder that are whole: not those that are only being written, or never were.

    An empty list if there is no such folder.
    """
    return [path for path in folder.glob(f"*{suffix}") if not _TEMPORARY.fullmatch(path.name)]


def _removed(path: Path) -> None:
    try:
        path.unlink(missing_ok=True)
    except OSError as error:
        _log.info("%s: left behind (%s)", path, error)  # what went wrong before is what there is to say


def _sweep(folder: Path) -> None:
    """Remove what processes that were killed left half written in a folder."""
    try:
        names = [entry for entry in os.listdir(folder) if entry.startswith(".nocturne-")]
    except OSError:
        return
    for name in names:
        try:
            if is_left_over(folder / name):
                (folder / name).unlink()
        except OSError:
            continue


def temporary_name(ending: str) -> str:
    """Return a name that no other process, and nothing else in this one, uses for what it is writing."""
    return f".nocturne-{os.getpid()}-{uuid.uuid4().hex[:8]}{ending}"


def is_left_over(path: Path) -> bool:
    """Return True for a temporary file or folder of a process that was killed some time ago."""
    found = _TEMPORARY.fullmatch(path.name)
    if found is None or is_running(int(found[1])):
        return False
    try:
        return time.time() - path.stat().st_mtime > _LEFT_OVER_S
    except OSError:
        return False


def claimed(paths: Iterator[Path]) -> Path:
    """Return the first path that is free; an empty file holds it, so that nobody else is given the same.

    Raises
    ------
    OSError
        If no file can be made there.
    """
    for path in paths:
        try:
            path.touch(exist_ok=False)
        except FileExistsError:
            continue
        return path
    raise FileExistsError(errno.EEXIST, "no name is free")


def write_text(path: Path | str, text: str) -> None:
    """Write text to a file, all or nothing."""
    write_bytes(path, text.encode("utf-8"))


def write_bytes(path: Path | str, data: bytes | memoryview) -> None:
    """Write bytes to a file, all or nothing."""
    with replacing(path) as temporary, open(temporary, "wb") as file:
        file.write(data)


def write_encoded(path: Path | str, encode: Callable[[str], None]) -> None:
    """Write what a codec makes, all or nothing.

    encode: writes a file of the name it is handed. It writes to memory: codecs do not all notice that a disk is full,
    and some end the process for it, but memory is not full, and plain bytes are written from there.

    Raises
    ------
    FileError
        If it cannot be written.
    """
    number = os.memfd_create("nocturne")
    try:
        encode(f"/proc/self/fd/{number}")
        size = os.lseek(number, 0, os.SEEK_END)
        with replacing(path) as temporary, open(temporary, "wb") as file:
            done = 0
            while done < size:
                # Inside the kernel, without a second copy in this process.
                sent = os.sendfile(file.fileno(), number, done, size - done)
                if not sent:
                    raise FileError(path, "it could not be written whole.", hint="Is the disk full?")
                done += sent
    finally:
        os.close(number)


def is_running(pid: int, *, since: str = "") -> bool:
    """Return True if there is a process of this number; `since`: and it is the one that started then (`started`)."""
    if not 0 < pid < 1 << 31:
        return False
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        pass
    return not since or started(pid) == since


def started(pid: int) -> str:
    """Return what tells a process from later ones of its number: this boot, and when in it; "" if nothing is known."""
    try:
        boot = Path("/proc/sys/kernel/random/boot_id").read_text().strip()
        # After the name in brackets, which may hold anything, the 20th field is the start in clock ticks (proc(5)).
        fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
        return f"{boot} {fields[19]}"
    except (OSError, IndexError, UnicodeDecodeError):
        return ""

"""Writing a file so that a failure never leaves half of one: a temporary name beside it, then renamed."""

import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from nocturne.errors import FileError


@contextmanager
def replacing(path: Path | str) -> Iterator[Path]:
    """Give a temporary path with the same ending; on success it takes the place of `path`.

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
    temporary = path.with_name(f".{path.stem}.{os.getpid()}{path.suffix}")
    try:
        yield temporary
        os.replace(temporary, path)
    except OSError as error:
        raise FileError(
            path,
            f"it could not be written ({error.strerror or error}).",
            hint="Is the disk full, or the folder read-only?",
        ) from error
    finally:
        temporary.unlink(missing_ok=True)


def write_text(path: Path | str, text: str) -> None:
    """Write text to a file, all or nothing."""
    with replacing(path) as temporary, open(temporary, "w", encoding="utf-8") as file:
        file.write(text)
        file.flush()
        os.fsync(file.fileno())


def is_running(pid: int) -> bool:
    """Return True if there is a process of this number."""
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True

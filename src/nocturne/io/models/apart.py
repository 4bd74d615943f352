"""Reading in a process of its own: what a damaged file does to a library's native code ends there, not here.

`python -m nocturne.io.models.apart MODULE PATH ALLOWED TARGET` calls `read_here(border)` of a module and pickles what
it returns.
"""

import importlib
import os
import pickle
import resource
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

from nocturne import ownprocess
from nocturne.io.models.border import Border, OutsideFolder
from nocturne.jobs import FAULTS

# Of address space and processor time: far more than any sound file takes, less than a mad length in a damaged one does.
_LEAST_BYTES, _BYTES_FOR_ONE, _MOST_BYTES = 8 << 30, 200, 24 << 30
_BYTES_FOR_THREAD = 128 << 20  # set aside, whether used or not
_LEAST_CPU_S, _CPU_S_FOR_MB, _MOST_CPU_S = 60, 30, 900
_MOST_FILES = 10_000  # and folders that are looked at for it
_WALL_PER_CPU = 4  # on a busy machine
_REFUSED, _OUTSIDE = 3, 4


def read_apart(module: str, border: Border) -> Any:
    """Return what `module.read_here(border)` returns, called in a process of its own.

    Raises
    ------
    ValueError
        With what it raised there, or if the process ended without a word, or did not end.
    OutsideFolder
        If it names files that it may not.
    """
    path = border.path
    with tempfile.TemporaryDirectory(prefix="nocturne-") as folder:
        target = Path(folder) / "result"
        words = (module, str(path), "allowed" if border.is_allowed else "", str(target))
        try:
            ended = subprocess.run(
                ownprocess.command("nocturne.io.models.apart", *words),
                env=ownprocess.environment(),
                stdin=subprocess.DEVNULL,
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
                check=False,
                # What waits takes no processor time: a pipe, a share that is gone.
                timeout=_WALL_PER_CPU * limits(path)[1],
            )
        except subprocess.TimeoutExpired as error:
            raise ValueError(f"its library did not come to an end within {error.timeout:.0f} s") from error
        if not target.is_file():
            raise ValueError(f"its library gave up (code {ended.returncode})")
        result = pickle.loads(target.read_bytes())  # written by the process above, not by whoever made the file
    if ended.returncode == _REFUSED:
        raise ValueError(result)
    if ended.returncode == _OUTSIDE:
        raise OutsideFolder(path, result)
    return result


def _bytes_beside(path: Path) -> int:
    """Return how large a file is, with all that lies beside it and below: what it may draw in."""
    total = count = 0
    for folder, folders, names in os.walk(path.parent):
        count += len(folders) + len(names)
        if count > _MOST_FILES:
            return _MOST_BYTES
        for name in names:
            try:
                total += os.stat(os.path.join(folder, name)).st_size
            except OSError:
                continue
    return total


def limits(path: Path) -> tuple[int, int]:
    """Return how much address space, in bytes, and processor time, in s, reading a file may take."""
    size = _bytes_beside(path)
    space = min(_LEAST_BYTES + _BYTES_FOR_ONE * size, _MOST_BYTES) + _BYTES_FOR_THREAD * (os.cpu_count() or 1)
    return space, min(_LEAST_CPU_S + _CPU_S_FOR_MB * size // 1_000_000, _MOST_CPU_S)


def _main(module: str, path: str, allowed: str, target: str) -> int:
    for what, most in zip((resource.RLIMIT_AS, resource.RLIMIT_CPU), limits(Path(path))):
        resource.setrlimit(what, (most, most))
    code = 0
    try:
        result = importlib.import_module(module).read_here(Border(Path(path), allowed=bool(allowed)))
    except OutsideFolder as error:
        result, code = error.names, _OUTSIDE
    except FAULTS as error:
        result, code = str(error) or type(error).__name__, _REFUSED
    part = Path(f"{target}.part")
    part.write_bytes(pickle.dumps(result, protocol=5))
    part.replace(target)
    return code


if __name__ == "__main__":
    sys.exit(_main(*sys.argv[1:]))

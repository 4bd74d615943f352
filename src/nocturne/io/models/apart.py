"""Reading in a process of its own: what a damaged file does to a library's native code ends there, not here.

`python -m nocturne.io.models.apart MODULE PATH TARGET` calls `read_here(path)` of a module and pickles what it returns.
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

from nocturne.jobs import FAULTS

_MOST_BYTES = 24 << 30  # of address space: far more than any sound stage takes, less than a mad length asks for
_MOST_CPU_S = 900
_REFUSED = 3


def read_apart(module: str, path: Path) -> Any:
    """Return what `module.read_here(path)` returns, called in a process of its own.

    Raises
    ------
    ValueError
        With what it raised there, or if the process ended without a word.
    """
    with tempfile.TemporaryDirectory(prefix="nocturne-") as folder:
        target = Path(folder) / "result"
        paths = os.pathsep.join(entry for entry in sys.path if entry)
        ended = subprocess.run(
            [sys.executable, "-m", "nocturne.io.models.apart", module, str(path), str(target)],
            env={**os.environ, "PYTHONPATH": paths},
            stdin=subprocess.DEVNULL,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            check=False,
        )
        if not target.is_file():
            raise ValueError(f"its library gave up (code {ended.returncode})")
        result = pickle.loads(target.read_bytes())  # written by the process above, not by whoever made the file
    if ended.returncode == _REFUSED:
        raise ValueError(result)
    return result


def _main(module: str, path: str, target: str) -> int:
    resource.setrlimit(resource.RLIMIT_AS, (_MOST_BYTES, _MOST_BYTES))
    resource.setrlimit(resource.RLIMIT_CPU, (_MOST_CPU_S, _MOST_CPU_S))
    code = 0
    try:
        result = importlib.import_module(module).read_here(Path(path))
    except FAULTS as error:
        result, code = str(error) or type(error).__name__, _REFUSED
    part = Path(f"{target}.part")
    part.write_bytes(pickle.dumps(result, protocol=5))
    part.replace(target)
    return code


if __name__ == "__main__":
    sys.exit(_main(*sys.argv[1:]))

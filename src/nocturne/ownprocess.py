"""Starting Nocturne's own modules in processes that import nothing from the working folder.

Python puts the working folder, or what an empty entry of PYTHONPATH stands for, before everything else: a `runpy.py`
that came with a downloaded model would run. Every process of ours is started by `command` and `environment`.
"""

import os
import sys

SOURCES = os.path.dirname(os.path.dirname(os.path.abspath(__file__)))


def command(module: str, *words: str) -> list[str]:
    """Return the command that runs one of our modules with words; it needs `environment`, too."""
    return [sys.executable, "-P", "-m", module, *words]


def environment() -> dict[str, str]:
    """Return this process' environment, in which no import looks into the working folder."""
    given = os.environ.get("PYTHONPATH", "").split(os.pathsep)
    return {**os.environ, "PYTHONSAFEPATH": "1", "PYTHONPATH": os.pathsep.join(safe([SOURCES, *given]))}


def safe(entries: list[str]) -> list[str]:
    """Return folders to import from without the working folder and what is relative to it."""
    here = os.path.realpath(os.getcwd())
    return [e for e in entries if os.path.isabs(e) and (os.path.realpath(e) != here or e == SOURCES)]

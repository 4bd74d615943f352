"""Compiling the engine once, in processes of their own, with progress.

Numba holds the interpreter's lock while it compiles, so compiling in the window's process would freeze it. Surfaces and
lights, patterns, and the path loop are compiled in processes at once.
"""

import gc
import subprocess
import sys
import time
from collections.abc import Iterable, Iterator

from nocturne import ownprocess
from nocturne.engine import cache, entries
from nocturne.errors import RenderError
from nocturne.jobs import Update, duration

_EXPECTED_SECONDS = 30.0  # only the progress bar's pace depends on it
_KERNELS = {"surfaces": entries.SURFACES, "patterns": entries.PATTERNS, "paths": entries.PATHS}
WHY = "Nocturne compiles its renderer for this processor. This happens once."


def compile_part(part: str) -> None:
    """Compile one part into the cache, in this process."""
    gc.disable()  # a twentieth of the time, for a process that ends when it is done
    from nocturne.engine.kernels.building import object_code

    for entry in _entries(part):
        cache.keep_code(entry.name, object_code(entry))


def _entries(part: str) -> Iterable[entries.Entry]:
    if part in _KERNELS:
        return _KERNELS[part].values()
    from nocturne.engine import environment, texels
    from nocturne.finish import blur, kernels, shares, upsampling

    modules = (environment, texels, blur, kernels, shares, upsampling)
    return [found for m in modules for found in vars(m).values() if isinstance(found, entries.Entry)]


def warm() -> Iterator[Update]:
    """Compile what is missing; yields progress, and ends at once if nothing is.

    Raises
    ------
    RenderError
        If a part could not be compiled.
    """
    with cache.only_one() as is_mine:
        while not cache.is_warm():
            if not is_mine():
                yield Update(0, 1, f"{WHY}\nAnother one is compiling it just now.")
                time.sleep(0.2)
            elif not cache.is_warm():  # it may have become so before it was ours
                yield from _compile()
    yield Update(1, 1, "The renderer is ready.")


def _compile() -> Iterator[Update]:
    cache.clear()
    started = time.monotonic()
    running = {
        "a": _start("surfaces"),
        "b": _start("paths", "finish"),
        "c": _start("patterns"),
    }
    try:
        while any(process.poll() is None for process in running.values()):
            done = sum(process.poll() is not None for process in running.values())
            took = time.monotonic() - started
            # Nobody knows beforehand how long; past what is expected, it is said to need a while more, not to be done.
            left = max(_EXPECTED_SECONDS - took, 0.12 * took)
            part = "the lights and surfaces" if done == 0 else "the last part"
            note = f"{WHY}\n{part.capitalize()} of it; about {duration(max(left, 1))} left."
            yield Update(took / (took + left), 1, note)
            time.sleep(0.1)
        for process in running.values():
            if process.returncode != 0:
                said = (process.stderr.read() if process.stderr else "").strip().splitlines()
                raise RenderError("The renderer could not be compiled.", hint=said[-1] if said else "")
    finally:
        for process in running.values():
            if process.poll() is None:
                process.kill()
            process.wait()
            if process.stderr:
                process.stderr.close()
    cache.mark_warm()


def _start(*parts: str) -> subprocess.Popen:
    return subprocess.Popen(
        ownprocess.command("nocturne.warm", *parts),
        stdout=subprocess.DEVNULL,
        stderr=subprocess.PIPE,
        text=True,
        env=ownprocess.environment(),
    )


if __name__ == "__main__":
    for wanted in sys.argv[1:]:
        compile_part(wanted)

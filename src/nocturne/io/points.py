"""Points in: three numbers a line as CSV or plain text, or the corners of a model."""

import re
from pathlib import Path

import numpy as np

from nocturne.errors import BadFile, MissingFile
from nocturne.io.models import read as models
from nocturne.io.paths import is_file
from nocturne.scene.bringing import Wanted
from nocturne.scene.parts import place_things

READS = (".csv", ".txt", ".xyz")
_MOST = 500_000


def read(path: Path) -> tuple[tuple[float, float, float], ...]:
    """Return points, metres, z up.

    Raises
    ------
    FileError
        If it is missing or damaged, or has no points or too many.
    """
    if not is_file(path):
        raise MissingFile(path, "there is no such file.", hint="Was it moved or renamed?")
    found = _of_model(path) if path.suffix.lower() in models.READS else _of_text(path)
    if not len(found):
        raise BadFile(path, "there are no points in it.", hint="Write three numbers a line.")
    if len(found) > _MOST:
        raise BadFile(path, f"there are {len(found):,} points in it; {_MOST:,} are the most.", hint="Thin them out.")
    return tuple(map(tuple, np.round(found, 6).tolist()))


def _of_text(path: Path) -> np.ndarray:
    rows = []
    for line in path.read_text(encoding="utf-8", errors="replace").splitlines():
        words = re.split(r"[,;\s]+", line.strip())
        try:
            numbers = [float(word) for word in words[:3]]
        except ValueError:
            continue  # a heading, or a remark
        if len(numbers) == 3 and np.isfinite(numbers).all() and max(map(abs, numbers)) < 1e8:
            rows.append(numbers)
    return np.array(rows, float).reshape(-1, 3)


def _of_model(path: Path) -> np.ndarray:
    arrival = models.read(path)
    stands, placements = Wanted.all_of(arrival).matrix(), place_things(arrival.things, (), None)
    out = [np.zeros((0, 3))]
    for thing in arrival.parts:
        matrix = stands @ placements[thing.id][0]
        out.append(arrival.meshes[thing.mesh].vertices @ matrix[:3, :3].T + matrix[:3, 3])
    return np.unique(np.round(np.concatenate(out), 6), axis=0)

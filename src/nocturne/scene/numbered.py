"""Names of files that are numbered: sets of tiles by their place, and sequences by their frame.

A set of tiles is named with `<UDIM>` where its tiles have their number, as OpenUSD and MaterialX do: 1001 is the square
from (0, 0) to (1, 1) of the texture coordinates, one more is one to the right, ten more one further up. A sequence has
`#` right before the ending where its frames have their number, one for each digit.
"""

import re
from pathlib import PurePath

# Kinds of models that have pictures inside them, named after a "#".
CONTAINERS = (".glb", ".gltf", ".usdz", ".mtlx")
TILES = "<UDIM>"
ACROSS, FIRST_TILE = 10, 1001
_FRAME = re.compile(r"(?<=[^#/])#+(?=\.\w+$)")
_TILE_NUMBER = re.compile(r"(?<!\d)(?!1000)(1\d{3})(?!\d)")  # a hundred rows
_FRAME_NUMBER = re.compile(r"(?<=\D)\d+$")


def is_tiles(path: str) -> bool:
    """Return True if a path names a set of tiles."""
    return TILES in path


def is_sequence(path: str) -> bool:
    """Return True if a path names a sequence of frames."""
    return not _is_inside(path) and _FRAME.search(path) is not None


def _is_inside(path: str) -> bool:
    return any(f"{ending}#" in path.lower() for ending in CONTAINERS)


def at_frame(path: str, frame: int) -> str:
    """Return the path of one frame of a sequence; any other path as it is."""
    if not is_sequence(path):
        return path
    return _FRAME.sub(lambda found: f"{frame:0{len(found[0])}d}", path)


def place_of(tile: int) -> tuple[int, int]:
    """Return (across, up) of a tile by its number."""
    return (tile - FIRST_TILE) % ACROSS, (tile - FIRST_TILE) // ACROSS


def pattern_of(name: str) -> re.Pattern:
    """Return what the names of files match that a set of tiles or a sequence stands for; its group is the number."""
    if TILES in name:
        before, *others = map(re.escape, name.split(TILES))
        return re.compile(before + r"((?!1000)1\d{3})" + r"\1".join(others))
    found = _FRAME.search(name)
    before, after = re.escape(name[: found.start()]), re.escape(name[found.end() :])
    return re.compile(rf"{before}(\d{{{len(found[0])},}}){after}")


def as_tiles(path: str) -> str:
    """Return the path of the set that a tile's file is of by its name, "" if that has no tile's number."""
    file = PurePath(path)
    found = list(_TILE_NUMBER.finditer(file.stem))
    if not found or _is_inside(path):
        return ""
    start, end = found[-1].span()
    return file.with_name(file.stem[:start] + TILES + file.stem[end:] + file.suffix).as_posix()


def as_sequence(path: str) -> tuple[str, int]:
    """Return the path of the sequence that a frame's file is of by its name, and which frame; ("", 0) if of none."""
    file = PurePath(path)
    found = _FRAME_NUMBER.search(file.stem)
    if found is None or _is_inside(path):
        return "", 0
    name = file.stem[: found.start()] + "#" * len(found[0]) + file.stem[found.end() :] + file.suffix
    return file.with_name(name).as_posix(), int(found[0])

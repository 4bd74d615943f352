"""Look-up tables in: .cube files, read by OpenColorIO."""

from pathlib import Path

import numpy as np
import PyOpenColorIO as ocio

from nocturne.errors import BadFile, MissingFile, UnknownFormat

READS = (".cube",)
SIZE = 48
_LARGEST_BYTES = 64 << 20


def read(path: Path | str) -> np.ndarray:
    """Return (48, 48, 48, 3) float32: what the table makes of evenly spaced red, green, blue in 0..1.

    Raises
    ------
    FileError
        If it is missing, of another kind, too large or damaged.
    """
    path = Path(path)
    if path.suffix.lower() not in READS:
        raise UnknownFormat(path, "look-up tables of this kind are not read.", hint="Use a .cube file.")
    if not path.is_file():
        raise MissingFile(path, "there is no such file.", hint="Was it moved or renamed?")
    if path.stat().st_size > _LARGEST_BYTES:
        raise BadFile(path, "it is far too large for a look-up table.", hint="Is it really one?")
    axis = np.linspace(0, 1, SIZE, dtype=np.float32)
    grid = np.ascontiguousarray(np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1).reshape(-1, 3))
    try:
        config = ocio.Config.CreateRaw()
        transform = ocio.FileTransform(src=str(path.resolve()), interpolation=ocio.INTERP_BEST)
        config.getProcessor(transform).getDefaultCPUProcessor().applyRGB(grid)
    except ocio.Exception as error:
        said = str(error).strip().splitlines()[-1]
        raise BadFile(
            path, f"it is not a readable table ({said}).", hint="Export it again from where it came."
        ) from error
    return np.nan_to_num(grid, nan=0.0, posinf=1e4, neginf=0.0).reshape(SIZE, SIZE, SIZE, 3)

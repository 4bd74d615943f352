"""Pictures as the kernels read them: each at ever coarser levels, in tiles of one cache line.

A ray that is as wide as a hundred pixels of a picture reads one pixel of a level that is coarse enough: it finds their
mean, and finds it in the processor's cache (Williams 1983, Pyramidal parametrics).
"""

from concurrent.futures import Executor
from dataclasses import dataclass, replace

import numpy as np

from nocturne.engine.layout import pattern as pat
from nocturne.engine.texels import ACROSS, encoded, halved
from nocturne.scene.patterns.tiles import spread, together

LINE = 64  # bytes


def aligned(shape: tuple[int, ...], dtype: type) -> np.ndarray:
    """Return an array of zeros that begins with a cache line."""
    size = int(np.prod(shape)) * np.dtype(dtype).itemsize
    room = np.zeros(size + LINE, np.uint8)
    start = -room.ctypes.data % LINE
    return room[start : start + size].view(dtype).reshape(shape)


@dataclass(frozen=True, eq=False, repr=False)
class _Picture:
    """One picture, encoded: the texels of its levels, their sizes, and what the largest number stands for."""

    levels: list[np.ndarray]
    sizes: list[tuple[int, int]]
    scale: float
    spread: tuple[int, int]  # squares of the texture coordinates that it covers, across and up


def _encoded(image: np.ndarray) -> _Picture:
    covered = spread(image)
    image = np.ascontiguousarray(together(image), np.float32)
    scale = max(float(image.max()), 1e-6)
    levels, sizes = [], []
    while True:
        height, width = image.shape[:2]
        levels.append(encoded(image, scale))
        sizes.append((width, height))
        if width == height == 1:
            return _Picture(levels, sizes, scale, covered)
        image = halved(image)


class Pictures:
    """Encodes pictures, and keeps what it made of those that were asked for last."""

    def __init__(self) -> None:
        self._made: dict[int, tuple[np.ndarray, _Picture]] = {}

    def tables(self, images: list[np.ndarray], pool: Executor | None = None) -> dict[str, np.ndarray]:
        """Return the tables of (h, w, 3) float32 pictures in order; a black pixel if there are none.

        pool: does several at once.
        """
        images = images or [np.zeros((1, 1, 3), np.float32)]
        new = {id(image): image for image in images if id(image) not in self._made}
        encoded = dict(zip(new, (pool.map if pool else map)(_encoded, new.values())))
        made = {key: self._made.get(key) or (new[key], encoded[key]) for key in map(id, images)}
        pictures = [made[id(image)][1] for image in images]
        rows, at, parts = [], 0, []
        for picture in pictures:
            for (width, height), texels in zip(picture.sizes, picture.levels):
                rows.append(
                    pat.LEVEL.filled(np.int32, FIRST_TEXEL=at, WIDTH=width, HEIGHT=height, TILES=-(-width // ACROSS))
                )
                parts.append(texels)
                at += len(texels)
        first = np.cumsum([0, *(len(picture.sizes) for picture in pictures)])
        texels = aligned((at, 4), np.uint16)
        np.concatenate(parts, out=texels)
        # What is kept are parts of the new table: of every texel there is one, not two.
        ends = np.cumsum([len(part) for part in parts])
        held = iter([texels[end - len(part) : end] for end, part in zip(ends, parts)])
        kept = {id(picture): replace(picture, levels=[next(held) for _ in picture.levels]) for picture in pictures}
        self._made = {key: (image, kept[id(picture)]) for key, (image, picture) in made.items()}
        return {
            "tex_i": np.stack(
                [
                    pat.WHOLE.filled(np.int32, FIRST_LEVEL=k, LEVELS=len(picture.sizes))
                    for k, picture in zip(first, pictures)
                ]
            ),
            "tex_f": np.stack(
                [
                    pat.FLOATS.filled(
                        np.float32,
                        SCALE=picture.scale,
                        SIDE=np.sqrt(np.prod(picture.sizes[0]) / np.prod(picture.spread)),
                        PER_SQUARE=1 / np.asarray(picture.spread),
                    )
                    for picture in pictures
                ]
            ),
            "level_i": np.stack(rows),
            "texels": texels,
        }

"""Which pictures materials use, and by which slots kernels know them."""

from collections.abc import Iterable
from concurrent.futures import Executor

import numpy as np

from nocturne.scene.assets import Assets
from nocturne.scene.materials import Material
from nocturne.scene.patterns import every
from nocturne.scene.patterns.tiles import together
from nocturne.scene.patterns.tiling import Even, even_of

Slot = tuple[str, ...]


def by_slot(
    materials: Iterable[Material], assets: Assets, pool: Executor
) -> tuple[dict[Slot, np.ndarray], dict[Slot, np.ndarray]]:
    """Return the loaded pictures that materials use, in the order of their slots, and the lists of some.

    Those that hide their repeats are made ready for that, each once, several at once by the pool; their lists are the
    ways back.
    """
    steps = {step.slot: step for m in materials for step in every(m.steps) if step.picture in assets.images}
    names = dict.fromkeys(step.picture for step in steps.values() if step.hide_repeats)
    evened = dict(zip(names, pool.map(_even, [assets.images[name] for name in names])))
    pictures = {
        slot: evened[step.picture].spread if step.hide_repeats else assets.images[step.picture]
        for slot, step in steps.items()
    }
    return pictures, {slot: evened[step.picture].table for slot, step in steps.items() if step.hide_repeats}


def _even(image: np.ndarray) -> Even:
    """Return a picture made ready to hide repeats; a set of tiles as the one picture that it makes."""
    return even_of(image if image.ndim == 3 else together(image))

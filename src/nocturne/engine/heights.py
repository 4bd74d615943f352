"""Heights of relief that is real geometry, worked out by the compiled machine of patterns.

They are needed before there is a set for the kernels to read: what they read here is a table with the pictures and the
program of one material's heights, and the thing as its only instance.
"""

from collections.abc import Callable, Mapping

import numpy as np

from nocturne.engine.entries import KERNELS
from nocturne.engine.layout import asked
from nocturne.engine.layout import instance as inst
from nocturne.engine.program import Program
from nocturne.engine.types import SCENE, pack, scratch_row
from nocturne.rows import DTYPES
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Spot, Step


class Heights:
    """Makes what `displaced` asks.

    Parameters
    ----------
    slots : tuple
        What the loaded pictures are kept by, in the order of their tables.
    evened : mapping
        Lists of pictures that hide repeats.
    texels : dict
        The tables of pictures.
    """

    def __init__(
        self,
        slots: tuple[tuple[str, ...], ...],
        evened: Mapping[tuple[str, ...], np.ndarray],
        texels: dict[str, np.ndarray],
    ) -> None:
        self._slots, self._evened, self._texels = slots, evened, texels

    def of(self, steps: tuple[Step, ...], matrix: np.ndarray, seed: int) -> Callable[[Spot], np.ndarray]:
        """Return what tells the heights (n,) that steps make of 0 at n places on a thing; from any thread.

        matrix: (4, 4), how the thing stands. seed: its own number.
        """
        program = Program({key: slot for slot, key in enumerate(self._slots)}, self._evened)
        where = program.add_material(Material(id="heights", steps=steps))
        arrays = {**_blank(), **self._texels, **program.tables()}
        arrays["inst_i"] = inst.WHOLE.filled(np.int32, MESH=-1, MATERIAL=-1, LIGHT=-1, THING_SEED=seed)[None]
        arrays["inst_xf"] = np.ascontiguousarray(matrix[:3].reshape(1, inst.TO_WORLD), np.float32)
        table = pack(SCENE, arrays)

        def asked_at(spot: Spot, arrays: dict[str, np.ndarray] = arrays) -> np.ndarray:  # which keeps them alive
            places = np.zeros((len(spot.uv), asked.WIDTH), np.float32)
            parts = {"UV": spot.uv, "UV_2": spot.uv_2, "COLOUR": spot.colour, "REST": spot.place, "N": spot.normal}
            for name, values in parts.items():
                places[:, asked.ROW.span(name)] = values
            row, out = scratch_row(), np.zeros(len(places), np.float32)
            begin, count = where["FIRST_BINDING"], where["BINDINGS"]
            at = (a.ctypes.data for a in (table, row, places, out))
            KERNELS["heights_at"](*at, len(places), begin, count)
            return out

        return asked_at


def _blank() -> dict[str, np.ndarray]:
    """Return tables of one row of zeros each."""
    return {f.name: np.zeros([1 if n is None else n for n in f.shape], DTYPES[f.dtype]) for f in SCENE}

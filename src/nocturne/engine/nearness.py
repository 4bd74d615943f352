"""Things whose distance patterns ask for: their triangles in the set, and an Embree scene of them."""

import weakref
from collections.abc import Iterable

import numpy as np

from nocturne.engine.embree import Shape
from nocturne.engine.entries import KERNELS
from nocturne.engine.layout import instance as inst
from nocturne.engine.layout import near as layout
from nocturne.engine.things import Drawn
from nocturne.scene.materials import Material
from nocturne.scene.patterns import every

MOST_TRIANGLES = 4_000_000  # of one thing, with all its copies


def asked_things(materials: Iterable[Material]) -> tuple[str, ...]:
    """Return the ids of things whose distance steps ask for, each once."""
    steps = (step for material in materials for step in every(material.steps) if step.on)
    return tuple(dict.fromkeys(step.asked_thing for step in steps if step.asked_thing))


class _Target:
    def __init__(self, vertices: np.ndarray, triangles: np.ndarray, name: str) -> None:
        self.vertices, self.triangles = vertices, triangles
        self.shape = Shape.mesh(vertices, triangles, name=name)


class Nearness:
    """Makes targets, and keeps those that stay as they are."""

    def __init__(self) -> None:
        self._made: dict[str, tuple[tuple, _Target]] = {}

    def table(self, wanted: tuple[str, ...], drawn: Drawn) -> tuple[np.ndarray, tuple[_Target, ...]]:
        """Return the (n, width) rows of things in order, and what they point to; scene 0 where nothing is drawn.

        A thing of more than `MOST_TRIANGLES` counts as not drawn.
        """
        rows, kept = np.zeros((max(len(wanted), 1), layout.TARGET_WIDTH), np.int64), {}
        if wanted:
            ids = np.array(drawn.ids)
        for row, id in zip(rows, wanted):
            at = np.flatnonzero(ids == id)
            meshes = [drawn.meshes[k] for k in drawn.inst_i[at, inst.MESH]]
            if not len(at) or sum(len(mesh.triangles) for mesh in meshes) > MOST_TRIANGLES:
                continue
            key = ([weakref.ref(mesh) for mesh in meshes], drawn.inst_xf[at].tobytes())
            made = self._made.get(id)
            target = made[1] if made is not None and made[0] == key else _target(meshes, drawn.inst_xf[at], id)
            kept[id] = key, target
            row[:] = layout.TARGET.filled(
                np.int64,
                SCENE=target.shape.address,
                CLOSER=KERNELS["closer"].address,
                VERTICES=target.vertices.ctypes.data,
                TRIANGLES=target.triangles.ctypes.data,
            )
        self._made = kept
        return rows, tuple(target for _, target in kept.values())


def _target(meshes: list, matrices: np.ndarray, name: str) -> _Target:
    vertices, triangles, first = [], [], 0
    for mesh, matrix in zip(meshes, matrices.reshape(-1, 3, 4).astype(float)):
        vertices.append(mesh.vertices @ matrix[:, :3].T + matrix[:, 3])
        triangles.append(mesh.triangles.astype(np.int64) + first)
        first += len(mesh.vertices)
    return _Target(
        np.ascontiguousarray(np.concatenate(vertices), np.float32),
        np.ascontiguousarray(np.concatenate(triangles), np.uint32),
        name,
    )

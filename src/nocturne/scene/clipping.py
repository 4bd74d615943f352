"""Triangles cut where a plane or a ball passes through them, whatever they are a part of."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from nocturne.scene.shapes import Mesh

_FINE = 24.0  # a ball's surface is met by pieces no longer than its radius over this: off by less than 1 / 4600 of it
_MOST_SPLITS = 40
Root = Callable[[np.ndarray, np.ndarray, np.ndarray, np.ndarray], np.ndarray]


@dataclass(frozen=True, eq=False)
class Pieces:
    """Pieces of a mesh's triangles.

    of (k,): which triangle each is a piece of. share (k, 3, 3): of its corners, how much each corner of that triangle
    counts. p (k, 3, 3): where its corners are, in the space in which it is cut.
    """

    of: np.ndarray
    share: np.ndarray
    p: np.ndarray

    @classmethod
    def whole(cls, mesh: Mesh, places: np.ndarray) -> "Pieces":
        """Return all triangles of a mesh whose vertices are at (n, 3) places."""
        n = len(mesh.triangles)
        return cls(np.arange(n), np.broadcast_to(np.eye(3), (n, 3, 3)), places[mesh.triangles.astype(np.int64)])

    def __getitem__(self, which: np.ndarray) -> "Pieces":
        """Return some of them."""
        return Pieces(self.of[which], self.share[which], self.p[which])

    def corners(self, weights: np.ndarray) -> "Pieces":
        """Return as many pieces whose corners are (k, 3, 3) weighted sums of these pieces' corners."""
        return Pieces(self.of, weights @ self.share, weights @ self.p)


def together(parts: list[Pieces]) -> Pieces:
    """Return several lots of pieces as one."""
    return Pieces(*(np.concatenate([getattr(part, name) for part in parts]) for name in ("of", "share", "p")))


def straight(a: np.ndarray, b: np.ndarray, at_a: np.ndarray, at_b: np.ndarray) -> np.ndarray:
    """Return how far from a to b a value that is linear between them is 0."""
    return at_a / np.maximum(at_a - at_b, 1e-300)


def split(pieces: Pieces, value: np.ndarray, root: Root = straight) -> tuple[Pieces, Pieces]:
    """Return the parts of pieces where a value is at least 0, and the others.

    value: (k, 3) at their corners. root: how far it is from corners a where it is to corners b where it is not.
    """
    inside = value >= 0
    n = inside.sum(1)
    kept, rest = [pieces[n == 3]], [pieces[n == 0]]
    for lone_is_kept in (True, False):
        which = np.flatnonzero(n == (1 if lone_is_kept else 2))
        lone = (inside[which] == lone_is_kept).argmax(1)
        order = (lone[:, None] + np.arange(3)) % 3
        turned = pieces[which].corners(np.eye(3)[order])
        v = np.take_along_axis(value[which], order, 1)
        ends = [_meeting(turned.p, v, k, root, lone_is_kept) for k in (1, 2)]
        zero, one = np.zeros(len(which)), np.ones(len(which))
        a, b, c = (np.stack(corner, 1) for corner in ((one, zero, zero), (zero, one, zero), (zero, zero, one)))
        ab = np.stack([1 - ends[0], ends[0], zero], 1)
        ac = np.stack([1 - ends[1], zero, ends[1]], 1)
        tip = [turned.corners(np.stack([a, ab, ac], 1))]
        foot = [turned.corners(np.stack(corners, 1)) for corners in ((ab, b, c), (ab, c, ac))]
        kept += tip if lone_is_kept else foot
        rest += foot if lone_is_kept else tip
    return together(kept), together(rest)


def _meeting(p: np.ndarray, v: np.ndarray, k: int, root: Root, lone_is_kept: bool) -> np.ndarray:
    """Return how far from the first corner to the kth the value is 0; found from the kept end, as a neighbour does."""
    if lone_is_kept:
        return root(p[:, 0], p[:, k], v[:, 0], v[:, k])
    return 1 - root(p[:, k], p[:, 0], v[:, k], v[:, 0])


def split_by_ball(pieces: Pieces, radius: float) -> tuple[Pieces, Pieces]:
    """Return the parts of pieces outside of a ball about the origin, and those within."""
    done, left = [], pieces
    for _ in range(_MOST_SPLITS):
        middle = left.p.mean(1, keepdims=True)
        reach = np.linalg.norm(left.p - middle, axis=2).max(1)
        is_crossed = np.linalg.norm(middle[:, 0], axis=1) - reach < radius
        is_crossed &= (np.linalg.norm(left.p, axis=2) > radius).any(1)
        longest = np.linalg.norm(left.p - np.roll(left.p, 1, axis=1), axis=2).max(1)
        again = is_crossed & (longest > radius / _FINE)
        done.append(left[~again])
        left = left[again]
        if not len(left.of):
            break
        left = together([left.corners(np.broadcast_to(w, left.p.shape)) for w in _QUARTERS])
    fine = together([*done, left])

    def root(a: np.ndarray, b: np.ndarray, at_a: np.ndarray, at_b: np.ndarray) -> np.ndarray:
        # |a + t (b - a)| = r with a outside of the ball and b within.
        d = b - a
        dd, ad, aa = (d * d).sum(1), (a * d).sum(1), (a * a).sum(1) - radius**2
        return np.clip((-ad - np.sqrt(np.maximum(ad * ad - dd * aa, 0))) / np.maximum(dd, 1e-300), 0, 1)

    return split(fine, np.linalg.norm(fine.p, axis=2) - radius, root)


_HALF = 0.5
_QUARTERS = np.array(
    [
        [[1, 0, 0], [_HALF, _HALF, 0], [_HALF, 0, _HALF]],
        [[_HALF, _HALF, 0], [0, 1, 0], [0, _HALF, _HALF]],
        [[_HALF, 0, _HALF], [0, _HALF, _HALF], [0, 0, 1]],
        [[_HALF, _HALF, 0], [0, _HALF, _HALF], [_HALF, 0, _HALF]],
    ]
)


def mesh_of(mesh: Mesh, pieces: Pieces) -> tuple[Mesh | None, np.ndarray]:
    """Return pieces of a mesh's triangles as a mesh, None if there are none, and which triangle each was a part of.

    Whole triangles keep their vertices; of the others each corner is a new one.
    """
    a, b = (pieces.p[:, k] - pieces.p[:, 0] for k in (1, 2))
    area = np.linalg.norm(np.cross(a, b), axis=1)
    pieces = pieces[area > 1e-12 * np.maximum((a * a).sum(1), (b * b).sum(1))]
    if not len(pieces.of):
        return None, np.zeros(0, np.int64)
    is_whole = (pieces.share == np.eye(3)).all((1, 2))
    pieces = together([pieces[is_whole], pieces[~is_whole]])
    corners = mesh.triangles.astype(np.int64)[pieces.of]
    n_whole = int(is_whole.sum())
    used, numbers = np.unique(corners[:n_whole], return_inverse=True)
    share, own = pieces.share[n_whole:], corners[n_whole:]

    def joined(values: np.ndarray) -> np.ndarray:
        new = (share @ values[own].astype(float)).reshape(-1, values.shape[1])
        return np.concatenate([values[used], new])

    new = len(used) + np.arange(3 * len(own)).reshape(-1, 3)
    normals = joined(mesh.normals)
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-30)
    carried = {name: joined(values) for name, values in mesh.carried(slice(None)).items()}
    made = Mesh(
        joined(mesh.vertices),
        np.concatenate([numbers.reshape(-1, 3), new]),
        normals,
        joined(mesh.uvs),
        mesh.sets[pieces.of] if mesh.sets is not None else None,
        mesh.set_names,
        **carried,
    )
    return made, pieces.of

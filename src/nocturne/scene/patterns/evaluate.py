"""What steps put out, worked out with NumPy: for the small pictures and for whatever needs a pattern off the picture.

The kernels do the same at each hit. Names as in MaterialX where it has the operation.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from types import SimpleNamespace

import numpy as np

from nocturne.scene.patterns.step import Step, every

NEAREST = 1e-6  # metres to a camera that throws a picture
Images = Mapping[tuple[str, str], np.ndarray]


@dataclass(frozen=True, eq=False)
class Spot:
    """Where steps are asked: arrays of one shape (...), each with its own last axis."""

    uv: np.ndarray  # (..., 2) texture coordinates
    uv_2: np.ndarray  # (..., 2) second texture coordinates
    colour: np.ndarray  # (..., 3) of the mesh
    own: np.ndarray  # (..., 3) place in the thing's own frame, metres
    place: np.ndarray  # (..., 3) place in the set, metres
    own_normal: np.ndarray  # (..., 3) unit, in the thing's own frame
    normal: np.ndarray  # (..., 3) unit, in the set
    viewer: np.ndarray  # (..., 3) unit, to whoever looks
    seeds: tuple[int, int, int]  # of the thing, the copy and the piece
    rim: np.ndarray | None = None  # (...) how far the edge of the patch is, metres

    @classmethod
    def of_patch(cls, size: int, extent: float, corner: tuple[float, float] = (0.0, 0.0)) -> "Spot":
        """Return a flat square patch of size x size places, seen from above: extent wide, its lower left at a corner.

        The top row is that of the greatest v.
        """
        at = (np.arange(size) + 0.5) / size * extent
        u, v = np.meshgrid(at, at[::-1])
        uv = np.stack([u, v], axis=-1) + corner
        place = np.concatenate([uv, np.zeros_like(uv[..., :1])], axis=-1)
        up = np.broadcast_to([0.0, 0.0, 1.0], place.shape)
        rim = np.minimum(np.minimum(u, extent - u), np.minimum(v, extent - v))
        return cls(uv, uv, np.ones(place.shape), place, place, up, up, up, (1, 2, 3), rim)


def blended(blend: str, under: np.ndarray, over: np.ndarray, amount: np.ndarray | float) -> np.ndarray:
    """Return what a step and what lies under it make together, by amount (MaterialX 1.39, compositing nodes)."""
    a, b = under, over
    with np.errstate(all="ignore"):
        made = {
            "replace": lambda: b,
            "multiply": lambda: a * b,
            "plus": lambda: a + b,
            "minus": lambda: a - b,
            "screen": lambda: 1 - (1 - a) * (1 - b),
            "overlay": lambda: np.where(a < 0.5, 2 * a * b, 1 - 2 * (1 - a) * (1 - b)),
            "dodge": lambda: np.where(b < 1, np.minimum(a / np.maximum(1 - b, 1e-6), 1), np.where(a > 0, 1.0, 0.0)),
            "burn": lambda: np.where(
                b > 0, 1 - np.minimum((1 - a) / np.maximum(b, 1e-6), 1), np.where(a < 1, 0.0, 1.0)
            ),
            "darken": lambda: np.minimum(a, b),
            "lighten": lambda: np.maximum(a, b),
            "difference": lambda: np.abs(a - b),
        }[blend]()
    return a + (made - a) * amount


def coordinates(step: Step, f: SimpleNamespace, spot: Spot) -> list[tuple[np.ndarray, np.ndarray | float]]:
    """Return the (..., 3) coordinates of a step, each with how much it counts: one, or one for each of three sides."""
    if step.where == "uv":
        uv = spot.uv_2 if step.uv_set == 2 else spot.uv
        return [(_moved(np.concatenate([uv, np.zeros_like(uv[..., :1])], axis=-1), f), 1.0)]
    frame = step.frame()
    p = (spot.own if step.anchor == "thing" else spot.place) @ frame[:, :3].T + frame[:, 3]
    x, y, z = np.moveaxis(p, -1, 0)
    if step.where == "cylinder":
        p = np.stack([np.arctan2(y, x) / (2 * np.pi), z, np.hypot(x, y)], axis=-1)
    elif step.where == "ball":
        r = np.linalg.norm(p, axis=-1)
        p = np.stack(
            [np.arctan2(y, x) / (2 * np.pi), np.arcsin(np.clip(z / np.maximum(r, 1e-9), -1, 1)) / np.pi, r], -1
        )
    elif step.where == "camera":
        depth = np.maximum(-z, NEAREST)[..., None]
        seen = np.concatenate([p[..., :2] / depth + 0.5, depth], axis=-1)
        p = np.where(depth > NEAREST, seen, (2.0, 2.0, NEAREST))
    elif step.where == "sides":
        n = spot.own_normal if step.anchor == "thing" else spot.normal
        turned = frame[:, :3] * np.asarray(step.size)[:, None]
        return [
            (_moved(at, f), share) for at, share in zip(_sides(p, n @ turned.T), side_shares(n @ turned.T, step.spread))
        ]
    return [(_moved(p, f), 1.0)]


def side_shares(n: np.ndarray, spread: float) -> np.ndarray:
    """Return (3, ...) how much the sides along x, y and z count at normals (..., 3); they add up to 1."""
    a = np.abs(n)
    low = (1 - spread) * a.max(-1)
    w = np.moveaxis(np.maximum(a - low[..., None], 1e-6 * (a >= low[..., None])), -1, 0)
    return w / w.sum(0)


def _sides(p: np.ndarray, n: np.ndarray) -> list[np.ndarray]:
    """Return the coordinates as seen from along x, y and z: never mirrored, upright where there is an upright."""
    x, y, z = np.moveaxis(p, -1, 0)
    sign = np.where(n >= 0, 1.0, -1.0)
    return [
        np.stack([y * sign[..., 0], z, x], axis=-1),
        np.stack([-x * sign[..., 1], z, y], axis=-1),
        np.stack([x * sign[..., 2], y, z], axis=-1),
    ]


def _moved(p: np.ndarray, f: SimpleNamespace) -> np.ndarray:
    """Return coordinates repeated, turned and moved as the step tells."""
    turn = np.radians(f.turn_deg)
    c, s = np.cos(turn), np.sin(turn)
    repeat, offset = np.asarray(f.repeat), np.asarray(f.offset)
    x, y = p[..., 0] * repeat[..., 0], p[..., 1] * repeat[..., 1]
    z = p[..., 2] + (offset[..., 2] if offset.shape[-1] == 3 else 0.0)
    return np.stack([c * x - s * y + offset[..., 0], s * x + c * y + offset[..., 1], z * np.ones_like(x)], axis=-1)


def step_value(step: Step, spot: Spot, under: np.ndarray, images: Images) -> np.ndarray:
    """Return the (..., 3) a step puts out, inverted if it is to be; white where its picture is missing."""
    return _value(step, _fields(step, spot, images), spot, under, images)


def _fields(step: Step, spot: Spot, images: Images) -> SimpleNamespace:
    names = {*step.own_fields(), "repeat", "turn_deg", "offset", "amount"}
    f = SimpleNamespace(**{name: step.number_of(name) for name in names})
    for name, width in step.drivable().items():
        inner = [s for s in step.steps if s.parameter == name and s.on]
        if inner:
            base = np.zeros(3)
            value = np.asarray(getattr(f, name), float)
            base[: value.size if value.ndim else 3] = value
            info = type(step).model_fields[name].json_schema_extra
            driven = driven_by(inner, base, spot, images, low=info["low"], high=info["high"])
            setattr(f, name, driven if width > 1 else driven[..., 0])
    return f


def _value(step: Step, f: SimpleNamespace, spot: Spot, under: np.ndarray, images: Images) -> np.ndarray:
    image = images.get(step.picture) if step.picture is not None else None
    if step.picture is not None and image is None:
        return np.ones((*spot.uv.shape[:-1], 3))
    places = coordinates(step, f, spot) if step.is_placed else [(spot.place, 1.0)]
    value = sum(
        np.asarray(step.values(f, q, spot, under, image)) * (w[..., None] if np.ndim(w) else w) for q, w in places
    )
    value = np.broadcast_to(value, (*spot.uv.shape[:-1], 3))
    return np.maximum(1 - value, 0) if step.invert and step.parameter != "geometry_normal" else value


def driven_by(
    steps: "list[Step] | tuple[Step, ...]",
    base: np.ndarray,
    spot: Spot,
    images: Images,
    *,
    low: float | None = None,
    high: float | None = None,
) -> np.ndarray:
    """Return the (..., 3) that steps over each other make of a base value (3,), within limits after each."""
    value = np.broadcast_to(np.asarray(base, float), (*spot.uv.shape[:-1], 3))
    for step in steps:
        if not step.on or (step.picture is not None and step.picture not in images):
            continue
        f = _fields(step, spot, images)
        over = _value(step, f, spot, value, images)
        amount = np.asarray(f.amount, float)
        if step.parameter == "geometry_normal":
            amount = np.ones(())
        elif step.is_mixed:
            amount = np.clip(amount, 0, 1)
        value = blended(step.blend, value, over, amount[..., None] if amount.ndim else amount)
        if low is not None or high is not None:
            value = np.clip(value, low, high)
    return value


def sampled(step: Step, images: Images, size: int) -> np.ndarray:
    """Return (size, size, 3) of what a step puts out over one unit of texture space, the top row at its upper end.

    Sizes of its own may show more or less of it: `Step.extent`. Its amount is left out: it mixes with what lies under.
    """
    step = step.for_picture()
    extent = step.extent
    thin = {}
    for inner in every((step,)):
        image = images.get(inner.picture) if inner.picture is not None else None
        if image is not None:
            # A picture that is far larger than the small one is thinned out first, else it would be nothing but noise.
            by = max(1, int(max(image.shape[:2]) * extent * max(map(abs, inner.repeat)) / (2 * size)))
            thin[inner.picture] = np.asarray(image[..., ::by, ::by, :], float)
    spot = Spot.of_patch(size, extent, step.corner)
    ramp = np.broadcast_to((np.arange(size) + 0.5)[:, None] / size, (size, size, 3))
    return step_value(step, spot, ramp, thin)

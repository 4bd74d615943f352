"""What the standard's own nodes put out, worked out with NumPy (MaterialX 1.39, standard nodes).

Values are (h, w, n) float arrays; h and w are 1 for what is the same everywhere. `get` reads an input by its name.
"""

from collections.abc import Callable
from typing import Any

import numpy as np

from nocturne.scene.patterns.hashing import hashed, noise
from nocturne.scene.patterns.noises import fractal

Get = Callable[[str], np.ndarray]
WIDTHS = {
    **dict.fromkeys(("float", "integer", "boolean"), 1),
    **dict.fromkeys(("vector2",), 2),
    **dict.fromkeys(("color3", "vector3"), 3),
    **dict.fromkeys(("color4", "vector4"), 4),
    "matrix33": 9,
    "matrix44": 16,
}
LUMA = np.array([0.2722287, 0.6740818, 0.0536895])


def _of_one(function: Callable[[np.ndarray], np.ndarray]) -> Callable[[Get], np.ndarray]:
    return lambda get: function(get("in"))


def _of_two(function: Callable[..., np.ndarray]) -> Callable[[Get], np.ndarray]:
    return lambda get: function(get("in1"), get("in2"))


def _divided(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    return np.where(b == 0, 0.0, a / np.where(b == 0, 1.0, b))


def _mixed(over: Callable[[np.ndarray, np.ndarray], np.ndarray]) -> Callable[[Get], np.ndarray]:
    """Return a compositing node: what `over` makes of foreground and background, by the mix."""

    def node(get: Get) -> np.ndarray:
        fg, bg, mix = get("fg"), get("bg"), get("mix")
        return bg + (over(fg, bg) - bg) * mix

    return node


def _compared(test: Callable[[np.ndarray, np.ndarray], np.ndarray]) -> Callable[[Get], np.ndarray]:
    return lambda get: np.where(test(get("value1"), get("value2")), get("in1"), get("in2"))


def _remap(get: Get) -> np.ndarray:
    low, high = get("inlow"), get("inhigh")
    return get("outlow") + (get("in") - low) * _divided(get("outhigh") - get("outlow"), high - low)


def _smoothstep(get: Get) -> np.ndarray:
    low, high = get("low"), get("high")
    t = np.clip(_divided(get("in") - low, high - low), 0, 1)
    return t * t * (3 - 2 * t)


def _rotate2d(get: Get) -> np.ndarray:
    p, a = get("in"), np.radians(get("amount"))
    c, s = np.cos(a), np.sin(a)
    x, y = p[..., 0:1], p[..., 1:2]
    return np.concatenate(np.broadcast_arrays(c * x + s * y, -s * x + c * y), axis=-1)


def _rotate3d(get: Get) -> np.ndarray:
    p, a, axis = get("in"), np.radians(get("amount")), get("axis")
    axis = axis / np.maximum(np.linalg.norm(axis, axis=-1, keepdims=True), 1e-12)
    c, s = np.cos(a), np.sin(a)
    p, axis = np.broadcast_arrays(p, axis)
    return p * c + np.cross(axis, p) * s + axis * (p * axis).sum(-1, keepdims=True) * (1 - c)


def _to_hsv(get: Get) -> np.ndarray:
    rgb = get("in")
    most, least = rgb.max(-1), rgb.min(-1)
    span = most - least
    safe = np.where(span > 0, span, 1.0)
    r, g, b = np.moveaxis(rgb, -1, 0)
    hue = np.where(most == r, (g - b) / safe, np.where(most == g, 2 + (b - r) / safe, 4 + (r - g) / safe)) / 6 % 1.0
    return np.stack([np.where(span > 0, hue, 0), _divided(span, most), most], axis=-1)


def _from_hsv(get: Get) -> np.ndarray:
    h, s, v = np.moveaxis(get("in"), -1, 0)
    k = (h[..., None] * 6 + np.array([5.0, 3.0, 1.0])) % 6
    return v[..., None] * (1 - s[..., None] * np.clip(np.minimum(k, 4 - k), 0, 1))


def _ramp(axis: int, names: tuple[str, str]) -> Callable[[Get], np.ndarray]:
    def node(get: Get) -> np.ndarray:
        t = np.clip(get("texcoord")[..., axis : axis + 1], 0, 1)
        a, b = get(names[0]), get(names[1])
        return a + (b - a) * t

    return node


def _split(axis: int, names: tuple[str, str]) -> Callable[[Get], np.ndarray]:
    return lambda get: np.where(get("texcoord")[..., axis : axis + 1] < get("center"), get(names[0]), get(names[1]))


def _noise(place: str) -> Callable[[Get], np.ndarray]:
    def node(get: Get) -> np.ndarray:
        return noise(_solid(get(place)))[..., None] * get("amplitude") + get("pivot")

    return node


def _fractal(place: str) -> Callable[[Get], np.ndarray]:
    def node(get: Get) -> np.ndarray:
        octaves, lacunarity, diminish = (get(name)[..., 0] for name in ("octaves", "lacunarity", "diminish"))
        return (2 * fractal(_solid(get(place)), octaves, lacunarity, diminish) - 1)[..., None] * get("amplitude")

    return node


def _solid(p: np.ndarray) -> np.ndarray:
    return p if p.shape[-1] == 3 else np.concatenate([p, np.zeros_like(p[..., :1])], axis=-1)


def _cell(place: str) -> Callable[[Get], np.ndarray]:
    return lambda get: hashed(*np.moveaxis(np.floor(_solid(get(place))), -1, 0))[0][..., None]


def _worley(place: str) -> Callable[[Get], np.ndarray]:
    """Return the distance to the nearest of scattered points (Worley 1996)."""

    def node(get: Get) -> np.ndarray:
        p, jitter = _solid(get(place)), get("jitter")
        cell, best = np.floor(p), np.full(p.shape[:-1], 1e9)
        is_flat = place == "texcoord"
        for offset in np.ndindex(3, 3, 1 if is_flat else 3):
            at = cell + np.array(offset) - np.array((1, 1, 0 if is_flat else 1))
            h = np.stack(hashed(*np.moveaxis(at, -1, 0)), axis=-1)
            way = at + 0.5 + (h - 0.5) * jitter - p
            best = np.minimum(best, np.linalg.norm(way[..., :2] if is_flat else way, axis=-1))
        return best[..., None]

    return node


def _extract(get: Get) -> np.ndarray:
    value, i = get("in"), int(get("index").flat[0])
    return value[..., i : i + 1]


def _combined(n: int) -> Callable[[Get], np.ndarray]:
    def node(get: Get) -> np.ndarray:
        parts = [get(f"in{k + 1}") for k in range(n)]
        shape = np.broadcast_shapes(*(p.shape[:-1] for p in parts))
        return np.concatenate([np.broadcast_to(p, (*shape, p.shape[-1])) for p in parts], axis=-1)

    return node


def _normalized(v: np.ndarray) -> np.ndarray:
    return v / np.maximum(np.linalg.norm(v, axis=-1, keepdims=True), 1e-12)


def _luminance(get: Get) -> np.ndarray:
    value = get("in")
    y = (value[..., :3] * get("lumacoeffs")[..., :3]).sum(-1, keepdims=True)
    return np.concatenate([np.repeat(y, 3, axis=-1), value[..., 3:]], axis=-1)


PRIMITIVES: dict[str, Callable[[Get], np.ndarray]] = {
    "constant": lambda get: get("value"),
    "dot": _of_one(lambda a: a),
    "add": _of_two(np.add),
    "subtract": _of_two(np.subtract),
    "multiply": _of_two(np.multiply),
    "divide": _of_two(_divided),
    "modulo": _of_two(lambda a, b: a - b * np.floor(_divided(a, b))),
    "power": _of_two(lambda a, b: np.sign(a) * np.abs(a) ** b),
    "min": _of_two(np.minimum),
    "max": _of_two(np.maximum),
    "atan2": lambda get: np.arctan2(get("iny"), get("inx")),
    "absval": _of_one(np.abs),
    "sign": _of_one(np.sign),
    "floor": _of_one(np.floor),
    "ceil": _of_one(np.ceil),
    "round": _of_one(np.round),
    "fract": _of_one(lambda a: a - np.floor(a)),
    "sin": _of_one(np.sin),
    "cos": _of_one(np.cos),
    "tan": _of_one(np.tan),
    "asin": _of_one(lambda a: np.arcsin(np.clip(a, -1, 1))),
    "acos": _of_one(lambda a: np.arccos(np.clip(a, -1, 1))),
    "sqrt": _of_one(lambda a: np.sqrt(np.maximum(a, 0))),
    "ln": _of_one(lambda a: np.log(np.maximum(a, 1e-30))),
    "exp": _of_one(lambda a: np.exp(np.minimum(a, 80))),
    "clamp": lambda get: np.clip(get("in"), get("low"), get("high")),
    "invert": lambda get: get("amount") - get("in"),
    "remap": _remap,
    "smoothstep": _smoothstep,
    "mix": lambda get: get("bg") + (get("fg") - get("bg")) * get("mix"),
    "normalize": _of_one(_normalized),
    "magnitude": _of_one(lambda a: np.linalg.norm(a, axis=-1, keepdims=True)),
    "dotproduct": _of_two(lambda a, b: (a * b).sum(-1, keepdims=True)),
    "crossproduct": _of_two(np.cross),
    "rotate2d": _rotate2d,
    "rotate3d": _rotate3d,
    "rgbtohsv": _to_hsv,
    "hsvtorgb": _from_hsv,
    "luminance": _luminance,
    "extract": _extract,
    "combine2": _combined(2),
    "combine3": _combined(3),
    "combine4": _combined(4),
    "ramplr": _ramp(0, ("valuel", "valuer")),
    "ramptb": _ramp(1, ("valueb", "valuet")),
    "splitlr": _split(0, ("valuel", "valuer")),
    "splittb": _split(1, ("valueb", "valuet")),
    "ifgreater": _compared(np.greater),
    "ifgreatereq": _compared(np.greater_equal),
    "ifequal": _compared(np.equal),
    "and": _of_two(lambda a, b: (a != 0) & (b != 0)),
    "or": _of_two(lambda a, b: (a != 0) | (b != 0)),
    "not": _of_one(lambda a: a == 0),
    "plus": _mixed(lambda f, b: b + f),
    "minus": _mixed(lambda f, b: b - f),
    "difference": _mixed(lambda f, b: np.abs(b - f)),
    "screen": _mixed(lambda f, b: 1 - (1 - f) * (1 - b)),
    "burn": _mixed(lambda f, b: np.where(f == 0, 0.0, 1 - _divided(1 - b, f))),
    "dodge": _mixed(lambda f, b: np.where(f == 1, 0.0, _divided(b, 1 - f))),
    "noise2d": _noise("texcoord"),
    "noise3d": _noise("position"),
    "fractal2d": _fractal("texcoord"),
    "fractal3d": _fractal("position"),
    "cellnoise2d": _cell("texcoord"),
    "cellnoise3d": _cell("position"),
    "worleynoise2d": _worley("texcoord"),
    "worleynoise3d": _worley("position"),
    "blackbody": lambda get: _blackbody(float(get("temperature").flat[0])),
}


def _blackbody(kelvin: float) -> np.ndarray:
    from nocturne.colour.blackbody import blackbody
    from nocturne.colour.spaces import working_to_rec709

    return np.maximum(working_to_rec709() @ blackbody(max(kelvin, 800.0)), 0)[None, None]


def fitted(value: Any, width: int) -> np.ndarray:
    """Return a value with so many parts, as `convert` does: one number for all, or an alpha of 1 added or left out."""
    value = np.asarray(value, float)
    has = value.shape[-1]
    if has == width:
        return value
    if has == 1:
        return np.repeat(value, width, axis=-1)
    if has > width:
        return value[..., :width]
    fill = np.zeros((*value.shape[:-1], width - has))
    if width == 4:
        fill[..., -1] = 1.0
    return np.concatenate([value, fill], axis=-1)

"""What a texture puts out, worked out in NumPy: for small pictures of it. The renderer does the same at each hit."""

import math

import numpy as np

from nocturne.scene.materials import Texture


def affine(texture: Texture) -> np.ndarray:
    """Return the (2, 3) matrix from texture coordinates of the surface to those of the picture."""
    c, s = math.cos(math.radians(texture.turn_deg)), math.sin(math.radians(texture.turn_deg))
    rx, ry = texture.repeat
    return np.array([[rx * c, -ry * s, texture.offset[0]], [rx * s, ry * c, texture.offset[1]]])


def looked_up(image: np.ndarray, u: np.ndarray, v: np.ndarray) -> np.ndarray:
    """Return (..., 3) bilinear values of a repeating picture (h, w, 3) at coordinates whose v points up."""
    height, width = image.shape[:2]
    x = (u - np.floor(u)) * width - 0.5
    y = (1 - (v - np.floor(v))) * height - 0.5
    x0, y0 = np.floor(x).astype(int), np.floor(y).astype(int)
    fx, fy = (x - x0)[..., None], (y - y0)[..., None]
    a, b = image[y0 % height, x0 % width], image[y0 % height, (x0 + 1) % width]
    c, d = image[(y0 + 1) % height, x0 % width], image[(y0 + 1) % height, (x0 + 1) % width]
    return (a * (1 - fx) + b * fx) * (1 - fy) + (c * (1 - fx) + d * fx) * fy


def sampled(texture: Texture, image: np.ndarray, size: int) -> np.ndarray:
    """Return (size, size, 3) values of a texture over one unit of texture space, the top row at v = 1.

    image: (h, w, 3) linear values. The amount is left out: it mixes with what lies under the step.
    """
    at = (np.arange(size) + 0.5) / size
    u, v = np.meshgrid(at, at[::-1])
    # A picture that is far larger than the small one is thinned out first, else it would be nothing but noise.
    step = max(1, int(max(image.shape[:2]) * max(map(abs, texture.repeat)) / (2 * size)))
    (a, b, c), (d, e, f) = affine(texture)
    values = looked_up(np.asarray(image[::step, ::step], float), a * u + b * v + c, d * u + e * v + f)
    return 1 - values if texture.invert else values

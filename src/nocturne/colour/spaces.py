"""RGB spaces from their chromaticities; the working space is linear ACEScg (AP1 primaries, ACES white)."""

from functools import cache

import numpy as np

# x, y of red, green, blue, white. AP0, AP1: SMPTE ST 2065-1, S-2014-004 (ACEScg); Rec.709: BT.709-6.
AP1 = ((0.713, 0.293), (0.165, 0.830), (0.128, 0.044), (0.32168, 0.33767))
AP0 = ((0.7347, 0.2653), (0.0, 1.0), (0.0001, -0.077), (0.32168, 0.33767))
REC709 = ((0.64, 0.33), (0.30, 0.60), (0.15, 0.06), (0.3127, 0.3290))

_BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])


def xy_to_xyz(x: float, y: float) -> np.ndarray:
    """Return XYZ with Y = 1 of chromaticity (x, y)."""
    return np.array([x / y, 1.0, (1 - x - y) / y])


@cache
def rgb_to_xyz(space: tuple) -> np.ndarray:
    """Return the (3, 3) matrix from linear RGB to XYZ (SMPTE RP 177-1993)."""
    primaries = np.stack([xy_to_xyz(*xy) for xy in space[:3]], axis=1)
    white = xy_to_xyz(*space[3])
    return primaries * np.linalg.solve(primaries, white)


def adaptation(source: np.ndarray, target: np.ndarray) -> np.ndarray:
    """Return the (3, 3) Bradford matrix on XYZ that takes white `source` to `target` (Lam 1985)."""
    gain = (_BRADFORD @ target) / (_BRADFORD @ source)
    return np.linalg.inv(_BRADFORD) @ np.diag(gain) @ _BRADFORD


@cache
def rgb_to_rgb(source: tuple, target: tuple) -> np.ndarray:
    """Return the (3, 3) matrix from linear RGB of one space to another, white to white (Bradford)."""
    move = adaptation(xy_to_xyz(*source[3]), xy_to_xyz(*target[3]))
    return np.linalg.inv(rgb_to_xyz(target)) @ move @ rgb_to_xyz(source)


@cache
def rec709_to_working() -> np.ndarray:
    """Return the (3, 3) matrix from linear Rec.709 to ACEScg, white to white."""
    return rgb_to_rgb(REC709, AP1)


@cache
def working_to_rec709() -> np.ndarray:
    """Return the (3, 3) matrix from ACEScg to linear Rec.709."""
    return np.linalg.inv(rec709_to_working())


def xyz_to_working(xyz: np.ndarray) -> np.ndarray:
    """Return ACEScg of (..., 3) XYZ, without adaptation: white stays where it is."""
    return np.asarray(xyz) @ np.linalg.inv(rgb_to_xyz(AP1)).T


def luminance(rgb: np.ndarray) -> np.ndarray:
    """Return Y of (..., 3) ACEScg."""
    return np.asarray(rgb) @ rgb_to_xyz(AP1)[1]


def encode_srgb(linear: np.ndarray) -> np.ndarray:
    """Return sRGB-encoded values of linear ones in 0..1 (IEC 61966-2-1)."""
    linear = np.asarray(linear, float)
    return np.where(linear <= 0.0031308, linear * 12.92, 1.055 * np.maximum(linear, 1e-9) ** (1 / 2.4) - 0.055)


def decode_srgb(encoded: np.ndarray) -> np.ndarray:
    """Return linear values of sRGB-encoded ones (IEC 61966-2-1)."""
    encoded = np.asarray(encoded, float)
    return np.where(encoded <= 0.04045, encoded / 12.92, ((np.maximum(encoded, 0) + 0.055) / 1.055) ** 2.4)


def from_srgb(*rgb: float) -> tuple[float, float, float]:
    """Return the working-space colour of an sRGB-encoded one in 0..1."""
    r, g, b = rec709_to_working() @ decode_srgb(np.array(rgb))
    return float(r), float(g), float(b)


def to_srgb(rgb: tuple) -> np.ndarray:
    """Return the sRGB-encoded colour of a working-space one, clipped to 0..1."""
    return encode_srgb(np.clip(working_to_rec709() @ np.asarray(rgb, float), 0, 1))


def is_displayable(rgb: tuple) -> bool:
    """Return False if an sRGB display cannot show the hue and saturation of a working-space colour."""
    linear = working_to_rec709() @ np.asarray(rgb, float)
    return bool(linear.min() >= -1e-4 * max(1.0, linear.max()))

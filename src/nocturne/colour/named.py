"""Colour spaces by their names: OpenColorIO's own configuration for computer graphics."""

from functools import cache

import numpy as np
import PyOpenColorIO as ocio

CONFIG = "cg-config-v4.0.0_aces-v2.0_ocio-v2.5"
WORKING_SPACE = "ACEScg"


@cache
def config() -> ocio.Config:
    """Return the colour configuration."""
    return ocio.Config.CreateFromBuiltinConfig(CONFIG)


def is_known(name: str) -> bool:
    """Return True if a colour space, or one of that other name, is in the configuration."""
    return config().getColorSpace(name) is not None


@cache
def _between(source: str, target: str) -> ocio.CPUProcessor:
    return config().getProcessor(source, target).getDefaultCPUProcessor()


def _converted(rgb: np.ndarray, name: str, source: str, target: str) -> np.ndarray:
    if not is_known(name):
        raise ValueError(f"no colour space “{name}” is known")
    out = np.array(rgb, np.float32, order="C")
    _between(source, target).applyRGB(out)
    return out


def to_working(rgb: np.ndarray, name: str) -> np.ndarray:
    """Return (..., 3) float32 ACEScg of numbers in a named colour space.

    Raises
    ------
    ValueError
        If the configuration has no such space.
    """
    return _converted(rgb, name, name, WORKING_SPACE)


def from_working(rgb: np.ndarray, name: str) -> np.ndarray:
    """Return (..., 3) float32 numbers in a named colour space of ACEScg colours.

    Raises
    ------
    ValueError
        If the configuration has no such space.
    """
    return _converted(rgb, name, WORKING_SPACE, name)

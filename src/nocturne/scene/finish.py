"""The grade of a picture, applied after the render."""

from typing import Literal

from nocturne.scene.fields import Model, described

VIEWS = (("aces", "ACES"), ("plain", "Plain"))


class Finish(Model):
    """Steps on scene-linear light, in the order in which they are listed, then the view."""

    exposure: float = described(
        0.0,
        "Exposure",
        "Brightens or darkens everything, after the camera.",
        unit="stop",
        low=-12,
        high=12,
        soft_high=3,
    )
    bloom: float = described(0.0, "Bloom", "Light of bright parts spills around them.", low=0, high=1)
    bloom_size: float = described(
        0.08, "Bloom size", "Reach of the spill, in parts of the picture's height.", low=0.005, high=0.5
    )
    vignette: float = described(0.0, "Vignette", "Darkens the corners, as lenses do.", low=0, high=1)
    contrast: float = described(1.0, "Contrast", "Steepness of the tone curve about middle grey.", low=0.3, high=3)
    highlights: float = described(
        0.0, "Highlights", "Raises or holds back what is brighter than middle grey.", unit="stop", low=-3, high=3
    )
    shadows: float = described(
        0.0, "Shadows", "Lifts or deepens what is darker than middle grey.", unit="stop", low=-3, high=3
    )
    saturation: float = described(1.0, "Saturation", "0: grey. 1: as it is.", low=0, high=2)
    view: Literal["aces", "plain"] = described(
        "aces",
        "View",
        "ACES: filmic, for photographs. Plain: straight to the screen, clipped.",
        kind="choice",
        choices=VIEWS,
    )

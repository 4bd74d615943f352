"""Views: where the camera stands, its lens, its exposure."""

import math
from typing import Literal

from nocturne.scene.fields import Model, Vector, described, within


class View(Model):
    """One saved view with the whole of its camera.

    home: the upper three rows of its group's matrix when the view was placed.
    """

    id: str
    name: str = described("View", "Name", kind="text")
    parent: str = described("", "Moves with", "The group of the set that carries it along.", kind="thing")
    home: tuple[float, ...] = ()
    eye: Vector = described((2.0, -3.0, 1.6), "Eye", "Where the camera stands.", kind="lengths", unit="m")
    target: Vector = described(
        (0.0, 0.0, 0.8), "Aim", "The point in the middle of the picture.", kind="lengths", unit="m"
    )
    roll_deg: float = described(0.0, "Roll", "Tilts the horizon.", unit="°", low=-180, high=180)
    projection: Literal["perspective", "orthographic", "panorama"] = described(
        "perspective",
        "Projection",
        "Perspective as a lens sees, orthographic without any, or a panorama all around.",
        kind="choice",
        choices=(("perspective", "Perspective"), ("orthographic", "Orthographic"), ("panorama", "Panorama, 360°")),
    )
    span_m: float = described(
        5.0,
        "Frame width",
        "How wide what fills the frame is, at any distance.",
        unit="m",
        low=1e-4,
        high=1e6,
        soft_high=50,
        log=True,
    )
    focal_mm: float = described(
        35.0,
        "Focal length",
        "24 mm: wide. 50 mm: natural. 85 mm: portrait.",
        unit="mm",
        low=4,
        high=1200,
        soft_high=200,
        log=True,
    )
    sensor_mm: float = described(36.0, "Sensor width", "36 mm is full frame.", unit="mm", low=1, high=200)
    shift_x: float = described(0.0, "Shift across", "Moves the picture without turning the camera.", low=-2, high=2)
    shift_y: float = described(0.0, "Shift up", "Moves the picture up and keeps verticals upright.", low=-2, high=2)
    iso: float = described(100.0, "ISO", "Twice the value: one stop brighter.", low=1, high=1e6, log=True)
    shutter_s: float = described(
        1 / 60, "Shutter", "Twice the time: one stop brighter.", kind="shutter", unit="s", low=1e-6, high=3600, log=True
    )
    f_number: float = described(
        4.0,
        "f-number",
        "A smaller one is brighter, and sharp over less depth.",
        unit="f/",
        kind="fnumber",
        low=0.5,
        high=128,
        log=True,
    )
    white_k: float = described(
        6000.0,
        "White balance",
        "Light of this temperature looks neutral.",
        unit="K",
        low=1500,
        high=25000,
        soft_high=12000,
    )
    depth_of_field: bool = described(
        False, "Depth of field", "Blur what is out of focus, by the f-number.", kind="switch"
    )
    focus_m: float = described(3.0, "Focus distance", "Pick it in the picture.", unit="m", low=0.01, high=1e5, log=True)
    focus_middle: bool = described(
        False, "Focus on the middle", "Whatever is in the middle of the frame stays sharp.", kind="switch"
    )
    focus_on: str = described("", "Focus held on", "A thing that stays sharp when it or the camera moves.", kind="text")
    focus_point: Vector = described(
        (0.0, 0.0, 0.0), "Held point", "What of it is sharp, in its own space.", kind="lengths", unit="m"
    )
    blades: int = described(
        0,
        "Blades",
        "Of the diaphragm: how many corners a blurred light has. 0: round.",
        kind="whole",
        low=0,
        high=16,
    )
    blades_turn_deg: float = described(0.0, "Blades' turn", "Turns the corners.", unit="°", low=-180, high=180)
    cut_m: float = described(
        0.0,
        "Cut away before",
        "Nothing nearer than this is shown, so that you can look in through a wall. It still shades.",
        unit="m",
        low=0,
        high=1e4,
        soft_high=5,
    )
    far_m: float = described(
        0.0,
        "Cut away beyond",
        "Nothing farther than this is shown, only the sky. It still shades. 0: everything is.",
        unit="m",
        low=0,
        high=1e8,
        soft_high=100,
    )
    width: int = described(1280, "Width", "Of the finished picture.", unit="px", kind="whole", low=16, high=16384)
    height: int = described(720, "Height", "Of the finished picture.", unit="px", kind="whole", low=16, high=16384)

    @property
    def ev100(self) -> float:
        """Return the exposure value at ISO 100 (ISO 2720)."""
        return ev100(self.f_number, self.shutter_s, self.iso)

    @property
    def white_luminance(self) -> float:
        """Return the luminance, cd/m2, that is exposed to 1.0."""
        return saturation_luminance(self.ev100)


def projected(view: View, projection: str) -> View:
    """Return the view in another projection, with a frame that suits it.

    An orthographic one is as wide as the frame was at the aim, a panorama twice as wide as it is high.
    """
    values: dict = {"projection": projection}
    if projection == "orthographic" and view.projection != "orthographic":
        away = math.dist(view.eye, view.target)
        width = 2 * half_width(view, away) if view.projection == "perspective" else away
        values["span_m"] = within(View, "span_m", float(f"{width:.4g}"))
    if projection == "panorama":
        values["height"] = within(View, "height", view.width // 2)
    return view.model_copy(update=values)


def half_width(view: View, distance: float) -> float:
    """Return half of how wide what fills the frame is at a distance, m; of a panorama, half of the way around."""
    if view.projection == "orthographic":
        return view.span_m / 2
    return distance * half_angle(view)


def half_angle(view: View) -> float:
    """Return half the frame's width over its distance; of a panorama in radians, of parallel rays where they focus."""
    if view.projection == "orthographic":
        return view.span_m / 2 / view.focus_m
    return math.pi if view.projection == "panorama" else view.sensor_mm / (2 * view.focal_mm)


def ev100(f_number: float, shutter_s: float, iso: float) -> float:
    """Return log2(N^2 / t * 100 / S)."""
    return math.log2(f_number**2 / shutter_s * 100 / iso)


def saturation_luminance(ev: float) -> float:
    """Return 1.2 * 2^EV100, the luminance that a sensor maps to 1.0 (ISO 12232, saturation-based sensitivity)."""
    return 1.2 * 2.0**ev


def aperture_radius(view: View) -> float:
    """Return the radius, m, of the circle around the opening: with blades, the corners of a polygon of equal area."""
    n = view.blades
    return lens_radius(view) * (math.sqrt(2 * math.pi / (n * math.sin(2 * math.pi / n))) if n >= 3 else 1.0)


def lens_radius(view: View) -> float:
    """Return the radius, m, of the opening that blurs, 0 without depth of field."""
    return view.focal_mm * 1e-3 / (2 * view.f_number) if view.depth_of_field else 0.0

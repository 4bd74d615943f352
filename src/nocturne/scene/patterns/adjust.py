"""What is done to colours and numbers that lie under: ramps, levels, hue, maths, channels; and mixing of two."""

from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import field_validator

from nocturne.scene.curves import Point, curve
from nocturne.scene.fields import Colour, described
from nocturne.scene.patterns.noises import grey
from nocturne.scene.patterns.step import Step

LUMINANCE = np.array([0.2722287, 0.6740818, 0.0536895])  # of linear ACEScg
CURVE_ROWS = 64  # of a curve's table
FLAT = 1e-5  # parts of a colour that differ by less are grey: rounding alone would give it a hue


FAMILY = "Colours and numbers"


class _Adjust(Step):
    family: ClassVar[str] = FAMILY
    is_placed: ClassVar[bool] = False
    needs_under: ClassVar[bool] = True


def hsv(rgb: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return hue 0..1, saturation and value of colours (..., 3) (Smith 1978, Color gamut transform pairs)."""
    value, low = rgb.max(-1), rgb.min(-1)
    way = value - low
    safe = np.where(way > FLAT, way, 1.0)
    r, g, b = np.moveaxis(rgb, -1, 0)
    hue = np.where(value == r, (g - b) / safe, np.where(value == g, 2 + (b - r) / safe, 4 + (r - g) / safe))
    hue = np.where(way > FLAT, np.mod(hue / 6, 1), 0.0)
    return hue, np.where(way > FLAT, way / np.maximum(value, 1e-9), 0.0), value


def rgb_of(hue: np.ndarray, saturation: np.ndarray, value: np.ndarray) -> np.ndarray:
    """Return (..., 3) colours of hue 0..1, saturation and value."""
    parts = [np.clip(np.abs(np.mod(hue * 6 + k, 6) - 3) - 1, 0, 1) for k in (0, 4, 2)]
    return np.stack([value * (1 - saturation * (1 - part)) for part in parts], axis=-1)


class Constant(_Adjust):
    """One colour; what drives it is a pattern of its own, as a whole."""

    title: ClassVar[str] = "Colour"
    about: ClassVar[str] = "A plain colour; or steps inside of it that go together as one."
    needs_under: ClassVar[bool] = False

    kind: Literal["constant"] = "constant"
    value: Colour = described((0.5, 0.5, 0.5), "Colour", "What it puts out.", kind="colour")

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) the colour."""
        return np.broadcast_to(np.asarray(f.value, float), under.shape)


class Mix(_Adjust):
    """Two patterns, one over the other where a mask is light."""

    title: ClassVar[str] = "Mix"
    about: ClassVar[str] = "Two colours or patterns, by a mask."
    needs_under: ClassVar[bool] = False

    kind: Literal["mix"] = "mix"
    bg: Colour = described((0.0, 0.0, 0.0), "First", "What is seen where the mask is dark.", kind="colour")
    fg: Colour = described((1.0, 1.0, 1.0), "Second", "What is seen where the mask is light.", kind="colour")
    mix: float = described(0.5, "Mask", "0: the first. 1: the second.", kind="percent", low=0, high=1)

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) of both."""
        a, b = np.asarray(f.bg, float), np.asarray(f.fg, float)
        k = np.clip(np.asarray(f.mix, float), 0, 1)[..., None]
        return np.broadcast_to(a + (b - a) * k, under.shape)


class Ramp(_Adjust):
    """Colours for the lightness of what lies under it."""

    title: ClassVar[str] = "Ramp"
    about: ClassVar[str] = "Gives colours to the lightness under it."

    kind: Literal["ramp"] = "ramp"
    style: Literal["linear", "smooth", "steps"] = described(
        "linear",
        "Between stops",
        "A straight way, an eased one, or none.",
        kind="choice",
        choices=(("linear", "Straight"), ("smooth", "Eased"), ("steps", "Steps")),
    )
    stops: tuple[tuple[float, float, float, float], ...] = described(
        ((0.0, 0.0, 0.0, 0.0), (1.0, 1.0, 1.0, 1.0)),
        "Stops",
        "Where, 0..1, and which colour.",
        kind="stops",
    )

    @field_validator("stops")
    @classmethod
    def _stops_rise(cls, stops):
        if not 1 <= len(stops) <= 16:
            raise ValueError("a ramp has 1 to 16 stops")
        if any(not 0 <= v <= 1 for stop in stops for v in stop):
            raise ValueError("places and colours of a ramp's stops are from 0 to 1")
        return tuple(sorted(stops, key=lambda stop: stop[0]))

    @property
    def table(self) -> np.ndarray:
        """Return (n, 4): place and colour of each stop."""
        return np.asarray(self.stops, float)

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) the colour at the lightness of what lies under."""
        t = np.clip(under @ LUMINANCE, 0, 1)
        stops = self.table
        after = np.searchsorted(stops[:, 0], t, side="right")
        a, b = stops[np.clip(after - 1, 0, None)], stops[np.clip(after, None, len(stops) - 1)]
        way = b[..., 0] - a[..., 0]
        k = np.where(way > 1e-9, (t - a[..., 0]) / np.where(way > 1e-9, way, 1.0), 0.0).clip(0, 1)
        k = k if f.style == 0 else k * k * (3 - 2 * k) if f.style == 1 else np.zeros_like(k)
        return a[..., 1:] + (b - a)[..., 1:] * k[..., None]


class Curve(_Adjust):
    """What lies under it, led along a curve that is drawn by hand."""

    title: ClassVar[str] = "Curve"
    about: ClassVar[str] = "Lifts and lowers what lies under it along a curve drawn by hand."

    kind: Literal["curveadjust"] = "curveadjust"
    points: tuple[Point, ...] = described(
        ((0.0, 0.0), (1.0, 1.0)),
        "Curve",
        "What lies under it across, 0 to 1; what becomes of it upwards. Each channel alike.",
        kind="share curve",
    )

    @field_validator("points")
    @classmethod
    def _points_rise(cls, points):
        if not 2 <= len(points) <= 32:
            raise ValueError("a curve has 2 to 32 points")
        if any(not 0 <= v <= 1 for point in points for v in point):
            raise ValueError("a curve's points lie between 0 and 1")
        return tuple(sorted(points))

    @property
    def table(self) -> np.ndarray:
        """Return (n, 4): the curve's height at even steps from 0 to 1, four in a row."""
        return np.clip(curve(self.points, np.linspace(0, 1, 4 * CURVE_ROWS)), 0, 1).reshape(-1, 4)

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) the curve's height at each channel."""
        heights = self.table.ravel()
        return np.interp(np.clip(under, 0, 1) * (len(heights) - 1), np.arange(len(heights)), heights)


class Levels(_Adjust):
    """From a range to another one, with the middle moved."""

    title: ClassVar[str] = "Levels"
    about: ClassVar[str] = "Stretches a range to another; moves the middle."

    kind: Literal["range"] = "range"
    inlow: float = described(0.0, "From", "What becomes the least.", low=-10, high=10, soft_high=1)
    inhigh: float = described(1.0, "To", "What becomes the most.", low=-10, high=10, soft_high=1)
    gamma: float = described(1.0, "Middle", "Above 1 the middle gets lighter.", low=0.05, high=20, soft_high=4)
    outlow: float = described(0.0, "Becomes", "What the least becomes.", low=-1e9, high=1e9, soft_high=1)
    outhigh: float = described(1.0, "up to", "What the most becomes.", low=-1e9, high=1e9, soft_high=1)
    doclamp: bool = described(True, "Held within", "Nothing goes beyond the new range.", kind="switch")

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) in the new range."""
        a, b, gamma, low, high = (
            np.asarray(v, float)[..., None] for v in (f.inlow, f.inhigh, f.gamma, f.outlow, f.outhigh)
        )
        way = np.where(np.abs(b - a) < 1e-6, 1e-6, b - a)
        t = (under - a) / way
        t = np.clip(t, 0, 1) if f.doclamp else t
        t = np.sign(t) * np.abs(t) ** (1 / np.maximum(gamma, 0.01))
        return low + (high - low) * t


class Clamp(_Adjust):
    """Nothing below and nothing above."""

    title: ClassVar[str] = "Clamp"
    about: ClassVar[str] = "Cuts off what is below or above."

    kind: Literal["clamp"] = "clamp"
    low: float = described(0.0, "Least", "Nothing is less.", low=-1e6, high=1e6, soft_high=1)
    high: float = described(1.0, "Most", "Nothing is more.", low=-1e6, high=1e6, soft_high=1)

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) between both."""
        low, high = np.asarray(f.low, float)[..., None], np.asarray(f.high, float)[..., None]
        return np.minimum(np.maximum(under, low), high)


class Hue(_Adjust):
    """Hue, saturation and brightness."""

    title: ClassVar[str] = "Hue and saturation"
    about: ClassVar[str] = "Turns the hue; more or less colour; brighter or darker."

    kind: Literal["hsvadjust"] = "hsvadjust"
    hue: float = described(0.0, "Hue", "Turned by.", unit="°", low=-360, high=360)
    saturation: float = described(1.0, "Saturation", "0: grey. 1: as it is.", low=0, high=4, soft_high=2)
    brightness: float = described(1.0, "Brightness", "1: as it is.", low=0, high=10, soft_high=2)

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) turned and scaled."""
        hue, saturation, value = hsv(np.maximum(under, 0))
        turned = np.mod(hue + np.asarray(f.hue, float) / 360, 1)
        strong = np.clip(saturation * np.asarray(f.saturation, float), 0, 1)
        return rgb_of(turned, strong, value * np.asarray(f.brightness, float))


class Contrast(_Adjust):
    """More or less contrast about a middle."""

    title: ClassVar[str] = "Contrast"
    about: ClassVar[str] = "More or less contrast about a middle."

    kind: Literal["contrast"] = "contrast"
    strength: float = described(1.5, "Contrast", "1: as it is.", low=0, high=50, soft_high=5)
    pivot: float = described(0.5, "Middle", "What stays.", low=0, high=1)

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) further from the middle, never below 0."""
        k, pivot = np.asarray(f.strength, float)[..., None], np.asarray(f.pivot, float)[..., None]
        return np.maximum((under - pivot) * k + pivot, 0)


_OPERATIONS = (
    ("multiply", "Times"),
    ("add", "Plus"),
    ("power", "To the power of"),
    ("modulo", "Remainder by"),
    ("absval", "Without sign"),
    ("sin", "Sine, turns of"),
    ("floor", "Steps of"),
    ("min", "At most"),
    ("max", "At least"),
)


class Maths(_Adjust):
    """One operation on each number."""

    title: ClassVar[str] = "Maths"
    about: ClassVar[str] = "One operation on each number."

    kind: Literal["maths"] = "maths"
    operation: Literal[tuple(name for name, _ in _OPERATIONS)] = described(
        "multiply", "Operation", "What is done with the number.", kind="choice", choices=_OPERATIONS
    )
    number: float = described(2.0, "Number", "With what.", low=-1e6, high=1e6, soft_high=10)

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) of the operation."""
        n = np.asarray(f.number, float)[..., None]
        safe = np.where(np.abs(n) < 1e-6, 1e-6, n)
        made = (
            lambda: under * n,
            lambda: under + n,
            lambda: np.maximum(under, 0) ** n,
            lambda: under - safe * np.floor(under / safe),
            lambda: np.abs(under),
            lambda: 0.5 + 0.5 * np.sin(2 * np.pi * under * n),
            lambda: np.floor(under / safe) * safe,
            lambda: np.minimum(under, n),
            lambda: np.maximum(under, n),
        )
        return np.broadcast_to(made[int(f.operation)](), under.shape)


_CHANNELS = (
    ("luminance", "Luminance"),
    ("red", "Red"),
    ("green", "Green"),
    ("blue", "Blue"),
    ("largest", "Largest"),
    ("hue", "Hue"),
    ("saturation", "Saturation"),
)


class Channel(_Adjust):
    """One number of a colour."""

    title: ClassVar[str] = "Channel"
    about: ClassVar[str] = "One number of the colour under it."

    kind: Literal["extract"] = "extract"
    channel: Literal[tuple(name for name, _ in _CHANNELS)] = described(
        "luminance", "Which", "Of the colour under it.", kind="choice", choices=_CHANNELS
    )

    def values(self, f: Any, q: np.ndarray, spot: Any, under: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) grey."""
        if f.channel == 0:
            return grey(under @ LUMINANCE)
        if f.channel <= 3:
            return grey(under[..., int(f.channel) - 1])
        hue, saturation, value = hsv(np.maximum(under, 0))
        return grey((value, hue, saturation)[int(f.channel) - 4])

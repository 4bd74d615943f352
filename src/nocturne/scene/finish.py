"""The grade of a picture, applied after the render: a stack of steps on scene-linear light, then the view."""

from typing import Annotated, Literal

from pydantic import Field

from nocturne.scene.fields import Model, described

VIEWS = (("aces", "ACES"), ("plain", "Plain"))
Point = tuple[float, float]
CURVE_LOW, CURVE_HIGH = -8.0, 6.0  # stops from middle grey between which a curve has points
STRAIGHT: tuple[Point, ...] = ((CURVE_LOW, CURVE_LOW), (CURVE_HIGH, CURVE_HIGH))
S_CURVE: tuple[Point, ...] = ((CURVE_LOW, CURVE_LOW), (-3.0, -3.7), (0.0, 0.0), (2.0, 2.6), (CURVE_HIGH, CURVE_HIGH))


class Step(Model):
    """What every step of the stack has."""

    id: str = ""
    on: bool = described(True, "On", "Whether the step is applied.", kind="switch")
    amount: float = described(
        1.0, "Amount", "How much of the step: 0 none, 100 all of it.", unit="%", kind="percent", low=0, high=1
    )


class Exposure(Step):
    """Brightens or darkens everything."""

    kind: Literal["exposure"] = "exposure"
    stops: float = described(
        0.0,
        "Exposure",
        "Brightens or darkens everything, after the camera.",
        unit="stop",
        low=-12,
        high=12,
        soft_high=3,
    )


class WhiteBalance(Step):
    """Makes light of a colour look neutral."""

    kind: Literal["white"] = "white"
    kelvin: float = described(
        6000.0,
        "Neutral light",
        "Light of this temperature looks neutral: lower cools the picture, higher warms it.",
        unit="K",
        low=1500,
        high=25000,
        soft_high=12000,
    )
    tint: float = described(0.0, "Tint", "Below 0 greener, above 0 more magenta.", low=-1, high=1)


class Curves(Step):
    """Free curves over stops from middle grey."""

    kind: Literal["curves"] = "curves"
    master: tuple[Point, ...] = described(STRAIGHT, "All", "Brightness of all colours together.", kind="curve")
    red: tuple[Point, ...] = described(STRAIGHT, "Red", "Red alone.", kind="curve")
    green: tuple[Point, ...] = described(STRAIGHT, "Green", "Green alone.", kind="curve")
    blue: tuple[Point, ...] = described(STRAIGHT, "Blue", "Blue alone.", kind="curve")


class Tone(Step):
    """A filmic tone curve about middle grey."""

    kind: Literal["tone"] = "tone"
    contrast: float = described(1.0, "Contrast", "Steepness of the curve about middle grey.", low=0.3, high=3)
    toe: float = described(0.0, "Toe", "How early the darkest parts run into black.", low=0, high=1)
    shoulder: float = described(0.0, "Shoulder", "How early the brightest parts run into white.", low=0, high=1)
    highlights: float = described(
        0.0, "Highlights", "Raises or holds back what is brighter than middle grey.", unit="stop", low=-3, high=3
    )
    shadows: float = described(
        0.0, "Shadows", "Lifts or deepens what is darker than middle grey.", unit="stop", low=-3, high=3
    )


class Saturation(Step):
    """Strength of colours."""

    kind: Literal["saturation"] = "saturation"
    saturation: float = described(1.0, "Saturation", "0: grey. 1: as it is.", low=0, high=2)


class Bloom(Step):
    """Light of bright parts spills around them, and into streaks."""

    kind: Literal["bloom"] = "bloom"
    bloom: float = described(0.35, "Bloom", "Light that spills evenly around bright parts.", low=0, high=1)
    size: float = described(
        0.08, "Size", "Reach of the spill, in parts of the picture's height.", low=0.005, high=0.5, log=True
    )
    glare: float = described(0.0, "Glare", "Light drawn out into streaks, as by a lens stopped down.", low=0, high=1)
    streaks: int = described(6, "Streaks", "How many streaks a point of light has.", kind="whole", low=2, high=18)
    length: float = described(
        0.2, "Length", "Of a streak, in parts of the picture's height.", low=0.02, high=0.8, log=True
    )
    angle_deg: float = described(20.0, "Turn", "Turns the streaks.", unit="°", low=-180, high=180)


class Vignette(Step):
    """Darkens the corners."""

    kind: Literal["vignette"] = "vignette"
    strength: float = described(0.35, "Vignette", "Darkens the corners, as lenses do.", low=0, high=1)


class Fringing(Step):
    """Colours part towards the corners."""

    kind: Literal["fringing"] = "fringing"
    shift: float = described(
        0.15,
        "Fringing",
        "How far red and blue part in the corner, in percent of the way from the middle.",
        low=-2,
        high=2,
        soft_high=1,
    )


class Sharpening(Step):
    """Brings out fine contrast."""

    kind: Literal["sharpening"] = "sharpening"
    strength: float = described(0.4, "Strength", "How much fine contrast is brought out.", low=0, high=2)
    radius: float = described(
        1.2, "Radius", "Of what counts as fine, in pixels of a picture 1080 high.", unit="px", low=0.3, high=12
    )


class Grain(Step):
    """Grain of film."""

    kind: Literal["grain"] = "grain"
    strength: float = described(0.25, "Strength", "How far grains differ, in stops.", unit="stop", low=0, high=2)
    size: float = described(1.6, "Size", "Of a grain, in pixels of a picture 1080 high.", unit="px", low=0.5, high=12)
    colour: float = described(0.3, "Colour", "0: grey grains. 1: each colour has its own.", low=0, high=1)


class Lut(Step):
    """A table from a .cube file."""

    kind: Literal["lut"] = "lut"
    path: str = described("", "Table", "A .cube file.", kind="file", holds="table")
    place: Literal["view", "log"] = described(
        "view",
        "Made for",
        "Display: a look for finished pictures, applied after the view. Log: for ACEScct, applied in the stack.",
        kind="choice",
        choices=(("view", "Display"), ("log", "Log (ACEScct)")),
    )


AnyStep = Annotated[
    Exposure | WhiteBalance | Curves | Tone | Saturation | Bloom | Vignette | Fringing | Sharpening | Grain | Lut,
    Field(discriminator="kind"),
]
STEPS: dict[str, type[Step]] = {
    model.model_fields["kind"].default: model
    for model in (
        Exposure,
        WhiteBalance,
        Curves,
        Tone,
        Saturation,
        Bloom,
        Vignette,
        Fringing,
        Sharpening,
        Grain,
        Lut,
    )
}
STEP_NAMES = {
    "exposure": "Exposure",
    "white": "White balance",
    "curves": "Curves",
    "tone": "Tone curve",
    "saturation": "Saturation",
    "bloom": "Bloom and glare",
    "vignette": "Vignette",
    "fringing": "Fringing",
    "sharpening": "Sharpening",
    "grain": "Grain",
    "lut": "Look-up table",
}
# Where light passes them on its way: lens, then film, then lab. A new step goes to its place in this order.
ORDER = (
    "bloom",
    "fringing",
    "vignette",
    "exposure",
    "white",
    "tone",
    "curves",
    "saturation",
    "lut",
    "sharpening",
    "grain",
)


class Finish(Model):
    """Steps on scene-linear light, from above downwards, then the view."""

    steps: tuple[AnyStep, ...] = ()
    view: Literal["aces", "plain"] = described(
        "aces",
        "View",
        "ACES: filmic, for photographs. Plain: straight to the screen, clipped.",
        kind="choice",
        choices=VIEWS,
    )

    @property
    def exposure(self) -> float:
        """Return the stops of the exposure step, 0 if there is none."""
        return next((step.stops for step in self.steps if step.kind == "exposure" and step.on), 0.0)

    def step(self, id: str) -> Step | None:
        """Return the step of an id, None if it is not there."""
        return next((step for step in self.steps if step.id == id), None)

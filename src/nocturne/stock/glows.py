"""What gives light: tubes, flames, embers, screens and shades."""

from nocturne.scene.patterns import Facing, Fractal, Levels, Ramp
from nocturne.stock.ready import Ready, ready, rgb

KIND = "Light-giving"


def _tube(name: str, tags: str, rim: str, middle: str, core: str, watts: float) -> Ready:
    """Return a gas tube with a hot core and a saturated rim; it looks darker than the light that it gives."""
    stops = ((0.0, *(0.5 * v for v in rgb(rim))), (0.5, *rgb(rim)), (0.85, *rgb(middle)), (1.0, *rgb(core)))
    return ready(
        KIND,
        name,
        tags,
        base_color=rgb("202020"),
        specular_roughness=0.05,
        emission_unit="W",
        emission_power=watts,
        emission_efficacy=30.0,
        emission_color=rgb(middle),
        emission_look_stops=-1.0,
        steps=(Facing(parameter="emission_color"), Ramp(parameter="emission_color", style="smooth", stops=stops)),
    )


def _lamp(name: str, tags: str, nits: float, kelvin: float, **values) -> Ready:
    return ready(
        KIND,
        name,
        tags,
        base_color=rgb("d8d8d8"),
        specular_roughness=0.4,
        emission_luminance=nits,
        emission_color_from="kelvin",
        emission_kelvin=kelvin,
        **values,
    )


GLOWS = (
    _tube("Red gas tube", "neon sign hot core", "ff1505", "ff4a22", "ffe6d2", 30.0),
    _tube("Blue gas tube", "argon sign hot core", "0a20ff", "3f6bff", "e6ecff", 30.0),
    _tube("Green gas tube", "sign hot core", "05c02a", "4cf07a", "eafff0", 30.0),
    _tube("Violet gas tube", "krypton sign hot core", "6a10ff", "a462ff", "f2e6ff", 30.0),
    _lamp("Fluorescent tube, daylight", "white office", 9000.0, 6500.0),
    _lamp("Fluorescent tube, warm", "white", 9000.0, 2900.0),
    _lamp("Light panel", "led diffuser office ceiling", 3000.0, 4000.0, stand="slab"),
    _lamp("Opal bulb", "lamp warm", 12000.0, 2750.0),
    _lamp("Candle flame", "fire warm", 8000.0, 1900.0, specular_weight=0.0, size=0.02),
    ready(
        KIND,
        "Embers",
        "coal fire hot glow",
        base_color=rgb("14100e"),
        base_diffuse_roughness=0.6,
        specular_roughness=0.9,
        emission_luminance=900.0,
        emission_color=(1.0, 1.0, 1.0),
        relief_depth=0.003,
        steps=(
            Fractal(parameter="emission_color", scale=0.03, octaves=6, warp=0.8),
            Levels(parameter="emission_color", inlow=0.42, inhigh=0.75),
            Ramp(
                parameter="emission_color",
                stops=((0.0, 0.0, 0.0, 0.0), (0.3, *rgb("5a0a02")), (0.7, *rgb("ff3c0a")), (1.0, *rgb("ffb050"))),
            ),
            Fractal(parameter="geometry_height", scale=0.02, octaves=5),
        ),
    ),
    ready(
        KIND,
        "Paper lantern",
        "lampshade warm rice",
        base_color=rgb("d8cfba"),
        specular_roughness=0.8,
        specular_weight=0.3,
        emission_luminance=600.0,
        emission_color_from="kelvin",
        emission_kelvin=2700.0,
        steps=(Fractal(parameter="emission_color", scale=0.03, octaves=5, blend="multiply", amount=0.25),),
    ),
    ready(
        KIND,
        "Screen",
        "display monitor blue white",
        stand="slab",
        base_color=rgb("050505"),
        specular_roughness=0.08,
        emission_luminance=350.0,
        emission_color_from="kelvin",
        emission_kelvin=6500.0,
    ),
    ready(
        KIND,
        "Molten glass",
        "furnace hot orange",
        base_color=rgb("301008"),
        specular_roughness=0.03,
        specular_ior=1.52,
        emission_luminance=2500.0,
        emission_color_from="kelvin",
        emission_kelvin=1450.0,
    ),
    ready(
        KIND,
        "Signal lamp, green",
        "exit pilot traffic",
        base_color=rgb("062012"),
        specular_roughness=0.05,
        emission_luminance=1500.0,
        emission_color=rgb("28ff70"),
    ),
)

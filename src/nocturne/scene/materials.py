"""Materials: parameters of OpenPBR Surface 1.1, with steps of patterns that drive any of them.

A parameter of the standard keeps its name; where a length is not in metres, its unit is added.
"""

from typing import Literal

from pydantic import field_validator, model_validator

from nocturne.colour.blackbody import blackbody
from nocturne.scene.fields import Colour, Model, Vector, described, rounding_angle_field, rounding_field
from nocturne.scene.patterns import AnyStep, Step

HEIGHT = "geometry_height"
COVER = "layer_cover"
# What decides on the light that a surface gives.
GLOWING = ("emission_color", "emission_luminance", "geometry_opacity")
# What decides on the inside of a closed shape, or holds for the whole surface.
_OF_NO_PLACE = {
    *("transmission_depth", "transmission_scatter", "transmission_scatter_anisotropy"),
    *("transmission_dispersion_scale", "transmission_dispersion_abbe_number"),
    *("emission_efficacy", "emission_kelvin", "emission_look_stops"),
    *("relief_depth", "relief_pixels", "rounding_mm", "rounding_angle_deg"),
    *("layer_thickness_mm", "metal_wavelengths_nm"),
}


class Material(Model):
    """What a surface is made of."""

    id: str
    name: str = described("Material", "Name", kind="text")
    base_color: Colour = described(
        (0.6, 0.6, 0.6), "Base colour", "Colour of the surface, or of the metal face on.", kind="colour"
    )
    base_weight: float = described(1.0, "Base weight", "Darkens the base: 0 is black.", low=0, high=1)
    base_diffuse_roughness: float = described(
        0.0,
        "Chalkiness",
        "0: evenly matt. 1: like clay, plaster or the moon, flat to the edge and bright towards the light.",
        low=0,
        high=1,
    )
    base_metalness: float = described(0.0, "Metalness", "0: plastic, wood, stone. 1: metal.", low=0, high=1)
    specular_weight: float = described(
        1.0, "Specular", "Strength of the reflection; 1 is what the IOR gives.", low=0, high=1
    )
    specular_color: Colour = described(
        (1.0, 1.0, 1.0),
        "Reflection tint",
        "Tints every reflection of plastic and glass, and the grazing reflection of a metal.",
        kind="colour",
    )
    specular_roughness: float = described(0.35, "Roughness", "0: mirror. 0.3: satin. 1: chalk.", low=0, high=1)
    specular_ior: float = described(
        1.5, "IOR", "Refractive index: water 1.33, glass 1.52, diamond 2.42.", low=1.0, high=3.0
    )
    specular_roughness_anisotropy: float = described(
        0.0, "Brushed", "0: even. 1: highlights drawn out across the brushing.", low=0, high=1
    )
    specular_rotation_deg: float = described(
        0.0,
        "Brushing turned",
        "Highlights are drawn out along the texture's u, turned by so much.",
        unit="°",
        low=-360,
        high=360,
        soft_high=180,
    )
    specular_tail: float = described(
        0.0, "Highlight tail", "How much of a metal's highlight spreads wider, as on worn polish.", low=0, high=1
    )
    specular_tail_roughness: float = described(
        0.6, "Tail roughness", "How wide the tail spreads; wider than the roughness.", low=0, high=1
    )
    metal_from: Literal["colour", "plain", "table", "nk", "spectrum"] = described(
        "colour",
        "Metal from",
        "Base colour face on and reflection tint at the edge; one colour; a measured metal; n and k typed at three "
        "wavelengths; n and k read from a table.",
        kind="choice",
        choices=(
            ("colour", "Face and edge colour"),
            ("plain", "One colour"),
            ("table", "Measured metal"),
            ("nk", "n and k, typed"),
            ("spectrum", "n and k, from a file"),
        ),
    )
    metal_name: str = described("gold", "Metal", "As it was measured; see the line below.", kind="metal")
    metal_n: Colour = described(
        (0.2, 0.9, 1.1), "n", "Real index at the three wavelengths.", kind="channels", low=0, high=100
    )
    metal_k: Colour = described(
        (3.9, 2.5, 2.2), "k", "Extinction at the three wavelengths.", kind="channels", low=0, high=100
    )
    metal_wavelengths_nm: Colour = described(
        (630.0, 532.0, 465.0),
        "At",
        "Wavelengths of the three n and k, red first, in nm or um. Those as they stand are the working space's own.",
        kind="channels",
        unit="nm",
    )
    metal_spectrum: tuple[Vector, ...] = ()  # wavelength in nm, n, k
    transmission_weight: float = described(0.0, "Transmission", "1: clear glass or liquid.", low=0, high=1)
    transmission_color: Colour = described(
        (1.0, 1.0, 1.0), "Transmission colour", "What is left of white light after the depth.", kind="colour"
    )
    transmission_depth: float = described(
        0.0,
        "Depth",
        "Thickness that gives the transmission colour; 0 tints the surface only.",
        unit="m",
        low=0,
        high=1000,
        soft_high=0.2,
    )
    transmission_scatter: Colour = described(
        (0.0, 0.0, 0.0),
        "Murk",
        "What scatters inside on the way of the depth: milk in water, smoke in glass. Black: clear.",
        kind="colour",
    )
    transmission_scatter_anisotropy: float = described(
        0.0, "Murk scatters", "-1: back. 0: evenly. 0.9: nearly straight on, as milk and fog.", low=-0.98, high=0.98
    )
    transmission_dispersion_scale: float = described(
        0.0, "Dispersion", "How much colours part: 1 is what the Abbe number gives.", low=0, high=1
    )
    transmission_dispersion_abbe_number: float = described(
        20.0, "Abbe number", "Flint glass 30, crown glass 60, water 55, diamond 55.", low=9, high=100
    )
    subsurface_weight: float = described(
        0.0, "Subsurface", "1: light goes in and comes out elsewhere, as in wax, skin, milk and marble.", low=0, high=1
    )
    subsurface_color: Colour = described(
        (0.8, 0.8, 0.8), "Subsurface colour", "Colour of what comes back out.", kind="colour"
    )
    subsurface_radius_mm: float = described(
        3.0,
        "Radius",
        "How far light goes on average before it is turned.",
        unit="mm",
        low=0,
        high=1e4,
        soft_high=50,
        log=True,
    )
    subsurface_radius_scale: Colour = described(
        (1.0, 0.5, 0.25),
        "Radius by colour",
        "Shares of the radius for red, green and blue.",
        kind="channels",
        low=0,
        high=1,
    )
    subsurface_scatter_anisotropy: float = described(
        0.0,
        "Scatters",
        "-1: back. 0: evenly. 0.8: mostly onward, as skin. Of a sheet: 1 sends all to its other side.",
        low=-1,
        high=1,
    )
    geometry_thin_walled: bool = described(
        False,
        "Thin-walled",
        "A sheet without an inside, such as a window pane or a bell jar: light passes straight.",
        kind="switch",
    )
    light_passes: bool = described(
        False,
        "Light passes straight",
        "For panes and bulbs. Off, light through closed glass bends as in nature, and lamps or windows behind it are "
        "hardly ever found. On, their light goes straight through, less what the glass reflects and absorbs, and draws "
        "no bright figures. Only for polished glass.",
        kind="switch",
    )
    precedence: int = described(0, "Precedence", "Where closed shapes overlap, the highest exists.", kind="whole")
    coat_weight: float = described(0.0, "Coat", "A clear layer of lacquer over all.", low=0, high=1)
    coat_color: Colour = described((1.0, 1.0, 1.0), "Coat colour", "Tint of the lacquer.", kind="colour")
    coat_roughness: float = described(0.0, "Coat roughness", "0: wet gloss. 0.3: satin varnish.", low=0, high=1)
    coat_roughness_anisotropy: float = described(
        0.0, "Coat brushed", "0: even. 1: highlights drawn out across the brushing.", low=0, high=1
    )
    coat_rotation_deg: float = described(
        0.0, "Coat brushing turned", "As for the reflection.", unit="°", low=-360, high=360, soft_high=180
    )
    coat_tail: float = described(
        0.0, "Coat tail", "How much of the coat's highlight spreads wider, as on greasy varnish.", low=0, high=1
    )
    coat_tail_roughness: float = described(
        0.6, "Coat tail roughness", "How wide the tail spreads; wider than the roughness.", low=0, high=1
    )
    coat_levelling: float = described(
        0.0, "Coat levels", "0: follows the relief. 1: lies smooth over it, as thick lacquer does.", low=0, high=1
    )
    coat_ior: float = described(1.6, "Coat IOR", "Lacquer 1.5 to 1.6.", low=1.0, high=3.0)
    coat_darkening: float = described(
        1.0, "Coat darkening", "How much the coat deepens what lies under it.", low=0, high=1
    )
    fuzz_weight: float = described(0.0, "Fuzz", "Fine fibres or dust over all: velvet, felt, peach.", low=0, high=1)
    fuzz_color: Colour = described((1.0, 1.0, 1.0), "Fuzz colour", "Colour of the fibres.", kind="colour")
    fuzz_roughness: float = described(
        0.5, "Fuzz roughness", "0.2: a thin shine at the edge. 1: dusty all over.", low=0, high=1
    )
    thin_film_weight: float = described(
        0.0, "Thin film", "A film so thin that light colours: soap, oil, heat on steel.", low=0, high=1
    )
    thin_film_thickness_nm: float = described(
        500.0,
        "Film thickness",
        "Soap 100 to 1,000 nm; heat on steel 30 to 80 nm.",
        unit="nm",
        low=0,
        high=5000,
        soft_high=1500,
    )
    thin_film_ior: float = described(1.4, "Film IOR", "Soap water 1.33; oil 1.5; oxides 2 to 2.5.", low=1.0, high=3.0)
    geometry_opacity: float = described(
        1.0, "Opacity", "0: not there at all. For cut-outs such as leaves and nets.", low=0, high=1
    )
    rounding_mm: float = rounding_field(
        "Radius that hard edges are shaded with, so that they catch the light. No geometry changes."
    )
    rounding_angle_deg: float = rounding_angle_field()
    emission_unit: Literal["nit", "lm", "W"] = described(
        "nit",
        "Glow given in",
        "Nits of its surface, or lumens or watts of each thing that wears it, whatever its size.",
        kind="choice",
        choices=(("nit", "nits"), ("lm", "lumens"), ("W", "watts")),
    )
    emission_power: float = described(
        0.0,
        "Power",
        "What each thing that wears it gives. 800 lm: a bright household bulb. A metre of neon tube: 30 W.",
        kind="power",
        low=0,
        high=1e9,
        log=True,
    )
    emission_efficacy: float = described(
        60.0,
        "Efficacy",
        "Lumens for each watt: incandescent 15, neon 20 to 60, LED 100.",
        unit="lm/W",
        low=0.1,
        high=683,
        log=True,
    )
    emission_luminance: float = described(
        0.0,
        "Emission",
        "Luminance: candle flame 10,000 nit; phone screen 500 nit; neon tube 5,000 nit.",
        unit="nit",
        low=0,
        high=1e9,
        soft_high=20000,
        log=True,
    )
    emission_color_from: Literal["colour", "kelvin"] = described(
        "colour",
        "Glow colour from",
        "Any colour, or a temperature.",
        kind="choice",
        choices=(("colour", "Colour"), ("kelvin", "Kelvin")),
    )
    emission_kelvin: float = described(
        3000.0,
        "Glow temperature",
        "Embers 1,200 K; candle 1,900 K; bulb 2,800 K; daylight tube 6,500 K.",
        unit="K",
        low=800,
        high=40000,
        soft_high=12000,
    )
    emission_look_stops: float = described(
        0.0,
        "Looks brighter by",
        "How much brighter the camera sees it than the light that it gives, straight on and in mirrors and clear "
        "glass. Below 0 it looks darker: a tube that lights the room and does not burn out.",
        unit="stop",
        low=-12,
        high=12,
        soft_high=4,
    )
    emission_color: Colour = described(
        (1.0, 1.0, 1.0), "Emission colour", "Colour of the glow.", kind="colour", high=100
    )
    emission_group: str = described(
        "", "Light group", "The fader of the light desk that the glow belongs to.", kind="group"
    )
    relief_depth: float = described(
        0.001,
        "Relief",
        "How far white of what drives the height lies over black.",
        unit="m",
        low=0,
        high=10,
        soft_high=0.02,
        log=True,
    )
    relief_style: Literal["shading", "surface"] = described(
        "shading",
        "Relief is",
        "Shaded: as if it were there, outlines stay as they are. Real: the surface is divided and moved, and what is "
        "finer than its triangles is shaded.",
        kind="choice",
        choices=(("shading", "Shaded"), ("surface", "Real geometry")),
    )
    relief_middle: float = described(
        0.0, "Stays in place", "Which height neither rises nor sinks: 0 black, 0.5 grey.", kind="percent", low=0, high=1
    )
    relief_pixels: float = described(
        4.0,
        "Triangle size",
        "In the picture. Smaller ones draw finer outlines and take more memory.",
        unit="px",
        low=0.5,
        high=64,
        soft_high=16,
        log=True,
    )
    layer_over: str = described(
        "", "Lies over", "The material below, which shows where this one does not cover it.", kind="material"
    )
    layer_cover: float = described(
        1.0,
        "Covers",
        "How much it hides of what is below; driven by a mask it is chipped, worn or spilt.",
        low=0,
        high=1,
    )
    layer_thickness_mm: float = described(
        0.0,
        "Thickness",
        "Of the layer, so that its edge catches the light. Only shading.",
        unit="mm",
        low=0,
        high=100,
        soft_high=2,
    )
    steps: tuple[AnyStep, ...] = ()

    @model_validator(mode="after")
    def _drives_what_there_is(self):
        for step in self.steps:
            if step.parameter not in DRIVEN:
                raise ValueError(f"no parameter “{step.parameter}” can be driven")
        return self

    @field_validator("metal_wavelengths_nm", mode="before")
    @classmethod
    def _in_nanometres(cls, value):
        """Read wavelengths in micrometres, as tables often have them, as such."""
        try:
            found = tuple(float(v) * (1000.0 if 0.1 < float(v) < 30 else 1.0) for v in value)
        except (TypeError, ValueError):
            return value
        if not all(200 <= v <= 3000 for v in found):
            raise ValueError("wavelengths of light are between 200 and 3,000 nm")
        return found

    @model_validator(mode="after")
    def _spectrum_is_one(self):
        waves = [row[0] for row in self.metal_spectrum]
        if any(a >= b for a, b in zip(waves, waves[1:])) or any(min(row) < 0 for row in self.metal_spectrum):
            raise ValueError("n and k need rising wavelengths, and are never below 0")
        return self

    @property
    def heights(self) -> tuple[Step, ...]:
        """Return the steps that move its surface; none if its relief is only shaded."""
        if self.relief_style == "shading" or self.relief_depth == 0:
            return ()
        return tuple(step for step in self.steps if step.parameter == HEIGHT and step.on)

    @property
    def is_emitter(self) -> bool:
        """Return True if the material gives light."""
        driven = {step.parameter for step in self.steps if step.on}
        given = self.emission_luminance if self.emission_unit == "nit" else self.emission_power
        is_bright = given > 0 or "emission_luminance" in driven
        has_colour = self.emission_color_from == "kelvin" or max(self.emission_color) > 0
        return is_bright and (has_colour or "emission_color" in driven)

    @property
    def glow_color(self) -> Colour:
        """Return the working-space colour of its glow: of a temperature with luminance 1, else as it is given."""
        if self.emission_color_from == "kelvin":
            return tuple(float(v) for v in blackbody(self.emission_kelvin))
        return self.emission_color

    def _drives(self, parameter: str) -> bool:
        return any(step.parameter == parameter and step.on and step.amount > 0 for step in self.steps)

    @property
    def may_transmit(self) -> bool:
        """Return True if light goes through somewhere, by the weight itself or by a step that drives it."""
        return self.transmission_weight > 0 or self._drives("transmission_weight")

    @property
    def may_be_cut(self) -> bool:
        """Return True if it is not there somewhere, by its opacity or by a step that drives that."""
        return self.geometry_opacity < 1 or self._drives("geometry_opacity")

    @property
    def is_clear(self) -> bool:
        """Return True if light may go straight through it; how much is decided where it meets it."""
        passes = self.may_transmit and (self.geometry_thin_walled or self.light_passes)
        return passes or self.may_be_cut

    @property
    def is_medium(self) -> bool:
        """Return True if closed shapes of it are filled with it."""
        return self.may_transmit and not self.geometry_thin_walled


def _driven() -> dict[str, int]:
    """Return the parameters that steps can drive, by name: how many numbers each is."""
    widths = {"number": 1, "colour": 3, "channels": 3}
    kinds = {name: info.json_schema_extra for name, info in Material.model_fields.items()}
    numbers = {name: widths[e["kind"]] for name, e in kinds.items() if isinstance(e, dict) and e["kind"] in widths}
    surface = {name: width for name, width in numbers.items() if name not in _OF_NO_PLACE}
    return {**surface, "geometry_normal": 3, HEIGHT: 1}


DRIVEN = _driven()


def label_of(parameter: str) -> str:
    """Return what a parameter that can be driven is called."""
    own = {"geometry_normal": "Normal", HEIGHT: "Height"}
    return own.get(parameter) or Material.model_fields[parameter].title

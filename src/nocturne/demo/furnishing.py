"""The workshop's materials, lights, views and cues."""

import numpy as np

from nocturne.colour.clears import clears
from nocturne.colour.spaces import from_srgb
from nocturne.scene.camera import View
from nocturne.scene.desk import Cue, Strip
from nocturne.scene.finish import Bloom, Finish, Tone, Vignette
from nocturne.scene.lights import Light, make_light
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Facing, Picture, Ramp, Step

GROUPS = ("sun", "sky", "lamp", "tube", "globe", "pilots")


def _picture(
    parameter: str,
    stem: str,
    *,
    space: str = "data",
    per_metre: float = 1.0,
    amount: float = 1.0,
    turn: float = 0.0,
    offset: tuple[float, float] = (0.0, 0.0),
) -> Picture:
    return Picture(
        parameter=parameter,
        path=f"textures/{stem}.png",
        space=space,
        repeat=(per_metre, per_metre),
        amount=amount,
        turn_deg=turn,
        offset=offset,
    )


def _wood(
    name: str, *, per_metre: float, offset: tuple[float, float], turn: float = 0.0, coat: float = 0.0
) -> Material:
    pictures = tuple(
        _picture(
            parameter,
            f"wood_{use}",
            space="colour" if use == "colour" else "data",
            per_metre=per_metre,
            offset=offset,
            turn=turn,
            amount=0.6 if use == "normal" else 1.0,
        )
        for parameter, use in (
            ("base_color", "colour"),
            ("specular_roughness", "roughness"),
            ("geometry_normal", "normal"),
        )
    )
    return Material(
        id=name.lower().replace(" ", "-"),
        name=name,
        specular_ior=1.5,
        coat_weight=coat,
        coat_roughness=0.12,
        coat_ior=1.5,
        steps=pictures,
    )


def _hot_core(colour: tuple[float, float, float]) -> tuple[Step, ...]:
    """Return steps of a glow that is nearly white where it faces, and full of its colour at the rim."""
    r, g, b = colour
    rim, core = (r, g * 0.55, b * 0.35), tuple(0.35 * v + 0.65 for v in colour)
    stops = ((0.0, *(0.5 * v for v in rim)), (0.5, *rim), (0.82, *colour), (1.0, *core))
    return Facing(parameter="emission_color"), Ramp(parameter="emission_color", style="smooth", stops=stops)


def materials() -> tuple[Material, ...]:
    """Return every material of the workshop."""
    handled = (_picture("specular_roughness", "brushed_roughness", per_metre=4.0),)
    colour, clear = from_srgb, clears()
    return (
        *(_wood(f"Bench board {k + 1}", per_metre=0.62, offset=(0.13 + 0.37 * k, 0.21 * k + 0.05)) for k in range(5)),
        _wood("Dark walnut", per_metre=1.4, offset=(0.3, 0.6), coat=0.7),
        _wood("Shelf wood", per_metre=0.8, offset=(0.55, 0.15)),
        Material(
            id="plaster",
            name="Slate plaster",
            base_diffuse_roughness=0.6,
            specular_roughness=0.62,
            specular_weight=0.7,
            steps=(
                _picture("base_color", "plaster_colour", space="colour", per_metre=0.42),
                _picture("geometry_normal", "plaster_normal", per_metre=0.42, amount=0.7),
            ),
        ),
        Material(id="floor", name="Floor boards", base_color=(0.05, 0.035, 0.025), specular_roughness=0.4),
        Material(
            id="ceiling",
            name="Lime wash",
            base_color=(0.55, 0.52, 0.47),
            base_diffuse_roughness=0.6,
            specular_roughness=0.8,
        ),
        Material(
            id="brass",
            name="Brass",
            base_metalness=1,
            metal_from="table",
            metal_name="brass",
            specular_roughness=0.22,
            steps=handled,
        ),
        Material(
            id="polished-brass",
            name="Polished brass",
            base_metalness=1,
            metal_from="table",
            metal_name="brass",
            specular_roughness=0.08,
            specular_tail=0.15,
            specular_tail_roughness=0.35,
        ),
        Material(
            id="copper",
            name="Copper",
            base_metalness=1,
            metal_from="table",
            metal_name="copper",
            specular_roughness=0.26,
        ),
        Material(
            id="steel",
            name="Steel",
            base_metalness=1,
            metal_from="table",
            metal_name="iron",
            specular_roughness=0.24,
        ),
        Material(
            id="gold",
            name="Gilded sun",
            base_metalness=1,
            metal_from="table",
            metal_name="gold",
            specular_roughness=0.16,
        ),
        Material(
            id="stone",
            name="Grey stone",
            specular_roughness=0.55,
            steps=(
                _picture("base_color", "stone_colour", space="colour"),
                _picture("geometry_normal", "stone_normal", amount=0.8),
            ),
        ),
        Material(
            id="banded-stone",
            name="Banded stone",
            specular_roughness=0.3,
            coat_weight=0.6,
            coat_roughness=0.08,
            steps=(_picture("base_color", "bands_colour", space="colour"),),
        ),
        Material(
            id="blue-enamel",
            name="Blue enamel",
            base_color=colour(0.10, 0.27, 0.55),
            specular_roughness=0.3,
            coat_weight=1,
            coat_roughness=0.03,
        ),
        Material(
            id="cream-enamel",
            name="Cream enamel",
            base_color=colour(0.88, 0.80, 0.62),
            specular_roughness=0.3,
            coat_weight=1,
            coat_roughness=0.04,
        ),
        Material(
            id="red-stone",
            name="Red stone",
            base_color=colour(0.62, 0.27, 0.16),
            specular_roughness=0.45,
            steps=(_picture("geometry_normal", "stone_normal", amount=0.5),),
        ),
        Material(
            id="green-enamel",
            name="Green enamel",
            base_color=colour(0.09, 0.23, 0.17),
            specular_roughness=0.25,
            coat_weight=1,
            coat_roughness=0.05,
        ),
        Material(
            id="bell-glass",
            name="Bell jar glass",
            base_color=(1, 1, 1),
            specular_roughness=0.0,
            transmission_weight=1,
            transmission_color=(0.97, 0.985, 0.975),
            geometry_thin_walled=True,
            specular_ior=clear["window-glass"].index,
        ),
        Material(
            id="flask-glass",
            name="Flask glass",
            specular_roughness=0.0,
            specular_ior=clear["window-glass"].index,
            transmission_dispersion_abbe_number=round(clear["window-glass"].abbe, 2),
            transmission_weight=1,
            transmission_color=(0.80, 0.92, 0.88),
            transmission_depth=0.05,
            precedence=20,
        ),
        Material(
            id="liquid",
            name="Amber liquid",
            specular_roughness=0.0,
            specular_ior=clear["ethanol"].index,
            transmission_dispersion_abbe_number=round(clear["ethanol"].abbe, 2),
            transmission_weight=1,
            transmission_color=colour(0.95, 0.55, 0.14),
            transmission_depth=0.03,
            precedence=10,
        ),
        Material(
            id="air", name="Air bubble", specular_roughness=0.0, specular_ior=1.0, transmission_weight=1, precedence=30
        ),
        Material(
            id="rod-glass",
            name="Stir rod glass",
            specular_roughness=0.0,
            specular_ior=clear["crown"].index,
            transmission_dispersion_abbe_number=round(clear["crown"].abbe, 2),
            transmission_weight=1,
            transmission_color=(0.85, 0.95, 0.97),
            transmission_depth=0.02,
            precedence=25,
        ),
        Material(
            id="ceramic",
            name="Glazed mug",
            base_color=colour(0.80, 0.78, 0.73),
            specular_roughness=0.4,
            coat_weight=1,
            coat_roughness=0.06,
        ),
        Material(id="tea", name="Tea", base_color=(0.05, 0.015, 0.005), specular_roughness=0.02, specular_ior=1.33),
        Material(id="leather", name="Oxblood leather", base_color=colour(0.36, 0.11, 0.09), specular_roughness=0.42),
        Material(
            id="cloth",
            name="Ink cloth",
            base_color=colour(0.14, 0.19, 0.28),
            base_diffuse_roughness=0.5,
            specular_roughness=0.85,
            specular_weight=0.5,
            fuzz_weight=0.35,
            fuzz_color=colour(0.32, 0.38, 0.5),
            fuzz_roughness=0.6,
        ),
        Material(
            id="pages", name="Pages", base_color=colour(0.82, 0.75, 0.60), specular_roughness=0.9, specular_weight=0.4
        ),
        Material(
            id="drawing",
            name="Orbit drawing",
            specular_roughness=0.75,
            specular_weight=0.6,
            steps=(_picture("base_color", "drawing_colour", space="colour"),),
        ),
        Material(
            id="iron", name="Black iron", base_color=(0.03, 0.03, 0.032), specular_roughness=0.45, rounding_mm=0.4
        ),
        # Under the enamel of the planets, where it is chipped.
        Material(
            id="bare-copper",
            name="Copper under enamel",
            base_metalness=1,
            metal_from="table",
            metal_name="copper",
            specular_roughness=0.34,
            coat_weight=0.5,
            coat_color=colour(0.5, 0.33, 0.22),
            coat_roughness=0.35,
        ),
        Material(id="hill", name="Hill", base_color=(0.05, 0.06, 0.035), specular_roughness=0.9, specular_weight=0.2),
        Material(id="houses", name="House walls", base_color=(0.32, 0.28, 0.25), specular_roughness=0.8),
        Material(id="dark-windows", name="Dark windows", base_color=(0.012, 0.013, 0.016), specular_roughness=0.12),
        Material(
            id="trees", name="Trees", base_color=(0.022, 0.032, 0.014), specular_roughness=0.8, specular_weight=0.2
        ),
        # As the air before them makes them look.
        Material(id="mountains", name="Mountains", base_color=(0.11, 0.115, 0.135), specular_weight=0.0),
        Material(
            id="windows",
            name="Lit windows",
            base_color=(0.1, 0.1, 0.1),
            emission_luminance=120,
            emission_color=colour(1.0, 0.72, 0.38),
            emission_group="globe",
        ),
        Material(
            id="neon",
            name="Gas tube",
            base_color=(0.2, 0.1, 0.1),
            specular_roughness=0.05,
            emission_unit="lm",
            emission_power=32.0,
            emission_color=colour(1.0, 0.42, 0.28),
            emission_group="tube",
            steps=_hot_core(colour(1.0, 0.42, 0.28)),
        ),
        Material(
            id="paper",
            name="Paper globe",
            base_color=(0.75, 0.7, 0.6),
            specular_roughness=0.8,
            specular_weight=0.3,
            base_diffuse_roughness=0.3,
            emission_luminance=38,
            emission_color=colour(1.0, 0.83, 0.60),
            emission_group="globe",
        ),
        Material(
            id="pilot-amber",
            name="Amber pilot",
            base_color=(0.3, 0.15, 0.02),
            specular_roughness=0.1,
            emission_luminance=110,
            emission_color=colour(1.0, 0.62, 0.12),
            emission_group="pilots",
        ),
        Material(
            id="pilot-green",
            name="Green pilot",
            base_color=(0.02, 0.2, 0.08),
            specular_roughness=0.1,
            emission_luminance=95,
            emission_color=colour(0.30, 0.95, 0.55),
            emission_group="pilots",
        ),
    )


def lights(lamp_at: np.ndarray) -> tuple[Light, ...]:
    """Return the workshop's lights; the desk lamp's bulb hangs at `lamp_at`."""
    x, y, z = (float(v) for v in lamp_at)
    return (
        make_light(
            id="sun",
            name="Low sun",
            kind="sun",
            group="sun",
            unit="x",
            power=0.03,
            azimuth_deg=149,
            elevation_deg=7,
            turbidity=4,
        ),
        make_light(
            id="sky",
            name="Dusk sky",
            kind="sky",
            group="sky",
            unit="x",
            power=0.0065,
            azimuth_deg=149,
            elevation_deg=7,
            turbidity=3,
            ground=0.12,
        ),
        make_light(
            id="bulb",
            name="Desk lamp bulb",
            kind="sphere",
            group="lamp",
            unit="lm",
            power=1150,
            kelvin=2750,
            place=(x, y, z),
            radius=0.026,
        ),
        make_light(
            id="fill",
            name="Far lantern",
            kind="rect",
            group="globe",
            unit="lm",
            power=420,
            kelvin=2900,
            place=(1.3, -2.6, 2.3),
            turn_deg=(48, 0, 24),
            width=0.7,
            height=0.7,
            visible=False,
        ),
        make_light(
            id="window",
            name="Window",
            kind="portal",
            group="sky",
            place=(-1.25, 1.35, 1.58),
            turn_deg=(-90, 0, 0),
            width=0.98,
            height=1.13,
        ),
    )


def views() -> tuple[View, ...]:
    """Return the saved views."""
    camera = {"iso": 800, "shutter_s": 1 / 8, "white_k": 3900, "width": 1280, "height": 720}
    return (
        View(
            id="wide",
            name="Wide",
            eye=(0.28, -1.72, 1.36),
            target=(-0.06, 0.42, 1.14),
            focal_mm=29,
            f_number=4.0,
            focus_m=2.3,
            **camera,
        ),
        View(
            id="bench",
            name="Bench",
            eye=(-0.95, -0.95, 1.42),
            target=(0.30, 0.15, 0.86),
            focal_mm=40,
            f_number=5.6,
            focus_m=1.45,
            depth_of_field=True,
            **camera,
        ),
        View(
            id="orrery",
            name="Orrery close-up",
            eye=(-0.35, -0.78, 1.30),
            target=(0.06, 0.20, 1.06),
            focal_mm=58,
            f_number=2.8,
            focus_m=1.02,
            depth_of_field=True,
            **{**camera, "shutter_s": 1 / 15},
        ),
        View(
            id="flask",
            name="Flask close-up",
            eye=(0.42, -0.62, 1.06),
            target=(0.585, 0.07, 0.91),
            focal_mm=80,
            f_number=4.0,
            focus_m=0.72,
            depth_of_field=True,
            **camera,
        ),
        View(
            id="window",
            name="Window",
            eye=(-0.42, -0.95, 1.50),
            target=(-1.02, 1.4, 1.50),
            focal_mm=36,
            f_number=5.6,
            focus_m=2.4,
            **{**camera, "shutter_s": 1 / 10},
        ),
        View(
            id="town",
            name="Town",
            eye=(-1.25, 1.9, 1.62),
            target=(-46.0, 190.0, -9.0),
            focal_mm=90,
            f_number=8.0,
            focus_m=170.0,
            **{**camera, "shutter_s": 1 / 4, "white_k": 5200},
        ),
    )


def cues() -> tuple[Cue, ...]:
    """Return the stored states of the desk; dusk is the light as it is."""

    def cue(id: str, name: str, **stops: float | None) -> Cue:
        strips = tuple(Strip(group=g, stops=stops.get(g) or 0.0, on=stops.get(g, 0.0) is not None) for g in GROUPS)
        return Cue(id=id, name=name, strips=strips)

    return (
        cue("afternoon", "Afternoon", sun=4.0, sky=3.2, lamp=None, tube=None, globe=-2.0, pilots=0.0),
        cue("dusk", "Dusk"),
        cue("night", "Night", sun=None, sky=-4.5, lamp=0.3, tube=0.4, globe=-1.0, pilots=0.5),
        cue("lamp-only", "Lamp only", sun=None, sky=None, lamp=0.0, tube=None, globe=None, pilots=None),
    )


def finish() -> Finish:
    """Return the grade of the demo: what a lens does, then a print."""
    return Finish(
        steps=(
            Bloom(id="bloom-1", bloom=0.35),
            Vignette(id="vignette-1", strength=0.35),
            Tone(id="tone-1", contrast=1.06),
        )
    )

"""Glass and liquids: absorption, and overlapping shapes by precedence, against stacks traced by hand."""

import math

import numpy as np
import pytest

from nocturne.scene import edit
from nocturne.scene import solids as forms
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from tests import sets

CLEAR = {"specular_roughness": 0.0, "transmission_weight": 1.0}
FACING = sets.view(eye=(0, 0, 8), target=(0, 0, 0), focal_mm=400, size=(16, 16))


def slab(bottom: float, top: float):
    """Return a closed box, wide, from `bottom` to `top`, and the fields that place it."""
    return forms.rounded_box((6, 6, top - bottom), 1e-4), {"place": (0.0, 0.0, bottom)}


LAMPS = [
    make_light(
        id=f"l{z}", kind="rect", unit="nit", power=100, place=(0, 0, z), turn_deg=(turn, 0, 0), width=30, height=30
    )
    for z, turn in ((-6, 180), (9, 0))
]


def normal_reflectance(a: float, b: float) -> float:
    return ((a - b) / (a + b)) ** 2


def through(parts, *, samples: int = 512, overlaps: bool = True) -> np.ndarray:
    """Return the RGB seen looking straight down through slabs at a lamp below; nothing lights them from above."""
    lamp = make_light(
        id="l",
        kind="rect",
        unit="nit",
        power=100,
        place=(0, 0, -6),
        turn_deg=(180, 0, 0),
        width=30,
        height=30,
        colour_from="colour",
        colour=(1, 1, 1),
    )
    document, assets = sets.many(parts, lamp, camera=FACING, quality=sets.deep(samples, overlaps=overlaps))
    return sets.middle(sets.picture(document, assets), 3)


def stack_transmittance(indices: list[float]) -> float:
    """Return the transmittance of a stack of thick, clear layers, all orders of reflection added (no interference)."""
    total_t, total_r = 1.0, 0.0
    for a, b in zip(indices, indices[1:]):
        r = normal_reflectance(a, b)
        t = 1 - r
        # Adding one interface below what is there (Stokes): sums of geometric series.
        total_t, total_r = total_t * t / (1 - total_r * r), r + t * t * total_r / (1 - total_r * r)
    return total_t


def test_absorption_is_beer_lamberts(engine):
    colour, depth, thickness = (0.8, 0.4, 0.1), 0.5, 0.75
    glass = Material(id="g", specular_ior=1.0, transmission_color=colour, transmission_depth=depth, **CLEAR)
    mesh, place = slab(0, thickness)
    expected = 100 * np.array(colour) ** (thickness / depth)
    assert through([(mesh, glass, place)], samples=64) == pytest.approx(expected, rel=2e-3)


def test_a_clear_slab_reflects_at_both_faces(engine):
    glass = Material(id="g", specular_ior=1.5, **CLEAR)
    mesh, place = slab(0, 1)
    assert through([(mesh, glass, place)]) == pytest.approx(100 * stack_transmittance([1, 1.5, 1]), rel=4e-3)


def overlapping(glass_precedence: int, liquid_precedence: int):
    """Return glass from 0 to 1 and liquid from 0.6 to 2: they overlap between 0.6 and 1."""
    glass = Material(
        id="g",
        specular_ior=1.9,
        precedence=glass_precedence,
        transmission_color=(0.5, 0.9, 0.9),
        transmission_depth=1.0,
        **CLEAR,
    )
    liquid = Material(
        id="w",
        specular_ior=1.3,
        precedence=liquid_precedence,
        transmission_color=(0.9, 0.5, 0.9),
        transmission_depth=1.0,
        **CLEAR,
    )
    a, place_a = slab(0, 1)
    b, place_b = slab(0.6, 2)
    return [(a, glass, place_a), (b, liquid, place_b)]


@pytest.mark.parametrize(("glass", "liquid", "border"), [(20, 10, 1.0), (10, 20, 0.6)])
def test_precedence_says_which_medium_exists(engine, glass, liquid, border):
    # The boundary between the two lies at the end of the higher one, and absorption follows what exists.
    seen = through(overlapping(glass, liquid), samples=2048)
    in_glass, in_liquid = border, 2 - border
    interfaces = stack_transmittance([1, 1.3, 1.9, 1])
    direct = np.array([0.5**in_glass * 0.9**in_liquid, 0.9**in_glass * 0.5**in_liquid, 0.9**in_glass * 0.9**in_liquid])
    # Light reflected to and fro inside is absorbed on the way, so the clear stack is a bound from above.
    single = (1 - normal_reflectance(1, 1.3)) * (1 - normal_reflectance(1.3, 1.9)) * (1 - normal_reflectance(1.9, 1))
    assert (seen > 100 * single * direct * 0.993).all()
    assert (seen < 100 * interfaces * direct * 1.007).all()


@pytest.mark.parametrize("eye", [8, -8])
@pytest.mark.parametrize("is_first", [True, False])
def test_of_equal_precedence_the_first_of_the_list_exists_from_wherever_it_is_seen(engine, is_first, eye):
    def seen(parts, listed):
        document, assets = sets.many(parts, *LAMPS, camera=sets.view(eye=(0, 0, eye), focal_mm=400, size=(16, 16)))
        materials = {m.id: m for m in document.materials}
        kept = tuple(materials.pop(id) for id in listed)
        document = edit.changed(document, materials=(*kept, *materials.values()), qualities=(sets.deep(64),))
        return sets.picture(document, assets).groups

    listed = ("g", "w") if is_first else ("w", "g")
    settled = overlapping(2, 1) if is_first else overlapping(1, 2)
    assert np.array_equal(seen(overlapping(0, 0), listed), seen(settled, listed))


def test_without_the_order_every_wall_is_against_air(engine):
    glass = Material(id="g", specular_ior=1.9, precedence=2, **CLEAR)
    liquid = Material(id="w", specular_ior=1.3, precedence=1, **CLEAR)
    a, place_a = slab(0, 1)
    b, place_b = slab(0.5, 2)
    seen = through([(a, glass, place_a), (b, liquid, place_b)], samples=1024, overlaps=False)
    # Two walls of each, and light that goes to and fro between any of them.
    assert seen == pytest.approx(100 * stack_transmittance([1, 1.3, 1, 1.9, 1]), rel=0.03)
    assert seen[0] < 100 * stack_transmittance([1, 1.3, 1.9, 1]) * 0.97


def test_the_boundary_of_the_lower_one_inside_the_higher_has_no_event(engine):
    # Same indices: hidden boundaries leave no trace, so both orders look like one slab of that index.
    glass = Material(id="g", specular_ior=1.5, precedence=2, **CLEAR)
    other = Material(id="o", specular_ior=1.5, precedence=1, **CLEAR)
    a, place_a = slab(0, 1)
    b, place_b = slab(0.5, 2)
    seen = through([(a, glass, place_a), (b, other, place_b)])
    assert seen == pytest.approx(100 * stack_transmittance([1, 1.5, 1]), rel=5e-3)


def test_an_air_bubble_cuts_out_what_it_is_in(engine):
    liquid = Material(
        id="w", specular_ior=1.0, precedence=1, transmission_color=(0.5, 0.5, 0.5), transmission_depth=1.0, **CLEAR
    )
    air = Material(id="a", specular_ior=1.0, precedence=5, **CLEAR)
    a, place_a = slab(0, 2)
    b, place_b = slab(0.5, 1.5)
    seen = through([(a, liquid, place_a), (b, air, place_b)], samples=2048)
    assert seen == pytest.approx(100 * 0.5, rel=6e-3)


def test_a_camera_inside_a_liquid_starts_in_it(engine):
    liquid = Material(id="w", specular_ior=1.0, transmission_color=(0.25, 0.5, 0.5), transmission_depth=1.0, **CLEAR)
    lamp = make_light(
        id="l",
        kind="rect",
        unit="nit",
        power=100,
        place=(0, 0, -6),
        turn_deg=(180, 0, 0),
        width=30,
        height=30,
        colour_from="colour",
        colour=(1, 1, 1),
    )
    camera = sets.view(eye=(0, 0, 1.0), target=(0, 0, 0), focal_mm=400, size=(16, 16))
    mesh, place = slab(0, 2)
    document, assets = sets.many([(mesh, liquid, place)], lamp, camera=camera, quality=sets.deep(64))
    film = sets.picture(document, assets)
    assert sets.middle(film, 3) == pytest.approx([25, 50, 50], rel=3e-3)


def test_a_thin_sheet_lets_shadow_rays_through(engine):
    # A lamp above a pane above a floor: light sampling alone must find what goes through the pane.
    pane = Material(
        id="p",
        transmission_weight=1,
        transmission_color=(0.9, 0.8, 0.7),
        geometry_thin_walled=True,
        specular_roughness=0,
    )
    matt = Material(id="matt", base_color=(1, 1, 1), specular_weight=0.0, specular_ior=1.0)
    lamp = make_light(
        id="l", kind="point", unit="cd", power=100, place=(0, 0, 2), colour_from="colour", colour=(1, 1, 1)
    )
    camera = sets.view(eye=(0.0, -4.0, 0.4), target=(0, 0, 0), focal_mm=1200, sensor_mm=12, size=(16, 16))
    sheet = forms.panel([(-1, -1, 0), (1, -1, 0), (1, 1, 0), (-1, 1, 0)])
    parts = [(sets.PLANE, matt, {}), (sheet, pane, {"place": (0.0, 0.0, 1.0)})]
    document, assets = sets.many(parts, lamp, camera=camera, quality=sets.deep(64, diffuse_bounces=0))
    r = normal_reflectance(1, 1.5)
    expected = 100 / 4 / math.pi * (1 - 2 * r / (1 + r)) * np.array([0.9, 0.8, 0.7])
    assert sets.middle(sets.picture(document, assets)) == pytest.approx(expected, rel=5e-3)

"""Light through closed glass: what a pane lets through straight, counted once, beside the refracting path tracer."""

import math

import numpy as np
import pytest

from nocturne.scene import edit
from nocturne.scene import solids as forms
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from tests import sets

MATT = Material(id="matt", base_color=(0.5, 0.5, 0.5), specular_weight=0.0, specular_ior=1.0)
GLASS = Material(id="glass", transmission_weight=1.0, specular_roughness=0.0, specular_ior=1.5, light_passes=True)
PANE = forms.rounded_box((8, 8, 0.02), 0.001)
WHITE = {"colour_from": "colour", "colour": (1.0, 1.0, 1.0)}
LAMP = make_light(id="l", kind="rect", unit="nit", power=50, place=(0, 0, 3), width=3, height=3, **WHITE)
FRESNEL = (0.5 / 2.5) ** 2
BELOW = sets.view(eye=(0, -1.5, 0.7), target=(0, 0, 0), focal_mm=200, size=(16, 16))  # under the pane


def floor(glass, *lights, mode="mis", samples=256, pane=PANE, camera=BELOW, **limits):
    """Return the film of a matt floor under a pane at 1 m, None: none."""
    parts = [(sets.PLANE, MATT, {})]
    if glass is not None:
        parts.append((pane, glass, {"place": (0, 0, 1.0)}))
    document, assets = sets.many(parts, *lights, camera=camera, quality=sets.deep(samples, **limits))
    return sets.picture(document, assets, mode=mode)


def test_a_pane_takes_what_its_two_faces_reflect_and_its_inside_absorbs(engine):
    # Straight from above, the floor black to what the pane sends back.
    sun = make_light(id="s", kind="distant", power=1000, angle_deg=0.5, **WHITE)
    bare = sets.middle(floor(None, sun, samples=64, diffuse_bounces=0))
    clear = sets.middle(floor(GLASS, sun, samples=64, diffuse_bounces=0))
    assert clear / bare == pytest.approx(np.full(3, (1 - FRESNEL) ** 2), rel=2e-3)
    tint = (0.9, 0.5, 0.25)
    tinted = edit.changed(GLASS, transmission_color=tint, transmission_depth=0.02)
    through = sets.middle(floor(tinted, sun, samples=64, diffuse_bounces=0))
    assert through / clear == pytest.approx(np.array(tint), rel=5e-3)
    assert (
        sets.middle(floor(edit.changed(GLASS, light_passes=False), sun, samples=64, diffuse_bounces=0)).max()
        < 1e-3 * bare.max()
    )


@pytest.mark.parametrize("coat", [0.0, 1.0])
def test_it_is_the_light_that_refraction_finds_and_counted_once(engine, coat):
    glass = edit.changed(GLASS, coat_weight=coat, coat_roughness=0.0) if coat else GLASS
    straight = floor(glass, LAMP, samples=400)
    # Paths alone find so large a lamp; they bend at the pane, which shifts what is parallel and no more.
    bent = floor(glass, LAMP, mode="material", samples=1500)
    off = floor(edit.changed(glass, light_passes=False), LAMP, samples=1500)
    assert sets.middle(off) == pytest.approx(sets.middle(bent), rel=0.03)
    assert sets.middle(straight) == pytest.approx(sets.middle(bent), rel=0.03)

    def noise(film):
        mean, squares = film.moments
        return float((squares - mean**2).mean())

    assert noise(straight) < 0.3 * noise(off)


def test_the_camera_sees_a_lamp_through_it_as_before(engine):
    camera = sets.view(eye=(0, 0, 0.3), target=(0, 0, 3), focal_mm=200, size=(16, 16))
    seen = [
        sets.middle(floor(edit.changed(GLASS, light_passes=on), LAMP, samples=64, camera=camera))
        for on in (True, False)
    ]
    assert seen[0] == pytest.approx(seen[1], rel=0.01)
    assert seen[0] == pytest.approx(np.full(3, 50 * (1 - FRESNEL) / (1 + FRESNEL)), rel=0.02)


def test_a_bulb_in_closed_glass_lights_the_room(engine):
    bulb = make_light(id="b", kind="sphere", unit="lm", power=800, radius=0.02, place=(0, 0, 1.0), **WHITE)
    ball = forms.ball(0.1, segments=64)
    bare = sets.middle(floor(None, bulb, samples=128))
    shell = sets.middle(floor(GLASS, bulb, samples=512, pane=ball))
    # Out of a solid ball about a small bulb light leaves at right angles: one face, and what comes back to it again.
    assert shell[1] / bare[1] == pytest.approx(1 - FRESNEL, rel=0.03)


def test_rough_glass_is_not_looked_through(engine):
    rough = edit.changed(GLASS, specular_roughness=0.4)
    on, off = (floor(edit.changed(rough, light_passes=passes), LAMP, samples=600) for passes in (True, False))
    assert sets.middle(on) == pytest.approx(sets.middle(off), rel=0.03)
    assert math.isfinite(float(sets.middle(on)[0]))

"""Mirrored, sheared and nested: what glows lights by its true shape, and materials keep their energy."""

import math

import numpy as np
import pytest

from nocturne.colour.spaces import luminance
from nocturne.scene import edit
from nocturne.scene import solids as forms
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.scatter import Scatter, Source
from nocturne.scene.thing import Thing
from tests import sets
from tests.engine.test_estimators import MATERIALS, MATT, N, assert_same, films

NITS = 300.0
GLOW = Material(id="glow", base_color=(0, 0, 0), specular_weight=0, emission_luminance=NITS)
# It shines downward, along -z, and nothing about it is even.
CORNERS = np.array([(-0.5, -0.6, 2.0), (-0.3, 0.7, 2.2), (0.6, 0.5, 1.9), (0.7, -0.4, 1.7)])
PANEL = forms.panel([tuple(corner) for corner in CORNERS])
DOWN = sets.view(eye=(0.0, -2.0, 3.0), target=(0, 0, 0), focal_mm=1200, sensor_mm=12, size=(16, 16))
MIRRORED = {"size": (-1.0, 1.0, 1.0)}
# Fields of the thing, and of the groups around it from the inside out.
PLACEMENTS = {
    "plain": ({}, []),
    "mirrored": (MIRRORED, []),
    "mirrored through": ({"size": (-0.8, -0.8, -0.8), "place": (0.3, 0.2, 3.8), "turn_deg": (180.0, 0, 0)}, []),
    "in a mirrored group": ({"turn_deg": (0, 0, 30.0)}, [MIRRORED]),
    "sheared": ({"turn_deg": (0, 0, 35.0)}, [{"size": (1.5, 0.7, 1.0)}]),
    "sheared and mirrored, nested": (
        {"turn_deg": (8.0, 0, 35.0)},
        [{"size": (1.4, 0.8, 1.0), "turn_deg": (0, 0, 20.0)}, {"size": (1.0, -0.9, 1.1)}],
    ),
}


def put(document, placement: str, **more):
    """Return the document with its first thing in a placement."""
    fields, groups = PLACEMENTS[placement]
    names = [f"group-{i}" for i in range(len(groups))] + [""]
    for name, parent, values in zip(names, names[1:], groups, strict=False):
        document = edit.put(document, "things", Thing(id=name, parent=parent, **values))
    return edit.alter(document, "things", "thing-0", **{"parent": names[0], **fields, **more})


def from_polygon(corners: np.ndarray) -> float:
    """Return the illuminance on a floor at the origin under a polygon of NITS that faces it (Lambert 1760)."""
    units = corners / np.linalg.norm(corners, axis=1)[:, None]
    total = 0.0
    for a, b in zip(units, np.roll(units, -1, axis=0), strict=True):
        edge = np.cross(a, b)
        total += math.acos(a @ b) * edge[2] / np.linalg.norm(edge)
    return NITS / 2 * abs(total)


def lit(document, assets, mode: str) -> float:
    return float(luminance(sets.middle(sets.picture(document, assets, mode=mode)))) * math.pi


@pytest.mark.parametrize("mode", ["mis", "light", "material"])
@pytest.mark.parametrize("placement", PLACEMENTS)
def test_what_glows_lights_by_its_true_shape(engine, placement, mode):
    parts = [(PANEL, GLOW, {}), (sets.PLANE, MATT, {})]
    document, assets = sets.many(parts, camera=DOWN, quality=sets.deep(512, diffuse_bounces=1))
    document = put(document, placement)
    matrix = document.placement("thing-0")
    exact = from_polygon(CORNERS @ matrix[:3, :3].T + matrix[:3, 3])
    assert lit(document, assets, mode) == pytest.approx(exact, rel=0.02 if mode == "material" else 0.01)


@pytest.mark.parametrize("mode", ["mis", "light"])
@pytest.mark.parametrize("placement", PLACEMENTS)
def test_its_back_stays_dark(engine, placement, mode):
    parts = [(PANEL, GLOW, {}), (sets.PLANE, MATT, {})]
    document, assets = sets.many(parts, camera=DOWN, quality=sets.deep(16, diffuse_bounces=1))
    document = edit.alter(put(document, placement), "things", "thing-0", turned_over=True)
    assert lit(document, assets, mode) == 0


@pytest.mark.parametrize("mode", ["mis", "light"])
def test_a_mirrored_scatter_lights_as_its_copies(engine, mode):
    parts = [(PANEL, GLOW, {"visible": False}), (sets.PLANE, MATT, {})]
    document, assets = sets.many(parts, camera=DOWN, quality=sets.deep(512, diffuse_bounces=1))
    scatter = Scatter(sources=(Source(thing="thing-0"),), over="grid", counts=(2, 1, 1), spacing=(1.5, 1, 1))
    document = edit.put(document, "things", Thing(id="group", size=(-1.0, 1.0, 1.0)))
    document = edit.put(document, "things", Thing(id="spread", parent="group", scatter=scatter))
    # The grid stands about the middle.
    exact = sum(from_polygon((CORNERS + (x, 0, 0)) * (-1, 1, 1)) for x in (-0.75, 0.75))
    assert lit(document, assets, mode) == pytest.approx(exact, rel=0.01)


@pytest.mark.parametrize("kind", ["coated plastic", "rough glass", "brushed metal with a tail"])
@pytest.mark.parametrize("placement", [p for p in PLACEMENTS if p != "plain"])
def test_materials_find_the_same_either_way_wherever_they_stand(engine, placement, kind):
    parts = [(sets.BALL, MATERIALS[kind], {}), (sets.PLANE, MATT, {"place": (0.0, 0.0, -1.0)})]
    lights = (
        make_light(
            id="l", kind="rect", unit="nit", power=20, place=(1.5, -1, 3), turn_deg=(20, 25, 0), width=3, height=3
        ),
        make_light(id="d", kind="dome", unit="nit", power=1.0),
    )
    camera = sets.view(eye=(0, -6, 2), focal_mm=60, size=(16, 16))
    document, assets = sets.many(parts, *lights, camera=camera, quality=sets.deep(N, diffuse_bounces=2, bounces=4))
    mis, by_light, by_material = films(put(document, placement, place=(0, 0, 0)), assets, ("mis", "light", "material"))
    assert_same(mis, by_light, "light sampling")
    assert_same(mis, by_material, "material sampling")


WHITE = (1.0, 1.0, 1.0)
FURNACES = {
    "brushed coat on chalk": Material(
        id="m", base_color=WHITE, coat_weight=1, coat_roughness=0.4, coat_roughness_anisotropy=0.8
    ),
    "brushed metal": Material(
        id="m", base_color=WHITE, base_metalness=1, specular_roughness=0.4, specular_roughness_anisotropy=0.8
    ),
    "rough glass": Material(id="m", transmission_weight=1, specular_roughness=0.5),
    "filmed, fuzzy plastic": Material(id="m", base_color=WHITE, thin_film_weight=1, fuzz_weight=0.5),
}


@pytest.mark.parametrize("kind", FURNACES)
@pytest.mark.parametrize("placement", PLACEMENTS)
def test_what_is_white_vanishes_in_white_wherever_it_stands(engine, placement, kind):
    document, assets = sets.one_thing(
        sets.BALL, FURNACES[kind], sets.white_dome(), camera=sets.view(size=(16, 16)), quality=sets.deep(256)
    )
    film = sets.picture(put(document, placement, place=(0, 0, 0)), assets)
    assert film.beauty()[film.alpha > 0.999].mean() == pytest.approx(1, abs=0.01)

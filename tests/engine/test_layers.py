"""Materials over each other: what is seen is the mean of both by the mask, whichever way it is found."""

import math
from dataclasses import replace

import numpy as np
import pytest

from nocturne.scene import edit
from nocturne.scene import solids as forms
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.layering import chain, clear_ids, may_lie_over
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Checker, Picture
from nocturne.scene.piecework import placed, taken
from tests import sets

WHITE = (1.0, 1.0, 1.0)
NO_SHINE = {"specular_weight": 0.0, "specular_ior": 1.0}
RED = Material(id="red", name="Red", base_color=(0.8, 0.1, 0.1), layer_over="blue", **NO_SHINE)
BLUE = Material(id="blue", name="Blue", base_color=(0.1, 0.2, 0.9), **NO_SHINE)
FACING = sets.view(eye=(0, 0, 6), focal_mm=200, size=(16, 16))
BELOW_A_PANE = sets.view(eye=(0.0, -3.0, 0.5), target=(0, 0, 0), focal_mm=1200, sensor_mm=12, size=(16, 16))
FLOOR = Material(id="floor", base_color=WHITE, **NO_SHINE)


def wearing(top: Material, *below: Material, mesh=sets.PLANE, lights=(), camera=FACING, samples=256):
    """Return (document, assets) of a thing that wears a material over others."""
    document, assets = sets.many([(mesh, top, {})], *lights, camera=camera, quality=sets.deep(samples))
    return edit.changed(document, materials=(top, *below)), assets


@pytest.mark.parametrize("cover", [0.0, 0.3, 1.0])
def test_a_layer_hides_its_share(engine, cover):
    top = RED.model_copy(update={"layer_cover": cover})
    document, assets = wearing(top, BLUE, lights=(sets.white_dome(),))
    expected = cover * np.array(RED.base_color) + (1 - cover) * np.array(BLUE.base_color)
    assert sets.middle(sets.picture(document, assets)) == pytest.approx(expected, abs=0.01)


def test_any_number_of_layers_lie_over_each_other(engine):
    green = Material(id="green", base_color=(0, 1, 0), layer_over="red", layer_cover=0.5, **NO_SHINE)
    red = RED.model_copy(update={"layer_cover": 0.5})
    document, assets = wearing(green, red, BLUE, lights=(sets.white_dome(),))
    expected = 0.5 * np.array((0, 1, 0)) + 0.25 * np.array(RED.base_color) + 0.25 * np.array(BLUE.base_color)
    assert sets.middle(sets.picture(document, assets)) == pytest.approx(expected, abs=0.015)


def test_a_mask_tells_where_it_lies(engine):
    mask = Checker(parameter="layer_cover", where="flat", size=(4.0, 4.0, 4.0))
    top = RED.model_copy(update={"steps": (mask,), "layer_cover": 0.0})
    camera = sets.view(eye=(0, 0, 8), projection="orthographic", span_m=8.0, size=(32, 32))
    document, assets = wearing(top, BLUE, lights=(sets.white_dome(),), camera=camera, samples=16)
    found = sets.picture(document, assets).beauty().reshape(-1, 3)
    near_red, near_blue = (np.abs(found - m.base_color).max(1) < 0.05 for m in (RED, BLUE))
    assert near_red.mean() == pytest.approx(near_blue.mean(), abs=0.1)
    assert (near_red | near_blue).mean() > 0.4


@pytest.mark.parametrize("mode", ["light", "material"])
def test_what_glows_below_shines_through_the_gaps(engine, mode):
    shade = Material(id="shade", base_color=(0, 0, 0), layer_over="lamp", layer_cover=0.7, **NO_SHINE)
    lamp = Material(id="lamp", base_color=(0, 0, 0), emission_luminance=100, **NO_SHINE)
    parts = [(sets.PLANE, FLOOR, {}), (sets.PLANE, shade, {"place": (0.0, 0.0, 1.0), "turn_deg": (180.0, 0.0, 0.0)})]
    document, assets = sets.many(parts, camera=BELOW_A_PANE, quality=sets.deep(512, diffuse_bounces=0))
    layered = edit.changed(document, materials=(FLOOR, shade, lamp))
    whole = edit.changed(document, materials=(FLOOR, shade.model_copy(update={"layer_cover": 0.0}), lamp))
    seen, bright = (sets.middle(sets.picture(d, assets, mode=mode)) for d in (layered, whole))
    assert seen == pytest.approx(0.3 * bright, rel=0.05)
    assert bright.min() > 10


def test_light_goes_through_glass_where_nothing_covers_it(engine):
    paint = Material(id="paint", base_color=(0, 0, 0), layer_over="pane", layer_cover=0.6, **NO_SHINE)
    pane = Material(id="pane", transmission_weight=1, geometry_thin_walled=True, specular_roughness=0, **NO_SHINE)
    lamp = make_light(
        id="l", kind="rect", unit="nit", power=10, place=(0, 0, 3), width=20, height=20, colour_from="colour",
        colour=WHITE, visible=False,
    )  # fmt: skip
    parts = [(sets.PLANE, FLOOR, {}), (sets.PLANE, paint, {"place": (0.0, 0.0, 1.0)})]
    quality = sets.deep(512, diffuse_bounces=0)
    document, assets = sets.many(parts, lamp, camera=BELOW_A_PANE, quality=quality)
    layered = edit.changed(document, materials=(FLOOR, paint, pane))
    bare, _ = sets.many(parts[:1], lamp, camera=BELOW_A_PANE, quality=quality)
    open_floor = sets.middle(sets.picture(bare, assets))
    for mode in ("light", "mis", "material"):
        seen = sets.middle(sets.picture(layered, assets, mode=mode))
        assert seen == pytest.approx(0.4 * open_floor, rel=0.05), mode


def test_the_share_of_light_does_not_hang_on_where_it_falls(engine):
    # A point light and a spot of a few micrometres: every shadow ray meets the pane in nearly the same place.
    paint = Material(id="paint", base_color=(0, 0, 0), layer_over="pane", layer_cover=0.6, **NO_SHINE)
    pane = Material(id="pane", transmission_weight=1, geometry_thin_walled=True, specular_roughness=0, **NO_SHINE)
    lamp = make_light(id="l", kind="point", unit="cd", power=10, place=(0, 0, 3), colour_from="colour", colour=WHITE)
    parts = [(sets.PLANE, FLOOR, {}), (sets.PLANE, paint, {"place": (0.0, 0.0, 1.0)})]
    quality = sets.deep(1024, diffuse_bounces=0)
    for x in (0.1, 0.37, 0.811):
        spot = sets.view(eye=(x, -3.0, 0.5), target=(x, 0, 0), focal_mm=1200, sensor_mm=1, size=(16, 16))
        document, assets = sets.many(parts, lamp, camera=spot, quality=quality)
        layered = edit.changed(document, materials=(FLOOR, paint, pane))
        bare, _ = sets.many(parts[:1], lamp, camera=spot, quality=quality)
        shares = sets.picture(layered, assets).beauty() / sets.picture(bare, assets).beauty()
        assert shares.mean() == pytest.approx(0.4, rel=0.01)
        assert shares.std() < 0.03, "the grain of a place stays however many samples are taken"


def test_the_edge_of_a_thick_layer_catches_the_light(engine):
    ramp = np.linspace(0, 1, 64, dtype=np.float32)[None, :, None] * np.ones((64, 1, 3), np.float32)
    mask = Picture(parameter="layer_cover", path="m.exr", space="data")
    values = {"steps": (mask,), "layer_cover": 0.0, "layer_thickness_mm": 100.0}
    top = RED.model_copy(update={**values, "specular_weight": 1.0, "specular_ior": 1.5, "specular_roughness": 0.4})
    mesh = forms.panel([(-0.5, -0.5, 0), (0.5, -0.5, 0), (0.5, 0.5, 0), (-0.5, 0.5, 0)])
    mesh = replace(mesh, uvs=mesh.vertices[:, :2] + 0.5)
    camera = sets.view(eye=(0, 0, 6), projection="orthographic", span_m=0.6, size=(16, 16))
    document, assets = wearing(top, BLUE, mesh=mesh, lights=(sets.white_dome(),), camera=camera, samples=4)
    film = sets.picture(document, Assets(assets.meshes, {("m.exr", "data"): ramp}))
    # It rises by 0.1 m over 1 m along x, so its normal leans back by as much.
    assert film.normal[8, 8] == pytest.approx(np.array((-0.1, 0, 1)) / math.hypot(0.1, 1), abs=0.02)


def test_what_would_lie_over_itself_ends_there():
    a = Material(id="a", layer_over="b")
    b = Material(id="b", layer_over="a")
    document = Document(materials=(a, b))
    assert [m.id for m in chain({"a": a, "b": b}, "a")] == ["a", "b"]
    assert [m.id for m in may_lie_over(document, "a")] == []
    glass = Material(id="g", transmission_weight=1, geometry_thin_walled=True)
    paint = Material(id="p", layer_over="g")
    assert clear_ids(Document(materials=(glass, paint))) == {"g", "p"}
    left = edit.remove(Document(materials=(glass, paint)), "materials", "g")
    assert left.materials[0].layer_over == ""


def test_a_piece_takes_along_what_its_materials_lie_over():
    document, assets = wearing(RED, BLUE)
    piece = taken(document, assets, ("thing-0",), "Piece")
    assert {m.id for m in piece.materials} == {"red", "blue"}
    again, _ = placed(Document(), piece, np.zeros(3), moved=str)
    top = next(m for m in again.materials if m.name == "Red")
    assert again.find("materials", top.layer_over).name == "Blue"

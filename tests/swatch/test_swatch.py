"""Swatches: a material on its stand is seen in its own colour, at its own size."""

import numpy as np
import pytest

from nocturne.engine.render import Stop
from nocturne.scene.materials import Material
from nocturne.swatch.render import swatch
from nocturne.swatch.stand import STANDS, document_of


def test_the_stand_shows_the_materials_colour(engine):
    red, blue = (
        swatch(Material(id="m", base_color=c), {}, stand="ball", size_m=0.1, pixels=40, samples=8)
        for c in ((0.8, 0.05, 0.05), (0.05, 0.1, 0.8))
    )
    middle = (slice(16, 26), slice(15, 25))
    assert red.shape == (40, 40, 4)
    assert red[middle][..., 0].mean() > 2 * red[middle][..., 2].mean()
    assert blue[middle][..., 2].mean() > 1.5 * blue[middle][..., 0].mean()
    assert 40 < red[2:6, 2:38, :3].mean() < 225, "the ground is neither black nor burnt"


@pytest.mark.parametrize("stand", [name for name, _ in STANDS])
@pytest.mark.parametrize("size", [0.02, 2.0])
def test_every_stand_looks_the_same_at_every_size(engine, stand, size):
    matt = Material(id="m", base_color=(0.3, 0.5, 0.3))
    one, other = (swatch(matt, {}, stand=stand, size_m=s, pixels=32, samples=16) for s in (size, 0.1))
    assert np.abs(one.astype(int) - other).mean() < 6


def test_a_liquid_is_deeper_in_a_larger_stand(engine):
    liquid = Material(
        id="m", transmission_weight=1, transmission_color=(0.9, 0.3, 0.1), transmission_depth=0.05, specular_ior=1.33
    )
    thin, thick = (swatch(liquid, {}, stand="cube", size_m=s, pixels=40, samples=24) for s in (0.02, 0.5))
    middle = (slice(15, 28), slice(14, 26))
    assert thick[middle][..., 1].mean() < 0.7 * thin[middle][..., 1].mean()


def test_it_stops_when_it_is_told_to(engine):
    stop = Stop()
    stop.set()
    assert swatch(Material(id="m"), {}, stand="ball", size_m=0.1, stop=stop) is None


def test_a_glowing_material_is_exposed_to_be_seen():
    glow = document_of(Material(id="m", emission_luminance=20_000), {})[0]
    matt = document_of(Material(id="m"), {})[0]
    assert glow.view.white_luminance > 20 * matt.view.white_luminance
    assert document_of(Material(id="m", emission_luminance=1e9), {})[0].view.shutter_s == 1e-6


def test_a_layer_is_shown_over_what_it_lies_over(engine):
    below = Material(id="b", base_color=(0.9, 0.02, 0.02))
    top = Material(id="t", base_color=(0.02, 0.02, 0.9), layer_over="b", layer_cover=0.0)
    bare, layered = (swatch(top, {}, below=b, stand="ball", size_m=0.1, pixels=32, samples=8) for b in ((), (below,)))
    assert bare[14:20, 14:20, 2].mean() > 2 * bare[14:20, 14:20, 0].mean()
    assert layered[14:20, 14:20, 0].mean() > 2 * layered[14:20, 14:20, 2].mean()

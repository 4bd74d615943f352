"""What vertices carry besides: colours and a second set of texture coordinates, through every path of the engine."""

from dataclasses import replace

import numpy as np
import pytest

from nocturne.scene import edit, faces
from nocturne.scene import solids as forms
from nocturne.scene.assets import Assets
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Checker, MeshColours
from nocturne.scene.shapes import joined
from nocturne.scene.smoothing import creased
from nocturne.scene.uvs import placed_uvs
from tests import sets

ABOVE = sets.view(eye=(0, 0, 100), target=(0, 0, 0), focal_mm=360, size=(32, 32))
# Colours that are linear over the plane: at (x, y) they are (x, y, 1 / 2), each from 0 to 1.
SHARES = (sets.PLANE.vertices[:, :2] + 5) / 10
TINTED = replace(sets.PLANE, uvs=SHARES, colours=np.insert(SHARES, 2, 0.5, axis=1))
OWN = MeshColours(parameter="base_color", blend="multiply")


def at_pixels() -> np.ndarray:
    across = (np.arange(32) + 0.5) / 32
    x, y = np.meshgrid(across, across[::-1])
    return np.stack([x, y, np.full_like(x, 0.5)], axis=-1)


def shown(mesh, *steps, **values):
    material = Material(id="m", specular_weight=0, specular_ior=1, steps=steps, **values)
    return sets.picture(*sets.one_thing(mesh, material, sets.white_dome(), camera=ABOVE, quality=sets.deep(64)))


def test_colours_are_linear_between_vertices_and_multiply_the_base(engine):
    plain = shown(TINTED, OWN, base_color=(1.0, 1.0, 1.0)).albedo
    assert plain[2:-2, 2:-2] == pytest.approx(at_pixels()[2:-2, 2:-2], abs=0.01)
    half = shown(TINTED, OWN, base_color=(0.5, 0.25, 1.0)).albedo
    assert half[2:-2, 2:-2] == pytest.approx(at_pixels()[2:-2, 2:-2] * (0.5, 0.25, 1.0), abs=0.01)
    none = shown(sets.PLANE, OWN, base_color=(0.5, 0.25, 1.0)).albedo
    assert none[16, 16] == pytest.approx((0.5, 0.25, 1.0), abs=1e-3), "a mesh without colours is as if it were white"


def test_a_second_set_lies_where_it_says(engine):
    turned = replace(TINTED, uvs=SHARES[:, ::-1] * 7 + 3, more_uvs=SHARES)
    squares = Checker(parameter="base_color", repeat=(2.0, 3.0))
    expected = shown(TINTED, squares).albedo
    second = edit.changed(squares, uv_set=2)
    assert shown(turned, second).albedo == pytest.approx(expected, abs=1e-5)
    assert np.abs(shown(turned, squares).albedo - expected).mean() > 0.1
    assert shown(TINTED, second).albedo == pytest.approx(expected, abs=1e-5), "without a second set, by the first"


@pytest.mark.parametrize("mode", ["light", "material"])
def test_what_glows_in_its_meshs_colours_gives_that_light(mode, engine):
    """Light sampling, material sampling and the light of a uniform panel agree."""
    floor = Material(id="f", base_color=(0.8, 0.8, 0.8), specular_weight=0)
    glow = Material(
        id="g",
        base_color=(0, 0, 0),
        specular_weight=0,
        emission_luminance=10,
        steps=(MeshColours(parameter="emission_color", blend="multiply"),),
    )
    panel = forms.panel([(-1, -1, 2), (-1, 1, 2), (1, 1, 2), (1, -1, 2)])
    assert panel.normals[0][2] == -1
    parts = [(sets.PLANE, floor, {}), (replace(panel, colours=[(1.0, 0.25, 0.0)] * 4), glow, {})]
    camera = sets.view(eye=(0, -6, 1.5), target=(0, 0, 0), size=(16, 16))
    document, assets = sets.many(parts, camera=camera, quality=sets.deep(200))
    lit = sets.middle(sets.picture(document, assets, mode=mode))
    whole = sets.middle(sets.picture(document, Assets({**assets.meshes, "mesh-1": panel})))
    assert lit[:2] / whole[:2] == pytest.approx([1.0, 0.25], rel=0.04)
    assert lit[2] == pytest.approx(0.0, abs=1e-6)


def test_what_vertices_carry_follows_them():
    ball = forms.ball(1.0, segments=24)
    carried = replace(ball, colours=(ball.vertices + 1) / 2, more_uvs=ball.vertices[:, :2])

    def follows(mesh) -> bool:
        return np.allclose(mesh.colours, (mesh.vertices + 1) / 2) and np.allclose(mesh.more_uvs, mesh.vertices[:, :2])

    n = len(ball.triangles)
    made = (
        creased(carried, 0.0),
        creased(carried, 20.0),
        faces.part_of(carried, np.arange(n // 3)),
        joined(carried, carried),
    )
    assert all(map(follows, made))
    mixed = joined(carried, ball)
    assert mixed.colours[-1] == pytest.approx((1, 1, 1))
    assert mixed.more_uvs[-1] == pytest.approx(ball.uvs[-1])
    placed = placed_uvs(carried, (2.0, 90.0, (0.1, 0.2)))
    assert placed.more_uvs == pytest.approx(carried.more_uvs @ np.array([[0, 1], [-1, 0]]) / 2 + (0.1, 0.2), abs=1e-6)
    assert (
        len({m.digest for m in (ball, carried, replace(carried, colours=None), replace(carried, more_uvs=None))}) == 4
    )

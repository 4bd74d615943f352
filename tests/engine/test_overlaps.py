"""Which closed shapes overlap and which should win, found from shapes as they occur."""

import pytest

from nocturne.engine.overlaps import overlaps
from nocturne.jobs import run
from nocturne.scene import solids as forms
from nocturne.scene.forms import KINDS, form_mesh
from nocturne.scene.materials import Material
from nocturne.scene.mediaorder import AIR
from tests import sets

GLASS, WATER, AIR_IN = (
    Material(id=id, name=id.title(), specular_ior=ior, transmission_weight=1.0)
    for id, ior in (("glass", 1.5), ("water", 1.33), ("bubble", 1.0))
)
VESSEL = KINDS["turned"](profile=((0.0, 0.0), (1.0, 0.0), (1.0, 2.0), (0.9, 2.0), (0.9, 0.1), (0.0, 0.1)), round=0.0)


def found(*parts):
    return run(overlaps(*sets.many(list(parts))))


def winners(*parts) -> set[tuple[str, str]]:
    return {(m.winner, m.loser) for m in found(*parts).meetings}


@pytest.fixture(scope="module")
def vessel():
    return form_mesh(VESSEL)


def test_the_vessel_wins_over_what_reaches_into_its_wall(vessel):
    liquid = forms.ball(0.95)
    parts = [(vessel, GLASS, {}), (liquid, WATER, {"place": (0, 0, 1.0)})]
    assert winners(*parts) == {("glass", "water")}
    assert winners(*reversed(parts)) == {("glass", "water")}


def test_what_lies_inside_wins_over_what_it_lies_in():
    ball, bubble = forms.ball(1.0), forms.ball(0.2)
    parts = [(ball, WATER, {}), (bubble, AIR_IN, {"place": (0.3, 0.2, 0.1)})]
    assert winners(*parts) == {("bubble", "water")}
    walls = found(*parts).walls
    assert ("water", "bubble") in walls
    assert (AIR, "water") in walls
    assert (AIR, "bubble") not in walls, "it is surrounded by water"


def test_a_rod_that_stands_in_a_liquid_wins():
    rod = forms.rounded_box((0.1, 0.1, 3.0), 0.01)
    parts = [(forms.rounded_box((2, 2, 1), 0.01), WATER, {}), (rod, GLASS, {"place": (0, 0, 0.3)})]
    assert winners(*parts) == {("glass", "water")}
    assert (AIR, "glass") in found(*parts).walls


def test_what_only_stands_near_meets_nothing():
    parts = [(forms.ball(1.0), WATER, {}), (forms.ball(1.0), GLASS, {"place": (1.9, 1.9, 0)})]
    assert found(*parts).meetings == ()

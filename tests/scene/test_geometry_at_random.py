"""What moving views and things must keep, on many random ones: distances, directions, places in the picture."""

import math

import numpy as np
import pytest

from nocturne.scene import exposing, navigate, placing
from nocturne.scene.camera import View
from nocturne.scene.document import Document
from nocturne.scene.projection import camera_axes, project
from nocturne.scene.thing import Thing


def any_view(dice, **values):
    """Return a view with a random place, aim, lens, shift and roll."""
    return View(
        id="v",
        eye=tuple(dice.uniform(-6, 6, 3).round(4)),
        target=tuple(dice.uniform(-6, 6, 3).round(4)),
        **{
            "focal_mm": float(dice.uniform(15, 200)),
            "width": int(dice.integers(100, 2000)),
            "height": int(dice.integers(100, 2000)),
            "shift_x": float(dice.uniform(-0.8, 0.8)),
            "shift_y": float(dice.uniform(-0.8, 0.8)),
            "roll_deg": float(dice.uniform(-180, 180)),
            **values,
        },
    )


def any_set(dice, view):
    """Return a document with two things in a turned and sized group that is in another, and one outside."""

    def placed(id, parent=""):
        return Thing(
            id=id,
            name=id,
            parent=parent,
            place=tuple(dice.uniform(-3, 3, 3).round(4)),
            turn_deg=tuple(dice.uniform(-180, 180, 3).round(4)),
            size=(float(dice.uniform(0.2, 4)),) * 3,
        )

    things = (placed("outer"), placed("inner", "outer"), placed("a", "inner"), placed("b", "inner"), placed("c"))
    return Document(things=things, views=(view,), active_view="v")


@pytest.fixture(params=range(12))
def dice(request):
    return np.random.default_rng(request.param)


def distance(a, b):
    return float(np.linalg.norm(np.asarray(a, float) - np.asarray(b, float)))


def ahead(view):
    return navigate.axes(view)[2]


def test_what_is_brought_into_view_lies_in_the_frame_and_nearly_fills_it(dice):
    view = any_view(dice)
    low = dice.uniform(-5, 5, 3)
    high = low + dice.uniform(0.01, 3, 3)
    after = navigate.bring_into_view(view, low, high)
    assert ahead(after) == pytest.approx(ahead(view), abs=1e-3), "it is moved, not turned"
    ball = dice.normal(size=(4000, 3))
    ball = (low + high) / 2 + ball / np.linalg.norm(ball, axis=1)[:, None] * np.linalg.norm(high - low) / 2
    places, depth = project(after, ball)
    assert depth.min() > 0
    assert 0 < places.min()
    assert places.max() < 1
    assert max(np.abs(places - 0.5).max(axis=0)) > 0.42
    middle, _ = project(after, (low + high) / 2)
    assert middle == pytest.approx((0.5, 0.5), abs=1e-3)


def test_an_orbit_keeps_the_clicked_point_where_it_is_and_its_distance(dice):
    view, pivot = any_view(dice, roll_deg=0.0), dice.uniform(-4, 4, 3)
    for _ in range(5):
        after = navigate.orbit(view, pivot=pivot, turn=float(dice.uniform(-2, 2)), tilt=float(dice.uniform(-1, 1)))
        assert distance(after.eye, pivot) == pytest.approx(distance(view.eye, pivot), abs=1e-3)
        assert abs(ahead(after)[2]) <= math.sin(math.radians(89.1))
        before, now = project(view, pivot), project(after, pivot)
        assert now[1] == pytest.approx(before[1], abs=2e-3)
        if before[1] > 0.5:
            assert now[0] == pytest.approx(before[0], abs=5e-3)
        view = after


def test_a_pan_and_a_dolly_do_not_turn_and_a_look_does_not_move(dice):
    view, point = any_view(dice), dice.uniform(-4, 4, 3)
    panned = navigate.pan(view, across=0.7, up=-0.3)
    assert ahead(panned) == pytest.approx(ahead(view), abs=1e-4)
    seen = np.array(view.eye) + 5 * ahead(view)
    half = view.sensor_mm / (2 * view.focal_mm)
    moved, depth = project(panned, seen)
    by = np.array((-0.7, -0.3 * view.width / view.height)) / (2 * 5 * half)
    assert moved - project(view, seen)[0] == pytest.approx(by, abs=1e-3), "along the picture's own sides"
    assert depth == pytest.approx(5, abs=1e-4)
    for part in (-1.0, 0.3, 0.9, 0.99999):
        moved = navigate.dolly(view, towards=point, part=part)
        assert ahead(moved) == pytest.approx(ahead(view), abs=1e-3)
        whole = distance(view.eye, point)
        assert distance(moved.eye, point) >= 0.00999
        assert moved is view or distance(moved.eye, point) == pytest.approx(whole * (1 - part), abs=1e-4)
    looked = navigate.look(view, turn=0.4, tilt=0.1)
    assert looked.eye == pytest.approx(view.eye, abs=1e-4)


def test_upright_makes_verticals_vertical_and_keeps_the_aim_in_its_place(dice):
    view = any_view(dice, shift_y=0.0)
    after = exposing.upright(view)
    aim, _ = project(view, view.target)
    if abs(after.shift_y) < 2:
        assert project(after, view.target)[0] == pytest.approx(aim, abs=2e-3)
    foot = np.array(view.eye) + 3 * ahead(after) + 0.5 * navigate.axes(after)[0]
    places, _ = project(after, np.stack([foot, foot + (0, 0, 1)]))
    assert places[0][0] == pytest.approx(places[1][0], abs=1e-6)


def test_moves_and_turns_of_things_in_groups_are_rigid_and_can_be_taken_back(dice):
    document = any_set(dice, any_view(dice))
    pivot, axis, by = dice.uniform(-3, 3, 3), dice.normal(size=3), dice.uniform(-2, 2, 3)

    def middles(d):
        return np.array([d.placement(id)[:3, 3] for id in ("a", "b", "c")])

    chosen = ("a", "b", "c")
    moved = placing.moved(document, "things", chosen, by)
    assert middles(moved) == pytest.approx(middles(document) + by, abs=1e-4)
    turned = placing.turned(document, "things", chosen, axis=axis, angle=0.9, pivot=pivot)
    for i, j in ((0, 1), (0, 2), (1, 2)):
        before, after = middles(document), middles(turned)
        assert distance(after[i], after[j]) == pytest.approx(distance(before[i], before[j]), abs=1e-3)
    along = axis / np.linalg.norm(axis)
    assert (middles(turned) - pivot) @ along == pytest.approx((middles(document) - pivot) @ along, abs=1e-3)
    back = placing.turned(turned, "things", chosen, axis=axis, angle=-0.9, pivot=pivot)
    for id in chosen:
        assert back.placement(id) == pytest.approx(document.placement(id), abs=2e-3)
    whole = placing.turned(document, "things", ("outer", "a"), axis=axis, angle=0.9, pivot=pivot)
    assert whole.find("things", "a") is document.find("things", "a"), "a group is turned once, with what is in it"


def test_a_held_focus_lies_on_its_point_whatever_moves(dice):
    view = any_view(dice, roll_deg=0.0)
    document = any_set(dice, view)
    point = document.placement("a")[:3, 3] + (0.1, 0.2, -0.1)
    document = document.model_copy(update={"views": (exposing.holding(view, document, "a", point),)})
    by, axis = dice.uniform(-2, 2, 3), dice.normal(size=3)
    document = placing.moved(document, "things", ("outer",), by)
    document = placing.turned(document, "things", ("inner",), axis=axis, angle=1.2, pivot=(0, 0, 0))
    document = exposing.with_held_focus(document)
    sharp = document.placement("a")[:3] @ (*document.view.focus_point, 1.0)
    depth = (sharp - np.array(view.eye)) @ camera_axes(view)[2]
    assert document.view.focus_m == (pytest.approx(max(depth, 0.01), abs=1e-3) if depth > 0 else 3.0)
    assert exposing.with_held_focus(document) is document

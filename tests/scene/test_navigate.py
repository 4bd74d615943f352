"""Moving the view."""

import numpy as np
import pytest

from nocturne.scene import navigate
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.thing import Thing
from tests import sets


def distance(a, b):
    return float(np.linalg.norm(np.array(a) - np.array(b)))


def test_orbit_keeps_the_distance_to_the_pivot_and_never_goes_over_the_top():
    start = sets.view(eye=(3, -2, 1), target=(0, 0, 0.5))
    pivot = np.array([0.4, 0.2, 0.1])
    moved = navigate.orbit(start, pivot=pivot, turn=0.7, tilt=-0.3)
    assert distance(moved.eye, pivot) == pytest.approx(distance(start.eye, pivot), abs=1e-4)
    assert distance(moved.eye, moved.target) == pytest.approx(distance(start.eye, start.target), abs=1e-4)
    for _ in range(40):
        moved = navigate.orbit(moved, pivot=pivot, turn=0.1, tilt=-0.4)
    assert abs(navigate.axes(moved)[2][2]) < np.sin(np.radians(89.5))


def test_pan_and_dolly():
    start = sets.view(eye=(0, -4, 1), target=(0, 0, 1))
    moved = navigate.pan(start, across=1, up=0.5)
    assert moved.eye == pytest.approx((1, -4, 1.5))
    assert moved.target == pytest.approx((1, 0, 1.5))
    near = navigate.dolly(start, towards=np.array([0, 0, 1.0]), part=0.5)
    assert near.eye == pytest.approx((0, -2, 1))
    assert near.target == pytest.approx((0, 0, 1))
    assert navigate.dolly(near, towards=np.array([0, -1.995, 1.0]), part=1.0) is near


def test_bringing_a_thing_into_view():
    document = Document(
        things=(Thing(id="g", place=(10, 0, 0)), Thing(id="b", parent="g", mesh="ball", size=(0.1,) * 3))
    )
    low, high = navigate.bounds_of(document, Assets({"ball": sets.BALL}), "g")
    assert low == pytest.approx((9.9, -0.1, -0.1), abs=1e-3)
    moved = navigate.bring_into_view(sets.view(), low, high)
    assert moved.target == pytest.approx((10, 0, 0), abs=1e-3)
    assert 0.1 < distance(moved.eye, moved.target) < 2
    assert navigate.bounds_of(document, Assets(), "g") is None

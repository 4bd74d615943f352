"""Moving, turning, sizing, aiming: in the set's own axes, also inside turned and sized groups."""

import numpy as np
import pytest

from nocturne.errors import SceneError
from nocturne.scene import edit, placing
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.lights import KINDS, Placed, Turned, make_light
from nocturne.scene.shapes import rotation
from nocturne.scene.thing import Thing
from tests import sets

DOCUMENT = Document(
    things=(
        Thing(id="group", name="Group", place=(1, 2, 3), turn_deg=(20, -35, 70), size=(2, 2, 2)),
        Thing(id="in", name="Inside", parent="group", mesh="ball", place=(0.4, -0.2, 0.1), turn_deg=(10, 0, 0)),
        Thing(id="out", name="Outside", mesh="ball"),
    ),
    lights=(make_light(id="spot", kind="spot", place=(0, -2, 3)), make_light(id="sky", kind="dome", unit="nit")),
)


def matrix(document, id):
    return document.placements[id][0]


def test_moves_are_in_the_sets_axes():
    after = placing.moved(DOCUMENT, "things", ("in",), (0.5, 0, -1))
    assert matrix(after, "in")[:3, 3] - matrix(DOCUMENT, "in")[:3, 3] == pytest.approx((0.5, 0, -1), abs=1e-5)
    both = placing.moved(DOCUMENT, "things", ("group", "in"), (1, 0, 0))
    assert matrix(both, "in")[:3, 3] - matrix(DOCUMENT, "in")[:3, 3] == pytest.approx((1, 0, 0), abs=1e-5)
    assert placing.moved(DOCUMENT, "lights", ("spot",), (0, 0, 1)).find("lights", "spot").place == (0, -2, 4)


def test_turns_go_about_the_axis_and_pivot():
    pivot = placing.centre(DOCUMENT, "things", "in")
    after = placing.turned(DOCUMENT, "things", ("in",), axis=(0, 0, 1), angle=np.pi / 2, pivot=pivot)
    spin = np.array([[0, -1, 0], [1, 0, 0], [0, 0, 1]])
    assert matrix(after, "in")[:3, :3] == pytest.approx(spin @ matrix(DOCUMENT, "in")[:3, :3], abs=1e-5)
    assert matrix(after, "in")[:3, 3] == pytest.approx(pivot, abs=1e-5)
    swung = placing.turned(DOCUMENT, "things", ("out",), axis=(0, 0, 1), angle=np.pi, pivot=(1, 0, 0))
    assert matrix(swung, "out")[:3, 3] == pytest.approx((2, 0, 0), abs=1e-6)


def test_sizes():
    assert placing.sized(DOCUMENT, "things", "out", axis=1, factor=2).find("things", "out").size == (1, 2, 1)
    assert placing.sized(DOCUMENT, "things", "out", axis=3, factor=0.5).find("things", "out").size == (0.5, 0.5, 0.5)
    lights = edit.put(DOCUMENT, "lights", make_light(id="r", kind="rect", width=1, height=2))
    wide = placing.sized(lights, "lights", "r", axis=0, factor=3).find("lights", "r")
    assert (wide.width, wide.height) == (3, 2)


@pytest.mark.parametrize("point", [(3, 1, 0.5), (0, -2, 0), (0, -2, 9), (-4, -2, 3)])
def test_a_light_is_aimed_at_a_point(point):
    light = placing.aimed(DOCUMENT.find("lights", "spot"), np.array(point))
    ahead = -rotation(light.turn_deg)[:, 2]
    wanted = np.array(point) - light.place
    assert ahead == pytest.approx(wanted / np.linalg.norm(wanted), abs=1e-5)
    if abs(ahead[2]) < 0.999:
        assert abs(rotation(light.turn_deg)[2, 0]) < 1e-6, "its x axis is level"


def test_centres_and_the_floor():
    assert placing.centre(DOCUMENT, "lights", "sky") is None
    assert placing.centre(DOCUMENT, "things", "gone") is None
    after = placing.on_floor(DOCUMENT, Assets({"ball": sets.BALL}), "out")
    assert matrix(after, "out")[2, 3] == pytest.approx(1.0, abs=1e-6)
    assert placing.on_floor(after, Assets({"ball": sets.BALL}), "out") is after


def test_what_is_in_a_flattened_group_is_refused_in_words():
    flat = edit.alter(DOCUMENT, "things", "group", size=(1, 1, 0))
    pivot = (0.0, 0.0, 0.0)
    for act in (
        lambda: placing.moved(flat, "things", ("in",), (0, 0, 1)),
        lambda: placing.turned(flat, "things", ("in",), axis=(0, 0, 1), angle=1.0, pivot=pivot),
        lambda: placing.on_floor(flat, Assets({"ball": sets.BALL}), "in", floor=5),
    ):
        with pytest.raises(SceneError, match="“Inside” or a group it is in has a size of 0"):
            act()
    assert placing.moved(flat, "things", ("group",), (0, 0, 1)).find("things", "group").place == (1, 2, 4)


def test_sizing_down_leaves_a_way_back():
    tiny = placing.sized(DOCUMENT, "things", "out", axis=3, factor=1e-9)
    assert min(tiny.find("things", "out").size) > 0
    flat = edit.alter(DOCUMENT, "things", "out", size=(1, 1, 0))
    assert placing.sized(flat, "things", "out", axis=3, factor=2).find("things", "out").size == (2, 2, 0)


def test_lights_without_a_place_or_a_turn_stay_as_they_are():
    document = Document()
    for kind in KINDS:
        document = edit.put(document, "lights", make_light(id=kind, kind=kind))
    after = placing.moved(document, "lights", tuple(KINDS), np.array([1.0, 2.0, 3.0]))
    after = placing.turned(after, "lights", tuple(KINDS), axis=(0, 0, 1), angle=np.pi / 2, pivot=(0, 0, 0))
    for kind, light in KINDS.items():
        old, new = document.find("lights", kind), after.find("lights", kind)
        if not issubclass(light, Placed):
            assert new is old, kind
            continue
        x, y, z = np.array(old.place) + (1, 2, 3)
        assert new.place == pytest.approx((-y, x, z), abs=1e-6), kind
        if issubclass(light, Turned):
            assert new.turn_deg == pytest.approx((0, 0, 90), abs=1e-6), kind

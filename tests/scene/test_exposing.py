"""Exposure, white balance, focus and verticals from what is wanted."""

import math

import numpy as np
import pytest

from nocturne.colour.blackbody import blackbody
from nocturne.errors import SceneError
from nocturne.scene import exposing, navigate
from nocturne.scene.camera import View
from nocturne.scene.document import Document
from nocturne.scene.thing import Thing

VIEW = View(id="v", eye=(0, -4, 1), target=(0, 0, 2.2), focal_mm=50, f_number=4, focus_m=3)


def test_a_luminance_is_put_at_grey():
    view = exposing.exposed_for(VIEW, 55.0)
    assert 55.0 / view.white_luminance == pytest.approx(0.18, rel=1e-6)
    assert exposing.exposed_for(VIEW, 0) is VIEW


def test_the_average_leaves_out_lamps_and_black():
    picture = np.full(1000, 20.0)
    picture[:40], picture[-40:] = 1e6, 1e-6
    assert exposing.average_luminance(picture) == pytest.approx(20)
    assert exposing.average_luminance(np.zeros(5)) == 0


@pytest.mark.parametrize("kelvin", [2200, 3200, 5600, 9000])
def test_the_neutral_is_found(kelvin):
    assert exposing.neutral_kelvin(blackbody(kelvin) * 7) == pytest.approx(kelvin, rel=0.02)


def test_upright_holds_the_camera_level_and_the_aim_in_the_middle():
    view = exposing.upright(VIEW)
    assert view.target[2] == view.eye[2]
    half = view.sensor_mm / (2 * view.focal_mm) * view.height / view.width
    rise = (VIEW.target[2] - VIEW.eye[2]) / 4
    assert view.shift_y * half == pytest.approx(rise, rel=1e-3)
    right, _, _ = navigate.axes(view)
    assert right == pytest.approx(navigate.axes(VIEW)[0])


def test_the_sharp_range_has_the_limit_as_its_blur():
    near, far = exposing.sharp_range(VIEW)
    limit = exposing.circle_limit(VIEW)
    assert near < 3 < far
    assert exposing.blur_on_sensor(VIEW, np.array([near, 3.0, far])) == pytest.approx([limit, 0, limit], rel=1e-6)
    wide = VIEW.model_copy(update={"focal_mm": 14.0, "f_number": 16.0})
    assert math.isinf(exposing.sharp_range(wide)[1])


def test_focus_by_a_wanted_range():
    view = exposing.focused_on_range(VIEW, 2.0, 4.0)
    near, far = exposing.sharp_range(view)
    assert near == pytest.approx(2.0, rel=0.03)
    assert far == pytest.approx(4.0, rel=0.05)
    assert view.depth_of_field


@pytest.mark.parametrize(("distance", "kept"), [(8e-4, 0.01), (2.5, 2.5), (3e6, 1e5)])
def test_the_focus_goes_as_near_and_far_as_the_lens(distance, kept):
    assert exposing.focused_at(VIEW, distance).focus_m == kept
    held = Document(things=(Thing(id="cup", name="Cup"),), views=(looking_at_the_cup(distance),))
    assert exposing.with_held_focus(held).view.focus_m == pytest.approx(kept)
    assert exposing.focused_on_range(VIEW, distance, 2 * distance).focus_m == pytest.approx(
        np.clip(4 / 3 * distance, 0.01, 1e5), abs=1e-4
    )


def looking_at_the_cup(distance):
    return View(id="view-1", eye=(0, -distance, 0), target=(0, 0, 0), focus_on="cup", focus_m=7.0)


def test_no_focus_is_held_on_what_has_no_size():
    document = Document(things=(Thing(id="cup", name="Cup", size=(1, 0, 1)),), views=(VIEW,))
    with pytest.raises(SceneError, match="“Cup” or a group it is in has a size of 0"):
        exposing.holding(VIEW, document, "cup", (0, 0, 0))

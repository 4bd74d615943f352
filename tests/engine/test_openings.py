"""Openings are found where they are: holes in walls, panes and bars in them, and the flat face of a thing."""

import numpy as np
import pytest

from nocturne.engine.gain import portal_gain
from nocturne.engine.openings import find_openings, opening_of_face
from nocturne.engine.prepare import Preparer
from nocturne.errors import SceneError
from nocturne.jobs import run
from nocturne.scene import edit
from nocturne.scene import solids as forms
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.shapes import rotation, transform
from tests import sets

GREY = Material(id="grey", base_color=(0.5, 0.5, 0.5))
PANE = Material(id="pane", transmission_weight=1.0, specular_roughness=0.0, geometry_thin_walled=True)
W, H = 3.0, 2.6  # half of the room's side, and its height
WINDOW = (-1.0, 0.4, 0.9, 2.1)  # x from and to, z from and to


def wall(y, holes, *, thick=0.2):
    """Return the parts of a wall across y with rectangular holes, with their jambs: boxes around each, side by side."""
    parts, edges = [], [-W]
    for x0, x1, z0, z1 in holes:
        parts += [(edges[-1], x0, 0, H), (x0, x1, 0, z0), (x0, x1, z1, H)]
        edges.append(x1)
    parts.append((edges[-1], W, 0, H))
    out = []
    for x0, x1, z0, z1 in parts:
        box = forms.rounded_box((x1 - x0, thick, z1 - z0), 0.001)
        place = ((x0 + x1) / 2, y + thick / 2, z0)  # boxes stand on their place
        out.append((box, GREY, {"place": place}))
    return out


def room(holes=(WINDOW,), more=()):
    """Return a document's stage: a closed room but for holes in its wall at y = 3, and more parts."""
    sides = [
        [(-W, -W, 0), (W, -W, 0), (W, W, 0), (-W, W, 0)],
        [(-W, -W, H), (W, -W, H), (W, W, H), (-W, W, H)],
        [(-W, -W, 0), (-W, W, 0), (-W, W, H), (-W, -W, H)],
        [(W, -W, 0), (W, W, 0), (W, W, H), (W, -W, H)],
        [(-W, -W, 0), (W, -W, 0), (W, -W, H), (-W, -W, H)],
    ]
    parts = [(forms.panel(side), GREY, {}) for side in sides] + wall(W, holes) + list(more)
    return sets.many(parts, sets.white_dome())


def found(document, assets, eye):
    return run(find_openings(Preparer().prepare(document, assets).stage, np.array(eye)))


def assert_is(opening, x0, x1, z0, z1, within=0.03):
    assert opening.place == pytest.approx(((x0 + x1) / 2, W, (z0 + z1) / 2), abs=within)
    assert (opening.width, opening.height) == pytest.approx((x1 - x0, z1 - z0), abs=within)
    assert -rotation(opening.turn_deg)[:, 2] == pytest.approx((0, -1, 0), abs=1e-3), "light goes into the room"
    # Nothing of the opening is left out.
    assert opening.width > x1 - x0 - 0.002
    assert opening.height > z1 - z0 - 0.002


@pytest.mark.parametrize("eye", [(0.3, -1.5, 1.4), (-2.5, 1.0, 0.5), (2.2, 2.2, 1.7)])
def test_a_window_is_found_from_wherever_one_stands(eye):
    openings = found(*room(), eye)
    assert len(openings) == 1
    assert_is(openings[0], *WINDOW)


def test_panes_bars_and_things_before_it_hide_no_window():
    x0, x1, z0, z1 = WINDOW
    pane = forms.panel([(x0, W + 0.1, z0), (x1, W + 0.1, z0), (x1, W + 0.1, z1), (x0, W + 0.1, z1)])
    bar = (forms.rounded_box((0.06, 0.06, z1 - z0), 0.001), GREY, {"place": ((x0 + x1) / 2, W + 0.05, z0)})
    ball = (forms.ball(0.25), GREY, {"place": (-0.2, 0.5, 1.45)})
    openings = found(*room(more=[(pane, PANE, {}), bar, ball]), (-0.3, -2.0, 1.4))
    assert len(openings) == 1
    assert_is(openings[0], *WINDOW)


def test_two_windows_are_two_and_the_larger_comes_first():
    small, large = (-2.2, -1.5, 1.0, 1.8), (-0.5, 1.9, 0.6, 2.2)
    openings = found(*room((small, large)), (0, -1.5, 1.3))
    assert len(openings) == 2
    assert_is(openings[0], *large)
    assert_is(openings[1], *small)


def test_where_there_is_nothing_to_find_it_is_said():
    assert found(*room(()), (0, 0, 1.3)) == ()
    with pytest.raises(SceneError, match="in the open"):
        found(*sets.one_thing(sets.PLANE, GREY, sets.white_dome()), (0, 0, 1))


def test_a_portal_lies_on_the_face_that_looks_at_the_eye():
    box = forms.rounded_box((1.2, 0.02, 0.8), 0.001)
    matrix = transform((0.5, 2.0, 1.0), (0, 0, 30))
    opening = opening_of_face(box, matrix, np.array([0, -3, 1.0]))
    assert (opening.width, opening.height) == pytest.approx((1.2, 0.8), abs=0.01)
    facing = -rotation(opening.turn_deg)[:, 2]
    assert facing == pytest.approx(-matrix[:3, 1], abs=1e-3)
    assert np.array(opening.place) == pytest.approx(matrix[:3, 3] - 0.01 * matrix[:3, 1] + (0, 0, 0.4), abs=1e-3)
    behind = opening_of_face(box, matrix, np.array([0.5, 6, 1.0]))
    assert -rotation(behind.turn_deg)[:, 2] == pytest.approx(matrix[:3, 1], abs=1e-3)


def test_what_a_portal_gains_is_measured(engine):
    document, assets = room()
    x0, x1, z0, z1 = WINDOW
    on_it = {"place": ((x0 + x1) / 2, W, (z0 + z1) / 2), "turn_deg": (-90, 0, 0), "width": x1 - x0, "height": z1 - z0}
    sky = make_light(id="sky", kind="sky", unit="x", power=1.0, elevation_deg=40, azimuth_deg=200)
    view = sets.view(eye=(1.5, -2.2, 1.5), target=(-1, 2, 0.8), focal_mm=24, size=(160, 90))
    lit = edit.changed(
        document, lights=(sky, make_light(id="p", kind="portal", **on_it)), views=(view,), groups=("light",)
    )
    gain = run(portal_gain(Preparer(), lit, assets, "p"))
    assert gain > 1.5
    # A portal where no light comes in by gains nothing, and takes nothing away.
    wrong = edit.alter(lit, "lights", "p", place=(0.0, -W, 1.0), turn_deg=(90, 0, 0))
    assert 0.6 < run(portal_gain(Preparer(), wrong, assets, "p")) < 1.3

"""Where points lie in the picture, against the engine's own rays."""

import numpy as np
import pytest

from nocturne.engine.pick import pixel_ray
from nocturne.engine.prepare import Preparer
from nocturne.scene.assets import Assets
from nocturne.scene.camera import View
from nocturne.scene.document import Document
from nocturne.scene.lights import make_light
from nocturne.scene.projection import camera_axes, light_lines, pixel_direction, plane_lines, project, project_line

VIEWS = [
    View(id="a", width=640, height=360),
    View(id="a", eye=(4, 1, 2), target=(0, 0, 1), roll_deg=25, width=500, height=500, focal_mm=85),
    View(id="a", shift_x=0.4, shift_y=-0.7, width=300, height=900, focal_mm=20),
]


@pytest.mark.parametrize("view", VIEWS)
def test_projection_undoes_the_engines_rays(view, engine):
    document = Document(views=(view,), active_view="a")
    prepared = Preparer().prepare(document, Assets(), width=view.width, height=view.height)
    for u, v in ((0.5, 0.5), (0.1, 0.2), (0.93, 0.7)):
        origin, direction, _ = pixel_ray(prepared, u * view.width, v * view.height)
        place, distance = project(view, origin + 3.7 * direction)
        assert place == pytest.approx((u, v), abs=1e-5)
        assert distance > 0
        assert pixel_direction(view, u, v) == pytest.approx(direction, abs=1e-6)


def test_lines_are_cut_before_the_lens():
    view = VIEWS[0]
    _, _, ahead = camera_axes(view)
    eye = np.array(view.eye)
    (piece,) = project_line(view, np.stack([eye - ahead, eye + 5 * ahead]))
    assert np.isfinite(piece).all()
    assert piece[-1] == pytest.approx((0.5, 0.5), abs=1e-6)
    assert project_line(view, np.stack([eye - ahead, eye - 2 * ahead])) == []


def test_shapes_of_lights_stand_where_they_shine():
    rect = make_light(id="r", kind="rect", place=(1, 2, 3), width=2, height=1)
    outline, aim = light_lines(rect, 0.5)
    assert outline.mean(0)[2] == 3
    assert np.ptp(outline, axis=0) == pytest.approx((2, 1, 0))
    assert aim[1] - aim[0] == pytest.approx((0, 0, -0.5))
    spot = make_light(id="s", kind="spot", inner_deg=10, outer_deg=45, place=(0, 0, 2))
    rings = [line for line in light_lines(spot, 1.0) if len(line) > 10]
    assert [np.linalg.norm(r[0][:2]) for r in rings] == pytest.approx([np.tan(np.radians(10)), 1.0])
    assert light_lines(make_light(id="e", kind="dome", unit="nit"), 1) == []


def test_the_focus_plane_lies_at_its_distance():
    view = VIEWS[1]
    for line in plane_lines(view, 2.5, 1.0):
        assert project(view, line)[1] == pytest.approx([2.5, 2.5])

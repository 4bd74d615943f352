"""The camera: where things land, how far they blur, how the pixel filter weighs."""

import math

import numpy as np
import pytest

from nocturne.engine import gate
from nocturne.engine.layout import camera as cam
from nocturne.engine.pick import face_at, pick, pixel_ray
from nocturne.engine.prepare import Preparer
from nocturne.scene import edit
from nocturne.scene import solids as forms
from nocturne.scene.camera import View, lens_radius
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.projection import pixel_direction, project
from tests import sets

GLOW = Material(id="g", base_color=(0, 0, 0), specular_weight=0, emission_luminance=100)


def seen(camera: View, place, size: float, samples: int = 64) -> np.ndarray:
    """Return the (h, w) luminous picture of a small glowing ball."""
    document, assets = sets.many(
        [(sets.BALL, GLOW, {"place": place, "size": (size,) * 3})], camera=camera, quality=sets.deep(samples)
    )
    return sets.picture(document, assets).beauty()[..., 1]


def centre(picture: np.ndarray) -> tuple[float, float]:
    rows, columns = np.indices(picture.shape) + 0.5
    return float((columns * picture).sum() / picture.sum()), float((rows * picture).sum() / picture.sum())


def test_a_point_lands_where_the_lens_says(engine):
    camera = sets.view(eye=(0, -10, 0), target=(0, 0, 0), focal_mm=50, sensor_mm=36, size=(160, 90))
    # 1 m off at 10 m: 5 mm on the sensor, 160 / 36 pixels each.
    x, y = centre(seen(camera, (1.0, 0.0, 0.5), 0.05))
    assert x == pytest.approx(80 + 5 * 160 / 36, abs=0.3)
    assert y == pytest.approx(45 - 2.5 * 160 / 36, abs=0.3)


def test_shift_and_roll(engine):
    camera = sets.view(eye=(0, -10, 0), target=(0, 0, 0), focal_mm=50, size=(160, 90))
    x, y = centre(seen(camera.model_copy(update={"shift_x": 0.25, "shift_y": 0.5}), (0.0, 0.0, 0.0), 0.05))
    assert (x, y) == (pytest.approx(80 - 0.25 * 80, abs=0.4), pytest.approx(45 + 0.5 * 45, abs=0.4))
    x, y = centre(seen(camera.model_copy(update={"roll_deg": 90.0}), (1.0, 0.0, 0.0), 0.05))
    assert x == pytest.approx(80, abs=0.4)
    assert abs(y - 45) == pytest.approx(5 * 160 / 36, abs=0.5)


def test_blur_is_the_circle_of_confusion(engine):
    camera = sets.view(
        eye=(0, -4, 0), target=(0, 0, 0), focal_mm=100, size=(200, 200), f_number=2.0, depth_of_field=True, focus_m=2.0
    )
    aperture = 2 * lens_radius(camera)
    assert aperture == pytest.approx(0.05)
    # In the plane of focus, a point at 4 m spreads over aperture * |4 - 2| / 4; that plane is 2 * 36 / 100 m wide.
    expected = aperture * (4 - 2) / 4 / (2 * 36 / 100) * 200
    picture = seen(camera, (0.0, 0.0, 0.0), 0.004, samples=160)
    rows, columns = np.nonzero(picture > 0.2 * np.percentile(picture[picture > 0], 90))
    assert np.ptp(columns) + 1 == pytest.approx(expected, abs=2.5)
    sharp = seen(camera.model_copy(update={"focus_m": 4.0}), (0.0, 0.0, 0.0), 0.004, samples=160)
    assert (sharp > 0.2 * sharp.max()).sum() < 0.2 * len(rows)


def test_another_proportion_still_shows_the_whole_frame():
    camera = sets.view(size=(160, 90))
    own, square, wide = (gate.camera_row(camera, *size) for size in ((160, 90), (100, 100), (300, 90)))
    for other in (square, wide):
        assert other[cam.HALF_X] >= own[cam.HALF_X] - 1e-6
        assert other[cam.HALF_Y] >= own[cam.HALF_Y] - 1e-6


def test_looking_straight_down_and_at_oneself_is_survived():
    for eye, target in (((0, 0, 5), (0, 0, 0)), ((1, 1, 1), (1, 1, 1))):
        row = gate.camera_row(sets.view(eye=eye, target=target), 32, 32)
        axes = row[cam.RIGHT : cam.FORWARD + 3].reshape(3, 3)
        assert axes @ axes.T == pytest.approx(np.eye(3), abs=1e-5)


def test_rays_of_picking_are_those_of_the_picture(engine):
    camera = sets.view(eye=(2, -5, 3), target=(0, 0, 0), focal_mm=30, size=(64, 48))
    prepared = Preparer().prepare(*sets.one_thing(sets.BALL, GLOW, camera=camera))
    origin, direction, _ = pixel_ray(prepared, 32, 24)
    assert origin == pytest.approx((2, -5, 3))
    assert direction == pytest.approx(-np.array([2, -5, 3]) / math.sqrt(38), abs=1e-6)


def test_the_pixel_filter_is_even_and_narrow():
    inverse = gate.inverse_filter()
    assert inverse[0] == pytest.approx(-1.5)
    assert inverse + inverse[::-1] == pytest.approx(np.zeros(257), abs=1e-3)
    assert 0.2 < np.std(inverse[1:-1]) < 0.5
    assert (np.diff(inverse) > 0).all()


def test_blades_give_a_blurred_light_corners_and_keep_its_area(engine):
    camera = sets.view(
        eye=(0, -4, 0), target=(0, 0, 0), focal_mm=100, size=(100, 100), f_number=1.0, depth_of_field=True, focus_m=1.0
    )
    across = 2 * lens_radius(camera) * (4 - 1) / 4 / (1 * 36 / 100) * 100  # pixels over the round blur

    def spot(**blades) -> np.ndarray:
        picture = seen(camera.model_copy(update=blades), (0.0, 0.0, 0.0), 0.02, samples=600)
        return picture > 0.3 * np.percentile(picture[picture > 0], 80)

    circle = spot()
    on_corner, on_side = spot(blades=4), spot(blades=4, blades_turn_deg=45.0)
    # A square of the circle's area: its half diagonal is r * sqrt(pi / 2), its half side r * sqrt(pi) / 2.
    assert np.ptp(np.nonzero(on_corner)[1]) == pytest.approx(across * math.sqrt(math.pi / 2), abs=3)
    assert np.ptp(np.nonzero(on_side)[1]) == pytest.approx(across * math.sqrt(math.pi) / 2, abs=3)
    for shape in (on_corner, on_side, spot(blades=5)):
        assert shape.sum() == pytest.approx(circle.sum(), rel=0.06)


def test_what_stands_before_the_cut_is_not_shown_but_still_shades(engine):
    wall = Material(id="w", base_color=(0.8, 0.1, 0.1))
    ball = Material(id="b", base_color=(0.1, 0.1, 0.8), specular_weight=0)
    camera = sets.view(eye=(0, -6, 0), target=(0, 0, 0), focal_mm=50, size=(32, 32))
    parts = [(sets.BALL, ball, {}), (sets.BOX, wall, {"place": (0.0, -3.0, -3.0), "size": (3.0, 0.05, 3.0)})]
    document, assets = sets.many(parts, sets.white_dome(), camera=camera, quality=sets.deep(32))
    closed = sets.picture(document, assets)
    cut = edit.alter(document, "views", "v", cut_m=4.0)
    opened = sets.picture(cut, assets)
    assert closed.albedo[16, 16] == pytest.approx((0.8, 0.1, 0.1), abs=0.02)
    assert opened.albedo[16, 16] == pytest.approx((0.1, 0.1, 0.8), abs=0.02)
    assert opened.depth[16, 16] == pytest.approx(5.0, abs=0.02), "depth is measured from the lens, not from the cut"
    free = sets.picture(edit.alter(document, "things", "thing-1", visible=False), assets)
    assert opened.beauty()[16, 16, 2] < 0.8 * free.beauty()[16, 16, 2], "the wall still keeps light away"
    prepared = Preparer().prepare(cut, assets)
    hit = pick(prepared, 16, 16)
    assert hit.id == "thing-0"
    assert hit.distance == pytest.approx(5.0, abs=0.02)


def test_depth_on_a_grazing_floor_is_the_pixels_middle(engine):
    camera = sets.view(eye=(0, -4, 0.5), target=(0, 0, 0.0), focal_mm=50, size=(32, 32))
    document, assets = sets.one_thing(sets.PLANE, Material(id="m"), sets.white_dome(), camera=camera)
    film = sets.picture(document, assets)
    rows = slice(14, 32)
    for y, x in ((14, 5), (20, 16), (31, 30)):
        d = pixel_direction(document.view, (x + 0.5) / 32, (y + 0.5) / 32)
        assert film.depth[y, x] == pytest.approx(-0.5 / d[2], rel=1e-4)
        assert film.position[y, x] == pytest.approx(np.array([0, -4, 0.5]) + d * (-0.5 / d[2]), abs=1e-3)
    assert film.normal[rows].reshape(-1, 3) == pytest.approx(np.tile([0, 0, 1], (18 * 32, 1)), abs=1e-6)


@pytest.mark.parametrize(("turn", "is_seen"), [(-90.0, True), (90.0, False)])
def test_a_lamp_seen_from_behind_is_not_there(engine, turn, is_seen):
    lamp = make_light(
        id="l",
        name="Lamp",
        kind="rect",
        unit="nit",
        power=50,
        place=(0, -2, 0),
        turn_deg=(turn, 0, 0),
        width=3,
        height=3,
    )
    document, assets = sets.one_thing(sets.BALL, Material(id="m"), lamp, quality=sets.deep(16))
    prepared = Preparer().prepare(document, assets)
    hit, face = pick(prepared, 16, 16), face_at(prepared, 16, 16)
    assert face is None if is_seen else face.point == pytest.approx(hit.point, abs=1e-4)
    assert (hit.name, hit.is_lamp) == (("Lamp", True) if is_seen else ("Thing 0", False))
    assert hit.distance == pytest.approx(4.0 if is_seen else 5.0, abs=0.01)
    assert sets.picture(document, assets).depth[16, 16] == pytest.approx(hit.distance, abs=0.01)


@pytest.mark.parametrize("tilt", [0.0, 1e-4, 0.3, 0.8, 2.0])
def test_picture_and_overlays_agree_near_the_vertical(engine, tilt):
    # Straight down, and a little less: one function says which way is up.
    c, s = math.cos(math.radians(tilt)), math.sin(math.radians(tilt))
    eye = (5 * s * 0.6, 5 * s * 0.8, 5 * c)
    camera = sets.view(eye=eye, target=(0, 0, 0), size=(32, 32), roll_deg=20)
    document, assets = sets.one_thing(sets.PLANE, Material(id="m"), sets.white_dome(), camera=camera)
    prepared = Preparer().prepare(document, assets)
    for x, y in ((3.0, 5.0), (28.0, 17.0)):
        place, _ = project(document.view, pick(prepared, x, y).point)
        assert place * 32 == pytest.approx([x, y], abs=0.02)


@pytest.mark.parametrize("far", [0.0, 400.0, 10_000.0])
def test_a_camera_before_glass_far_from_the_origin_is_not_in_it(engine, far):
    glass = Material(id="m", transmission_weight=1, transmission_color=(0.1, 0.5, 0.9), transmission_depth=0.01)
    box = forms.rounded_box((2, 2, 2), 0.01)
    for height, inside in ((-3.0, False), (1.0, True)):
        camera = sets.view(eye=(far + 0.1, 0.2, height), target=(far + 0.1, 0.3, 50))
        document, assets = sets.many([(box, glass, {"place": (far, 0.0, 0.0)})], sets.white_dome(), camera=camera)
        start = Preparer().prepare(document, assets).arrays["start_medium"]
        assert start[0] == int(inside)

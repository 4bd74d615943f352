"""Perspective, orthographic and all around: rays, blur, what is cut away, and the focus on the middle of the frame."""

import numpy as np
import pytest

from nocturne.engine.pick import focus_distance, pick
from nocturne.engine.prepare import Preparer
from nocturne.engine.render import blank_film, render
from nocturne.film.sight import Sight
from nocturne.finish import upsampling
from nocturne.scene import edit, navigate
from nocturne.scene.camera import View, half_width, lens_radius, projected
from nocturne.scene.exposing import focused_on_range, sharp_range, upright
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.projection import pixel_ray, project, project_line
from tests import sets

GLOW = Material(id="g", base_color=(0, 0, 0), specular_weight=0, emission_luminance=100)
GREY = Material(id="m")
LAMP = make_light(id="l", kind="sphere", place=(0.0, -3.0, 0.0))
KINDS = ("perspective", "orthographic", "panorama")


def camera(kind: str, **changes) -> View:
    values = {"eye": (1.0, -3.0, 0.5), "target": (0.2, 0.0, 0.8), "roll_deg": 20.0, "shift_x": 0.3, "shift_y": -0.2}
    if kind == "panorama":
        values["shift_y"] = 0.0  # what lies over a pole is seen twice
    size = (64, 32) if kind == "panorama" else (40, 32)
    return sets.view(**{**values, "projection": kind, "span_m": 3.0, "focal_mm": 28, "size": size, **changes})


def room(view: View):
    inside = [
        (sets.BOX, GREY, {"size": (6.0, 6.0, 4.0), "place": (0.0, 0.0, -3.0)}),
        (sets.BALL, GREY, {"place": (0.3, 0.0, 0.7)}),
    ]
    return sets.many(inside, sets.white_dome(), camera=view, quality=sets.deep(2))


def looked(prepared) -> Sight:
    """Return what all pixels' middles see."""
    sight = Sight.blank(prepared.width, prepared.height)
    for update in render(prepared, blank_film(prepared), coarse=True, sight=sight, samples=1):
        if update.preview.step == 1:
            break
    return sight


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("cut", [0.0, 0.7])
def test_the_kernels_rays_are_those_of_the_document(kind, cut, engine):
    view = camera(kind, cut_m=cut)
    film = sets.picture(*room(view))
    height, width = film.depth.shape
    for y, x in ((3, 4), (16, 20), (30, 38)):
        u, v = (x + 0.5) / width, (y + 0.5) / height
        origin, direction = pixel_ray(view, u, v)
        assert film.position[y, x] == pytest.approx(origin + direction * film.depth[y, x], abs=2e-4)
        place, _ = project(view, film.position[y, x].astype(float))
        assert place == pytest.approx((u, v), abs=2e-4)


@pytest.mark.parametrize("kind", KINDS)
def test_what_is_picked_lies_where_it_was_seen(kind, engine):
    view = camera(kind)
    prepared = Preparer().prepare(*room(view))
    x, y = 20.5, 11.5
    hit = pick(prepared, x, y)
    place, _ = project(view, hit.point)
    assert place == pytest.approx((x / view.width, y / view.height), abs=1e-4)
    origin, direction = pixel_ray(view, x / view.width, y / view.height)
    assert np.cross(hit.point - origin, direction) == pytest.approx(np.zeros(3), abs=1e-4)


def test_parallel_rays_draw_near_and_far_as_large(engine):
    balls = [(sets.BALL, GLOW, {"place": (x, y, 0.0), "size": (0.5,) * 3}) for x, y in ((-1.0, -2.0), (1.0, 9.0))]
    view = sets.view(eye=(0, -6, 0), projection="orthographic", span_m=4.0, size=(128, 64))
    lit = sets.picture(*sets.many(balls, camera=view, quality=sets.deep(8))).beauty()[..., 1] > 50
    areas = [lit[:, :64].sum(), lit[:, 64:].sum()]
    assert areas == pytest.approx([np.pi * 16**2] * 2, rel=0.03), "half a metre is 16 pixels, wherever it is"


def test_a_panorama_shows_what_is_behind(engine):
    ball = (sets.BALL, GLOW, {"place": (0.0, -9.0, 0.0), "size": (0.3,) * 3})
    view = sets.view(eye=(0, -6, 0), target=(0, 0, 0), projection="panorama", size=(128, 64))
    lit = sets.picture(*sets.many([ball], camera=view, quality=sets.deep(8))).beauty()[..., 1] > 50
    columns = np.flatnonzero(lit.any(0))
    assert set(columns) <= {*range(4), *range(124, 128)}
    assert lit[:, :4].sum() == pytest.approx(lit[:, 124:].sum(), abs=3)
    # A ball of 0.3 m at 3 m: an angle of asin(0.1) to either side, of 64 pixels for half a turn.
    assert lit.sum() == pytest.approx(np.pi * (np.arcsin(0.1) / np.pi * 64) ** 2, rel=0.15)


@pytest.mark.parametrize("kind", KINDS)
def test_blur_is_the_circle_of_confusion(kind, engine):
    view = sets.view(
        eye=(0, -4, 0),
        projection=kind,
        span_m=1.5,
        size=(1000, 500) if kind == "panorama" else (200, 200),
        focal_mm=300,
        f_number=1.0,
        depth_of_field=True,
        focus_m=2.0,
    )
    ball = (sets.BALL, GLOW, {"size": (0.1,) * 3})
    document, assets = sets.many([ball], camera=view, quality=sets.deep(64))
    picture = sets.picture(document, assets).beauty()[..., 1]
    # Its second moment: a disc of radius R has R^2 / 4 to each side; that of the ball itself is added.
    columns = np.arange(view.width)
    x = columns - (columns * picture).sum() / picture.sum()
    spread = 4 * float((x**2 * picture).sum() / picture.sum())
    away = 4.0 if kind != "orthographic" else 1.0
    pixels = view.width / (2 * half_width(view, away))
    circle = 2 * lens_radius(view) / 2 * abs(4 - 2) / 2
    assert spread == pytest.approx((circle**2 + 0.1**2) * pixels**2, rel=0.05)


@pytest.mark.parametrize("kind", ["perspective", "orthographic"])
def test_the_sharp_range_is_where_the_blur_is_a_1500th_of_the_frame(kind):
    view = sets.view(projection=kind, span_m=3.0, f_number=2.0, focus_m=4.0, depth_of_field=True)
    near, far = sharp_range(view)
    assert near < 4 < far
    for distance in (near, far):
        circle = 2 * lens_radius(view) * abs(distance - 4) / 4
        assert circle == pytest.approx(2 * half_width(view, distance) / 1500, rel=1e-6)
    found = focused_on_range(view, 3.0, 5.0)
    assert sharp_range(found) == (pytest.approx(3.0, rel=0.01), pytest.approx(5.0, rel=0.01))


def test_what_stands_beyond_the_far_cut_is_sky_but_still_shades(engine):
    wall = (sets.BOX, Material(id="w", base_color=(0.8, 0.1, 0.1)), {"place": (0.0, 3.0, 0.0), "size": (9, 0.05, 9)})
    ball = (sets.BALL, Material(id="b", base_color=(0.1, 0.1, 0.8), specular_weight=0), {})
    view = sets.view(eye=(0, -6, 0), target=(0, 0, 0), focal_mm=50, size=(32, 32))
    document, assets = sets.many([ball, wall], sets.white_dome(), camera=view, quality=sets.deep(32))
    cut = edit.alter(document, "views", "v", far_m=8.0)
    shown, cut_away = sets.picture(document, assets), sets.picture(cut, assets)
    assert shown.albedo[1, 1] == pytest.approx((0.8, 0.1, 0.1), abs=0.02)
    sky = sets.picture(edit.alter(document, "things", "thing-1", visible=False), assets)
    assert cut_away.beauty()[:4] == pytest.approx(sky.beauty()[:4], rel=1e-5)
    assert cut_away.depth[1, 1] == sky.depth[1, 1]
    assert cut_away.beauty()[16, 16] == pytest.approx(shown.beauty()[16, 16], rel=1e-5), "it reflects as before"
    prepared = Preparer().prepare(cut, assets)
    assert pick(prepared, 1, 1) is None
    assert pick(prepared, 16, 16).id == "thing-0"


def test_the_focus_keeps_to_what_is_in_the_middle(engine):
    view = sets.view(eye=(0, -6, 0), size=(24, 24), depth_of_field=True, f_number=1.0, focus_middle=True, focus_m=77.0)
    document, assets = sets.many([(sets.BALL, GREY, {})], sets.white_dome(), LAMP, camera=view)
    preparer = Preparer()
    assert preparer.prepare(document, assets).view.focus_m == pytest.approx(5.0, abs=1e-3), "a lamp is looked through"
    typed = edit.alter(
        document, "views", "v", focus_middle=False, focus_m=preparer.prepare(document, assets).view.focus_m
    )
    assert np.array_equal(sets.picture(document, assets).beauty(), sets.picture(typed, assets).beauty())
    away = edit.alter(document, "things", "thing-0", place=(5.0, 0.0, 0.0))
    assert preparer.prepare(away, assets).view.focus_m == 77.0, "of nothing it stays as it is"
    back = preparer.prepare(edit.alter(document, "views", "v", cut_m=5.5), assets)
    assert back.view.focus_m == pytest.approx(7.0, abs=1e-3), "of a thing that is cut open, the inside"
    assert focus_distance(back, np.array((0.0, 1.0, 0.0))) == pytest.approx(7.0, abs=1e-3)


@pytest.mark.parametrize("kind", KINDS)
def test_an_earlier_picture_is_found_again_from_a_moved_camera(kind, engine):
    view = camera(kind, size=(384, 192) if kind == "panorama" else (96, 48))
    document, assets = room(view)
    preparer = Preparer()
    old = preparer.prepare(document, assets)
    moved = edit.changed(document, views=(navigate.pan(view, across=0.1, up=0.05),))
    before, now = (looked(p) for p in (old, preparer.prepare(moved, assets)))
    # Light that tells the place: what is found must be that of the place seen now.
    light = np.ascontiguousarray(before.part("POSITION"))
    found, trust = upsampling.reprojected(light, (before.seen, before.ids), (now.seen, now.ids), old.eye, 1)
    places = now.part("POSITION")
    assert (trust > 0).mean() > 0.6
    assert np.abs(found - places)[trust > 0.5].mean() < 0.03


@pytest.mark.parametrize("kind", KINDS)
def test_moving_the_view_keeps_the_point_under_the_pointer(kind):
    view, point = camera(kind), np.array((0.5, 0.4, 0.9))
    if kind == "orthographic":
        nearer = navigate.dolly(view, towards=point, part=0.3)
        assert nearer.span_m == pytest.approx(view.span_m * 0.7)
        assert project(nearer, point)[0] == pytest.approx(project(view, point)[0], abs=1e-4)
    framed = navigate.bring_into_view(view, np.array((0.0, 0.0, 0.0)), np.array((1.0, 1.0, 1.0)))
    place, distance = project(framed, np.array((0.5, 0.5, 0.5)))
    assert distance > 0
    if kind != "panorama":
        assert place == pytest.approx((0.5, 0.5), abs=1e-3)
        corners = np.stack(np.meshgrid((0, 1), (0, 1), (0, 1)), -1).reshape(-1, 3).astype(float)
        places, _ = project(framed, corners)
        assert ((places > 0) & (places < 1)).all()
        assert np.ptp(places[:, 1]) > 0.4
    view = edit.changed(view, roll_deg=0.0)
    level = upright(view)
    assert level.eye[2] == level.target[2]
    before, after = (project(v, np.array(view.target))[0][1] for v in (view, level))
    assert after == pytest.approx(before, abs=1e-3) or kind == "panorama"


def test_a_change_of_projection_keeps_what_is_framed():
    view = View(id="v", width=1600, height=900)
    flat = projected(view, "orthographic")
    away = float(np.linalg.norm(np.subtract(view.target, view.eye)))
    assert half_width(flat, away) == pytest.approx(half_width(view, away), rel=1e-3)
    assert (projected(view, "panorama").width, projected(view, "panorama").height) == (1600, 800)


def test_a_line_across_a_panoramas_seam_is_in_two_pieces():
    view = View(id="v", eye=(0, 0, 0), target=(0, 1, 0), projection="panorama", width=200, height=100)
    pieces = project_line(view, np.array([(-1.0, -2.0, 0.3), (1.0, -2.0, 0.3)]))
    assert len(pieces) == 2
    for piece in pieces:
        assert np.abs(np.diff(piece[:, 0])).max() < 0.1

"""Exposure, white balance, focus and upright verticals of a view, worked out from what is wanted."""

import math

import numpy as np

from nocturne.colour.blackbody import white_balance
from nocturne.scene import navigate
from nocturne.scene.camera import View, half_angle, half_width
from nocturne.scene.document import Document
from nocturne.scene.edit import changed
from nocturne.scene.fields import within
from nocturne.scene.placing import into
from nocturne.scene.projection import camera_axes

GREY = 0.18


def exposed_for(view: View, nits: float) -> View:
    """Return the view with the shutter time that puts a luminance, cd/m2, at middle grey."""
    if nits <= 0:
        return view
    factor = GREY * view.white_luminance / nits
    return changed(view, shutter_s=within(View, "shutter_s", view.shutter_s * factor))


def average_luminance(luminance: np.ndarray) -> float:
    """Return the luminance that an exposure of the whole picture goes by: the geometric mean without the darkest and
    brightest twentieth (log-average, Reinhard et al. 2002, here trimmed so that lamps and black corners do not count).
    """
    lit = np.sort(luminance[luminance > 0].ravel())
    if not len(lit):
        return 0.0
    cut = len(lit) // 20
    return float(np.exp(np.log(lit[cut : len(lit) - cut]).mean()))


def neutral_kelvin(rgb: np.ndarray) -> float:
    """Return the white balance, K, under which a working-space colour comes closest to grey."""
    rgb = np.asarray(rgb, float)

    def off(mired: float) -> float:
        r, g, b = np.maximum(white_balance(1e6 / mired) @ rgb, 1e-9)
        return math.log(r / g) ** 2 + math.log(b / g) ** 2

    from scipy.optimize import minimize_scalar  # here, as it takes long to load

    found = minimize_scalar(off, bounds=(1e6 / 25000, 1e6 / 1500), method="bounded", options={"xatol": 0.01})
    return float(round(1e6 / found.x))


def upright(view: View) -> View:
    """Return the view held level, the frame shifted so that the aim stays in its middle: verticals become upright."""
    _, _, ahead = navigate.axes(view)
    level = math.hypot(ahead[0], ahead[1])
    if level < 1e-3:
        return view
    slope = ahead[2] / level  # rise of the aim over its distance
    if view.projection == "panorama":
        return changed(view, target=(view.target[0], view.target[1], view.eye[2]), roll_deg=0.0)
    away = float(np.hypot(*np.subtract(view.target, view.eye)[:2]))
    half_height = half_width(view, away) / away * view.height / view.width
    eye, target = np.array(view.eye), np.array(view.target)
    out = target.copy()
    out[2] = eye[2]
    shift = within(View, "shift_y", view.shift_y + slope / half_height)
    return changed(view, target=tuple(round(float(v), 5) for v in out), shift_y=round(shift, 4), roll_deg=0.0)


def circle_limit(view: View) -> float:
    """Return the largest circle of confusion that still looks sharp, metres on the sensor: 1/1500 of the frame's width.

    Of other projections than a lens', what is as large behind the same opening.
    """
    return 2 * half_angle(view) * view.focal_mm * 1e-3 / 1500


def focused_at(view: View, distance: float) -> View:
    """Return the view focused at a distance, m, or as near or far as its lens goes."""
    return changed(view, focus_m=within(View, "focus_m", round(distance, 4)), focus_middle=False)


def sharp_range(view: View) -> tuple[float, float]:
    """Return the (near, far) distances, m, between which things look sharp; far may be infinite.

    Where `blur_on_sensor` is `circle_limit`: with H = f^2 / (N c), 1 / near = 1 / s + 1 / H and 1 / far = 1 / s - 1 / H
    (the limit of the textbook's H - f and s - f for a frame that does not grow with the focus; Ray, "Applied
    Photographic Optics", 3rd ed., ch. 22).
    """
    f, s = view.focal_mm * 1e-3, view.focus_m
    if view.projection == "orthographic":
        # A point at the depth d is drawn as wide as the cone of the opening is there: f / N |d - s| / s.
        reach = view.span_m / 1500 * s * view.f_number / f
        return max(s - reach, 0.0), s + reach
    hyper = f * f / (view.f_number * circle_limit(view))
    return s * hyper / (hyper + s), s * hyper / (hyper - s) if s < hyper else math.inf


def focused_on_range(view: View, near: float, far: float) -> View:
    """Return the view with the f-number and focus distance that make a range look sharp, m, 0 < near < far."""
    near, far = min(near, far), max(near, far)
    if near <= 0 or far - near < 1e-6:
        return view
    f = view.focal_mm * 1e-3
    if view.projection == "orthographic":
        focus = (near + far) / 2
        number = f * (far - near) * 1500 / (2 * view.span_m * focus)
        return _focused(view, focus, number)
    focus = 2 * near * far / (near + far)
    # Both limits of `sharp_range` together: 1 / near - 1 / far = 2 N c / f^2.
    number = f * f * (far - near) / (circle_limit(view) * 2 * near * far)
    return _focused(view, focus, number)


def _focused(view: View, focus: float, number: float) -> View:
    return changed(
        view,
        focus_m=within(View, "focus_m", round(focus, 4)),
        f_number=within(View, "f_number", round(number, 2)),
        depth_of_field=True,
        focus_middle=False,
    )


def blur_on_sensor(view: View, depth: np.ndarray) -> np.ndarray:
    """Return the diameter, m on the sensor, of the blur of points at a depth along the axis, m.

    As it is rendered: a thin lens whose picture does not grow when it is focused nearer, so that the sensor lies one
    focal length behind it. A cone of the opening's width at the lens and none at the plane of focus s has the width
    A |d - s| / s at the depth d, seen f / d as large.
    """
    f, s = view.focal_mm * 1e-3, view.focus_m
    opening = f / view.f_number
    seen_from = s if view.projection == "orthographic" else np.maximum(depth, 1e-6)
    return opening * np.abs(depth - s) / seen_from * f / s


def holding(view: View, document: Document, id: str, point: np.ndarray) -> View:
    """Return the view with its focus held on a point of the set that belongs to a thing.

    Raises
    ------
    SceneError
        If the thing, or a group it is in, has no extent in some direction.
    """
    matrix = document.placement(id)
    local = into(document, "things", id, matrix[:3, :3], np.asarray(point, float) - matrix[:3, 3])
    point = tuple(round(float(v), 6) for v in local)
    return changed(view, focus_on=id, focus_point=point, depth_of_field=True, focus_middle=False)


def with_held_focus(document: Document) -> Document:
    """Return the document with the focus of each view where it is held; the same object if nothing has moved.

    A view whose thing is gone, or stands behind the lens, keeps the distance it has.
    """
    views = tuple(_held(view, document) if view.focus_on else view for view in document.views)
    return document if all(a is b for a, b in zip(views, document.views)) else changed(document, views=views)


def _held(view: View, document: Document) -> View:
    matrix = document.placement(view.focus_on)
    if matrix is None:
        return view
    point = matrix[:3] @ np.append(view.focus_point, 1.0)
    way = point - np.array(view.eye)
    distance = float(np.linalg.norm(way) if view.projection == "panorama" else way @ camera_axes(view)[2])
    return focused_at(view, distance) if distance > 0 else view

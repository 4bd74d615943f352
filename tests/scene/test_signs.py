"""Simple shapes against their areas and the slope of a distance; laying signs on things."""

from types import SimpleNamespace

import numpy as np
import pytest

from nocturne.scene import edit, signing
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.forms import KINDS as FORMS
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Emblem, Lettering, Spot, driven_by, sampled
from nocturne.scene.patterns.emblems import distances
from nocturne.scene.thing import Thing

STYLES = ("dot", "ring", "bar", "frame", "star", "polygon", "arrow")
W, H, T, R, N, WAIST = 0.9, 0.6, 0.1, 0.15, 5, 0.45


def area(style: str) -> float:
    """Return the area of one shape in closed form."""

    def box(w, h, r):
        return w * h - (4 - np.pi) * r * r

    head = WAIST * H
    return {
        "dot": np.pi * H**2 / 4,
        "ring": np.pi * (H**2 / 4 - (H / 2 - T) ** 2),
        "bar": box(W, H, R),
        "frame": box(W, H, R) - box(W - 2 * T, H - 2 * T, R - T),
        "star": N * (H / 2) ** 2 * WAIST * np.sin(np.pi / N),
        "polygon": N / 2 * (H / 2) ** 2 * np.sin(2 * np.pi / N),
        "arrow": (W - head) * T + H * head / 2,
    }[style]


def shape(style: str, **values) -> Emblem:
    given = {"width": W, "height": H, "thickness": T, "corner_radius": R, "points": N, "waist": WAIST}
    return Emblem(style=style, **{**given, **values})


@pytest.mark.parametrize("style", STYLES)
@pytest.mark.parametrize("count", [1, 3])
def test_a_shape_has_its_area_and_its_distance_the_slope_of_one(style, count):
    step = shape(style, count=count, gap=0.1)
    f = SimpleNamespace(**{name: step.number_of(name) for name in step.own_fields()})
    n = 900
    at = (np.arange(n) + 0.5) / n * 4 - 2
    x, y = np.meshgrid(at, at[np.abs(at) < 0.8])
    d = distances(f, x, y)
    side = 4 / n
    assert (d < 0).sum() * side**2 == pytest.approx(count * area(style), rel=0.01)
    slope = np.hypot(*np.gradient(d, side))
    # But for its ridges, where two edges are as near, an exact distance grows by one a metre.
    assert (np.abs(slope - 1) < 0.02).mean() > 0.97
    for way in (np.diff(d, axis=0), np.diff(d, axis=1)):
        assert np.abs(way).max() < side * (1 + 1e-9)


def test_ink_lies_in_rings_around_the_edge():
    rings = {"outline_1_width": 0.1, "outline_2_gap": 0.05, "outline_2_width": 0.1}
    colours = {"color": (1, 0, 0), "outline_1_color": (0, 1, 0), "outline_2_color": (0, 0, 1)}
    step = shape("dot", height=1.0, where="uv", beside="own", ground_color=(0.5, 0.5, 0.5), **rings, **colours)
    expected = {0.3: (1, 0, 0), 0.55: (0, 1, 0), 0.62: (0.5, 0.5, 0.5), 0.7: (0, 0, 1), 0.9: (0.5, 0.5, 0.5)}
    uv = np.array([[x, 0.0] for x in expected])
    zero = np.zeros((len(uv), 3))
    spot = Spot(uv, uv, zero, zero, zero, zero, zero, zero, (1, 2, 3))
    found = driven_by((step,), np.zeros(3), spot, {})
    assert found == pytest.approx(np.array(list(expected.values())), abs=1e-6)
    glowing = edit.changed(step, edge_width=0.2, edge_color=(0, 0, 0))
    core = driven_by((glowing,), np.zeros(3), spot, {})
    assert core[0] == pytest.approx((1, 0, 0)), "0.2 from the edge it has its full colour"
    mask = edit.changed(step, output="all")
    assert driven_by((mask,), np.zeros(3), spot, {})[:, 0] == pytest.approx([1, 1, 0, 1, 0])


def test_small_pictures_show_the_letters_whatever_they_lie_on():
    laid = Lettering(words="IIII", tilt=(90.0, 0.0, 0.0), origin=(5.0, 0.0, 3.0), turn_deg=40.0)
    seen = sampled(laid, {}, 40)
    assert 0.05 < (seen[..., 0] > 0.5).mean() < 0.6
    assert seen[20, :, 0].max() > 0.5


@pytest.mark.parametrize(
    ("side", "normal", "right"),
    [
        ("front", (0, -1, 0), (1, 0, 0)),
        ("back", (0, 1, 0), (-1, 0, 0)),
        ("left", (-1, 0, 0), (0, -1, 0)),
        ("right", (1, 0, 0), (0, 1, 0)),
        ("above", (0, 0, 1), (1, 0, 0)),
    ],
)
def test_a_sign_is_laid_on_a_thing_from_a_side_as_read_from_there(side, normal, right):
    box = Thing(id="a", form=FORMS["box"](width=2.0, depth=1.0, height=1.5), material="m", size=(2.0, 1.0, 1.0))
    document = edit.changed(Document(), things=(box,), materials=(Material(id="m"),))
    step = signing.fitted(document, Assets(), "m", Lettering(words="HHH"), side)
    frame = step.frame()
    assert frame[2, :3] == pytest.approx(normal, abs=1e-12)
    assert frame[0, :3] == pytest.approx(right, abs=1e-12)
    up = np.cross(normal, right)
    assert up @ (0, 1, 0) == pytest.approx(1) if side == "above" else up @ (0, 0, 1) == pytest.approx(1)
    middle = np.array([0.0, 0.0, 0.75])
    assert frame[:, :3] @ middle + frame[:, 3] == pytest.approx(np.zeros(3), abs=1e-6)
    room = np.abs(frame[:2, :3] @ np.array([4.0, 1.0, 1.5]))
    block = step.artwork.block * step.height
    assert (block <= room + 1e-6).all()
    assert (block / room).max() == pytest.approx(0.84, abs=0.01)
    # Behind it nothing is lettered, before it something is.
    n = 200
    own = np.random.default_rng(1).uniform(-0.5, 0.5, (n, 3)) * step.height + middle
    for sign, expected in ((1.0, True), (-1.0, False)):
        look = np.broadcast_to(sign * np.array(normal, float), (n, 3))
        flat = np.zeros((n, 2))
        spot = Spot(flat, flat, np.ones((n, 3)), own, own, look, look, look, (1, 2, 3))
        assert bool(driven_by((edit.changed(step, output="letters"),), np.zeros(3), spot, {}).any()) == expected


def test_nothing_wears_it_nothing_is_laid():
    assert signing.fitted(Document(), Assets(), "m", Lettering(), "front") is None


@pytest.mark.parametrize("kind", [Lettering, Emblem])
def test_a_sign_that_comes_to_drive_something_else_puts_out_what_suits_it(kind):
    sign = kind.made_for("base_color", is_colour=True)
    raised = sign.driving("geometry_height", is_colour=False)
    assert raised["output"] == "raised"
    assert sign.driving("coat_weight", is_colour=False)["output"] == "letters"
    chosen = sign.model_copy(update={"output": "distance"})
    assert "output" not in chosen.driving("coat_weight", is_colour=False), "what was chosen by hand stays"

"""The stack of finishing steps: each does what its name says, in the order of the stack, by as much as its amount."""

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter

from nocturne.colour.blackbody import blackbody
from nocturne.colour.spaces import luminance
from nocturne.finish import curves, stack
from nocturne.finish.develop import exposure_matrix, grade
from nocturne.finish.lens import glare
from nocturne.finish.view import config
from nocturne.io import lut
from nocturne.scene import finish as f
from nocturne.scene.camera import View
from nocturne.scene.curves import curve as drawn

VIEW = View(id="v", white_k=6000)
EYE = np.eye(3)


def applied(light: np.ndarray, *steps: f.Step, **luts) -> np.ndarray:
    """Return exposed light after steps."""
    return stack.apply(np.ascontiguousarray(light, np.float32), EYE, f.Finish(steps=steps), luts)


@pytest.fixture
def light():
    rng = np.random.default_rng(3)
    return np.exp2(rng.uniform(-9, 5, (40, 64, 3))).astype(np.float32) * 0.18


def test_an_empty_stack_and_neutral_steps_change_nothing(light):
    neutral = (f.Exposure(), f.Curves(), f.Tone(), f.Saturation(), f.WhiteBalance(), f.Fringing(shift=0))
    assert applied(light) == pytest.approx(light)
    assert applied(light, *neutral) == pytest.approx(light, rel=3e-4)
    grading = (f.Exposure(stops=2), f.Tone(contrast=2), f.Grain(strength=1), f.Bloom(bloom=1, glare=1))
    assert applied(light, *(s.model_copy(update={"on": False}) for s in grading)) == pytest.approx(light)
    assert applied(light, *(s.model_copy(update={"amount": 0.0}) for s in grading)) == pytest.approx(light)


def test_input_is_left_as_it_is(light):
    before = light.copy()
    applied(light, f.Exposure(stops=1), f.Bloom(), f.Fringing(), f.Sharpening(), f.Grain())
    assert np.array_equal(light, before)


def test_exposure_and_its_amount_are_stops(light):
    assert applied(light, f.Exposure(stops=1.5)) == pytest.approx(light * 2**1.5, rel=1e-5)
    assert applied(light, f.Exposure(stops=3, amount=0.5)) == pytest.approx(light * 2**1.5, rel=1e-5)


def test_white_balance_makes_its_light_neutral():
    warm = np.broadcast_to(blackbody(3200).astype(np.float32), (4, 4, 3))
    assert np.ptp(applied(warm, f.WhiteBalance(kelvin=3200)), axis=2).max() < 0.01
    magenta = applied(np.ones((2, 2, 3)), f.WhiteBalance(tint=1))[0, 0]
    assert magenta[1] < magenta[0] == pytest.approx(magenta[2])
    assert float(luminance(magenta)) == pytest.approx(1, rel=1e-5)


def test_saturation_keeps_luminance(light):
    for value in (0.0, 0.5, 1.7):
        out = applied(light, f.Saturation(saturation=value))
        assert luminance(out) == pytest.approx(luminance(light), rel=1e-4)


def test_curves_pass_through_their_points(light):
    points = ((-8.0, -7.0), (-2.0, -3.0), (1.0, 1.5), (6.0, 5.0))
    stops = np.array([p[0] for p in points[1:-1]])
    patches = (0.18 * np.exp2(stops)).repeat(3).reshape(1, -1, 3)
    out = applied(patches, f.Curves(master=points))
    assert np.log2(out[0, :, 0] / 0.18) == pytest.approx([p[1] for p in points[1:-1]], abs=0.01)
    red = applied(patches, f.Curves(red=points))
    assert red[..., 1:] == pytest.approx(patches[..., 1:], rel=1e-4)
    assert red[..., 0] == pytest.approx(out[..., 0], rel=1e-4)
    assert (np.diff(drawn(points, np.linspace(-12, 12, 500))) > 0).all(), "monotone, also beyond its ends"


def test_curves_are_exact_enough_between_table_entries(light):
    step = f.Curves(master=f.S_CURVE)
    exact = 0.18 * np.exp2(drawn(f.S_CURVE, np.log2(light.astype(float) / 0.18)))
    assert applied(light, step) == pytest.approx(exact, rel=0.004)


def test_toe_and_shoulder_bend_their_side_only():
    stops = np.linspace(-7, 5, 100)
    plain = curves.toned(f.Tone(), stops)
    assert plain == pytest.approx(stops)
    toe, shoulder = curves.toned(f.Tone(toe=1), stops), curves.toned(f.Tone(shoulder=1), stops)
    dark = stops < 0
    assert toe[~dark] == pytest.approx(stops[~dark])
    assert (toe[dark] < stops[dark]).all()
    assert shoulder[dark] == pytest.approx(stops[dark])
    assert (shoulder[~dark] < stops[~dark]).all()
    for curve in (toe, shoulder, curves.toned(f.Tone(contrast=1.5, toe=1, shoulder=1), stops)):
        assert (np.diff(curve) > 0).all()


def test_order_counts():
    light = np.full((8, 8, 3), 0.18 * 4)
    tone, exposure = f.Tone(contrast=2), f.Exposure(stops=-2)
    assert applied(light, exposure, tone) == pytest.approx(np.full_like(light, 0.18), rel=1e-3)
    assert applied(light, tone, exposure) == pytest.approx(np.full_like(light, 0.18 * 4), rel=1e-3)


def test_fringing_parts_red_and_blue_in_the_corner_only():
    light = np.zeros((101, 161, 3), np.float32)
    light[::10, ::10] = 1
    out = applied(light, f.Fringing(shift=1.0))
    assert out[..., 1] == pytest.approx(light[..., 1])
    assert out[50, 80] == pytest.approx(light[50, 80])
    red, blue = ((out[:12, :12, c] * np.arange(12)).sum() for c in (0, 2))
    assert red != pytest.approx(blue, rel=0.02)


def test_glare_draws_streaks_and_keeps_light():
    light = np.zeros((270, 480, 3), np.float32)
    light[135, 240] = 1000
    out = glare(light, f.Bloom(bloom=0, glare=1, streaks=4, angle_deg=0, length=0.1))
    assert out.sum() == pytest.approx(light.sum(), rel=0.02)
    assert out[135, 260, 0] > 20 * out[149, 254, 0], "along a streak against between two"
    assert out[115, 240, 0] == pytest.approx(out[135, 260, 0], rel=0.05)


def test_sharpening_raises_fine_contrast_and_keeps_colour():
    rng = np.random.default_rng(0)
    light = gaussian_filter(np.exp2(rng.normal(0, 0.5, (90, 120))), 1.0)[..., None] * np.array([0.4, 0.2, 0.1])
    out = applied(light, f.Sharpening(strength=1, radius=12))
    assert np.log2(out[..., 1]).std() > 1.2 * np.log2(light[..., 1]).std()
    assert out[..., 0] / out[..., 2] == pytest.approx(np.full((90, 120), 4.0), rel=1e-3)
    flat = np.full((20, 20, 3), 0.5)
    assert applied(flat, f.Sharpening(strength=2)) == pytest.approx(flat, rel=1e-4)


def test_grain_has_its_strength_and_stands_still():
    flat = np.full((1080, 400, 3), 0.18)
    out = applied(flat, f.Grain(strength=0.3, size=2, colour=0))
    stops = np.log2(out / 0.18)
    assert stops.mean() == pytest.approx(0, abs=0.01)
    assert stops[..., 0].std() == pytest.approx(0.3, rel=0.05)
    assert np.ptp(stops, axis=2).max() < 1e-4, "grey grains"
    assert np.array_equal(out, applied(flat, f.Grain(strength=0.3, size=2, colour=0)))
    coloured = np.log2(applied(flat, f.Grain(strength=0.3, size=2, colour=1)) / 0.18)
    assert abs(np.corrcoef(coloured[..., 0].ravel(), coloured[..., 2].ravel())[0, 1]) < 0.05
    cells = np.corrcoef(stops[:-1, :, 0].ravel(), stops[1:, :, 0].ravel())[0, 1]
    assert 0.2 < cells < 0.9, "grains are larger than a pixel"


def _cube(path, function, n=17):
    axis = np.linspace(0, 1, n)
    rows = [f"{r:.6f} {g:.6f} {b:.6f}" for r, g, b in (function(r, g, b) for b in axis for g in axis for r in axis)]
    path.write_text(f"LUT_3D_SIZE {n}\n" + "\n".join(rows) + "\n")
    return path


def test_a_table_for_the_display_is_applied_to_what_is_shown(tmp_path, light):
    swap = lut.read(_cube(tmp_path / "swap.cube", lambda r, g, b: (b, g, 1 - r)))
    for view in ("aces", "plain"):
        plain = grade(light * VIEW.white_luminance, view=VIEW, finish=f.Finish(view=view))
        step = f.Lut(path="swap.cube")
        out = grade(
            light * VIEW.white_luminance, view=VIEW, finish=f.Finish(steps=(step,), view=view), luts={"swap.cube": swap}
        )
        expected = np.stack([plain[..., 2], plain[..., 1], 1 - plain[..., 0]], -1)
        assert np.abs(out - expected).mean() < 0.02
        missing = grade(light * VIEW.white_luminance, view=VIEW, finish=f.Finish(steps=(step,), view=view))
        assert missing == pytest.approx(plain)


def test_tables_for_the_display_follow_one_another(tmp_path, light):
    tables = {
        "swap": lut.read(_cube(tmp_path / "swap.cube", lambda r, g, b: (b, g, r))),
        "half": lut.read(_cube(tmp_path / "half.cube", lambda r, g, b: (r * 0.5, g, b))),
    }
    plain = grade(light * VIEW.white_luminance, view=VIEW, finish=f.Finish())

    def through(*names: str) -> np.ndarray:
        finish = f.Finish(steps=tuple(f.Lut(id=name, path=name) for name in names))
        return grade(light * VIEW.white_luminance, view=VIEW, finish=finish, luts=tables)

    first_swapped = np.stack([plain[..., 2] * 0.5, plain[..., 1], plain[..., 0]], -1)
    first_halved = np.stack([plain[..., 2], plain[..., 1], plain[..., 0] * 0.5], -1)
    assert np.abs(through("swap", "half") - first_swapped).mean() < 0.02
    assert np.abs(through("half", "swap") - first_halved).mean() < 0.02
    assert np.abs(first_swapped - first_halved).mean() > 0.05, "the order can be told"


def test_a_log_table_works_on_the_log_encoding(tmp_path, light):
    darker = lut.read(_cube(tmp_path / "darker.cube", lambda r, g, b: (r * 0.8, g * 0.8, b * 0.8), n=33))
    step = f.Lut(path="d", place="log")
    out = applied(light, step, d=darker)
    there = config().getProcessor("ACEScg", "ACEScct").getDefaultCPUProcessor()
    back = config().getProcessor("ACEScct", "ACEScg").getDefaultCPUProcessor()
    exact = np.ascontiguousarray(light.copy())
    there.applyRGB(exact)
    exact *= 0.8
    back.applyRGB(exact)
    bright = light > 0.02
    assert out[bright] == pytest.approx(exact[bright], rel=0.05)
    half = applied(light, f.Lut(path="d", place="log", amount=0.5), d=darker)
    assert half == pytest.approx((out + light) / 2, rel=1e-3)


def test_all_of_it_is_finite_and_nearly_the_same_at_half_size():
    rng = np.random.default_rng(1)
    big = np.exp2(gaussian_filter(rng.normal(0, 30, (270, 480)), 12))[..., None].repeat(3, 2).astype(np.float32)
    small = np.ascontiguousarray(big.reshape(135, 2, 240, 2, 3).mean((1, 3)))
    steps = (f.Bloom(glare=0.5), f.Vignette(), f.Exposure(stops=-1), f.Tone(contrast=1.2), f.Curves(master=f.S_CURVE))
    shown = [grade(p * VIEW.white_luminance * 0.2, view=VIEW, finish=f.Finish(steps=steps)) for p in (big, small)]
    assert np.isfinite(shown[0]).all()
    assert np.abs(shown[0].reshape(135, 2, 240, 2, 3).mean((1, 3)) - shown[1]).mean() < 0.01
    assert exposure_matrix(VIEW)[0, 0] > 0


def test_what_is_put_out_goes_through_tables_themselves(tmp_path, light):
    # A table with a sharp edge: the grid of the live picture blurs it, the table itself does not.
    edge = lut.read(_cube(tmp_path / "edge.cube", lambda r, g, b: (float(r > 0.5), g, b), n=64))
    for place in ("view", "log"):
        finish = f.Finish(steps=(f.Lut(path="edge", place=place),), view="plain")
        given = np.ascontiguousarray(light * VIEW.white_luminance, np.float32)
        exact = grade(given, view=VIEW, finish=finish, luts={"edge": edge}, exact=True)
        live = grade(given, view=VIEW, finish=finish, luts={"edge": edge})
        assert exact.min() >= 0
        assert exact.max() <= 1
        assert np.abs(exact - live).mean() < 0.05, place
    plain = grade(given, view=VIEW, finish=f.Finish(view="plain"), exact=True)
    finish = f.Finish(steps=(f.Lut(path="edge"),), view="plain")
    assert grade(given, view=VIEW, finish=finish, luts={"edge": edge}, exact=True) == pytest.approx(
        edge.exact(plain), abs=1e-5
    )
    clear = np.abs(plain[..., 0] - 0.5) > 0.03
    out = grade(given, view=VIEW, finish=finish, luts={"edge": edge}, exact=True)[..., 0]
    assert out[clear] == pytest.approx((plain[..., 0] > 0.5)[clear].astype(float), abs=1e-3)

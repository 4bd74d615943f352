"""Mixing, exposure, grade and view."""

import numpy as np
import pytest

from nocturne.film.film import Film
from nocturne.finish import kernels
from nocturne.finish.curves import toned
from nocturne.finish.denoise import denoise_groups
from nocturne.finish.develop import Light, Mixer, develop, exposure_matrix, grade
from nocturne.finish.lens import bloom
from nocturne.finish.view import through_view, view_table
from nocturne.jobs import run
from nocturne.scene.camera import View
from nocturne.scene.desk import Strip, gains
from nocturne.scene.finish import Bloom, Finish, Saturation, Tone, Vignette

VIEW = View(id="v", iso=100, shutter_s=1 / 60, f_number=4, white_k=6000)


@pytest.fixture
def light():
    rng = np.random.default_rng(4)
    samples = rng.integers(1, 5, (70, 90)).astype(np.int32)
    return Light(rng.random((4, 70, 90, 3)).astype(np.float32), samples, ("a", "b", "c", "d"))


def test_mix_is_the_sum_of_gains_times_groups(light):
    desk = (Strip(group="a", stops=1.5), Strip(group="c", on=False), Strip(group="d", tint=(1, 0.2, 0.1)))
    expected = np.einsum("gyxc,gc->yxc", light.groups, gains(light.names, desk)) / light.samples[..., None]
    assert Mixer(light).mixed(desk) == pytest.approx(expected, rel=1e-5)


def test_following_a_fader_stays_exact(light):
    mixer = Mixer(light)
    for stops in np.linspace(-6, 6, 400):
        desk = (Strip(group="b", stops=float(stops)), Strip(group="c", stops=-1))
        followed = mixer.mixed(desk)
    assert followed == pytest.approx(Mixer(light).mixed(desk), rel=1e-4)


def test_exposure_maps_white_to_one():
    assert exposure_matrix(VIEW) @ np.full(3, VIEW.white_luminance) == pytest.approx(np.ones(3))


@pytest.mark.parametrize("view", ["aces", "plain"])
def test_the_table_stands_for_the_view_transform(view):
    rng = np.random.default_rng(6)
    level = np.exp2(rng.uniform(-9, 4, (64, 64, 1)))
    tint = 1 + 0.5 * rng.uniform(-1, 1, (64, 64, 3))
    linear = (0.18 * level * tint).astype(np.float32)
    shown = linear.copy()
    kernels.show(shown, view_table(view))
    exact = np.clip(through_view(linear, view), 0, 1)
    assert np.abs(shown - exact).mean() * 255 < 0.5
    assert np.percentile(np.abs(shown - exact), 99) * 255 < 3


def test_greys_stay_grey_and_in_order():
    ramp = np.repeat(np.geomspace(1e-4, 30, 512, dtype=np.float32)[None, :, None], 3, axis=2)
    for view in ("aces", "plain"):
        shown = grade(np.ascontiguousarray(ramp) * VIEW.white_luminance, view=VIEW, finish=Finish(view=view))
        assert np.ptp(shown, axis=2).max() < 2e-3
        assert (np.diff(shown[0, :, 1]) >= -1e-5).all()


def test_tone_curve_turns_about_middle_grey():
    patches = np.full((1, 3, 3), 0.18, np.float32) * np.array([0.25, 1, 4], np.float32)[None, :, None]

    def shown(**values) -> np.ndarray:
        finish = Finish(view="plain", steps=(Tone(**values),))
        return grade(patches * VIEW.white_luminance, view=VIEW, finish=finish)[0, :, 1]

    plain, steep = shown(), shown(contrast=1.5)
    assert steep[1] == pytest.approx(plain[1], abs=1e-3)
    assert steep[0] < plain[0]
    assert steep[2] > plain[2]
    assert shown(highlights=-1)[2] < plain[2]
    assert shown(highlights=-1)[:2] == pytest.approx(plain[:2], abs=1e-3)
    assert shown(shadows=1)[0] > plain[0]


def test_the_tone_curve_never_runs_backwards():
    stops = np.linspace(-14, 14, 2001)
    for highlights in (-3, -2, 0, 3):
        for shadows in (-3, 0, 2, 3):
            for shoulder, toe, contrast in ((0, 0, 1), (1, 1, 0.3), (1, 1, 3)):
                step = Tone(highlights=highlights, shadows=shadows, shoulder=shoulder, toe=toe, contrast=contrast)
                assert (np.diff(toned(step, stops)) > 0).all(), step


def test_the_plain_view_is_the_exact_one_however_bright():
    random = np.random.default_rng(0)
    light = (random.uniform(-0.5, 1.2, (64, 64, 3)) * 10.0 ** random.uniform(-3, 5, (64, 64, 1))).astype(np.float32)
    shown = light.copy()
    kernels.show(shown, view_table("plain"))
    assert shown == pytest.approx(np.clip(through_view(light, "plain"), 0, 1), abs=1e-4)


def test_vignette_and_saturation():
    flat = np.full((60, 100, 3), 0.18 * VIEW.white_luminance, np.float32)
    shown = grade(flat, view=VIEW, finish=Finish(steps=(Vignette(strength=1),), view="plain"))
    assert shown[0, 0, 0] < 0.8 * shown[30, 50, 0]
    red = flat * np.array([1.6, 0.8, 0.8], np.float32)
    grey = grade(red, view=VIEW, finish=Finish(steps=(Saturation(saturation=0),), view="plain"))
    assert np.ptp(grey, axis=2).max() < 2e-3


def test_bloom_spreads_light_and_keeps_its_sum():
    dark = np.zeros((120, 160, 3), np.float32)
    dark[60, 80] = 1000.0
    spread = bloom(dark, 1.0, 0.08)
    assert spread.sum() == pytest.approx(dark.sum(), rel=0.02)
    assert spread[60, 95].min() > 0
    assert spread[60, 80, 0] == pytest.approx(750, rel=0.05)
    for at in ((0, 0), (119, 0), (60, 159), (119, 159), (3, 100)):
        for height, width in ((120, 160), (127, 171)):
            dark = np.zeros((height, width, 3), np.float32)
            dark[at] = 1000.0
            assert bloom(dark, 1.0, 0.08).sum() == pytest.approx(3000, rel=0.03), (at, height)
            dark[at], dark[height - 1, width - 1] = 0.0, 1000.0
            assert bloom(dark, 1.0, 0.08).sum() == pytest.approx(3000, rel=0.1), height
    flat = np.full((50, 70, 3), 2.0, np.float32)
    assert bloom(flat, 0.7, 0.1) == pytest.approx(flat, rel=1e-4)


def test_the_whole_way_in_bytes(light):
    finish = Finish(steps=(Bloom(bloom=0.5), Vignette(strength=0.4), Tone(contrast=1.2)))
    shown = develop(light, view=VIEW, desk=(), finish=finish)
    bytes_ = kernels.to_bytes(shown)
    assert bytes_.shape == (70, 90, 4)
    assert np.abs(bytes_[..., :3] / 255 - np.clip(shown, 0, 1)).max() <= 0.5 / 255 + 1e-6


def test_gaps_show_their_coarse_neighbour():
    samples = np.zeros((8, 8), np.int32)
    samples[::4, ::4] = 1
    samples[2, 2] = 1
    picture = np.arange(64, dtype=np.float32).reshape(8, 8, 1).repeat(3, 2)
    covered = kernels.cover_gaps(picture, samples, 4)[..., 0]
    assert covered[3, 3] == picture[2, 2, 0]
    assert covered[1, 1] == picture[0, 0, 0]
    assert covered[7, 5] == picture[4, 4, 0]


def test_denoised_groups_lose_noise_and_keep_their_light():
    rng = np.random.default_rng(8)
    film = Film.blank(96, 64, ("a", "b"))
    film.samples[:] = 1
    clean = np.array([2.0, 5.0])
    for i in range(2):
        film.groups[i] = clean[i] * rng.exponential(1, (64, 96, 1)).astype(np.float32).repeat(3, 2)
    before = film.groups.copy()
    notes = []
    out = run(denoise_groups(film, quality="fast"), lambda u: notes.append(u.note))
    assert np.array_equal(film.groups, before), "the noisy film is kept"
    for i in range(2):
        assert out[i].mean() == pytest.approx(film.group(i).mean(), rel=0.06)
        assert out[i].std() < 0.25 * film.group(i).std()
    assert any("a" in note for note in notes)

"""Early pictures: what middles see, light brought up by it, what an earlier picture says, light groups parted."""

import threading

import numpy as np
import pytest

from nocturne.colour.spaces import luminance
from nocturne.engine.prepare import Preparer
from nocturne.engine.render import blank_film, coarse_steps, render
from nocturne.errors import Cancelled
from nocturne.film.sight import Sight
from nocturne.finish import kernels
from nocturne.finish.denoise import Remover
from nocturne.finish.early import Early, Subject, believed
from nocturne.finish.shares import parted
from nocturne.finish.upsampling import EPS, over_albedo, reprojected
from nocturne.scene import edit, navigate
from nocturne.scene.desk import gains
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Checker
from tests import sets

MATT = {"specular_weight": 0.0}
SIZE = (128, 96)


@pytest.fixture(scope="module")
def room():
    """Return a set with a chequered floor, balls of clay, mirror and light, and two light groups."""
    floor = Material(
        id="floor", steps=(Checker(parameter="base_color", second=(0.1, 0.1, 0.1), repeat=(0.5, 0.5)),), **MATT
    )
    clay = Material(id="clay", base_color=(0.6, 0.3, 0.2), **MATT)
    mirror = Material(id="mirror", base_metalness=1, base_color=(0.9, 0.9, 0.9), specular_roughness=0.0)
    glow = Material(id="glow", emission_luminance=40, emission_group="glow")
    lights = (
        make_light(id="a", group="key", kind="rect", unit="nit", power=60, place=(2, -2, 4), width=2, height=2),
        make_light(id="c", group="dome", kind="dome", unit="nit", power=2.0),
    )
    parts = [
        (sets.PLANE, floor, {"place": (0.0, 0.0, -1.0)}),
        (sets.BALL, clay, {"place": (-1.6, 0.0, 0.0)}),
        (sets.BALL, mirror, {"place": (1.3, 0.6, 0.0)}),
        (sets.BALL, glow, {"place": (0.0, 1.5, 0.3), "size": (0.4,) * 3}),
    ]
    camera = sets.view(eye=(0, -6, 2.2), focal_mm=40, size=SIZE, iso=6400.0)
    return sets.many(parts, *lights, camera=camera, quality=sets.deep(64))


def coarse(document, assets, *, until: int = 4):
    """Return (film, sight, subject, step) when the coarse pass of a step is there."""
    prepared = Preparer().prepare(document, assets)
    film, sight = blank_film(prepared), Sight.blank(prepared.width, prepared.height)
    work = render(prepared, film, coarse=True, sight=sight, samples=1)
    for update in work:
        if update.preview.step == until:
            break
    work.close()
    wanted = gains(film.group_names, document.desk)
    return film, sight, Subject(document, prepared.eye, prepared.blur, wanted), until


def test_middles_see_what_samples_see(room, engine):
    document, assets = room
    _, sight, _, _ = coarse(document, assets, until=2)
    whole = sets.picture(*room, samples=32)
    assert sight.step == 1
    # Depth, normal and position of the film are of the very same rays.
    assert np.allclose(sight.part("DEPTH")[..., 0], whole.depth, rtol=1e-5)
    assert np.allclose(sight.part("NORMAL"), whole.normal, atol=1e-5)
    direct = sight.ids[..., 0] == sight.ids[..., 1]
    assert np.allclose(sight.part("POSITION")[direct], whole.position[direct], atol=1e-4)
    in_mirror = sight.part("ROUGHNESS")[..., 0] < 0
    assert 0.02 < in_mirror.mean() < 0.2, "the mirror ball is looked into"
    assert (whole.matte(0, (whole.objects.index("Thing 2"),))[in_mirror] > 0.3).all(), "and nothing else"
    # Where one colour fills a pixel, its middle has that of the samples.
    flat = np.abs(whole.albedo - sight.part("ALBEDO")).max(-1) < 0.02
    assert flat.mean() > 0.8
    glows = whole.light_pass("emission").max(-1) > 30
    assert np.allclose(sight.part("EMISSION")[glows], whole.light_pass("emission")[glows], rtol=0.35)


def test_a_sixteenth_of_the_pixels_gives_the_pattern_of_all(room, engine):
    document, assets = room
    truth = sets.picture(*room, samples=256).beauty()
    film, sight, subject, step = coarse(document, assets)
    early = Early()
    try:
        small = early.picture(film, sight, subject, step)
        assert small.shape == (SIZE[1] // 2, SIZE[0] // 2, 3)
        film, sight, subject, _ = coarse(document, assets, until=2)
        picture = early.picture(film, sight, subject, 2)
    finally:
        early.close()

    def error(shown):
        seen = np.log2(np.maximum(luminance(shown), 0.05) / np.maximum(luminance(truth), 0.05))
        return float(np.sqrt((seen**2).mean()))

    blocks = film.beauty()[::2, ::2].repeat(2, 0).repeat(2, 1)
    assert picture.shape == truth.shape
    assert error(picture) < 0.5 * error(blocks)
    assert abs(picture.mean() / truth.mean() - 1) < 0.1
    # The floor's fields stand out as they do in the end, though most of their pixels have no sample.
    rows = slice(int(0.8 * SIZE[1]), SIZE[1])
    shown, wanted = (luminance(x)[rows] - luminance(x)[rows].mean() for x in (picture, truth))
    assert (shown * wanted).sum() / np.sqrt((shown**2).sum() * (wanted**2).sum()) > 0.9


def test_light_goes_through_gains_and_emission_once(room, engine):
    document, assets = room
    film, sight, subject, step = coarse(document, assets, until=2)
    early = Early()
    try:
        alone = []
        for k in range(3):
            one = np.zeros((3, 3), np.float32)
            one[k] = 1
            alone.append(early.picture(film, sight, Subject(document, subject.eye, subject.blur, one), step))
        together = early.picture(film, sight, subject, step)
    finally:
        early.close()
    assert np.abs(sum(alone) - together).mean() < 0.08 * together.mean()
    lamp = sight.part("EMISSION")[..., 0] > 30
    assert np.median(together[lamp]) == pytest.approx(40, rel=0.1), "what shines has its own light, once"
    assert np.median(alone[document.lit_groups.index("dome")][lamp]) < 5


def test_an_earlier_picture_is_found_where_the_camera_went(room, engine):
    document, assets = room
    kept = sets.picture(*room, samples=64)
    clean = kept.beauty()
    _, sight, subject, _ = coarse(document, assets, until=2)
    moved = edit.put(document, "views", navigate.orbit(document.view, pivot=np.zeros(3), turn=0.06, tilt=0.02))
    film2, sight2, subject2, _ = coarse(moved, assets, until=2)
    truth = sets.picture(moved, assets, samples=64).beauty()
    ones = np.ones((3, 3), np.float32)
    bare = over_albedo(clean, kept.albedo, sight.seen, sight.ids, ones)
    same, trust = reprojected(bare, (sight.seen, sight.ids), (sight.seen, sight.ids), subject.eye, 1)
    told = trust > 0
    assert told.mean() > 0.5
    assert np.allclose(same[told], bare[told], rtol=0.02, atol=0.02), "a camera that stays finds every pixel again"
    found, trust = reprojected(bare, (sight.seen, sight.ids), (sight2.seen, sight2.ids), subject.eye, 1)
    told = trust > 0
    assert 0.4 < told.mean() < 1
    brought = found * (sight2.part("ALBEDO") + EPS)
    assert np.median(np.abs(brought - truth)[told] / (truth[told] + 0.2)) < 0.06
    assert not told[sight2.part("EMISSION")[..., 0] > 0].any(), "what shines is never taken from before"
    # And what is made of it is nearer to the end than without.
    early, late = Early(), Early()
    try:
        early.remember(clean, kept, sight, subject, None)
        with_it, without = (room.picture(film2, sight2, subject2, 2) for room in (early, late))
    finally:
        early.close()
        late.close()
    assert np.abs(with_it - truth)[told].mean() < 0.8 * np.abs(without - truth)[told].mean()


def test_an_edit_keeps_what_it_leaves_as_it_was(room, engine):
    """A ball in another colour: nearer to the end with the picture before. The key lamp elsewhere: no ghost of it."""
    document, assets = room
    kept = sets.picture(*room, samples=64)
    clean = kept.beauty()
    _, sight, subject, _ = coarse(document, assets, until=2)

    def errors(changed) -> tuple[float, float]:
        truth = sets.picture(changed, assets, samples=64).beauty()
        film, sees, now, step = coarse(changed, assets, until=2)
        early, late = Early(), Early()
        try:
            early.remember(clean, kept, sight, subject, None)
            pictures = [room.picture(film, sees, now, step) for room in (early, late)]
        finally:
            early.close()
            late.close()
        return tuple(float((np.abs(picture - truth) / (truth + 1)).mean()) for picture in pictures)

    with_it, without = errors(edit.alter(document, "materials", "clay", base_color=(0.1, 0.3, 0.7)))
    assert with_it < 0.85 * without
    with_it, without = errors(edit.alter(document, "lights", "a", place=(-3, -2, 4), power=120))
    assert with_it < 1.1 * without


def test_light_that_changed_is_not_believed():
    rng = np.random.default_rng(3)
    fresh = 1 + 0.1 * rng.random((30, 40, 3)).astype(np.float32)
    before = np.ones((59, 80, 3), np.float32)
    before[:, 40:] = 3
    trust = np.full((59, 80), 0.7, np.float32)
    trust[:10] = 0
    left = believed(before, trust, fresh, 2)
    assert left.shape == trust.shape
    assert np.allclose(left[10:, :28], 0.7), "where it is the same"
    assert not left[:, 54:].any(), "where it was brighter"
    assert not left[:10].any(), "where nothing is known of it"


def test_a_picture_is_not_brought_along_by_its_own_coarser_one(room, engine):
    document, assets = room
    prepared = Preparer().prepare(document, assets)
    early, late = Early(), Early()
    film, sight = blank_film(prepared), Sight.blank(prepared.width, prepared.height)
    subject = Subject(document, prepared.eye, prepared.blur, np.ones((3, 3), np.float32))
    try:
        for update in render(prepared, film, coarse=True, sight=sight, samples=1):
            if update.preview.step > 1:
                picture = early.picture(film, sight, subject, update.preview.step)
            if update.preview.step == 2:
                assert np.array_equal(picture, late.picture(film, sight, subject, 2))
    finally:
        early.close()
        late.close()


def test_a_lamps_scaled_group_is_known_only_where_it_is_alone(room):
    document, _ = room
    ones = np.ones((3, 3), np.float32)

    def factors(changed):
        return Subject(changed, None, (0, 1), ones).scaled(Subject(document, None, (0, 1), ones))

    assert factors(edit.alter(document, "lights", "a", power=90)) == {"key": pytest.approx(1.5)}
    assert factors(edit.alter(document, "lights", "a", place=(0, 0, 3))) is None
    assert factors(edit.alter(document, "lights", "a", group="dome")) is None
    shared = edit.alter(document, "lights", "a", group="glow")
    ahead = Subject(edit.alter(shared, "lights", "a", power=90), None, (0, 1), ones)
    assert ahead.scaled(Subject(shared, None, (0, 1), ones)) is None, "a material shines in that group, too"
    # A portal changes no picture, wherever it stands and whatever group it names.
    opened = edit.put(document, "lights", make_light(id="p", kind="portal", group=document.lights[0].group))
    assert Subject(opened, None, (0, 1), ones).scaled(Subject(document, None, (0, 1), ones)) == {}
    brighter = edit.alter(opened, "lights", document.lights[0].id, power=2 * document.lights[0].power)
    known = Subject(brighter, None, (0, 1), ones).scaled(Subject(opened, None, (0, 1), ones))
    assert known == {document.lights[0].group: 2}


def test_parts_add_up_to_the_mix():
    rng = np.random.default_rng(4)
    mix = rng.random((31, 45, 3)).astype(np.float32) * 5
    small = rng.random((3, 16, 23, 3)).astype(np.float32) * 2
    wanted = np.array([[1, 1, 1], [0.5, 2, 0], [0, 0, 0]], np.float32)
    parts = parted(mix, small, wanted, 2)
    assert np.allclose(np.einsum("gyxc,gc->yxc", parts, wanted), mix, rtol=1e-4, atol=1e-5)
    # Parts of a mix that is their sum are those pictures themselves.
    whole = np.einsum("gyxc,gc->yxc", small, wanted)
    assert np.allclose(parted(whole, small, wanted, 1), small, rtol=1e-4)


def test_means_are_those_of_blocks():
    picture = np.random.default_rng(2).random((13, 22, 3)).astype(np.float32)
    got = kernels.means(picture, 4)
    assert got.shape == (4, 6, 3)
    assert np.allclose(got[1, 2], picture[4:8, 8:12].mean((0, 1)))
    assert np.allclose(got[3, 0], picture[[12, 12, 12, 12], 0:4].mean((0, 1)), rtol=1e-5)
    assert kernels.means(picture, 1) is picture


def test_removing_noise_ends_when_it_is_not_wanted_any_more():
    remover, rng = Remover(), np.random.default_rng(1)
    noisy = rng.exponential(1, (360, 640, 3)).astype(np.float32)
    asked, wanted = [], threading.Event()

    def goes_on() -> bool:
        asked.append(1)
        if len(asked) == 3:
            wanted.set()
        return not wanted.is_set()

    try:
        with pytest.raises(Cancelled):
            remover.remove(noisy, np.ones_like(noisy), noisy * 0, goes_on=goes_on)
        assert 3 <= len(asked) < 10, "soon, not at its end"
        clean = remover.remove(noisy, np.ones_like(noisy), noisy * 0)
        assert clean.std() < 0.3 * noisy.std(), "the next one is whole"
    finally:
        remover.close()


def test_coarse_pictures_have_about_as_many_pixels_whatever_the_size():
    assert coarse_steps(640, 360) == (4, 2)
    assert coarse_steps(1280, 720) == (8, 4, 2)
    for width, height in ((64, 48), (722, 406), (1920, 1080), (3840, 2160)):
        step = coarse_steps(width, height)[0]
        assert width * height / step**2 <= 25_000


def test_guides_lose_their_noise_and_keep_their_edges():
    rng, remover = np.random.default_rng(5), Remover()
    albedo = np.where(np.arange(96)[None, :, None] < 48, 0.2, 0.7) * np.ones((64, 96, 3), np.float32)
    normal = np.where(np.arange(64)[:, None, None] < 32, (0, 0, 1.0), (0, -1.0, 0)) * np.ones((64, 96, 1))
    noise = [rng.normal(0, 0.08, (64, 96, 3)) for _ in range(2)]
    try:
        cleaned = remover.guides(albedo + noise[0], normal + noise[1], quality="careful")
    finally:
        remover.close()
    for got, truth, of in zip(cleaned, (albedo, normal), noise):
        assert np.abs(got - np.clip(truth, -1, 1)).mean() < 0.35 * np.abs(of).mean()
    assert np.diff(cleaned[0][:, 44:52, 0].mean(0)).max() > 0.2, "an edge stays one"

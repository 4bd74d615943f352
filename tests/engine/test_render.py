"""Rendering: the same bits whatever the threads or stops; passes that add up; stopping rules; textures; cancelling."""

import threading
import time

import numpy as np
import pytest

from nocturne.colour.spaces import luminance
from nocturne.engine.pick import focus_distance, pick
from nocturne.engine.prepare import Preparer
from nocturne.engine.render import Stop, blank_film, pass_targets, render
from nocturne.film.layout import PASS_NAMES
from nocturne.film.noise import picture_noise, tile_noise
from nocturne.film.sight import Sight
from nocturne.jobs import Update, run
from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Picture
from tests import sets
from tests.near import assert_near


@pytest.fixture(scope="module")
def room():
    """Return a set with every kind of surface and several light groups."""
    glass = Material(
        id="glass",
        transmission_weight=1,
        specular_roughness=0.0,
        transmission_color=(0.9, 0.6, 0.5),
        transmission_depth=1,
    )
    brass = Material(id="brass", base_metalness=1, base_color=(0.9, 0.7, 0.4), specular_roughness=0.25)
    paint = Material(id="paint", base_color=(0.3, 0.4, 0.7), coat_weight=1, coat_roughness=0.1)
    glow = Material(id="glow", emission_luminance=30, emission_group="glow")
    lights = (
        make_light(
            id="a",
            group="key",
            kind="rect",
            unit="nit",
            power=60,
            place=(2, -2, 4),
            turn_deg=(20, 25, 0),
            width=2,
            height=2,
        ),
        make_light(id="b", group="fill", kind="sphere", unit="nit", power=80, place=(-3, -1, 2), radius=0.5),
        make_light(id="c", group="dome", kind="dome", unit="nit", power=0.4),
    )
    parts = [
        (sets.PLANE, paint, {"place": (0.0, 0.0, -1.0)}),
        (sets.BALL, glass, {"place": (-1.1, 0.0, 0.0)}),
        (sets.BALL, brass, {"place": (1.1, 0.3, 0.0)}),
        (sets.BALL, glow, {"place": (0.0, 1.5, 0.3), "size": (0.4,) * 3}),
    ]
    camera = sets.view(eye=(0, -6, 2.2), focal_mm=40, size=(96, 72), iso=6400.0)
    return sets.many(parts, *lights, camera=camera, quality=sets.deep(24, diffuse_bounces=3, bounces=12))


def test_one_thread_and_two_give_the_same_bits(engine, room):
    one, two = sets.picture(*room, threads=1), sets.picture(*room, threads=2)
    for name in one.arrays:
        assert np.array_equal(one.arrays[name], two.arrays[name]), name
    other = sets.picture(*room, seed=1)
    assert not np.array_equal(one.groups, other.groups)


def test_many_looks_at_the_list_of_tiles_and_few_give_the_same(engine, room, monkeypatch):
    document, assets = room
    rays = []
    for at_once in (1, 200_000):
        monkeypatch.setattr("nocturne.engine.render._SAMPLES_AT_ONCE", at_once)
        prepared = Preparer().prepare(document, assets)
        film, updates = blank_film(prepared), []
        run(render(prepared, film, noise=0.0, samples=5, threads=3), updates.append)
        assert (film.samples == 5).all(), "every tile is taken, and taken once in a pass"
        rays.append((updates[-1].preview.rays, film.groups))
    assert rays[0][0] == rays[1][0] > 5 * film.samples.size, "no thread's rays are forgotten"
    assert np.array_equal(rays[0][1], rays[1][1])


def stop_at(stop, film, samples: float) -> None:
    """Stop a render in the middle of its work, wherever it is when it has taken so many samples."""
    while film.samples.sum() < samples:
        time.sleep(0.0005)
    stop.set()


def test_a_stopped_render_goes_on_where_it_was(engine, room):
    document, assets = room
    whole = sets.picture(document, assets)
    prepared = Preparer().prepare(document, assets)
    film = blank_film(prepared)
    for share in (0.02, 0.1, 0.4):
        stop = Stop()
        watch = threading.Thread(target=stop_at, args=(stop, film, share * whole.samples.sum()))
        watch.start()
        run(render(prepared, film, noise=0.0, stop=stop, coarse=share == 0.02))
        watch.join()
    assert 0 < film.samples.sum() < whole.samples.sum()
    run(render(prepared, film, noise=0.0, threads=1))
    for name in whole.arrays:
        assert np.array_equal(whole.arrays[name], film.arrays[name]), name


def test_a_stopped_adaptive_render_ends_the_same(engine, room):
    document, assets = room
    whole = sets.picture(document, assets, noise=0.3, samples=96)
    assert whole.samples.min() < whole.samples.max(), "some tiles should stop early"
    prepared = Preparer().prepare(document, assets)
    film, stop = blank_film(prepared), Stop()
    run(render(prepared, film, noise=0.3, samples=96, stop=stop), lambda u: stop.set() if u.done > 14 else None)
    run(render(prepared, film, noise=0.3, samples=96))
    assert np.array_equal(whole.groups, film.groups)


def test_beauty_is_the_sum_of_groups_and_of_passes(engine, room):
    film = sets.picture(*room)
    beauty = film.beauty()
    passes = sum(film.light_pass(name) for name in PASS_NAMES)
    assert film.group_names == ("key", "fill", "dome", "glow")
    assert_near(passes, beauty, rel=1e-4, within=1e-5 * float(beauty.max()))
    assert_near(sum(film.group(i) for i in range(4)), beauty, rel=1e-4)
    # A closed glass ball takes two events to go through, so nothing here is transmitted directly.
    for name in set(PASS_NAMES) - {"direct_transmission"}:
        assert film.light_pass(name).max() > 0, name


def test_guides_and_mattes(engine, room):
    document, assets = room
    film = sets.picture(document, assets)
    prepared = Preparer().prepare(document, assets)
    found = pick(prepared, 48, 36)
    assert film.depth[36, 48] == pytest.approx(found.distance, rel=0.05)
    hit = film.alpha > 0.999
    assert np.linalg.norm(film.normal[hit], axis=-1) == pytest.approx(1, abs=1e-3)
    eye = np.array(document.view.eye)
    assert np.linalg.norm(film.position[hit] - eye, axis=-1) == pytest.approx(film.depth[hit], rel=1e-3)
    everything = film.matte(0, tuple(range(len(film.objects))))
    assert everything == pytest.approx(film.alpha, abs=1e-5)
    assert film.objects[film.id_at(0, 48, 60)] == "Thing 0"
    assert film.materials[film.id_at(1, 48, 60)] == "Material"
    assert film.materials.count("Material") == 4


def test_focus_and_picking(engine, room):
    prepared = Preparer().prepare(*room)
    found = pick(prepared, 30, 36)
    assert found.id == "thing-1"
    assert not found.is_lamp
    assert focus_distance(prepared, found.point) < found.distance
    assert pick(Preparer().prepare(Document(), Assets()), 10, 10) is None


def test_noise_falls_with_samples_and_stops_the_render(engine, room):
    document, assets = room
    white = document.view.white_luminance
    few, many = (sets.picture(document, assets, samples=n) for n in (32, 128))
    levels = [picture_noise(tile_noise(f, white)) for f in (few, many)]
    assert levels[1] == pytest.approx(levels[0] / 2, rel=0.35)
    updates = []
    film = blank_film(prepared := Preparer().prepare(document, assets))
    run(render(prepared, film, noise=0.3, samples=4096), updates.append)
    assert 4 < film.samples.max() < 1500
    assert updates[-1].preview.noise <= 0.32


def test_time_stops_the_render(engine, room):
    document, assets = room
    prepared = Preparer().prepare(document, assets)
    film = blank_film(prepared)
    run(render(prepared, film, noise=0.0, samples=60000, minutes=0.2 / 60))
    assert 0 < film.mean_samples < 60000


def test_cancelling_is_quick_against_a_pass(engine, room):
    document, assets = room
    prepared = Preparer().prepare(document, assets, width=640, height=480)
    film, stop = blank_film(prepared), Stop()
    work = render(prepared, film, noise=0.0, samples=512, stop=stop)
    started = time.monotonic()
    seen = [next(work) for _ in range(6)]
    per_sample = (time.monotonic() - started) / max(film.mean_samples, 1e-3)
    stop.set()
    started = time.monotonic()
    run(work)
    assert seen
    assert time.monotonic() - started < max(per_sample, 0.2), "stopping must not wait for a pass"


def test_pass_targets_grow_and_end_at_the_limit():
    targets = list(pass_targets(100))
    assert targets[:5] == [1, 2, 3, 4, 6]
    assert targets[-1] == 100
    assert max(b - a for a, b in zip(targets, targets[1:])) <= 16


def test_coarse_passes_cover_the_picture_first(engine, room):
    prepared = Preparer().prepare(*room)
    film, stop = blank_film(prepared), Stop()
    steps = []

    def note(update: Update) -> None:
        steps.append(update.preview.step)
        if len(steps) == 1:
            assert (film.samples[::4, ::4] == 1).all()
            assert film.samples.sum() == film.samples[::4, ::4].size
            stop.set()

    run(render(prepared, film, coarse=True, stop=stop), note)
    assert steps[0] == 4


def test_texture_and_normal_map(engine):
    checks = np.zeros((2, 2, 3), np.float32)
    checks[0, 0] = checks[1, 1] = (1, 0, 0)
    checks[0, 1] = checks[1, 0] = (0, 0, 1)
    checks = np.kron(checks, np.ones((8, 8, 1), np.float32))
    texture = Picture(parameter="base_color", path="checks.png", repeat=(0.1, 0.1), offset=(0.0, 0.0))
    material = Material(id="m", specular_weight=0, specular_ior=1, steps=(texture,))
    camera = sets.view(eye=(0, 0, 20), target=(0, 0, 0), focal_mm=100, size=(32, 32))
    document, assets = sets.one_thing(sets.PLANE, material, sets.white_dome(), camera=camera, quality=sets.deep(32))
    film = sets.picture(document, Assets(assets.meshes, {("checks.png", "colour"): checks}))
    picture = film.beauty()
    red, blue = picture[..., 0] > 0.9, picture[..., 2] > 0.9
    assert red.any()
    assert blue.any()
    tilted = np.full((2, 2, 3), (1.0, 0.5, 0.5), np.float32)
    bump = Picture(parameter="geometry_normal", path="n.png", space="data", amount=0.6)
    document = edit.alter(document, "materials", "m", steps=(bump,))
    film = sets.picture(document, Assets(assets.meshes, {("n.png", "data"): tilted}))
    assert film.normal[16, 16, 0] > 0.3


def test_only_what_changed_is_prepared_again(engine, room):
    document, assets = room
    preparer = Preparer()
    first = preparer.prepare(document, assets)
    brighter = preparer.prepare(edit.alter(document, "lights", "a", power=90.0), assets)
    assert brighter.arrays["corners"] is first.arrays["corners"]
    assert brighter.stage is first.stage
    rougher = preparer.prepare(edit.alter(document, "materials", "paint", specular_roughness=0.9), assets)
    assert rougher.stage is first.stage
    assert rougher.arrays["mat_f"] is not first.arrays["mat_f"]
    moved = preparer.prepare(edit.alter(document, "things", "thing-1", place=(0.0, 0.0, 3.0)), assets)
    assert moved.stage is not first.stage
    assert moved.arrays["corners"] is first.arrays["corners"]
    turned = preparer.prepare(edit.alter(document, "views", "v", eye=(0.0, -3.0, 1.0)), assets)
    assert turned.stage is not moved.stage
    assert turned.arrays["light_f"] is not None


def test_a_hidden_thing_is_gone_and_an_empty_set_is_black(engine, room):
    document, assets = room
    document = edit.alter(document, "things", "thing-0", visible=False)
    film = sets.picture(document, assets, samples=2)
    assert "Thing 0" not in film.objects
    assert (
        sets.picture(
            Document(qualities=(sets.deep(2),), active_quality="q", views=(sets.view(),), active_view="v"), Assets()
        )
        .beauty()
        .max()
        == 0
    )


def test_there_may_be_any_number_of_groups_and_only_lit_ones_cost_memory(engine):
    lights = tuple(
        make_light(id=f"l{k}", group=f"g{k}", kind="point", unit="cd", power=float(k), place=(0, 0, 3))
        for k in range(60)
    )
    document, assets = sets.one_thing(sets.PLANE, Material(id="m"), *lights, camera=sets.view(eye=(0, -3, 3)))
    dark = edit.alter(edit.alter(document, "lights", "l7", on=False), "lights", "l9", power=0.0)
    film = sets.picture(dark, assets, samples=64)
    assert set(film.group_names) == {f"g{k}" for k in range(1, 60)} - {"g7", "g9"}
    # Each group's light is in proportion to its power: no group writes over another.
    means = np.array([film.group(i).mean() / int(name[1:]) for i, name in enumerate(film.group_names)])
    assert means == pytest.approx(np.full(57, means.mean()), rel=0.35)
    assert film.beauty() == pytest.approx(sum(film.group(i) for i in range(57)), rel=1e-4)


def test_kilometres_and_millimetres_in_one_set(engine):
    # A 2 mm ball ten kilometres from the origin must neither shadow itself nor vanish.
    material = Material(id="m", base_color=(1, 1, 1), specular_weight=0, specular_ior=1)
    camera = sets.view(eye=(10_000.0, -0.5, 0.0), target=(10_000.0, 0.0, 0.0), focal_mm=400, size=(32, 32))
    document, assets = sets.many(
        [(sets.BALL, material, {"place": (10_000.0, 0.0, 0.0), "size": (0.02,) * 3})], sets.white_dome(), camera=camera
    )
    film = sets.picture(document, assets)
    assert film.beauty()[film.alpha > 0.999].mean() == pytest.approx(1, abs=0.05)


def test_lights_are_only_collected_anew_if_what_glows_has_changed(engine, room):
    document, assets = room
    preparer = Preparer()
    first = preparer.prepare(document, assets)
    chair = preparer.prepare(edit.alter(document, "things", "thing-2", place=(1.5, 0.3, 0.0)), assets)
    assert chair.arrays["light_f"] is first.arrays["light_f"], "a thing that does not glow moves no light"
    assert not np.array_equal(chair.arrays["inst_xf"], first.arrays["inst_xf"])
    lamp = preparer.prepare(edit.alter(document, "things", "thing-3", place=(0.0, 1.5, 1.3)), assets)
    assert lamp.arrays["mesh_light_f"] is not first.arrays["mesh_light_f"]
    rise = lamp.arrays["mesh_light_f"][:, 2] - first.arrays["mesh_light_f"][:, 2]
    assert rise == pytest.approx(np.ones(len(rise)), abs=1e-5)
    # What stands before it in the list is gone: the light must follow its instance.
    hidden = preparer.prepare(edit.alter(document, "things", "thing-1", visible=False), assets)
    glowing = hidden.arrays["inst_i"][:, 2] >= 0
    assert hidden.object_ids[int(hidden.arrays["inst_i"][glowing][0, 3])] == "thing-3"
    given = preparer.prepare(edit.alter(document, "things", "thing-2", material="glow"), assets)
    assert len(given.arrays["mesh_light_f"]) > len(first.arrays["mesh_light_f"])
    anew = Preparer().prepare(given.document, assets)
    for name in ("light_i", "light_f", "mesh_light_f", "node_f", "inst_i"):
        assert np.array_equal(anew.arrays[name], given.arrays[name]), name


def test_a_time_limit_ends_a_render_and_is_no_interruption(engine):
    document, assets = sets.one_thing(sets.BALL, Material(id="m"), sets.white_dome(), quality=sets.deep(60_000))
    prepared = Preparer().prepare(document, assets)
    film, stop = blank_film(prepared), Stop()
    assert run(render(prepared, film, stop=stop, noise=0.0, minutes=0.3 / 60)) is film
    assert not stop.is_set, "the caller did not ask for it"
    assert 0 < film.mean_samples < 60_000
    again = next(iter(render(prepared, film, stop=stop, noise=0.0, minutes=0.3 / 60)), None)
    assert again is not None
    assert film.seconds >= 0.3


def test_a_copy_of_a_film_that_is_rendered_is_of_one_moment(engine):
    document, assets = sets.one_thing(
        sets.BALL, Material(id="m"), sets.white_dome(), camera=sets.view(size=(96, 64)), quality=sets.deep(4000)
    )
    prepared = Preparer().prepare(document, assets)
    film, stop = blank_film(prepared), Stop()
    thread = threading.Thread(target=lambda: run(render(prepared, film, stop=stop, noise=0.0)))
    thread.start()
    try:
        copies = []
        while len(copies) < 6:
            copy = film.copy()
            if copy.mean_samples > (copies[-1].mean_samples if copies else 0):
                copies.append(copy)
    finally:
        stop.set()
        thread.join()
    for copy in copies:
        # Every sample adds to the sums and to the count: the dome is 1 where nothing is hit, in every sample.
        background = copy.alpha == 0
        sky = copy.groups[0, ..., 1][background & (copy.samples > 0)]
        counted = copy.samples[background & (copy.samples > 0)] * sky[0] / copy.samples[0, 0]
        assert_near(sky, counted, rel=1e-4)
        assert_near(luminance(copy.groups.sum(0)), copy.variance[..., 0], rel=1e-3, within=1e-3)
    assert film.mean_samples >= copies[-1].mean_samples, "the render went on"


def test_the_thread_that_renders_cannot_wait_for_itself(engine):
    document, assets = sets.one_thing(
        sets.BALL, Material(id="m"), sets.white_dome(), camera=sets.view(size=(512, 512)), quality=sets.deep(4000)
    )
    prepared = Preparer().prepare(document, assets)
    film = blank_film(prepared)
    for update in render(prepared, film, noise=0.0):
        if update.note == "render" and film.samples.min() < 16:
            with pytest.raises(RuntimeError, match="cannot be copied"):
                film.copy()
            break


def test_what_the_clamp_takes_is_told(engine):
    glow = Material(id="glow", emission_luminance=4000)
    clay = Material(id="clay", base_color=(0.8, 0.8, 0.8), specular_weight=0.0)
    lamp = make_light(id="l", kind="rect", unit="nit", power=300, place=(0, 0, 3), width=1, height=1)
    parts = [(sets.PLANE, clay, {"place": (0.0, 0.0, -1.0)}), (sets.BALL, glow, {"size": (0.2,) * 3})]
    camera = sets.view(eye=(0, -5, 2), size=(48, 32), iso=100.0, shutter_s=0.02)

    def rendered(clamp: float):
        document, assets = sets.many(parts, lamp, camera=camera, quality=sets.deep(16, clamp=clamp))
        prepared, seen = Preparer().prepare(document, assets), []
        film = blank_film(prepared)
        run(render(prepared, film, noise=0.0), lambda update: seen.append(update.preview))
        return float(luminance(film.beauty()).mean()), seen[-1].held_back

    free, nothing = rendered(0.0)
    held, taken = rendered(0.003)
    assert nothing == 0.0
    assert 0.001 < taken < 0.9
    # The same samples, so that what is missing is what was taken.
    assert 1 - held / free == pytest.approx(taken, rel=0.03)


def held_back(document, assets, sampling: str) -> float:
    prepared, seen = Preparer().prepare(document, assets, sampling=sets.MODES[sampling]), []
    run(render(prepared, blank_film(prepared), noise=0.0), lambda update: seen.append(update.preview))
    return seen[-1].held_back


def test_what_roulette_makes_up_for_is_not_clamped(engine):
    """Between two grey walls under a white sky light after k walls is a half to the power of k, never more."""
    grey = Material(id="grey", base_color=(0.5, 0.5, 0.5), specular_weight=0.0, specular_ior=1.0)
    parts = [(sets.PLANE, grey, {"place": (0.0, 0.0, z)}) for z in (-1.0, 1.0)]
    camera = sets.view(eye=(0, -2, 0))

    def taken(limit: float) -> float:
        quality = sets.deep(16, clamp=limit / camera.white_luminance)
        document, assets = sets.many(parts, sets.white_dome(), camera=camera, quality=quality)
        return held_back(document, assets, "material")

    assert taken(0.35) == 0.0
    assert taken(0.2) > 1e-4


def test_what_is_seen_through_clear_glass_is_not_clamped(engine):
    glow = Material(id="glow", base_color=(0, 0, 0), specular_weight=0.0, emission_luminance=4000)
    glass = Material(id="glass", transmission_weight=1.0, specular_roughness=0.0)
    clay = Material(id="clay", base_color=(0.8, 0.8, 0.8), specular_weight=0.0)
    camera = sets.view(eye=(0, -6, 1))
    parts = [(sets.BALL, glow, {}), (sets.BOX, glass, {"place": (0.0, -3.0, 0.0), "size": (1.0, 0.1, 1.0)})]
    quality = sets.deep(16, clamp=0.003)
    assert held_back(*sets.many(parts, camera=camera, quality=quality), "mis") == 0.0
    parts.append((sets.PLANE, clay, {"place": (0.0, 0.0, -1.0)}))
    assert held_back(*sets.many(parts, camera=camera, quality=quality), "mis") > 0, "light off a floor is"


@pytest.mark.parametrize("looks", [False, True])
def test_middles_are_there_however_a_picture_begins(engine, looks):
    """Coarse or not, with a sight or without, stopped among the coarse passes or not: the same middles, bit by bit."""
    clay = Material(id="clay", specular_weight=0.0)
    camera = sets.view(eye=(0, -5, 2), size=(70, 50))
    parts = [(sets.PLANE, clay, {"place": (0.0, 0.0, -1.0)}), (sets.BALL, clay, {})]
    prepared = Preparer().prepare(*sets.many(parts, sets.white_dome(), camera=camera, quality=sets.deep(1)))
    whole = run(render(prepared, blank_film(prepared), noise=0.0))
    film, stop = blank_film(prepared), Stop()
    sight = Sight.blank(*film.size) if looks else None
    for update in render(prepared, film, noise=0.0, coarse=True, sight=sight, stop=stop):
        if update.note == "coarse":
            stop.set()
    assert 0 < film.samples.sum() < film.samples.size, "it was stopped on its way"
    run(render(prepared, film, noise=0.0, coarse=True, sight=sight))
    assert (film.samples == 1).all()
    assert (film.depth > 0).mean() > 0.5
    for name in ("depth", "position", "normal"):
        assert np.array_equal(getattr(film, name), getattr(whole, name)), name

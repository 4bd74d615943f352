"""A render as a job: a request that can be sent elsewhere, why it ended, and films kept on disk to go on from."""

import json
import pickle
from dataclasses import replace

import numpy as np
import pytest

from nocturne.engine.render import Stop
from nocturne.errors import BadFile, FileError
from nocturne.io import filmstate
from nocturne.jobs import run
from nocturne.rendering.render import render_request
from nocturne.rendering.request import RenderRequest
from nocturne.scene import edit
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from tests import sets


@pytest.fixture(scope="module")
def request_(engine):
    document, assets = sets.one_thing(sets.BALL, Material(id="m", name="Clay"), sets.white_dome())
    return RenderRequest(document, assets, 40, 24, seed=7, samples=6, noise=0.0)


def test_a_request_that_was_sent_gives_the_same_bits(request_):
    there = pickle.loads(pickle.dumps(request_))
    assert there.key() == request_.key()
    one, other = run(render_request(request_)), run(render_request(there, threads=1))
    assert one.ended == other.ended == "samples"
    for name, array in one.film.arrays.items():
        assert np.array_equal(array, other.film.arrays[name]), name


def test_it_says_why_it_ended(request_):
    assert run(render_request(replace(request_, samples=500, noise=0.9))).ended == "noise"
    assert run(render_request(replace(request_, samples=10**7, minutes=0.01))).ended == "time"
    stop = Stop()
    stop.set()
    assert run(render_request(request_, stop=stop)).ended == "stopped"


def test_the_key_is_of_the_picture_and_not_of_how_far(request_):
    key = request_.key()
    assert replace(request_, samples=9, region=(0, 0, 8, 8), first=3).key() == key
    assert replace(request_, document=edit.set_finish(request_.document, view="plain")).key() == key
    assert replace(request_, seed=8).key() != key
    assert replace(request_, width=41).key() != key
    assert replace(request_, document=edit.alter(request_.document, "materials", "m", base_metalness=1.0)).key() != key
    other = replace(request_.assets, meshes={"mesh-0": sets.BOX})
    assert replace(request_, assets=other).key() != key


def test_a_film_that_was_kept_goes_on_to_the_same_bits(request_, tmp_path):
    whole = run(render_request(request_)).film
    part = run(render_request(replace(request_, samples=2))).film
    filmstate.write(tmp_path / "a.film", part, request_.key())
    film = filmstate.read(tmp_path / "a.film", request_.key())
    done = run(render_request(request_, film=film)).film
    for name, array in whole.arrays.items():
        assert np.array_equal(array, done.arrays[name]), name
    assert (film.group_names, film.objects, film.materials) == (part.group_names, part.objects, part.materials)


def test_what_cannot_be_gone_on_with_is_told(request_, tmp_path):
    film = run(render_request(replace(request_, samples=1))).film
    path = tmp_path / "a.film"
    with pytest.raises(FileError, match="no such file"):
        filmstate.read(path, "x")
    filmstate.write(path, film, request_.key())
    with pytest.raises(FileError, match="another picture"):
        filmstate.read(path, "another")
    whole = path.read_bytes()
    for damage in (b"", b"PK", whole[: len(whole) // 2], whole[:-30], b"x" * 100, json.dumps({"a": 1}).encode()):
        path.write_bytes(damage)
        with pytest.raises(BadFile, match="begin anew"):
            filmstate.read(path, request_.key())
    with path.open("wb") as file:
        np.savez(file, about=np.array([{"run": "code"}], object), allow_pickle=True)
    with pytest.raises(BadFile):
        filmstate.read(path, request_.key())


def test_whoever_renders_a_part_learns_what_the_whole_does(engine):
    clay = Material(id="m", name="Clay")
    lights = tuple(
        make_light(id=f"l{k}", kind="sphere", unit="nit", power=20 * k, place=(3 * k - 6, -2, 2), radius=0.3)
        for k in range(1, 4)
    )
    document, assets = sets.one_thing(sets.BALL, clay, *lights)
    whole = RenderRequest(document, assets, 64, 48, seed=3, samples=6, noise=0.0)
    notes = []
    film = run(render_request(whole), lambda update: notes.append(update.note)).film
    assert "Learning where light comes from" in notes
    part = run(render_request(replace(whole, region=(16, 8, 48, 40)), threads=1)).film
    assert np.array_equal(part.groups[:, 8:40, 16:48], film.groups[:, 8:40, 16:48])
    begun = run(render_request(replace(whole, samples=2))).film
    went_on = run(render_request(whole, film=begun)).film
    assert np.array_equal(went_on.groups, film.groups)

"""Cutaways in the picture: every ray respects them, and only the chosen things are cut."""

import numpy as np
import pytest

from nocturne.engine.pick import face_at, pick
from nocturne.engine.prepare import Preparer
from nocturne.scene import edit
from nocturne.scene import solids as forms
from nocturne.scene.cutaway import Cutaway
from nocturne.scene.materials import Material
from nocturne.scene.scatter import Scatter, Source
from nocturne.scene.thing import FaceMaterial, Thing
from tests import sets

CLAY = Material(id="clay", base_color=(0.6, 0.3, 0.2), specular_weight=0)
RED = Material(id="red", base_color=(0.9, 0.05, 0.05), specular_weight=0)
ABOVE = sets.view(eye=(0, 0, 20), target=(0, 0, 0), focal_mm=200, size=(32, 32))


def with_cut(document, *of: str, place=(0.0, 0.0, 0.0), **values):
    cutter = Thing(id="cut", name="Cut", cutaway=Cutaway(of=of, **{"kind": "plane", **values}), place=place)
    return edit.put(document, "things", cutter)


def test_half_a_ball_looks_and_shades_as_one_that_was_modelled_so(engine):
    quarter = np.linspace(-np.pi / 2, 0, 49)
    bowl = [(np.cos(a), np.sin(a)) for a in quarter]
    half = forms.lathe([*bowl, (0, 0)], segments=192)
    camera = sets.view(eye=(0, -6, 3), target=(0, 0, -0.3), focal_mm=60, size=(48, 48))
    floor = (sets.PLANE, CLAY, {"place": (0.0, 0.0, -1.2)})
    document, assets = sets.many([(sets.BALL, CLAY, {}), floor], sets.white_dome(), camera=camera)
    cut = sets.picture(with_cut(document, "thing-0"), assets)
    made = sets.picture(*sets.many([(half, CLAY, {}), floor], sets.white_dome(), camera=camera))
    assert np.abs(cut.depth - made.depth)[made.depth > 0].max() < 0.1
    assert np.median(np.abs(cut.depth - made.depth)) < 1e-4
    assert np.abs(cut.beauty() - made.beauty()).mean() < 0.02 * made.beauty().mean(), "shadows, too"
    whole = sets.picture(document, assets)
    assert np.abs(cut.beauty() - whole.beauty()).mean() > 0.02 * made.beauty().mean()


@pytest.mark.parametrize(("closed", "z"), [(True, 0.0), (False, -1.0)])
def test_closed_or_open_and_what_is_picked(closed, z, engine):
    document, assets = sets.many([(sets.BALL, CLAY, {})], sets.white_dome(), camera=ABOVE, quality=sets.deep(4))
    document = with_cut(document, "thing-0", closed=closed)
    film = sets.picture(document, assets)
    assert film.position[15, 18, 2] == pytest.approx(z, abs=8e-2)
    assert abs(film.normal[15, 18, 2]) == pytest.approx(1.0, abs=5e-2)
    face = face_at(Preparer().prepare(document, assets), 18, 15)
    assert face.id == "thing-0"
    if closed:
        assert face.triangle == -1
    else:
        corners = sets.BALL.vertices[sets.BALL.triangles[face.triangle]]
        assert corners[:, 2].max() < -0.8, "a triangle keeps its number"


def test_only_the_chosen_things_are_cut(engine):
    inner = (forms.ball(0.5, segments=64), RED, {})
    document, assets = sets.many([(sets.BALL, CLAY, {}), inner], camera=ABOVE, quality=sets.deep(4))
    prepared = Preparer().prepare(with_cut(document, "thing-0"), assets)
    assert pick(prepared, 18, 15).id == "thing-1"
    assert pick(prepared, 18, 15).point[2] == pytest.approx(0.5, abs=0.08)
    assert pick(Preparer().prepare(document, assets), 18, 15).id == "thing-0"


def test_cut_faces_wear_the_things_own_material_and_others_keep_theirs(engine):
    document, assets = sets.many([(sets.BALL, CLAY, {})], sets.white_dome(), camera=ABOVE, quality=sets.deep(16))
    n = len(sets.BALL.triangles)
    document = edit.put(document, "materials", RED)
    document = edit.alter(document, "things", "thing-0", faces=(FaceMaterial(runs=(0, n), material="red"),))
    assert sets.picture(document, assets).albedo[15, 18] == pytest.approx(RED.base_color, abs=0.02)
    cut = sets.picture(with_cut(document, "thing-0"), assets)
    assert cut.albedo[15, 18] == pytest.approx(CLAY.base_color, abs=0.02)
    opened = sets.picture(with_cut(document, "thing-0", closed=False), assets)
    assert opened.albedo[15, 18] == pytest.approx(RED.base_color, abs=0.02)


def test_edits_of_thing_and_cutaway_are_drawn_as_if_anew(engine):
    preparer = Preparer()
    document, assets = sets.many([(sets.BALL, CLAY, {}), (sets.BALL, RED, {"place": (4.0, 0, 0)})], camera=ABOVE)
    states = [document, with_cut(document, "thing-0")]
    states.append(edit.alter(states[-1], "things", "cut", place=(0.0, 0.0, 0.4)))
    states.append(edit.alter(states[-1], "things", "thing-0", place=(0.0, 0.0, 0.2)))
    states.append(edit.alter(states[-1], "things", "thing-1", place=(3.0, 0.0, 0.2)))
    states.append(edit.alter(states[-1], "things", "thing-0", material="red"))
    states.append(edit.alter(states[-1], "things", "cut", place=(0.0, 0.0, -5.0)))  # nothing is left of it
    states.append(edit.alter(states[-1], "things", "cut", visible=False))
    for state in states:
        again, anew = preparer.prepare(state, assets), Preparer().prepare(state, assets)
        for name in ("corners", "tris", "inst_i", "inst_xf", "mesh_i"):
            assert np.array_equal(again.arrays[name], anew.arrays[name]), name
        assert again.object_ids == anew.object_ids
    assert "thing-0" not in Preparer().prepare(states[-2], assets).object_ids


def test_copies_of_a_scatter_are_cut_where_they_are_met(engine):
    document, assets = sets.many([(sets.BALL, CLAY, {"visible": False})], camera=ABOVE, quality=sets.deep(4))
    scatter = Scatter(sources=(Source(thing="thing-0"),), counts=(5, 5, 1), spacing=(2.5, 2.5, 1))
    document = edit.put(document, "things", Thing(id="s", name="Many", scatter=scatter, place=(-5.0, -5.0, 0.0)))
    whole = Preparer().prepare(document, assets)
    cut = Preparer().prepare(with_cut(document, "s", kind="box", width=1.0, depth=1.0, height=9.0), assets)
    n = [p.object_ids.count("s") for p in (whole, cut)]
    assert n[0] == 25
    assert 1 < len(set(cut.arrays["inst_i"][:, 0])) <= 10, "those that are met have meshes of their own"
    assert n[1] in (24, 25)
    hit = pick(cut, 18, 15)
    assert hit is None or hit.point[2] < 0.99

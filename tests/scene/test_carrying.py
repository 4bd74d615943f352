"""Views that move with a group: whatever moves the group, they see of it what they saw."""

import numpy as np
import pytest

from nocturne.scene import arrange, edit, placing
from nocturne.scene.camera import View
from nocturne.scene.carrying import with_carried_views
from nocturne.scene.document import Document
from nocturne.scene.projection import project
from nocturne.scene.shapes import transform
from nocturne.scene.thing import Thing

POINTS = np.random.default_rng(2).normal(0, 0.4, (20, 3))


@pytest.fixture
def carried():
    things = (Thing(id="outer", name="Outer"), Thing(id="g", name="Group", parent="outer", turn_deg=(0, 0, 20)))
    view = View(id="v", eye=(1, -4, 1.5), target=(0.2, 0, 0.1), roll_deg=12, parent="g")
    return with_carried_views(Document(things=things, views=(view, View(id="w")), active_view="v"))


def seen(document: Document) -> np.ndarray:
    stands = document.placement("g") @ np.linalg.inv(transform((0, 0, 0), (0, 0, 20)))
    return project(document.views[0], POINTS @ stands[:3, :3].T + stands[:3, 3])[0]


@pytest.mark.parametrize("moved", ["g", "outer"])
def test_a_view_sees_of_its_group_what_it_saw(carried, moved):
    before = seen(carried)
    for k, (place, turn) in enumerate((((3, 1, -2), (0, 0, 70)), ((0, 0, 1), (25, -40, 130)), ((1, 1, 1), (0, 0, 0)))):
        after = with_carried_views(edit.alter(carried, "things", moved, place=place, turn_deg=turn))
        assert after.views[0] != carried.views[0], k
        assert seen(after) == pytest.approx(before, abs=1e-4)
        assert after.views[1] is carried.views[1]
    # A drag, each of whose steps begins where it began.
    for metres in (0.5, 1.0, 2.0):
        after = with_carried_views(placing.moved(carried, "things", ("g",), np.array((metres, 0, 0))))
        assert after.views[0].eye == pytest.approx(np.add(carried.views[0].eye, (metres, 0, 0)), abs=1e-5)


def test_joining_leaving_and_losing_a_group_moves_no_view(carried):
    assert with_carried_views(carried) is carried
    eye = carried.views[0].eye
    away = with_carried_views(arrange.ungrouped(carried, ("g",))[0])
    assert (away.views[0].eye, away.views[0].parent) == (eye, "outer")
    gone = with_carried_views(edit.remove(carried, "things", "outer"))
    assert (gone.views[0].eye, gone.views[0].parent, gone.views[0].home) == (eye, "", ())
    moved = edit.alter(carried, "things", "g", place=(1.0, 0, 0))
    flat = with_carried_views(edit.alter(moved, "things", "g", size=(1.0, 1.0, 0.0)))
    assert np.isfinite(flat.views[0].eye).all()

"""Pivots, arrays along lines and grids, faces turned over: nothing moves that should not."""

import numpy as np
import pytest

from nocturne.errors import SceneError
from nocturne.scene import arrange, edit, navigate, placing
from nocturne.scene import solids as forms
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.shapes import turned_over
from nocturne.scene.thing import Thing

ASSETS = Assets({"m": forms.rounded_box((1.0, 2.0, 3.0), 0.0)})


@pytest.fixture
def document() -> Document:
    things = (
        Thing(id="g", name="Group", place=(1, 2, 3), turn_deg=(10, 20, 30), size=(1.5, 1.5, 1.5)),
        Thing(id="a", name="A", mesh="m", parent="g", turn_deg=(0, 0, 40), size=(1, 2, 1)),
        Thing(id="b", name="B", mesh="m", place=(5, 0, 0)),
    )
    return Document(things=things)


def test_a_pivot_moves_nothing_and_things_turn_and_grow_about_it(document):
    point = np.array((2.0, 1.0, 5.0))
    for id in ("a", "g", "b"):
        pivoted = placing.pivoted(document, id, point)
        assert pivoted.placement("a") == pytest.approx(document.placement("a"), abs=1e-5)
        assert placing.centre(pivoted, "things", id) == pytest.approx(point, abs=1e-5)
        for change in ({"turn_deg": (50, 60, 70)}, {"size": (2.0, 0.5, 3.0)}):
            changed = edit.alter(pivoted, "things", id, **change)
            assert placing.centre(changed, "things", id) == pytest.approx(point, abs=1e-5)
            assert changed.placement(id) != pytest.approx(document.placement(id), abs=1e-3)
        again = placing.with_pivot(pivoted, id, (0.0, 0.0, 0.0))
        assert again.placement("a") == pytest.approx(document.placement("a"), abs=1e-5)
    boxed = placing.pivoted_to(document, ASSETS, ("b",), where="middle")
    assert boxed.find("things", "b").pivot == pytest.approx((0, 0, 1.5), abs=1e-5)
    assert placing.pivoted_to(boxed, ASSETS, ("b",), where="floor").find("things", "b").pivot == pytest.approx(
        (0, 0, 0)
    )


def test_what_has_a_pivot_is_regrouped_mirrored_and_put_on_surfaces_as_else(document):
    pivoted = placing.pivoted(document, "a", np.array((2.0, 1.0, 5.0)))
    out = arrange.put_into(pivoted, "things", ("a",), "")
    assert out.placement("a") == pytest.approx(pivoted.placement("a"), abs=1e-4)
    mirrored = [
        placing.mirrored(d, ASSETS, ("b",), axis=0) for d in (document, placing.pivoted(document, "b", np.ones(3)))
    ]
    assert mirrored[1].placement("b") == pytest.approx(mirrored[0].placement("b"), abs=1e-5)
    stood = placing.on_surface(
        placing.pivoted(document, "b", np.ones(3)), "b", np.array((7.0, 7, 7)), np.eye(3)[0], turns=True
    )
    assert placing.centre(stood, "things", "b") == pytest.approx((7, 7, 7), abs=1e-4)


@pytest.mark.parametrize("closed", [False, True])
def test_copies_stand_evenly_along_a_line_and_turn_with_it(document, closed):
    line = [(0, 0, 0), (4, 0, 0), (4, 4, 0), *([(0, 4, 0), (0, 0, 0)] if closed else [])]
    made, new = placing.along(document, ("b",), np.array(line), n=5 if not closed else 8, turns=True)
    stands = [made.placement(id) for id in ("b", *new)]
    expected = [(0, 0), (2, 0), (4, 0), (4, 2), (4, 4)] + ([(2, 4), (0, 4), (0, 2)] if closed else [])
    assert np.array([m[:2, 3] for m in stands]) == pytest.approx(np.array(expected, float), abs=1e-5)
    assert stands[3][:2, 0] == pytest.approx((0, 1), abs=1e-5), "its x axis along the second leg"
    assert len({made.find("things", id).mesh for id in new}) == 1
    with pytest.raises(SceneError, match="two points"):
        placing.along(document, ("b",), np.zeros((3, 3)), n=3, turns=False)
    gridded, new = placing.in_grid(document, ("b",), counts=(2, 3, 1), step=np.array((2.0, 3.0, 1.0)))
    assert len(new) == 5
    assert navigate.bounds_of(gridded, ASSETS, new[-1])[0] == pytest.approx((5 + 2 - 0.5, 6 - 1, 0), abs=1e-5)


def test_faces_are_turned_over_and_back():
    mesh = ASSETS.meshes["m"]
    over = turned_over(mesh)
    assert turned_over(mesh) is over
    p, q = (m.vertices[m.triangles].astype(float) for m in (mesh, over))
    faces = [np.cross(c[:, 1] - c[:, 0], c[:, 2] - c[:, 0]) for c in (p, q)]
    assert faces[1] == pytest.approx(-faces[0])
    assert over.normals == pytest.approx(-mesh.normals)
    thing = Thing(id="t", mesh="m", turned_over=True)
    assert ASSETS.shape(thing) is over


def test_anchors_are_corners_and_middles_of_what_else_is_shown(document):
    found = placing.anchors(document, ASSETS, ("g",))
    assert len(found) == 28
    assert {(4.5, -1.0, 0.0), (5.0, 0.0, 1.5), (5.5, 1.0, 3.0)} <= {tuple(np.round(p, 5)) for p in found}
    hidden = edit.alter(document, "things", "b", visible=False)
    assert len(placing.anchors(hidden, ASSETS, ())) == 28

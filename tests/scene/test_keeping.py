"""What is kept between edits (placements, digests) is always what would be worked out anew."""

import random

import numpy as np
import pytest

from nocturne.scene import edit, parts
from nocturne.scene.camera import View, aperture_radius, lens_radius
from nocturne.scene.document import Document, film_digest
from nocturne.scene.materials import Material
from nocturne.scene.plan import footprints, reach_for
from nocturne.scene.thing import Thing
from tests import sets

PLAIN = Material(id="plain")


@pytest.fixture
def tree() -> Document:
    """Return fifty things in groups of groups."""
    things = [Thing(id=f"t{i}", name=f"T{i}", parent=f"t{(i - 1) // 3}" if i else "") for i in range(50)]
    return Document(things=tuple(things))


def some_edit(document: Document, dice: random.Random) -> Document:
    """Move, turn, hide, regroup, remove, add or reorder something."""
    ids = [thing.id for thing in document.things]
    id = dice.choice(ids)
    kind = dice.choice(["place", "turn_deg", "visible", "parent", "remove", "add", "order", "name"])
    if kind in ("place", "turn_deg"):
        return edit.alter(document, "things", id, **{kind: tuple(dice.uniform(-3, 3) for _ in range(3))})
    if kind == "visible":
        return edit.alter(document, "things", id, visible=dice.random() < 0.5)
    if kind == "parent":
        return edit.alter(document, "things", id, parent=dice.choice(["", "nobody", *ids]))
    if kind == "name":
        return edit.alter(document, "things", id, name=f"N{dice.random()}")
    if kind == "remove" and len(edit.remove(document, "things", id).things) > 20:
        return edit.remove(document, "things", id)
    if kind == "add":
        # An id that was there before and may come back must not bring its old place with it.
        free = next(f"t{i}" for i in range(1000) if f"t{i}" not in ids)
        thing = Thing(id=free, name=free, parent=dice.choice(ids), place=(dice.random(), 0, 0))
        return edit.changed(document, things=(*document.things, thing))
    shuffled = list(document.things)
    dice.shuffle(shuffled)
    return edit.changed(document, things=tuple(shuffled))


def has_loop(document: Document) -> bool:
    above = {thing.id: thing.parent for thing in document.things}
    for id in above:
        seen = set()
        while id in above and id not in seen:
            seen.add(id)
            id = above[id]
        if id in seen:
            return True
    return False


@pytest.mark.parametrize("seed", range(6))
def test_placements_kept_through_edits_are_those_worked_out_anew(tree, seed):
    dice, document = random.Random(seed), tree
    for _ in range(120):
        after = some_edit(document, dice)
        if has_loop(after):
            continue
        document = after
        kept = document.placements
        anew = parts.place_things(document.things, (), None)
        assert kept.keys() == anew.keys()
        for id, (matrix, shown) in anew.items():
            assert np.array_equal(kept[id][0], matrix), id
            assert kept[id][1] == shown, id
        one = dice.choice(document.things).id
        assert document.placement(one) == pytest.approx(anew[one][0], abs=1e-12)
    assert document.placement("nobody") is None


def test_only_what_moved_is_placed_again(tree):
    before = tree.placements
    after = edit.alter(tree, "things", "t2", place=(1.0, 0.0, 0.0)).placements
    below = {"t2", *(f"t{i}" for i in (7, 8, 9)), *(f"t{i}" for i in range(22, 31))}
    for id, placed in after.items():
        assert (placed is before[id]) == (id not in below), id


def test_the_digest_tells_what_decides_the_film_and_nothing_else(tree):
    start = film_digest(tree)
    moved = edit.alter(tree, "things", "t4", place=(0.5, 0.0, 0.0))
    assert film_digest(moved) != start
    back = edit.alter(moved, "things", "t4", place=(0.0, 0.0, 0.0))
    assert film_digest(back) == start, "worked out from another history"
    assert film_digest(Document.model_validate_json(tree.model_dump_json())) == start
    assert film_digest(edit.alter(tree, "views", tree.view.id, iso=800.0)) == start, "exposure comes after the film"
    for change in ({"cut_m": 1.0}, {"focal_mm": 50.0}, {"depth_of_field": True}):
        assert film_digest(edit.alter(tree, "views", tree.view.id, **change)) != start
    blurred = edit.alter(tree, "views", tree.view.id, depth_of_field=True)
    assert film_digest(edit.alter(blurred, "views", tree.view.id, blades=5)) != film_digest(blurred)
    assert film_digest(edit.alter(tree, "views", tree.view.id, blades=5)) == start, "nothing is blurred yet"


def test_blades_open_as_wide_as_the_circle():
    view = View(id="v", depth_of_field=True, f_number=2.0, focal_mm=100.0)
    assert aperture_radius(view) == lens_radius(view) == pytest.approx(0.025)
    for n in (3, 4, 7, 16):
        corner = aperture_radius(view.model_copy(update={"blades": n}))
        area = n / 2 * corner**2 * np.sin(2 * np.pi / n)
        assert area == pytest.approx(np.pi * 0.025**2)
    assert aperture_radius(view.model_copy(update={"blades": 2})) == 0.025, "two blades make no opening"


def test_footprints_are_what_stands_before_the_lens():
    parts = [
        (sets.BALL, PLAIN, {"place": (0.0, 0.0, 0.0)}),
        (sets.BALL, PLAIN, {"place": (0.0, -12.0, 0.0)}),  # behind
        (sets.BALL, PLAIN, {"place": (40.0, 0.0, 0.0)}),  # beside
        (sets.BALL, PLAIN, {"place": (0.5, 4.0, 0.0), "visible": False}),
    ]
    camera = sets.view(eye=(0, -6, 0), target=(0, 0, 0), focal_mm=50)
    document, assets = sets.many(parts, camera=camera)
    found = footprints(document, assets, camera)
    assert found == pytest.approx(np.array([[5.0, 7.0, -1.0, 1.0]]), abs=1e-3)


@pytest.mark.parametrize(("distance", "reach"), [(0.5, 1), (2.0, 5), (3.4, 10), (40, 100), (0.02, 0.05), (1e-9, 0.002)])
def test_a_plan_reaches_well_beyond_the_focus_in_round_steps(distance, reach):
    assert reach_for(distance) == pytest.approx(reach)

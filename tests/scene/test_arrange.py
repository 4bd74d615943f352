"""Groups: whatever is grouped, parted or dragged elsewhere stays where it stands, shape for shape."""

import numpy as np
import pytest

from nocturne.errors import SceneError
from nocturne.scene import arrange, edit, faces, placing
from nocturne.scene.assets import Assets
from nocturne.scene.compare import differences
from nocturne.scene.document import Document
from nocturne.scene.forms.box import Box
from nocturne.scene.forms.room import Room
from nocturne.scene.forms.turned import Turned
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.scatter import Scatter, Source
from nocturne.scene.shapes import joined
from nocturne.scene.solids import moved
from nocturne.scene.thing import FaceMaterial, Thing
from tests import sets
from tests.near import assert_near


def random_set(seed: int, *, hidden: float = 0.1) -> Document:
    """Return things and lights in groups in groups, sized and turned anyhow, some of them hidden."""
    rng = np.random.default_rng(seed)
    things: list[Thing] = []
    for i in range(24):
        groups = [t.id for t in things if not t.mesh]
        stand = {
            "place": tuple(rng.normal(size=3)),
            "turn_deg": tuple(rng.uniform(-180, 180, 3)),
            "size": tuple(rng.uniform(0.3, 2, 3) * rng.choice((1, 1, 1, -1), 3)),
        }
        parent = str(rng.choice(groups)) if groups and rng.random() < 0.7 else ""
        mesh = "m#ball" if i % 2 else ""
        things.append(
            Thing(id=f"t{i}", name=f"T{i}", parent=parent, mesh=mesh, visible=rng.random() >= hidden, **stand)
        )
    lights = tuple(
        make_light(
            id=f"l{k}",
            name=f"L{k}",
            kind="rect",
            parent=f"t{2 * k}",
            place=tuple(rng.normal(size=3)),
            turn_deg=(10, k, 5),
        )
        for k in range(4)
    )
    return Document(things=tuple(things), lights=lights)


def where(document: Document) -> dict:
    """Return where all shapes stand and whether they are seen, and where lights stand."""
    found = {}
    for thing in document.things:
        if thing.mesh:
            matrix, shown = document.placements[thing.id]
            found[thing.id] = (matrix, shown)
    for light in document.standing_lights:
        found[light.id] = (np.array([*light.place, *sets.turned(light.turn_deg, (1, 2, 3))]), light.on)
    return found


def assert_same(before: dict, after: dict) -> None:
    """Check that all stands as it did."""
    assert before.keys() == after.keys()
    for id, (matrix, shown) in before.items():
        scale = max(np.abs(matrix).max(), 1)
        assert after[id][0] == pytest.approx(matrix, abs=2e-5 * scale), id
        assert after[id][1] == shown, id


@pytest.mark.parametrize("seed", range(12))
def test_grouping_and_parting_move_nothing(seed):
    rng, document = np.random.default_rng(seed), random_set(seed, hidden=0)
    before = where(document)
    ids = tuple(rng.choice([t.id for t in document.things], 5, replace=False))
    with_group, group = arrange.grouped(document, ids)
    with_group = arrange.put_into(with_group, "lights", ("l0",), group)
    assert_same(before, where(with_group))
    assert set(placing.tops(document, ids)) <= {t.id for t in with_group.things if group in with_group.groups_of(t.id)}
    again, members = arrange.ungrouped(with_group, (group,))
    assert again.find("things", group) is None
    assert_same(before, where(again))
    assert members
    document = random_set(seed)
    before = where(document)
    parted, _ = arrange.ungrouped(document, [t.id for t in document.things if not t.mesh][:3])
    assert_same(before, where(parted))


@pytest.mark.parametrize("seed", range(6))
def test_what_is_dragged_into_another_group_stays_where_it_is(seed):
    rng, document = np.random.default_rng(100 + seed), random_set(seed)
    before = where(document)
    groups = [t.id for t in document.things if not t.mesh]
    for _ in range(8):
        id, group = str(rng.choice([t.id for t in document.things])), str(rng.choice([*groups, ""]))
        if document.find("things", id) is None or group == id or id in document.groups_of(group):
            with pytest.raises(SceneError, match="in itself"):
                arrange.put_into(document, "things", (id,), group)
            continue
        shown = document.placements[id][1]
        document = arrange.put_into(document, "things", (id,), group)
        if document.placements[id][1] != shown:
            before = {k: (m, where(document)[k][1]) for k, (m, _) in before.items()}  # its new group is hidden
        assert_same(before, where(document))


def test_the_order_of_the_list_is_that_of_the_drop():
    document = Document(things=tuple(Thing(id=i, name=i) for i in "abcde"))
    moved = arrange.put_into(document, "things", ("e",), "", before="b")
    assert [t.id for t in moved.things] == list("aebcd")
    inside = arrange.put_into(document, "things", ("d", "e"), "a")
    assert [t.parent for t in inside.things] == ["", "", "", "a", "a"]
    assert arrange.put_into(inside, "things", ("e",), "a", before="d").things[3].id == "e"


def test_a_group_goes_with_its_lights_and_shows_and_hides_them():
    lamp = make_light(id="l", kind="point", parent="g", place=(0, 0, 1))
    document = Document(things=(Thing(id="g", place=(5, 0, 0), turn_deg=(90, 0, 0)),), lights=(lamp,))
    assert document.standing_lights[0].place == pytest.approx((5, -1, 0))
    moved = placing.moved(document, "lights", ("l",), np.array([0, 0, 2.0]))
    assert moved.standing_lights[0].place == pytest.approx((5, -1, 2))
    spun = placing.turned(document, "things", ("g",), axis=(0, 0, 1), angle=np.pi, pivot=(0, 0, 0))
    assert spun.standing_lights[0].place == pytest.approx((-5, 1, 0), abs=1e-5)
    hidden = edit.alter(document, "things", "g", visible=False)
    assert not hidden.standing_lights[0].on
    assert edit.remove(document, "things", "g").lights == ()
    spot = make_light(id="s", kind="spot", parent="g", place=(0, 1, 0))
    aimed = placing.aim(edit.put(document, "lights", spot), "s", np.array([0.0, 0, 0]))
    stands = aimed.standing(aimed.find("lights", "s"))
    ahead = -np.array(stands.place) / np.linalg.norm(stands.place)
    assert sets.turned(stands.turn_deg, (0, 0, -1)) == pytest.approx(ahead, abs=1e-5)


def test_only_some_are_left_in_sight_with_all_that_is_in_them():
    document = random_set(3)
    groups = [t.id for t in document.things if not t.mesh and list(document.children(t.id))]
    for id in (*groups, "t1"):
        alone = edit.alter_many(document, "things", arrange.hidden_for(document, (id,)), visible=False)
        kept = document.with_members((id,))
        for thing in document.things:
            if thing.mesh:
                shown = document.placements[thing.id][1] and thing.id in kept
                assert alone.placements[thing.id][1] == shown


def test_exact_lengths_are_met():
    box = Thing(id="b", mesh="box", turn_deg=(0, 0, 30), size=(1, 2, 3), parent="g")
    document, assets = Document(things=(Thing(id="g"), box)), Assets({"box": sets.BOX})
    one = placing.measured(document, assets, "b", 0, 0.012, in_proportion=False)
    assert placing.measures(one, assets, "b") == pytest.approx((0.012, 4, 6))
    all_of_it = placing.measured(document, assets, "b", 2, 3.0, in_proportion=True)
    assert placing.measures(all_of_it, assets, "b") == pytest.approx((1, 2, 3))
    with pytest.raises(SceneError, match="more than 0"):
        placing.measured(document, assets, "b", 0, 0.0, in_proportion=True)


# ---- faces ---------------------------------------------------------------------------------------------------------


def test_chosen_faces_wear_their_own_material_and_joined_pieces_are_found():
    far = np.eye(4)
    far[0, 3] = 5
    mesh = joined(sets.BALL, moved(sets.BALL, far))
    n = len(sets.BALL.triangles)
    piece = faces.connected(mesh, n + 7)
    assert piece.sum() == n
    assert piece[n:].all()
    side = faces.connected(sets.BOX, len(sets.BOX.triangles) - 1, angle_deg=1.0, is_flat=True)
    assert side.sum() == 2, "a flat side of the box, and nothing of its rounded edges"
    runs = faces.runs_of(piece)
    assert runs == (n, n)
    thing = Thing(id="t", mesh="m", material="a", faces=(FaceMaterial(runs=runs, material="b"),))
    ids, of_face = faces.worn(thing, mesh)
    assert ids == ("a", "b")
    assert (of_face == piece).all()
    part, which = faces.cut(mesh, of_face, 1)
    assert faces.cut(mesh, of_face, 1)[0] is part
    assert_near(part.vertices[part.triangles], mesh.vertices[mesh.triangles[which]], within=1e-12)
    document = Document(things=(thing,), materials=(Material(id="a"), Material(id="b")))
    assert faces.wearing(document, "b") == [thing]
    gone = edit.remove(document, "materials", "b")
    assert faces.materials_of(gone.things[0]) == ("a",)


def test_a_thing_of_several_materials_renders_as_its_parts_do():
    red = Material(id="a", base_color=(0.8, 0.1, 0.1), specular_weight=0)
    blue = Material(id="b", base_color=(0.1, 0.1, 0.8), specular_weight=0)
    half = len(sets.BOX.triangles) // 2
    chosen = np.arange(len(sets.BOX.triangles)) < half
    entry = (FaceMaterial(runs=faces.runs_of(chosen), material="b"),)
    camera = sets.view(eye=(4, -6, 3), target=(0, 0, 1))
    document, assets = sets.many([(sets.BOX, red, {})], sets.white_dome(), camera=camera, quality=sets.deep(4))
    document = edit.changed(document, materials=(red, blue))
    whole = edit.alter(document, "things", "thing-0", faces=entry)
    one = faces.part_of(sets.BOX, np.flatnonzero(chosen))
    other = faces.part_of(sets.BOX, np.flatnonzero(~chosen))
    parts, apart = sets.many(
        [(one, blue, {}), (other, red, {})], sets.white_dome(), camera=camera, quality=sets.deep(4)
    )
    parts = edit.changed(parts, materials=(red, blue))
    a, b = sets.picture(whole, assets), sets.picture(parts, apart)
    # The same rays, but for what decides by chance which of the two meshes comes first along an edge.
    assert np.median(np.abs(a.beauty() - b.beauty())) < 1e-6
    assert a.beauty().mean((0, 1)) == pytest.approx(b.beauty().mean((0, 1)), rel=2e-3)
    assert a.id_at(0, 16, 16) == 0, "it is one thing for mattes and picking"


def test_a_copied_group_brings_its_lights_and_its_scatters_copy_its_own():
    things = (
        Thing(id="g"),
        Thing(id="a", parent="g", mesh="m"),
        Thing(id="c", parent="g", scatter=Scatter(sources=(Source(thing="a"),), over="surface", on="far")),
        Thing(id="far", mesh="m"),
    )
    document = Document(things=things, lights=(make_light(id="l", kind="point", parent="g", place=(1, 0, 0)),))
    document, group = edit.duplicate(document, "things", "g")
    assert [light.parent for light in document.lights] == ["g", group]
    inside = {t.id for t in document.children(group)}
    (scatter,) = (t.scatter for t in document.things if t.id in inside and t.scatter is not None)
    assert {s.thing for s in scatter.sources} < inside
    assert scatter.on == "far"


def test_settings_that_differ_name_shapes_scatters_and_faces():
    one = Thing(id="t", name="T", form=Box(), scatter=None)
    other = edit.changed(one, form=Box(width=2.0), faces=(FaceMaterial(set="a", material="b"),), uv_size=2.0)
    found = {d.label: (d.before, d.after) for d in differences(Document(things=(one,)), Document(things=(other,)))}
    assert found["Width"] == ("1 m", "2 m")
    assert "Faces" in found
    turned = edit.changed(one, form=Turned())
    found = {d.label: (d.before, d.after) for d in differences(Document(things=(one,)), Document(things=(turned,)))}
    assert found["Shape"] == ("Box", "Turned shape")
    room = edit.changed(one, form=Room())
    more = edit.changed(one, form=Room(openings=()))
    assert differences(Document(things=(room,)), Document(things=(more,)))[0].after == "0 openings"
    spread = edit.changed(one, form=None, scatter=Scatter())
    seeded = edit.changed(spread, scatter=Scatter(seed=5))
    assert differences(Document(things=(spread,)), Document(things=(seeded,)))[0].label == "Seed"

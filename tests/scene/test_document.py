"""The document, its edits and its history."""

import numpy as np
import pytest
from pydantic import ValidationError

from nocturne.errors import SceneError
from nocturne.rendering.request import RenderRequest
from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.camera import View, ev100, saturation_luminance
from nocturne.scene.desk import Strip, gains
from nocturne.scene.document import Document, free_id, free_name, render_key
from nocturne.scene.forms import KINDS as FORMS
from nocturne.scene.history import History
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Picture
from nocturne.scene.thing import Thing


@pytest.fixture
def document() -> Document:
    return Document(
        things=(
            Thing(id="group", name="Group", place=(1, 0, 0)),
            Thing(id="a", name="A", parent="group", material="m", mesh="x"),
        ),
        materials=(Material(id="m", name="M"), Material(id="n", name="N")),
        lights=(make_light(id="l", group="key"),),
        groups=("key",),
    )


def test_an_edit_leaves_the_rest_alone(document):
    changed = edit.alter(document, "materials", "m", specular_roughness=0.9)
    assert document.find("materials", "m").specular_roughness == 0.35
    assert changed.find("materials", "m").specular_roughness == 0.9
    assert changed.things is document.things
    assert changed.find("materials", "n") is document.find("materials", "n")


def test_an_edit_that_changes_nothing_gives_the_same_object(document):
    assert edit.alter(document, "lights", "l", on=True) is document
    assert edit.set_strip(edit.set_strip(document, "key", stops=1), "key", stops=1).desk


def test_values_are_checked(document):
    with pytest.raises(SceneError, match="specular_roughness"):
        edit.alter(document, "materials", "m", specular_roughness=3)
    with pytest.raises(SceneError):
        edit.alter(document, "materials", "nothing", name="x")
    with pytest.raises(ValidationError):
        Document(things=(Thing(id="a"), Thing(id="a")))
    with pytest.raises(ValidationError):
        Material(id="m", steps=(Picture(parameter="no_such_parameter"),))


def test_a_group_is_removed_with_all_that_is_in_it(document):
    for thing in (Thing(id="inner", parent="group"), Thing(id="b", parent="inner"), Thing(id="c")):
        document = edit.put(document, "things", thing)
    assert [t.id for t in edit.remove(document, "things", "inner").things] == ["group", "a", "c"]
    assert [t.id for t in edit.remove(document, "things", "group").things] == ["c"]
    assert [t.id for t in edit.remove(document, "things", "a", "b", "nobody").things] == ["group", "inner", "c"]
    assert edit.remove(document, "things", "nobody") is document


def test_removing_a_material_takes_it_off_its_things(document):
    assert edit.remove(document, "materials", "m").find("things", "a").material == ""
    with pytest.raises(SceneError):
        edit.remove(document, "views", document.view.id)


def test_copies_get_ids_and_names_of_their_own(document):
    changed, new = edit.duplicate(document, "materials", "m")
    assert [m.id for m in changed.materials] == ["m", new, "n"]
    assert changed.find("materials", new).name == "M 2"
    assert free_id(document, "things", "a") == "a-1"
    assert free_name(document, "materials", "New") == "New"
    again, third = edit.duplicate(changed, "materials", new)
    assert again.find("materials", third).name == "M 3"
    assert free_name(edit.alter(document, "materials", "m", name="4"), "materials", "4") == "4 2"


def test_a_group_is_copied_with_all_that_is_in_it(document):
    document = edit.put(document, "things", Thing(id="inner", name="Inner", parent="group", turn_deg=(0, 0, 30)))
    document = edit.put(document, "things", Thing(id="b", name="A 2", parent="inner", mesh="y", place=(0, 1, 0)))
    now, new = edit.copied(document, "things", ("group", "a"))
    assert len(new) == 1, "what is chosen with its group is copied once"
    assert len(now.things) == 2 * len(document.things)
    assert len({t.id for t in now.things}) == len({t.name for t in now.things}) == len(now.things)
    copies = [t for t in now.things if t not in document.things]
    for old in document.things:
        twin = next(t for t in copies if (t.mesh, t.place, t.turn_deg) == (old.mesh, old.place, old.turn_deg))
        assert twin.material == old.material
        assert (now.placement(twin.id) == now.placement(old.id)).all(), "it stands where the first one stands"
        assert old.parent == "" or twin.parent != old.parent
    assert now.groups_of(next(t.id for t in copies if t.mesh == "y")) == {t.id for t in copies if not t.mesh}
    looped = Document(things=(Thing(id="p", parent="q"), Thing(id="q", parent="p")))
    now, _ = edit.duplicate(looped, "things", "p")
    assert len(now.things) == 4
    many = Document(things=(Thing(id="g", name="G"), *(Thing(id=f"m{i}", name="M", parent="g") for i in range(300))))
    now, _ = edit.duplicate(many, "things", "g")
    assert len(now.things) == 602
    assert len({t.id for t in now.things}) == 602


def test_the_copy_of_a_view_or_level_is_the_one_that_is_used(document):
    now, (view,) = edit.copied(document, "views", (document.view.id,))
    assert now.view.id == view
    now, (level,) = edit.copied(now, "qualities", (now.quality.id,))
    assert now.quality.id == level


def test_a_renamed_group_takes_along_what_glows_in_it(document):
    document = edit.alter(document, "materials", "m", emission_luminance=5.0)
    document = edit.alter(document, "materials", "n", emission_luminance=5.0, emission_group="key")
    assert document.light_groups == ("key", "light")
    now = edit.rename_group(document, "light", "glow")
    assert now.light_groups == ("key", "glow"), "the old group is gone"
    assert now.find("materials", "m").emission_group == "glow"
    now = edit.rename_group(now, "key", "window")
    assert now.light_groups == ("window", "glow")
    assert now.find("materials", "n").emission_group == "window"


def test_placements_follow_groups_and_survive_loops(document):
    matrix, shown = document.placements["a"]
    assert matrix[0, 3] == 1
    assert shown
    hidden = edit.alter(document, "things", "group", visible=False)
    assert hidden.placements["a"][1] is False
    looped = Document(things=(Thing(id="p", parent="q"), Thing(id="q", parent="p")))
    assert set(looped.placements) == {"p", "q"}


def test_cues_store_and_recall_the_desk(document):
    dimmed = edit.set_strip(document, "key", stops=-3, tint=(1, 0.5, 0.2))
    kept, id = edit.keep_cue(dimmed)
    moved = edit.set_strip(kept, "key", stops=2)
    assert edit.recall_cue(moved, id).strip("key").stops == -3
    renamed = edit.rename_group(kept, "key", "main")
    assert renamed.light_groups == ("main",)
    assert renamed.find("cues", id).strips[0].group == "main"


def test_desk_gains():
    groups = ("a", "b", "c")
    assert gains(groups, (Strip(group="a", stops=1), Strip(group="b", on=False)))[:, 0].tolist() == [2, 0, 1]
    assert gains(groups, (Strip(group="b", solo=True, tint=(1, 0, 1)),)).tolist() == [[0, 0, 0], [1, 0, 1], [0, 0, 0]]


def test_exposure_follows_the_formula():
    assert ev100(4, 1 / 60, 100) == pytest.approx(9.9069, abs=1e-4)
    assert ev100(8, 1 / 60, 100) == pytest.approx(ev100(4, 1 / 60, 100) + 2)
    assert saturation_luminance(0) == pytest.approx(1.2)
    assert View(id="v", iso=400, shutter_s=1 / 15, f_number=4).white_luminance == pytest.approx(1.2 * 16 * 15 / 4)


def test_exposure_and_desk_do_not_change_the_film(document):
    key = render_key(document)
    view = document.view.id
    assert render_key(edit.alter(document, "views", view, iso=3200, white_k=4000)) == key
    assert render_key(edit.set_strip(document, "key", stops=2)) == key
    assert render_key(edit.alter(document, "views", view, f_number=2.0)) == key
    assert render_key(edit.alter(document, "views", view, f_number=2.0, depth_of_field=True)) != key
    assert render_key(edit.alter(document, "lights", "l", power=1.0)) != key


def test_history_merges_a_drag_and_knows_what_is_saved(document):
    history = History.of(document)
    states = [document]
    for k in range(1, 4):
        states.append(edit.alter(states[-1], "lights", "l", power=100.0 * k))
        history.push(states[-1], "Change power", merge="drag-1")
    assert len(history.steps) == 2
    assert history.is_dirty
    assert history.undo()
    assert history.document is document
    assert not history.is_dirty
    assert history.redo()
    assert history.document is states[-1]
    history.mark_saved(history.document)
    history.push(edit.alter(history.document, "lights", "l", power=7.0), "Change power", merge="drag-1")
    assert len(history.steps) == 3, "a saved state must not be merged away"
    history.undo()
    history.push(edit.alter(history.document, "lights", "l", power=8.0), "Other")
    assert not history.redo()


def test_a_document_survives_its_json(document):
    assert Document.model_validate_json(document.model_dump_json()) == document


def test_documents_are_compared_after_they_were_placed():
    things = tuple(Thing(id=f"t{i}", mesh="m", place=(i, 0, 0)) for i in range(3))
    one, other = Document(things=things), Document(things=tuple(t.model_copy() for t in things))
    for document in (one, other):
        assert len(document.placements) == 3
        assert document.light_groups
        assert document.find("things", "t1") is not None
    assert one == other
    assert render_key(one) == render_key(other)
    with pytest.raises(ValueError, match="read-only"):
        one.placements["t1"][0][0, 0] = 2


def test_what_decides_the_film_is_in_its_key_and_what_does_not_is_not():
    thing = Thing(id="t", name="T", form=FORMS["box"]())
    document = Document(things=(thing,), materials=())
    view = document.view.id
    near = edit.alter(document, "views", view, depth_of_field=True, focus_m=1.0)
    middle = edit.alter(document, "views", view, depth_of_field=True, focus_middle=True)
    assert render_key(near) != render_key(middle)
    assert render_key(edit.alter(document, "things", "t", locked=True)) == render_key(document)
    assert (
        RenderRequest.final(document, Assets()).key()
        != RenderRequest.final(edit.alter(document, "views", view, iso=800.0), Assets()).key()
    ), "the clamp is of the exposed white"


def test_a_pivot_alone_moves_what_hangs_on_it():
    document = Document(things=(Thing(id="t", size=(2, 2, 2)), Thing(id="u", parent="t")))
    document.placement("u")
    moved = edit.alter(document, "things", "t", pivot=(1.0, 0.0, 0.0))
    assert np.allclose(moved.placement("u"), Document(things=moved.things).placement("u"))
    assert moved.placement("t")[0, 3] == -2

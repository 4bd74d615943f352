"""Long random series of edits: the document stays whole, what was before stays as it was, files keep all of it."""

import random

import numpy as np
import pytest

from nocturne.errors import SceneError
from nocturne.scene import edit, grading
from nocturne.scene.document import PARTS, Document, free_id, render_key
from nocturne.scene.finish import STEPS
from nocturne.scene.history import History
from nocturne.scene.lights import KINDS, make_light
from nocturne.scene.materials import Material
from nocturne.scene.thing import Thing

GROUPS = ("light", "key", "window", "")


class Editor:
    """Makes one random edit after another."""

    def __init__(self, seed: int) -> None:
        self.dice = random.Random(seed)

    def id_of(self, document: Document, part: str) -> str:
        """Return any id of a part, now and then one that is not there."""
        ids = [item.id for item in getattr(document, part)]
        return self.dice.choice(ids) if ids and self.dice.random() < 0.95 else "nobody"

    def edit(self, document: Document) -> Document:
        """Return the document after any edit."""
        return self.dice.choice(
            [self.add, self.remove, self.copy, self.move, self.alter, self.desk, self.cue, self.rename, self.grade]
        )(document)

    def add(self, document: Document) -> Document:
        """Add a thing, a light or a material."""
        dice, part = self.dice, self.dice.choice(["things", "lights", "materials"])
        id = free_id(document, part, "new")
        if part == "things":
            parent, material = self.id_of(document, "things"), self.id_of(document, "materials")
            known = document.find("things", parent) is not None
            item = Thing(id=id, name="New", parent=parent if known else "", mesh=dice.choice(["", "a.glb"]))
            if document.find("materials", material) is not None:
                item = edit.changed(item, material=material)
        elif part == "lights":
            kind = dice.choice(list(KINDS))
            item = make_light(id=id, name="New", kind=kind, unit=KINDS[kind].units[0], group=dice.choice(GROUPS[:3]))
        else:
            glow = dice.choice([0.0, 0.0, 3.0])
            item = Material(id=id, name="New", emission_luminance=glow, emission_group=dice.choice(GROUPS))
        return edit.put(document, part, item)

    def remove(self, document: Document) -> Document:
        """Remove anything."""
        part = self.dice.choice(PARTS)
        return edit.remove(document, part, self.id_of(document, part))

    def copy(self, document: Document) -> Document:
        """Copy some items."""
        part = self.dice.choice(PARTS)
        if len(getattr(document, part)) > 12:
            return edit.remove(document, part, self.id_of(document, part))
        ids = tuple({self.id_of(document, part) for _ in range(self.dice.choice([1, 1, 3]))})
        return edit.copied(document, part, ids)[0]

    def move(self, document: Document) -> Document:
        """Put an item elsewhere in its list, or a thing into a group."""
        if self.dice.random() < 0.5:
            part = self.dice.choice(PARTS)
            return edit.move(document, part, self.id_of(document, part), self.dice.randint(-2, 9))
        return edit.alter(
            document, "things", self.id_of(document, "things"), parent=self.dice.choice(["", *self.ids(document)])
        )

    @staticmethod
    def ids(document: Document) -> list[str]:
        """Return the ids of all things."""
        return [thing.id for thing in document.things]

    def alter(self, document: Document) -> Document:
        """Change a value; some do not fit."""
        part, values = self.dice.choice(
            [
                ("things", {"place": (self.dice.uniform(-1, 1), 0.0, 2.0)}),
                ("things", {"visible": False}),
                ("materials", {"specular_roughness": self.dice.uniform(-0.5, 1.5)}),
                ("materials", {"emission_luminance": self.dice.choice([0.0, 4.0])}),
                ("lights", {"power": self.dice.uniform(0, 100)}),
                ("lights", {"group": self.dice.choice(GROUPS[:3])}),
                ("views", {"focal_mm": self.dice.uniform(10, 100)}),
                ("qualities", {"samples": self.dice.randint(1, 999)}),
            ]
        )
        return edit.alter(document, part, self.id_of(document, part), **values)

    def desk(self, document: Document) -> Document:
        """Move a fader, or write the desk to the lights."""
        if self.dice.random() < 0.1:
            return edit.desk_to_lights(document)
        group = self.dice.choice(document.light_groups)
        tint = tuple(self.dice.uniform(0.2, 1) for _ in range(3))
        values = self.dice.choice([{"stops": self.dice.uniform(-4, 4)}, {"on": False}, {"solo": True}, {"tint": tint}])
        return edit.set_strip(document, group, **values)

    def cue(self, document: Document) -> Document:
        """Keep, store or recall a cue."""
        if self.dice.random() < 0.4 and len(document.cues) < 8:
            return edit.keep_cue(document)[0]
        return self.dice.choice([edit.store_cue, edit.recall_cue])(document, self.id_of(document, "cues"))

    def rename(self, document: Document) -> Document:
        """Rename a light group, or try to take a name that is there."""
        return edit.rename_group(document, self.dice.choice(document.light_groups), self.dice.choice(GROUPS))

    def grade(self, document: Document) -> Document:
        """Add, move, copy or remove a finishing step."""
        steps = [step.id for step in document.finish.steps]
        if not steps or (len(steps) < 8 and self.dice.random() < 0.5):
            return grading.add_step(document, self.dice.choice(list(STEPS)))[0]
        id = self.dice.choice(steps)
        change = self.dice.choice(["move", "copy", "remove", "amount"])
        if change == "move":
            return grading.move_step(document, id, self.dice.randint(0, 9))
        if change == "copy" and len(steps) < 8:
            return grading.copy_step(document, id)[0]
        if change == "amount":
            return grading.alter_step(document, id, amount=self.dice.uniform(0, 1))
        return grading.remove_step(document, id)


def check(document: Document) -> None:
    """Assert that nothing refers to what is not there, and that all that is worked out can be worked out."""
    things, materials = {t.id for t in document.things}, {m.id for m in document.materials} | {""}
    for thing in document.things:
        assert thing.parent in things | {""}
        assert thing.material in materials
    assert document.view in document.views
    assert document.quality in document.qualities
    groups = document.light_groups
    assert groups
    assert len(set(groups)) == len(groups)
    assert {light.group for light in document.lights} <= set(groups)
    assert {m.emission_group or "light" for m in document.materials if m.is_emitter} <= set(groups)
    assert set(document.placements) == things
    assert all(np.isfinite(matrix).all() for matrix, _ in document.placements.values())
    assert len({step.id for step in document.finish.steps}) == len(document.finish.steps)


@pytest.mark.parametrize("seed", range(6))
def test_a_document_stays_whole(seed):
    editor, document = Editor(seed), Document()
    history = History.of(document)
    states, texts, refused = [document], [document.model_dump_json()], 0
    for i in range(400):
        try:
            after = editor.edit(document)
        except SceneError:
            refused += 1
            continue
        check(after)
        assert history.push(after, f"Step {i}") == (after is not document)
        if after is not document:
            states.append(after)
            texts.append(after.model_dump_json())
            assert Document.model_validate_json(texts[-1]) == after
            if (after.things, after.materials, after.lights) == (document.things, document.materials, document.lights):
                same_lens = after.view == document.view and after.quality == document.quality
                same = render_key(after) == render_key(document)
                assert same or not same_lens or after.light_groups != document.light_groups, "a desk renders nothing"
        document = after
    assert 0 < refused < 200
    assert len(states) > 150
    # Everything that was is still as it was, and undo goes through all of it.
    for state, text in zip(states, texts):
        assert state.model_dump_json() == text
    for state in reversed(states[:-1]):
        assert history.undo()
        assert history.document is state
    assert not history.undo()

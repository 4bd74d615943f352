"""What is kept of the set between edits is always what would be built anew."""

import random
from dataclasses import fields

import numpy as np
import pytest

from nocturne.engine import embree
from nocturne.engine.layout import instance as inst
from nocturne.engine.relief import Look, Reliefs
from nocturne.engine.things import drawn_things
from nocturne.scene import edit, placing, solids
from nocturne.scene.assets import Assets
from nocturne.scene.cutaway import Cutaway
from nocturne.scene.document import Document
from nocturne.scene.forms.box import Box
from nocturne.scene.forms.ground import Ground
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.scatter import Scatter, Source
from nocturne.scene.thing import FaceMaterial, Thing
from tests import sets

N = 60
LOOK = Look((0.0, 0.0, 0.0), 0.001, 0.0)
UP = np.array([0.0, 0.0, 1.0])
COARSE = solids.ball(1.0, segments=32)  # cut open many times


@pytest.fixture
def crowd() -> tuple[Document, Assets]:
    """Return groups of balls and boxes, of three materials, one of them a clear sheet."""
    groups = tuple(Thing(id=f"g{k}", name=f"G{k}", parent=f"g{k - 1}" if k % 3 else "") for k in range(6))
    things = tuple(
        Thing(
            id=f"t{k}",
            name=f"T{k}",
            mesh=("ball", "box")[k % 2],
            material=f"m{k % 3}",
            parent=f"g{k % 6}",
            place=(k % 8, k // 8, 0.0),
            size=(0.3, 0.3, 0.3),
        )
        for k in range(N)
    )
    clear = Material(id="m2", geometry_thin_walled=True, transmission_weight=1.0)
    document = Document(things=groups + things, materials=(Material(id="m0"), Material(id="m1"), clear))
    return document, Assets({"ball": COARSE, "box": sets.BOX})


def some_edit(document: Document, assets: Assets, dice: random.Random) -> tuple[Document, Assets]:
    """Move, hide, flatten, rename, regroup, remove or add something, or change a material or a mesh."""
    id = dice.choice(document.things).id
    kind = dice.choice(
        "move group hide flat name material mesh remove add clear files order faces spread cut pivot over".split()
    )
    if kind == "move":
        values = {"place": (dice.uniform(0, 8), dice.uniform(0, 8), 0.0), "turn_deg": (0.0, 0.0, dice.uniform(0, 90))}
        return edit.alter(document, "things", id, **values), assets
    if kind == "faces":
        first, n = dice.randrange(100), dice.choice((0, 50, 10_000_000))
        faces = (FaceMaterial(runs=(first, n), material=dice.choice(("m1", "m2"))),) if n else ()
        return edit.alter(document, "things", id, faces=faces), assets
    if kind == "spread":
        spread = Scatter(sources=(Source(thing=id),), counts=(3, 2, 1), seed=dice.randrange(9), jitter=0.5)
        return edit.put(document, "things", Thing(id="spread", name="Spread", scatter=spread)), assets
    if kind == "cut":
        how = Cutaway(
            of=(id, f"g{dice.randrange(6)}"), kind=dice.choice(("box", "ball", "plane")), closed=dice.random() < 0.5
        )
        place = (dice.uniform(0, 8), dice.uniform(0, 5), dice.choice((0.0, 9.0)))
        return edit.put(document, "things", Thing(id="cut", name="Cut", cutaway=how, place=place)), assets
    if kind == "pivot":
        return placing.with_pivot(document, id, (dice.random(), dice.random(), 0.0)), assets
    if kind == "over":
        return edit.alter(document, "things", id, turned_over=dice.random() < 0.5), assets
    if kind == "group":
        member = dice.choice([thing for thing in document.things if thing.mesh])
        return edit.alter(document, "things", member.id, parent=f"g{dice.randrange(6)}"), assets
    if kind == "clear":
        return edit.alter(document, "materials", "m1", geometry_thin_walled=dice.random() < 0.5), assets
    if kind == "files":
        return document, Assets({"ball": COARSE, "box": dice.choice((sets.BOX, COARSE))})
    if kind == "remove" and len(document.things) > 40:
        return edit.remove(document, "things", id), assets
    if kind == "add":
        free = next(f"t{i}" for i in range(1000) if document.find("things", f"t{i}") is None)
        return edit.put(document, "things", Thing(id=free, name=free, mesh="ball", place=(1, dice.random(), 1))), assets
    if kind == "order":
        things = list(document.things)
        dice.shuffle(things)
        return edit.changed(document, things=tuple(things)), assets
    values = {
        "hide": {"visible": dice.random() < 0.7},
        "flat": {"size": (0.3, 0.3, dice.choice((0.0, 0.3, 0.5)))},
        "name": {"name": f"N{dice.random()}"},
        "material": {"material": dice.choice(("m0", "m1", "m2", "nothing"))},
    }.get(kind, {"mesh": dice.choice(("ball", "box", "missing"))})
    return edit.alter(document, "things", id, **values), assets


@pytest.mark.parametrize("seed", range(4))
def test_what_is_kept_through_edits_is_what_would_be_drawn_anew(crowd, seed):
    dice = random.Random(seed)
    document, assets = crowd
    shapes: dict[int, tuple] = {}

    def shape_of(mesh):
        if id(mesh) not in shapes:
            shapes[id(mesh)] = (embree.Shape.mesh(mesh.vertices, mesh.triangles), mesh)
        return shapes[id(mesh)][0]

    def staged(drawn, before=None):
        of = [shape_of(drawn.meshes[k]) for k in drawn.inst_i[:, inst.MESH]]
        return embree.Stage(of, drawn.inst_xf, drawn.masks, before)

    drawn = drawn_things(document, assets, LOOK, Reliefs())
    stage, patched = staged(drawn), 0
    rng = np.random.default_rng(seed)
    for _ in range(80):
        before = drawn
        document, assets = some_edit(document, assets, dice)
        drawn, anew = (
            drawn_things(document, assets, LOOK, Reliefs(), before),
            drawn_things(document, assets, LOOK, Reliefs()),
        )
        patched += drawn.meshes is before.meshes
        for field in fields(drawn):
            mine, right = getattr(drawn, field.name), getattr(anew, field.name)
            if field.name in ("pieces", "scattered"):
                assert mine.keys() == right.keys()
                assert all(np.array_equal(mine[k], right[k]) for k in mine if field.name == "pieces")
            elif isinstance(mine, np.ndarray):
                assert mine.dtype == right.dtype
                assert np.array_equal(mine, right), field.name
            else:
                assert mine == right, field.name
        assert drawn.has_clear == anew.has_clear
        old, stage = stage, staged(drawn, stage)
        fresh = staged(drawn)
        for origin in rng.uniform((0, 0, -3), (8, 8, -2), (12, 3)):
            assert stage.first_hit(origin, UP) == fresh.first_hit(origin, UP)
        del old
    assert patched > 10, "most edits are small"


def test_a_ground_of_thirty_kilometres_and_a_block_of_a_millimetre_are_drawn_as_any():
    grey = Material(id="m", name="Grey", base_color=(0.5, 0.5, 0.5), specular_weight=0)
    sun = make_light(id="s", kind="distant", unit="lx", power=1000.0, turn_deg=(40, 20, 0))

    def picture(size: float, at: tuple, ground: float) -> np.ndarray:
        eye, target = (np.array(at) + np.array(v) * size for v in ((0, -6, 3), (0, 0, 0.4)))
        camera = sets.view(eye=tuple(eye), target=tuple(target), size=(48, 36), focal_mm=50)
        document, assets = sets.many([], sets.white_dome(100.0), sun, camera=camera, quality=sets.deep(8))
        block = Thing(id="b", form=Box(edge=0.05), size=(size,) * 3, place=at, material="m")
        wide = Thing(id="g", form=Ground(width=ground, depth=ground), material="m")
        return sets.picture(edit.changed(document, things=(wide, block), materials=(grey,)), assets).beauty()

    usual = picture(1.0, (0.0, 0.0, 0.0), 3000.0)
    for size, at in ((0.001, (0.0, 0.0, 0.0)), (1.0, (14000.0, 14000.0, 0.0))):
        other = picture(size, at, 30_000.0)
        assert other.mean() == pytest.approx(usual.mean(), rel=1e-3)
        assert np.percentile(np.abs(other - usual), 98) < 0.05 * usual.mean(), "no artefact at either end"

"""Scatters: the same numbers give the same copies; spread, slopes, clear areas and sizes are as they say."""

import tracemalloc

import numpy as np
import pytest

from nocturne.errors import BadFile, SceneError
from nocturne.io import points
from nocturne.io.models.glb import write_glb
from nocturne.scene import arrange, edit, navigate, scattering
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.files import references, renamed
from nocturne.scene.forms.ball import Ball
from nocturne.scene.forms.box import Box
from nocturne.scene.forms.ground import Ground
from nocturne.scene.materials import Material
from nocturne.scene.scatter import Scatter, Source
from nocturne.scene.scattering import copies_of, placed
from nocturne.scene.thing import FaceMaterial, Thing
from tests import sets

SOURCE = Thing(id="s", form=Box(width=0.2, depth=0.2, height=0.2, edge=0), material="m")


def scattered(scatter: Scatter, *others: Thing, source: Thing = SOURCE, **place) -> Document:
    """Return a document of a source, a scatter of it and other things."""
    if not scatter.sources:
        scatter = edit.changed(scatter, sources=(Source(thing="s"),))
    return Document(things=(source, Thing(id="c", scatter=scatter, **place), *others), materials=(Material(id="m"),))


def with_numbers(document: Document, **values) -> Document:
    """Return the document with numbers of its scatter changed."""
    return edit.alter(document, "things", "c", scatter=edit.changed(document.find("things", "c").scatter, **values))


def stands(document: Document, assets: Assets | None = None) -> np.ndarray:
    """Return the copies' matrices."""
    return placed(document, assets or Assets(), document.find("things", "c"))[0]


def test_a_grid_is_where_it_says():
    at = stands(scattered(Scatter(counts=(3, 2, 2), spacing=(2, 3, 4))))[:, :3, 3]
    want = {(x, y, z) for x in (-2, 0, 2) for y in (-1.5, 1.5) for z in (0, 4)}
    assert {tuple(p) for p in at} == want
    small = edit.changed(Scatter(), counts=(40, 40, 1), jitter=0.1, smallest=0.5, largest=2.0, turn_deg=(0, 0, 90))
    matrices = stands(scattered(edit.changed(small, step_deg=45.0)))
    assert np.array_equal(matrices, stands(scattered(edit.changed(small, step_deg=45.0)))), "the same each time"
    assert not np.array_equal(matrices, stands(scattered(edit.changed(small, step_deg=45.0, seed=2))))
    size = np.linalg.norm(matrices[:, :3, 0], axis=1)
    assert (size.min(), size.max()) == (pytest.approx(0.5, rel=0.02), pytest.approx(2.0, rel=0.02))
    assert np.median(size) == pytest.approx(1.0, rel=0.1)
    turn = np.degrees(np.arctan2(matrices[:, 1, 0], matrices[:, 0, 0]))
    assert set(np.round(turn).astype(int)) == {-90, -45, 0, 45, 90}
    away = matrices[:, :3, 3] - stands(scattered(Scatter(counts=(40, 40, 1))))[:, :3, 3]
    assert np.abs(away).max() <= 0.1 + 1e-9
    assert away.std(0) == pytest.approx(0.1 / np.sqrt(3), rel=0.1)


def test_a_surface_is_covered_evenly_by_area_and_weight():
    big, small = Thing(id="b", form=Ground(width=8, depth=2), turn_deg=(0, 30, 0), place=(1, 2, 3)), SOURCE
    other = small.model_copy(update={"id": "o"})
    sources = (Source(thing="s", weight=3), Source(thing="o", weight=1))
    document = scattered(Scatter(sources=sources, over="surface", on="b", number=8000), big, other, place=(5, 5, 5))
    matrices, which = placed(document, Assets(), document.find("things", "c"))
    world = document.placement("c") @ matrices
    own = (np.linalg.inv(document.placement("b")) @ world)[:, :3, 3]
    assert np.abs(own[:, 2]).max() < 1e-9, "on the surface, wherever the scatter itself stands"
    counts, *_ = np.histogram2d(own[:, 0], own[:, 1], bins=(8, 2), range=((-4, 4), (-1, 1)))
    chi = ((counts - 500) ** 2 / 500).sum()
    assert chi < 37.7, "even: 15 degrees of freedom, one in a thousand"
    assert np.bincount(which) / len(which) == pytest.approx([0.75, 0.25], abs=0.02)
    assert matrices[:, :3, 2] == pytest.approx(np.tile((0, 0, 1.0), (len(matrices), 1))), "upright"
    leaning = with_numbers(document, upright=False)
    normal = document.placement("b")[:3, 2]
    assert stands(leaning)[:, :3, 2] == pytest.approx(np.tile(normal, (8000, 1)), abs=1e-9)


def test_limits_leave_out_what_they_should_and_nothing_else():
    ball, block = (
        Thing(id="b", form=Ball(diameter=4)),
        Thing(id="k", form=Box(width=1, depth=1, height=9), turn_deg=(0, 0, 45)),
    )
    base = Scatter(over="surface", on="b", number=4000, upright=False)
    every = stands(scattered(base, ball, block))

    def left(**values) -> np.ndarray:
        return stands(scattered(edit.changed(base, **values), ball, block))

    slope = np.degrees(np.arccos(np.clip(every[:, 2, 2], -1, 1)))
    assert np.array_equal(left(steepest_deg=40), every[slope <= 40])
    high = every[:, 2, 3]
    assert np.array_equal(left(lowest=1.0, highest=2.5), every[(high >= 1.0) & (high <= 2.5)])
    turned = np.abs(every[:, :2, 3] @ np.array([[1, 1], [1, -1]]).T / np.sqrt(2))
    assert np.array_equal(left(keep_out=("k",), margin=0.2), every[(turned > 0.7).any(1)])
    apart = left(apart=0.3)[:, :3, 3]
    gaps = np.linalg.norm(apart[:, None] - apart[None], axis=2) + 9 * np.eye(len(apart))
    assert gaps.min() > 0.3
    nearest = np.linalg.norm(every[:, None, :3, 3] - apart[None], axis=2).min(1)
    assert nearest.max() <= 0.3, "as many as fit"


def test_a_picture_thins_out_and_copies_look_where_they_are_told():
    ground = Thing(id="b", form=Ground(width=1, depth=1))
    image = np.zeros((4, 4, 3), np.float32)
    image[:2, :2] = 1.0  # the upper left quarter of the picture is where u < 1/2 and v > 1/2
    base = Scatter(over="surface", on="b", number=2000, density="d.png", look_at="t")
    document = scattered(base, ground, Thing(id="t", place=(0, 0, 0)))
    found = stands(document, Assets(images={("d.png", "colour"): image}))
    assert len(found) == pytest.approx(500, rel=0.15)
    assert (found[:, 0, 3] <= 0).all()
    assert (found[:, 1, 3] >= 0).all()
    front = -found[:, :3, 1]
    way = -found[:, :3, 3] / np.linalg.norm(found[:, :3, 3], axis=1, keepdims=True)
    assert (front * way).sum(1) == pytest.approx(1, abs=1e-6)
    assert [r.path for r in references(document)] == ["d.png"]
    thing = renamed(document.find("things", "c"), lambda path: f"x/{path}")
    assert thing.scatter.density == "x/d.png"


def test_groups_faces_and_scatters_are_scattered_too():
    faces = (FaceMaterial(runs=(0, 4), material="n"),)
    group = Thing(id="s", name="Group", turn_deg=(0, 0, 90), size=(2, 2, 2), place=(9, 9, 9), visible=False)
    inner = Thing(id="i", parent="s", form=Box(), material="m", faces=faces, place=(1, 0, 0))
    hidden = Thing(id="h", parent="s", form=Box(), visible=False)
    document = scattered(Scatter(counts=(2, 1, 1), spacing=(10, 1, 1)), inner, hidden, source=group)
    parts = copies_of(document, Assets(), document.find("things", "c"))
    assert sorted(p.material for p in parts) == ["m", "n"]
    for part in parts:
        assert part.matrices[:, :3, 3] == pytest.approx(np.array([[-5, 2, 0], [5, 2, 0]])), (
            "turned and sized, not moved"
        )
    twice = Thing(id="d", scatter=Scatter(sources=(Source(thing="c"),), counts=(1, 3, 1), spacing=(1, 50, 1)))
    document = edit.put(document, "things", twice)
    assert sum(len(p.matrices) for p in copies_of(document, Assets(), twice)) == 2 * 2 * 3
    low, high = navigate.bounds_of(document, Assets(), "d")
    assert high[1] - low[1] > 100
    loop = edit.alter(document, "things", "c", scatter=Scatter(sources=(Source(thing="d"), Source(thing="c"))))
    assert copies_of(loop, Assets(), loop.find("things", "c")) is not None, "what goes round in circles ends"
    gone = edit.remove(document, "things", "s")
    assert gone.find("things", "c").scatter.sources == ()


def test_copies_made_real_stand_where_they_stood():
    group = Thing(id="s", name="Tree", turn_deg=(0, 0, 30), size=(1, 2, 1))
    inner = Thing(id="i", name="Leaf", parent="s", form=Box(), place=(1, 0, 0))
    document = scattered(
        Scatter(counts=(3, 3, 1), spacing=(4, 4, 1), turn_deg=(0, 0, 180)), inner, source=group, place=(0, 0, 2)
    )
    (part,) = copies_of(document, Assets(), document.find("things", "c"))
    want = document.placement("c") @ part.matrices
    real, n = arrange.scatter_made_real(document, Assets(), "c")
    assert n == 18
    assert real.find("things", "c").is_group
    new = [t for t in real.things if t.name == "Leaf" and t.id != "i"]
    assert len(new) == 9
    for thing in new:
        matrix = real.placement(thing.id)
        assert np.abs(want - matrix).max((1, 2)).min() < 1e-4
    many = with_numbers(document, counts=(200, 200, 1))
    with pytest.raises(SceneError, match="20,000"):
        arrange.scatter_made_real(many, Assets(), "c")


def test_a_scatter_is_drawn_as_its_copies_are():
    camera = sets.view(eye=(6, -9, 5), target=(0, 0, 0.5), size=(48, 32))
    ball = Thing(id="s", form=Ball(diameter=0.8), material="m", visible=False)
    ground = Thing(id="g", form=Ground(width=8, depth=8), material="m")
    scatter = Thing(id="c", scatter=Scatter(sources=(Source(thing="s"),), counts=(4, 4, 1), spacing=(1.5, 1.5, 1)))
    document, _ = sets.many([], sets.white_dome(), camera=camera, quality=sets.deep(4))
    document = edit.changed(document, things=(ball, ground, scatter), materials=(Material(id="m"),))
    real, _ = arrange.scatter_made_real(document, Assets(), "c")
    one, other = (sets.picture(d, Assets()).beauty() for d in (document, real))
    assert one == pytest.approx(other, rel=1e-5)
    assert one.std() > 0.01


def test_points_are_read_from_text_and_models(tmp_path):
    (tmp_path / "a.csv").write_text("x,y,z\n1,2,3\n4;5;6\n# a remark\n7 8 nan\n9 10 11 12\n")
    assert points.read(tmp_path / "a.csv") == ((1, 2, 3), (4, 5, 6), (9, 10, 11))
    write_glb(tmp_path / "box.glb", {"box": sets.BOX})
    found = np.array(points.read(tmp_path / "box.glb"))
    assert np.ptp(found, axis=0) == pytest.approx((2, 2, 2), abs=1e-4)
    (tmp_path / "b.csv").write_text("nothing\n")
    with pytest.raises(BadFile, match="no points"):
        points.read(tmp_path / "b.csv")
    document = scattered(Scatter(over="points", points=points.read(tmp_path / "a.csv")))
    assert stands(document)[:, :3, 3] == pytest.approx(np.array([[1, 2, 3], [4, 5, 6], [9, 10, 11]]))


def test_points_denser_than_they_may_be_are_thinned_without_a_list_of_all_pairs():
    rng = np.random.default_rng(2)
    dense = rng.uniform(-1e-4, 1e-4, (200_000, 3))
    tracemalloc.start()
    kept = scattering._apart(dense, 1.0)
    most = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert kept.tolist() == [0]
    assert most < 60e6
    some = rng.uniform(0, 1, (1500, 3))
    right: list[int] = []
    for i, point in enumerate(some):
        if not right or np.linalg.norm(some[right] - point, axis=1).min() > 0.08:
            right.append(i)
    assert scattering._apart(some, 0.08).tolist() == right, "one after the other"

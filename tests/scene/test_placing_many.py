"""Things lined up, spread, mirrored, arrayed and stood on surfaces; what they measure."""

import numpy as np
import pytest

from nocturne.scene import edit, measuring, navigate, placing
from nocturne.scene.assets import Assets
from nocturne.scene.camera import View
from nocturne.scene.document import Document
from nocturne.scene.forms.ball import Ball
from nocturne.scene.forms.box import Box
from nocturne.scene.scatter import Scatter, Source
from nocturne.scene.thing import Thing

NONE = Assets()


def boxes(seed: int = 1) -> tuple[Document, tuple[str, ...]]:
    """Return five boxes of different sizes in turned groups."""
    rng = np.random.default_rng(seed)
    things = [Thing(id="g", turn_deg=(0, 0, 90), place=(1, 1, 0))]
    for i in range(5):
        form = Box(width=float(rng.uniform(0.2, 1)), depth=float(rng.uniform(0.2, 1)), height=0.5, edge=0)
        at = tuple(float(v) for v in rng.uniform(-5, 5, 3))
        things.append(Thing(id=f"b{i}", form=form, place=at, parent="g" if i % 2 else ""))
    return Document(things=tuple(things)), tuple(f"b{i}" for i in range(5))


def spans(document: Document, ids: tuple[str, ...], axis: int) -> np.ndarray:
    """Return (n, 2) lowest and highest of each thing along an axis."""
    return np.array([np.stack(navigate.bounds_of(document, NONE, id))[:, axis] for id in ids])


@pytest.mark.parametrize("axis", range(3))
def test_things_line_up_with_the_last_and_spread_evenly(axis):
    document, ids = boxes()
    for side, of in ((-1, lambda s: s[:, 0]), (0, lambda s: s.mean(1)), (1, lambda s: s[:, 1])):
        found = spans(placing.aligned(document, NONE, ids, axis=axis, side=side), ids, axis)
        assert of(found) == pytest.approx(of(spans(document, ids, axis))[-1], abs=1e-5)
    spread = placing.distributed(document, NONE, ids, axis=axis)
    before, after = spans(document, ids, axis), spans(spread, ids, axis)
    order = np.argsort(after.mean(1))
    gaps = after[order][1:, 0] - after[order][:-1, 1]
    assert np.ptp(gaps) < 1e-4
    ends = np.argsort(before.mean(1))[[0, -1]]
    assert after[ends] == pytest.approx(before[ends], abs=1e-5), "the outermost stay"
    for other in {0, 1, 2} - {axis}:
        assert spans(spread, ids, other) == pytest.approx(spans(document, ids, other), abs=1e-5)


def test_mirrored_twice_is_as_before_and_once_is_turned_over():
    document, ids = boxes(3)
    document = placing.turned(document, "things", ("b0",), axis=(1, 2, 3), angle=0.7, pivot=(0, 0, 0))
    once = placing.mirrored(document, NONE, ids, axis=0)
    flip = np.diag((-1.0, 1, 1, 1))
    middle = np.stack([np.stack(navigate.bounds_of(document, NONE, id)) for id in ids])
    flip[0, 3] = middle[:, 0, 0].min() + middle[:, 1, 0].max()
    for id in ids:
        assert once.placement(id) == pytest.approx(flip @ document.placement(id), abs=1e-4)
    twice = placing.mirrored(once, NONE, ids, axis=0)
    for id in ids:
        assert twice.placement(id) == pytest.approx(document.placement(id), abs=1e-4)


def test_arrays_share_their_shapes():
    document, _ = boxes()
    line, new = placing.in_array(document, ("b0",), n=4, step=np.array([0.5, 0, 0.25]))
    at = np.array([line.placement(id)[:3, 3] - line.placement("b0")[:3, 3] for id in new])
    assert at == pytest.approx(np.outer((1, 2, 3), (0.5, 0, 0.25)), abs=1e-5)
    assert {id(line.find("things", i).form) for i in new} == {id(line.find("things", "b0").form)}
    ring, new = placing.in_array(document, ("b1",), n=6, step=np.array([0, 0, 60.0]), about=np.zeros(3))
    start = ring.placement("b1")
    for k, other in enumerate(new, 1):
        c, s = np.cos(np.pi / 3 * k), np.sin(np.pi / 3 * k)
        spin = np.array([[c, -s, 0, 0], [s, c, 0, 0], [0, 0, 1, 0], [0, 0, 0, 1]])
        assert ring.placement(other) == pytest.approx(spin @ start, abs=1e-4)


def test_a_thing_stands_on_a_slope_with_it_or_upright():
    document, _ = boxes()
    normal, point = np.array([0, 0.6, 0.8]), np.array([1.0, 2, 3])
    for id in ("b0", "b1"):
        leaning = placing.on_surface(document, id, point, normal, turns=True).placement(id)
        assert leaning[:3, 3] == pytest.approx(point, abs=1e-5)
        assert leaning[:3, 2] == pytest.approx(normal, abs=1e-5)
        upright = placing.on_surface(document, id, point, normal, turns=False).placement(id)
        assert upright[:3, :3] == pytest.approx(document.placement(id)[:3, :3])
    below = placing.on_surface(document, "b0", point, np.array([0.0, 0, -1]), turns=True).placement("b0")
    assert below[:3, 2] == pytest.approx((0, 0, -1), abs=1e-5)


def test_measures_are_those_of_the_set():
    ball = Thing(id="s", form=Ball(diameter=2, sides=64), visible=False)
    scatter = Thing(id="c", scatter=Scatter(sources=(Source(thing="s"),), counts=(10, 10, 1), spacing=(4, 4, 1)))
    view = View(id="v", eye=(0, -10, 1), target=(0, 0, 1), focal_mm=36, sensor_mm=36, width=1600, height=800)
    document = Document(things=(ball, scatter), views=(view,))
    whole = measuring.totals(document, NONE)
    n = len(NONE.shape(ball).triangles)
    assert (whole.things, whole.triangles, whole.drawn) == (1, n, 100 * n)
    assert measuring.frame_at(view, 10) == pytest.approx((10, 5))
    assert np.ptp(measuring.box_of(document, NONE, ("c",)), axis=0) == pytest.approx((38, 38, 2), abs=0.01)
    told = dict(measuring.told(edit.alter(document, "things", "s", place=(0, 0, 0)), NONE, ("s",)))
    assert told["The choice"] == "2 m × 2 m × 2 m"
    assert told["The frame at its aim"] == "10 m × 5 m, 10 m away"
    assert [measuring.length(v) for v in (0.00045, 0.0123, 2.5, 1234.5)] == ["0.45 mm", "1.23 cm", "2.5 m", "1.2345 km"]

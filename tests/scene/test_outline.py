"""The outline of steps: paths, and what is done along them, on random outlines."""

import numpy as np
import pytest

from nocturne.scene import alone
from nocturne.scene.document import Document
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Checker, Constant, Fractal, Levels, Mix, Noise, every, outline
from nocturne.scene.patterns.step import MOST_DEEP, depth_of


def some(rng, depth: int = 0, owner: str = "base_color"):
    kind = (Checker, Mix, Constant, Noise)[rng.integers(4)]
    names = list(kind.drivable())
    inner = (
        ()
        if depth > 3
        else tuple(some(rng, depth + 1, names[rng.integers(len(names))]) for _ in range(rng.integers(3)))
    )
    return kind(parameter=owner, amount=float(rng.uniform(0.1, 1)), steps=inner)


@pytest.mark.parametrize("seed", range(20))
def test_every_step_is_found_by_its_path_and_can_be_exchanged(seed):
    rng = np.random.default_rng(seed)
    steps = tuple(some(rng) for _ in range(3))
    found = list(outline.places(steps))
    assert len(found) == len(list(every(steps)))
    for place in found:
        assert outline.at(steps, place.path) is place.step
        assert outline.exchanged(steps, place.path, place.step) == steps
        gone = outline.exchanged(steps, place.path)
        assert len(list(every(gone))) == len(found) - len(list(every((place.step,))))
        up = outline.shifted(steps, place.path, 1)
        if up != steps:
            siblings = [
                p.path for p in found if p.path[:-1] == place.path[:-1] and p.step.parameter == place.step.parameter
            ]
            k = siblings.index(place.path) - 1  # the outline has the topmost first
            assert outline.shifted(up, siblings[k], -1) == steps
        wrapped = outline.mixed(steps, place.path)
        if wrapped != steps:
            assert outline.unmixed(wrapped, place.path) == steps
        else:
            assert len(place.path) + depth_of(place.step) > MOST_DEEP


def test_the_top_of_a_stack_comes_first_and_what_drives_it_below_it():
    mask = Noise(parameter="amount")
    under, over = Checker(), Fractal(parameter="base_color", steps=(mask,))
    rough = Noise(parameter="specular_roughness")
    told = [(p.depth, p.step) for p in outline.places((under, rough, over))]
    assert told == [(0, over), (1, mask), (0, under), (0, rough)]


def test_a_step_alone_glows_by_what_it_puts_out_with_what_it_works_on():
    steps = (Noise(), Levels(), Checker(parameter="coat_color"))
    document = Document(materials=(Material(id="m", name="M", steps=steps),))
    shown = alone.step_alone(document, "m", (1,)).find("materials", "m")
    assert [type(s) for s in shown.steps] == [Noise, Levels]
    assert {s.parameter for s in shown.steps} == {"emission_color"}
    assert shown.emission_luminance == pytest.approx(document.view.white_luminance)
    assert [type(s) for s in alone.step_alone(document, "m", (2,)).find("materials", "m").steps] == [Checker]
    assert alone.step_alone(document, "m", (7,)) is document
    assert alone.without_steps(document, "m").find("materials", "m").steps == ()


def test_what_would_go_too_deep_is_left_as_it_is():
    step = Constant(parameter="value")
    for _ in range(MOST_DEEP - 2):
        step = Constant(parameter="value", steps=(step,))
    steps = (Constant(steps=(step,)),)
    path = max((place.path for place in outline.places(steps)), key=len)
    assert len(path) == MOST_DEEP
    assert outline.added(steps, path, Noise(parameter="amount")) is steps
    assert outline.mixed(steps, (0,)) is steps

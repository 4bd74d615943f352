"""What differs between two documents, and taking parts over."""

import pytest

from nocturne.scene import edit, grading
from nocturne.scene.compare import differences, taken_over
from nocturne.scene.document import Document
from nocturne.scene.fields import Description, descriptions
from nocturne.scene.lights import KINDS, make_light
from nocturne.scene.materials import Material
from nocturne.scene.thing import Thing

START = Document(
    things=(Thing(id="t", name="Ball", mesh="b"),),
    materials=(Material(id="m", name="Brass"),),
    lights=(make_light(id="k", name="Key", group="key", kelvin=3000),),
    groups=("key",),
)


def test_each_change_is_one_line_with_both_values():
    after = edit.alter(START, "lights", "k", kelvin=4500.0, power=1200.0)
    after = edit.alter(after, "things", "t", place=(1.0, 0, 0))
    after = edit.set_strip(after, "key", stops=-1.5)
    after = edit.alter(after, "views", "view-1", f_number=2.8)
    after, _ = grading.add_step(after, "tone")
    found = {(d.part, d.owner, d.label): (d.before, d.after) for d in differences(START, after)}
    assert found[("lights", "Key", "Temperature")] == ("3000 K", "4500 K")
    assert found[("things", "Ball", "Place")] == ("0 0 0 m", "1 0 0 m")
    assert found[("view", "", "f-number")] == ("f/4", "f/2.8")
    assert found[("desk", "key", "Fader")][1].startswith("-1.5")
    assert found[("finish", "Tone curve", "")] == ("–", "there")
    assert len(found) == 6
    assert not differences(after, after)
    assert not differences(START, Document.model_validate_json(START.model_dump_json()))


def test_added_and_removed_things_are_named():
    after = edit.remove(edit.put(START, "lights", make_light(id="f", name="Fill", group="key")), "materials", "m")
    found = {(d.owner, d.before, d.after) for d in differences(START, after)}
    assert found == {("Fill", "–", "there"), ("Brass", "there", "–")}


def test_order_of_steps_is_a_difference():
    one, tone = grading.add_step(START, "tone")
    one, _ = grading.add_step(one, "grain")
    two = grading.move_step(one, tone, 1)
    assert [d.label for d in differences(one, two)] == ["Order"]


def test_parts_are_taken_over_and_the_rest_stays():
    old = edit.alter(START, "lights", "k", kelvin=1900.0)
    old = edit.alter(old, "views", "view-1", focal_mm=85.0)
    now = edit.alter(START, "materials", "m", specular_roughness=0.9)
    now, _ = edit.duplicate(now, "views", "view-1")
    back = taken_over(now, old, ("lights", "view"))
    assert back.lights == old.lights
    assert back.view.focal_mm == 85
    assert back.materials == now.materials
    assert len(back.views) == 2
    whole = taken_over(now, old, ("things", "materials", "lights", "view", "quality", "desk", "finish"))
    assert not differences(whole, old)


def test_a_light_of_another_kind_is_told_as_that():
    before = edit.put(Document(), "lights", make_light(id="l", name="Key", kind="rect", power=5.0))
    after = edit.put(Document(), "lights", make_light(id="l", name="Key", kind="sphere", power=7.0))
    for a, b in ((before, after), (after, before)):
        found = {d.label: (d.before, d.after) for d in differences(a, b)}
        assert found["Kind"] == (a.lights[0].kind, b.lights[0].kind)
        assert "Power" in found
        assert "Width" not in found


def another(about: Description, value):
    """Return another value of a field than the one it has, None if its kind has no such simple ones."""
    if about.kind == "switch":
        return not value
    if about.kind == "choice":
        return next(key for key, _ in about.choices if key != value)
    if about.kind == "colour":
        return (0.123, 0.234, 0.345)
    if isinstance(value, float) and about.low is not None and about.high is not None:
        return about.low if value != about.low else min(about.low + 0.5, about.high)
    return None


@pytest.mark.parametrize("unit", ["nit", "lm", "W"])
def test_whatever_number_of_an_item_is_changed_is_told_in_words(unit):
    lights = tuple(make_light(id=kind, name=kind, kind=kind) for kind in KINDS)
    start = edit.changed(START, lights=lights, materials=(Material(id="m", name="Brass", emission_unit=unit),))
    n = 0
    for part in ("lights", "materials", "things", "views", "qualities"):
        for item in getattr(start, part):
            for name, about in descriptions(type(item)).items():
                value = another(about, getattr(item, name))
                if value is None:
                    continue
                after = edit.changed(
                    start,
                    **{part: tuple(edit.changed(i, **{name: value}) if i is item else i for i in getattr(start, part))},
                )
                found = differences(start, after)
                assert part in ("views", "qualities") or [d.label for d in found] == [about.label], (part, name)
                n += len(found)
    assert n > 150

"""The order of glass and liquid: what wins, what is suggested, what happens at a wall."""

import math

import pytest

from nocturne.colour.clears import clears
from nocturne.scene import edit, mediaorder
from nocturne.scene.document import Document
from nocturne.scene.materials import Material
from nocturne.scene.mediaorder import Meeting


def medium(id: str, ior: float, precedence: int = 0) -> Material:
    return Material(id=id, name=id.title(), specular_ior=ior, transmission_weight=1.0, precedence=precedence)


DOCUMENT = Document(
    materials=(medium("water", 1.333, 1), Material(id="wood"), medium("glass", 1.52, 5), medium("air", 1.0, 1))
)


def test_media_stand_in_the_order_of_who_wins():
    assert [m.id for m in mediaorder.media(DOCUMENT)] == ["glass", "water", "air"]
    assert mediaorder.place_of(DOCUMENT, "water") == (2, 3)
    assert mediaorder.place_of(DOCUMENT, "wood") == (0, 3)


def test_a_new_order_is_kept_whatever_is_left_out():
    document = mediaorder.ordered(DOCUMENT, ["air", "glass"])
    assert [m.id for m in mediaorder.media(document)] == ["air", "glass", "water"]
    assert document.find("materials", "wood") is DOCUMENT.find("materials", "wood")


def test_what_wins_comes_first_and_the_rest_stays():
    meetings = [Meeting("air", "water", ("", "")), Meeting("glass", "water", ("", ""))]
    found = mediaorder.suggested(["water", "oil", "glass", "air"], meetings)
    assert found.index("air") < found.index("water")
    assert found.index("glass") < found.index("water")
    assert sorted(found) == sorted(["water", "oil", "glass", "air"])
    assert mediaorder.suggested(["air", "glass", "water"], meetings) == ["air", "glass", "water"]


def test_shapes_that_contradict_each_other_end_somewhere():
    meetings = [Meeting("a", "b", ("", "")), Meeting("b", "a", ("", ""))]
    assert sorted(mediaorder.suggested(["b", "a", "c"], meetings)) == ["a", "b", "c"]


def test_light_bends_by_snell():
    ratio = mediaorder.ratio(DOCUMENT, mediaorder.AIR, "glass")
    assert ratio == pytest.approx(1.52)
    assert math.sin(mediaorder.bent(0.7, ratio)) * 1.52 == pytest.approx(math.sin(0.7))
    assert mediaorder.bent(0.8, 1 / 1.52) is None, "beyond the critical angle"
    assert mediaorder.ratio(DOCUMENT, "water", "air") == pytest.approx(1 / 1.333)


@pytest.mark.parametrize(
    ("key", "index", "abbe"),
    # Handbook values: water at 20 degrees, borosilicate crown, dense flint, fluorite, diamond.
    [
        ("water", 1.3334, 55.8),
        ("crown", 1.5168, 64.2),
        ("very-dense-flint", 1.7847, 25.8),
        ("fluorite", 1.4338, 94.9),
        ("diamond", 2.4175, 55.3),
    ],
)
def test_measured_substances_are_as_published(key, index, abbe):
    clear = clears()[key]
    assert clear.index == pytest.approx(index, abs=3e-4)
    assert clear.abbe == pytest.approx(abbe, abs=0.6)
    assert clear.source


def test_every_substance_is_known_again_from_its_numbers():
    for clear in clears().values():
        document = mediaorder.as_substance(Document(materials=(medium("m", 1.5),)), "m", clear)
        assert mediaorder.substance(document.find("materials", "m")) is clear, clear.name
        still = edit.alter(document, "materials", "m", transmission_dispersion_scale=0.0)
        assert mediaorder.substance(still.find("materials", "m")) is clear, "without its colours, too"
    assert mediaorder.substance(medium("m", 1.4321)) is None

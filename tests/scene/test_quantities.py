"""What can be typed into a field."""

import contextlib
import math
import random
import re

import pytest

from nocturne.scene.quantities import UNITS, parse, shown


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("3 ft", "m", 0.9144),
        ("12mm", "m", 0.012),
        ("3 cm + 2 mm", "m", 0.032),
        ("1/60", "s", 1 / 60),
        ("20 ms", "s", 0.02),
        ("1/250", "s", 0.004),
        ("1/2", "s", 0.5),
        ("3 m/2", "m", 1.5),
        ("1/2e3", "s", 0.0005),
        ("2700K", "K", 2700),
        ("2*0.35", "m", 0.7),
        ("f/2.8", "f/", 2.8),
        ("4 %", "%", 0.04),
        ("5", "%", 0.05),
        ("1000 cd/m2", "nit", 1000),
        ("-90 deg", "°", -90),
        ("0,5", "m", 0.5),
        ("0,500", "m", 0.5),
        ("1,25", "m", 1.25),
        ("43,091", "nit", 43091),
        ("1,234,567.5", "", 1234567.5),
        ("2*1,600 cd/m²", "nit", 3200),
        ("1e3", "", 1000),
        ("2^3", "", 8),
        ("1.2 klm", "lm", 1200),
        ("−2", "stop", -2),
    ],
)
def test_units_and_arithmetic(text, unit, value):
    assert parse(text, unit=unit) == pytest.approx(value)


@pytest.mark.parametrize(
    ("text", "unit", "current", "multiplies", "value"),
    [
        ("+1 stop", "lm", 100, True, 200),
        ("-2 stops", "s", 1, True, 0.25),
        ("+0.5 stop", "stop", 1, False, 1.5),
        ("+10 %", "m", 2, False, 2.2),
        ("-50%", "lm", 80, True, 40),
    ],
)
def test_relative_values(text, unit, current, multiplies, value):
    assert parse(text, unit=unit, current=current, multiplies=multiplies) == pytest.approx(value)


@pytest.mark.parametrize("text", ["", "3 kg", "abc", "1/0", "9**9**9**9", "__import__('os')", "(1", "1e400", "+1 stop"])
def test_nonsense_is_refused_with_a_sentence(text):
    with pytest.raises(ValueError, match=r"\.$|;"):
        parse(text, unit="m")


@pytest.mark.parametrize("text", ["5 m2", "+1.2.3 m", "1,23,456", "3 ft)"])
def test_what_is_refused_is_said_as_it_was_typed(text):
    with pytest.raises(ValueError, match=rf"^“{re.escape(text)}” is not a number\.$"):
        parse(text, unit="m")


@pytest.mark.parametrize(
    ("value", "unit", "kind", "text"),
    [
        (1 / 60, "s", "shutter", "1/60"),
        (0.04, "%", "percent", "4"),
        (0.026, "m", "number", "0.026"),
        (1150.0, "lm", "number", "1150"),
        (128, "", "whole", "128"),
        (0.0, "stop", "number", "0"),
        (2.5e7, "cd", "number", "2.5e+07"),
    ],
)
def test_values_as_shown(value, unit, kind, text):
    assert shown(value, unit=unit, kind=kind) == text
    if kind == "number":
        assert parse(text, unit=unit) == pytest.approx(value)


def _as_typed(value: float, unit: str, kind: str) -> float:
    return parse(shown(value, unit=unit, kind=kind), unit=unit)


@pytest.mark.parametrize("unit", sorted(UNITS) + [""])
def test_what_a_field_shows_can_be_typed_again_and_stays(unit):
    dice = random.Random(7)
    for _ in range(300):
        value = dice.choice([-1, 1]) * 10 ** dice.uniform(-4, 7)
        kind = "percent" if unit == "%" else "number"
        text = shown(value, unit=unit, kind=kind)
        again = _as_typed(value, unit, kind)
        # A field shows four digits, a tenth of a millimetre, a hundredth of a degree or stop.
        coarse = {"m": 6e-5, "°": 6e-3, "stop": 6e-3}.get(unit, 0.0)
        assert again == pytest.approx(value, rel=6e-4, abs=coarse), text
        assert shown(again, unit=unit, kind=kind) == text, "typing it again changes nothing"


def test_shutters_and_whole_numbers_stay():
    dice = random.Random(8)
    for _ in range(300):
        seconds = 10 ** dice.uniform(-4, 2)
        assert _as_typed(seconds, "s", "shutter") == pytest.approx(seconds, rel=6e-4)
        count = dice.randrange(100_000)
        assert _as_typed(count, "px", "whole") == count


def test_units_of_a_kind_agree_with_each_other():
    for unit, known in UNITS.items():
        for name, factor in known.items():
            typed = parse(f"2.5 {name}" if name != "f/" else "f/2.5", unit=unit)
            assert typed == pytest.approx(2.5 * factor), (unit, name)
            assert parse(f"1 {name} + 1.5 {name}" if name != "f/" else "f/2.5", unit=unit) == pytest.approx(
                2.5 * factor
            )


def test_random_words_are_a_number_or_refused():
    dice = random.Random(9)
    letters = "0123456789.,+-*/^()eE %mstopKlf'\"×−x "
    taken = 0
    for _ in range(4000):
        text = "".join(dice.choice(letters) for _ in range(dice.randint(1, 9)))
        with contextlib.suppress(ValueError):
            value = parse(text, unit=dice.choice(["m", "s", "%", "stop", "f/", ""]), current=2.0, multiplies=True)
            taken += 1
            assert math.isfinite(value), text
    assert taken > 50

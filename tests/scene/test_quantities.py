"""What can be typed into a field."""

import pytest

from nocturne.scene.quantities import parse, shown


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("3 ft", "m", 0.9144),
        ("12mm", "m", 0.012),
        ("3 cm + 2 mm", "m", 0.032),
        ("1/60", "s", 1 / 60),
        ("20 ms", "s", 0.02),
        ("2700K", "K", 2700),
        ("2*0.35", "m", 0.7),
        ("f/2.8", "f/", 2.8),
        ("4 %", "%", 0.04),
        ("5", "%", 0.05),
        ("1000 cd/m2", "nit", 1000),
        ("-90 deg", "°", -90),
        ("0,5", "m", 0.5),
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

"""Levels and order of runs, against the examples and rules of Unicode Standard Annex 9."""

import pytest

from nocturne.lettering.directions import in_order, levels

ALEF, BET, GIMEL = "\u05d0", "\u05d1", "\u05d2"


@pytest.mark.parametrize(
    ("line", "expected"),
    [
        ("abc", [0, 0, 0]),
        (f"{ALEF}{BET}{GIMEL}", [1, 1, 1]),
        (f"ab {ALEF}{BET} c", [0, 0, 0, 1, 1, 0, 0]),
        (f"{ALEF} 12 {BET}", [1, 1, 2, 2, 1, 1]),  # numbers run to the right in what runs to the left
        (f"{ALEF} ab {BET}", [1, 1, 2, 2, 1, 1]),
        (f"{ALEF}(1-2)", [1, 1, 2, 2, 2, 1]),
        (f"ab {ALEF} ", [0, 0, 0, 1, 0]),  # spaces at the end lie as the line does (L1)
        (f"{ALEF}\u200d{BET}", [1, 1, 1]),  # a joiner goes along with what it follows
        ("", []),
    ],
)
def test_levels(line, expected):
    assert levels(line) == expected


def test_a_line_may_be_told_its_direction():
    assert levels("ab 12", right_to_left=True) == [2, 2, 2, 2, 2]
    assert levels(f"{ALEF}!", right_to_left=False) == [1, 0]
    assert levels(f"{ALEF}!") == [1, 1]


@pytest.mark.parametrize(
    ("of_runs", "expected"),
    [
        ([0, 1, 0], [0, 1, 2]),
        ([1, 2, 1], [2, 1, 0]),
        ([0, 1, 2, 1, 0], [0, 3, 2, 1, 4]),
        ([1, 2, 3, 2, 1], [4, 1, 2, 3, 0]),
        ([], []),
    ],
)
def test_order_of_runs(of_runs, expected):
    """Rule L2: what is of a level or above is turned round, from the highest level to the lowest odd one."""
    assert in_order(of_runs) == expected
    turned = list(range(len(of_runs)))
    for level in range(max(of_runs, default=0), 0, -1):
        inside, out = [], []
        for k in [*turned, None]:
            if k is not None and of_runs[k] >= level:
                inside.append(k)
                continue
            out += inside[::-1] + ([] if k is None else [k])
            inside = []
        turned = out
    assert turned == in_order(of_runs)

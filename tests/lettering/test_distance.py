"""Distances to outlines: against the nearest of many places on them, and the number of turns around a place."""

import numpy as np
import pytest

from nocturne.lettering.distance import MARGIN, by_table, exact, table
from nocturne.lettering.setting import set_text

WORDS = ("Rg&8", "ळक्ष", "قمر", "鐘")


def along(pieces: np.ndarray, n: int = 400) -> np.ndarray:
    """Return (pieces, n, 2) places on each piece."""
    t = np.linspace(0, 1, n)[:, None]
    a, b, c = (pieces[:, k, None] for k in range(3))
    return (1 - t) ** 2 * a + 2 * t * (1 - t) * b + t * t * c


def turns(line: np.ndarray, place: np.ndarray) -> float:
    """Return how often closed lines, as places in order (pieces, n, 2), go around a place."""
    to = line - place
    angle = np.arctan2(to[..., 1], to[..., 0])
    way = np.diff(angle, axis=1)
    return float((np.mod(way + np.pi, 2 * np.pi) - np.pi).sum() / (2 * np.pi))


@pytest.mark.parametrize("words", WORDS)
def test_exact_distance_and_side(words):
    pieces = set_text(words, "round").pieces
    rng = np.random.default_rng(4)
    low, high = pieces.reshape(-1, 2).min(0) - 0.5, pieces.reshape(-1, 2).max(0) + 0.5
    places = rng.uniform(low, high, (300, 2))
    line = along(pieces)
    nearest = np.array([np.linalg.norm(line - p, axis=-1).min() for p in places])
    found = exact(pieces, places)
    assert np.abs(np.abs(found) - nearest).max() < 2e-3
    assert (np.abs(found) <= nearest + 1e-12).all(), "no place on the outline is nearer"
    inside = np.array([turns(line, p) > 0.5 for p in places])
    sure = nearest > 1e-3
    assert ((found < 0) == inside)[sure].all()
    assert inside.any()
    assert not inside.all()


@pytest.mark.parametrize("words", [*WORDS, "Several words\nin two lines, 123"])
def test_the_grid_leaves_no_piece_out(words):
    art = set_text(words, "sans")
    rows = table(art)
    places = np.random.default_rng(5).uniform(art.low - MARGIN, art.high + MARGIN, (1500, 2))
    assert np.array_equal(by_table(rows, places), exact(art.pieces, places))
    # Beyond the grid it is near the truth, and never nearer than it.
    far = np.random.default_rng(6).uniform(art.low - 3 * MARGIN, art.high + 3 * MARGIN, (300, 2))
    found, true = by_table(rows, far), exact(art.pieces, far)
    assert (np.abs(found) >= np.abs(true) - 1e-12).all()
    assert np.abs(found / true - 1).max() < 0.15


def test_corners_are_told_by_the_piece_seen_from_the_side():
    """A sharp star: outside of a tip both pieces end at the same place, and only one of them faces what is asked."""
    tip, a, b = np.array([0.0, 0.0]), np.array([-1.0, -0.1]), np.array([-1.0, 0.1])
    corners = [tip, b, a]
    pieces = np.array([[p, (p + q) / 2, q] for p, q in zip(corners, corners[1:] + corners[:1])])
    angle = np.linspace(0, 2 * np.pi, 721)[:-1]
    places = 0.3 * np.stack([np.cos(angle), np.sin(angle)], axis=-1)
    found = exact(pieces, places)
    inside = (places[:, 0] < 0) & (np.abs(places[:, 1]) < -0.1 * places[:, 0])
    assert np.array_equal(found < 0, inside)

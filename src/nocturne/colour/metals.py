"""Measured metals: their refractive indices over the visible range, and what those come to in the working space."""

import math
import re
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import numpy as np

from nocturne.colour.spectrum import reflectance_to_working

TABLE = Path(__file__).with_name("metals.npz")
EDGE = 1 / 7  # cosine at 82 degrees, where a metal's reflectance is lowest
CHANNELS_NM = (630.0, 532.0, 465.0)  # what n and k of the three channels are typed at
_VISIBLE_NM = (380.0, 750.0)
_MOST = 20.0
_UNLIKE, _LIKE = 0.55, 0.35  # of shipped metals, all but one are nearer than the first to another


@dataclass(frozen=True)
class Metal:
    """A metal or alloy as it was measured.

    wavelength_nm, n, k: (m,) float arrays, read-only; source: who measured it, and where that is published. channel_n,
    channel_k: what `of_channels` makes of them.
    """

    key: str
    name: str
    formula: str
    source: str
    wavelength_nm: np.ndarray
    n: np.ndarray
    k: np.ndarray
    channel_n: tuple[float, float, float]
    channel_k: tuple[float, float, float]


@cache
def metals() -> dict[str, Metal]:
    """Return the shipped metals by key, in the order of their names.

    The numbers are facts from the public domain, collected under CC0; each has its own source.
    """
    with np.load(TABLE) as file:
        wave, nk = file["wavelength_nm"].astype(float), file["nk"].astype(float)
        words = [file[name].tolist() for name in ("key", "name", "formula", "source")]
        fitted = [[tuple(v) for v in pair] for pair in file["channel_nk"].astype(float).tolist()]
    wave.flags.writeable = nk.flags.writeable = False
    found = [Metal(*about, wave, *both, *pair) for *about, both, pair in zip(*words, nk, fitted)]
    return {metal.key: metal for metal in sorted(found, key=lambda metal: metal.name)}


def fresnel(cosine: float | np.ndarray, n: np.ndarray, k: np.ndarray) -> np.ndarray:
    """Return the unpolarised reflectance of a metal in air at a cosine (Born and Wolf, 14.2); arrays broadcast."""
    eta = np.asarray(n, float) + 1j * np.asarray(k, float)
    c = np.asarray(cosine, float)
    inner = np.sqrt(1 - (1 - c * c) / eta**2)
    s = (c - eta * inner) / (c + eta * inner)
    p = (eta * c - inner) / (eta * c + inner)
    return (np.abs(s) ** 2 + np.abs(p) ** 2) / 2


def colour_at(cosine: float, wavelength_nm: np.ndarray, n: np.ndarray, k: np.ndarray) -> np.ndarray:
    """Return the (3,) working-space reflectance of a spectrum of n and k at a cosine."""
    return reflectance_to_working(wavelength_nm, fresnel(cosine, n, k))


def of_channels(wavelength_nm: np.ndarray, n: np.ndarray, k: np.ndarray) -> tuple[tuple, tuple]:
    """Return (n, k), three numbers each, that reflect in each channel what the spectrum does at 0 and 82 degrees.

    A renderer with three channels that took n and k at three wavelengths would miss what lies between them.
    """
    face = np.clip(colour_at(1.0, wavelength_nm, n, k), 1e-3, 0.9995)
    edge = np.clip(colour_at(EDGE, wavelength_nm, n, k), 1e-3, 0.9995)
    start = [(np.interp(at, wavelength_nm, n), np.interp(at, wavelength_nm, k)) for at in CHANNELS_NM]
    pairs = [_fitted(float(f), float(e), *s) for f, e, s in zip(face, edge, start)]
    return tuple(p[0] for p in pairs), tuple(p[1] for p in pairs)


def _fitted(face: float, edge: float, n: float, k: float) -> tuple[float, float]:
    """Return the n and k, from a start, whose reflectance is `face` at normal incidence and `edge` at 82 degrees."""
    from scipy.optimize import least_squares

    def off(p):
        return [fresnel(1.0, *np.exp(p)) - face, fresnel(EDGE, *np.exp(p)) - edge]

    best = least_squares(off, np.log([max(n, 1e-2), max(k, 1e-2)]), bounds=(math.log(1e-3), math.log(_MOST)))
    return float(math.exp(best.x[0])), float(math.exp(best.x[1]))


def read_csv(text: str) -> tuple[tuple[float, float, float], ...]:
    """Return (wavelength in nm, n, k) rows of a table of three columns.

    Wavelengths in micrometres are known by being below 30. Lines without three numbers, such as headings, are left out.
    Columns are parted by semicolons or tabs, by commas, or by spaces; where not by commas, a comma is a decimal one. A
    file of two tables below each other, n first and then k, each under a heading, is read as well.

    Raises
    ------
    ValueError
        With a sentence that says what is wrong.
    """
    blocks: list[list[list[float]]] = [[]]
    for line in text.splitlines():
        numbers = _numbers(line)
        if len(numbers) >= 2:
            blocks[-1].append(numbers)
        elif blocks[-1]:
            blocks.append([])
    blocks = [block for block in blocks if block]
    if not blocks:
        raise ValueError("There are no rows of numbers in it.")
    if len(blocks[0][0]) >= 3:
        table = np.array([row[:3] for block in blocks for row in block if len(row) >= 3])
    elif len(blocks) >= 2:
        first, second = (np.array([row[:2] for row in block]) for block in blocks[:2])
        table = np.column_stack([first, np.interp(first[:, 0], second[:, 0], second[:, 1])])
    else:
        raise ValueError("It has two columns; wavelength, n and k are needed.")
    return _checked(table)


def _numbers(line: str) -> list[float]:
    """Return the numbers of a line, none if anything else stands in it."""
    if ";" in line or "\t" in line:
        cells = re.split(r"[;\t]", line.replace(",", "."))
    else:
        cells = line.split(",") if "," in line else line.split()
    try:
        return [float(cell) for cell in cells if cell.strip()]
    except ValueError:
        return []


def _checked(table: np.ndarray) -> tuple[tuple[float, float, float], ...]:
    if not np.isfinite(table).all():
        raise ValueError("It holds what is no finite number.")
    table = table[np.argsort(table[:, 0], kind="stable")].copy()
    if table[:, 0].max() < 30:
        table[:, 0] *= 1000
    if (table[:, 1:] < 0).any():
        raise ValueError("n and k are never below 0.")
    if table[0, 0] > 700 or table[-1, 0] < 400:
        raise ValueError(f"It covers {table[0, 0]:g} to {table[-1, 0]:g} nm, and nothing that is seen.")
    low, high = _VISIBLE_NM
    near = (table[:, 0] >= low - 60) & (table[:, 0] <= high + 80)
    table = table[near] if near.sum() >= 2 else table
    return tuple(tuple(float(v) for v in row) for row in table[np.append(True, np.diff(table[:, 0]) > 0)])


def doubt(n: tuple[float, float, float], k: tuple[float, float, float]) -> str:
    """Return a sentence if n and k of the three channels are like no metal's, empty if they may be."""
    exchanged, near = _far(k, n), _far(n, k)
    if near[0] < _UNLIKE:
        return ""
    if max(k) < 0.3 and max(n) < 2.6:
        return "With so little k this is no metal but a clear substance: use IOR and transmission for it."
    if exchanged[0] < _LIKE:
        return f"No known metal is like this. With n and k exchanged it is like {exchanged[1].name.lower()}."
    return f"No known metal is like this; the nearest is {near[1].name.lower()}."


@cache
def _at_channels() -> np.ndarray:
    """Return (m, 2, 3) n and k of the shipped metals at the channels' wavelengths."""
    known = metals().values()
    return np.array([[np.interp(CHANNELS_NM, m.wavelength_nm, v) for v in (m.n, m.k)] for m in known])


def _far(n: tuple, k: tuple) -> tuple[float, Metal]:
    """Return how far the nearest metal is, about 1 where it cannot be that, and which it is."""
    own = _at_channels()
    off = (np.abs(np.array([n, k]) - own) / (1 + own)).sum(axis=(1, 2)) / 3
    nearest = int(np.argmin(off))
    return float(off[nearest]), list(metals().values())[nearest]

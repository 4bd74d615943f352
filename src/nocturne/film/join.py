"""Films of one picture joined: of regions beside each other, or of ranges of samples."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from nocturne.film.film import Film
from nocturne.film.gate import Gate
from nocturne.film.layout import GUIDES, MOST_IDS, SEEN

# What a pixel's middle shows is no sum: every film of the picture has the same.
_MIDDLE = ("NORMAL", "POSITION", "DEPTH")


def joined(films: Sequence[Film]) -> Film:
    """Return one film with all samples of several films of one picture, rendered with one seed.

    Regions that do not overlap give the very bits of the whole; ranges of samples give its sums to float32 rounding, as
    sums are taken in another order.

    Raises
    ------
    ValueError
        If there is none, if they are not of one picture, or if a pixel's samples do not follow each other: one stands
        on two of them, or some are on none.
    """
    if not films:
        raise ValueError("there is no film to join")
    films = sorted(films, key=lambda film: film.first)
    one = films[0]
    for film in films[1:]:
        same = ("size", "group_names", "objects", "materials")
        if any(getattr(film, name) != getattr(one, name) for name in same):
            raise ValueError("only films of one picture can be joined")
    _check_ranges(films)
    arrays = {name: array.copy() for name, array in one.arrays.items()}
    out = replace(one, gate=Gate(), seconds=sum(film.seconds for film in films), **arrays)
    for film in films[1:]:
        _add(out, film)
    return out


def _check_ranges(films: list[Film]) -> None:
    """Refuse films whose ranges overlap in a pixel, or leave samples out: the count would not say where to go on.

    They are in the order of their first samples.
    """
    reached = np.full_like(films[0].samples, films[0].first)
    for film in films:
        has = film.samples > 0
        if (has & (film.first < reached)).any():
            raise ValueError("a sample stands on two of the films")
        if (has & (film.first > reached)).any():
            raise ValueError("samples between those of the films are missing")
        reached += film.samples


def _add(out: Film, film: Film) -> None:
    is_new = (out.samples == 0) & (film.samples > 0)
    spans = [GUIDES.span(name) for name in _MIDDLE]
    middle = [np.where(is_new[..., None], film.guides[..., span], out.guides[..., span]) for span in spans]
    for name in ("groups", "passes", "guides", "variance"):
        getattr(out, name)[...] += getattr(film, name)
    for span, values in zip(spans, middle):
        out.guides[..., span] = values
    for which in range(SEEN.width):
        for k in range(MOST_IDS):
            _cover(out, which, film.ids[:, :, which, k], film.coverage[:, :, which, k])
    out.samples += film.samples


def _cover(out: Film, which: int, ids: np.ndarray, counts: np.ndarray) -> None:
    """Count samples for one id a pixel; where there is no room the rarest gives way, as while rendering."""
    have, room = out.ids[:, :, which], out.coverage[:, :, which]
    is_there = (have == ids[..., None]) & (room > 0)
    is_free = room <= 0
    least = np.eye(MOST_IDS, dtype=bool)[room.argmin(-1)]
    slot = np.where(
        is_there.any(-1, keepdims=True),
        is_there,
        np.where(is_free.any(-1, keepdims=True), np.eye(MOST_IDS, dtype=bool)[is_free.argmax(-1)], least),
    )
    rarer = (room.min(-1) < counts) | is_there.any(-1)
    slot &= ((counts > 0) & rarer)[..., None]
    grown = np.where(is_there, room + counts[..., None], counts[..., None])
    room[slot] = grown[slot]
    have[slot] = np.broadcast_to(ids[..., None], have.shape)[slot]

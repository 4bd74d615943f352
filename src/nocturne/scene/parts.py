"""What is worked out from a part of the document: kept with the part, and after an edit only what changed anew.

A part is a tuple of items with ids. Edits share what they do not touch, so an item that is the same object is the same,
and documents that share a part share what was worked out from it.
"""

import hashlib
from collections.abc import Callable, Iterable
from functools import lru_cache
from itertools import compress
from operator import attrgetter, is_not
from typing import Any

import numpy as np

from nocturne.scene.fields import Model
from nocturne.scene.shapes import transform
from nocturne.scene.thing import Thing

Placements = dict[str, tuple[np.ndarray, bool]]
_id = attrgetter("id")
_place_in_tree = attrgetter("id", "parent")
_stance = attrgetter("id", "parent", "place", "turn_deg", "size", "pivot", "visible")
_MOST_KEPT = 6
_worked_out: dict[str, list[tuple[tuple, Any]]] = {}
_of_two: list[tuple[tuple, Any, Any]] = []
_compared: list[tuple[tuple, tuple, list[int]]] = []


def differing(before: tuple, after: tuple) -> list[int] | None:
    """Return the numbers of the items that are not the same objects, None if some came or went."""
    if len(before) != len(after):
        return None
    for one, other, which in _compared:
        if one is before and other is after:
            return which
    which = list(compress(range(len(after)), map(is_not, before, after)))
    _compared.insert(0, (before, after, which))  # everyone who follows an edit asks the same
    del _compared[_MOST_KEPT:]
    return which


def of_part(part: tuple, what: str, work_out: Callable[[tuple, tuple, Any], Any]) -> Any:
    """Return what is worked out from a part, kept from before if it is the same tuple.

    work_out: called with the part, and a part whose result is known with that result; ((), None) at first.
    """
    kept = _worked_out.setdefault(what, [])
    for known, result in kept:
        if known is part:
            return result
    result = work_out(part, *(kept[0] if kept else ((), None)))
    kept.insert(0, (part, result))
    del kept[_MOST_KEPT:]
    return result


def of_two(part: tuple, other: Any, work_out: Callable[[], Any]) -> Any:
    """Return what is worked out from a part and something else that is kept, as long as both are the same objects."""
    for one, two, result in _of_two:
        if one is part and two is other:
            return result
    result = work_out()
    _of_two.insert(0, (part, other, result))
    del _of_two[_MOST_KEPT:]
    return result


def _each(part: tuple, before: tuple, known: tuple | None, make: Callable[[Any], Any]) -> tuple:
    """Return what is made of each item; items that were there before keep theirs."""
    which = differing(before, part) if known is not None else None
    if which is not None:
        out = list(known)
        for i in which:
            out[i] = make(part[i])
        return tuple(out)
    old = {id(item): made for item, made in zip(before, known or ())}
    return tuple(old[id(item)] if id(item) in old else make(item) for item in part)


def _as_before(part: tuple, before: tuple, of: Callable[[Any], Any]) -> bool:
    """Return True if all items have what `of` says of them as before."""
    which = differing(before, part)
    return which is not None and all(of(before[i]) == of(part[i]) for i in which)


# ---- by id ---------------------------------------------------------------------------------------------------------


def numbers(part: tuple[Model, ...], name: str) -> dict[str, int]:
    """Return the number of each item of a part by its id; name: of the part."""
    return of_part(part, f"numbers of {name}", _numbers)


def _numbers(part: tuple, before: tuple, known: dict[str, int] | None) -> dict[str, int]:
    if known is not None and _as_before(part, before, _id):
        return known
    return {item.id: i for i, item in enumerate(part)}


def members(things: tuple[Thing, ...]) -> dict[str, list[str]]:
    """Return the ids of the things in each group, by the group's id, "" for the top."""
    return of_part(things, "members", _members)


def _members(things: tuple, before: tuple, known: dict[str, list[str]] | None) -> dict[str, list[str]]:
    if known is not None and _as_before(things, before, _place_in_tree):
        return known
    inside: dict[str, list[str]] = {}
    for thing in things:
        inside.setdefault(thing.parent, []).append(thing.id)
    return inside


def with_members(things: tuple[Thing, ...], ids: Iterable[str]) -> set[str]:
    """Return things and all that is in groups among them, near and far."""
    inside = members(things)
    found, left = set(ids), list(ids)
    while left:
        for id in inside.get(left.pop(), ()):
            if id not in found:
                found.add(id)
                left.append(id)
    return found


# ---- where things stand --------------------------------------------------------------------------------------------


def placements(things: tuple[Thing, ...]) -> Placements:
    """Return for each thing its (4, 4) world matrix and whether it and all its groups are shown."""
    return of_part(things, "placements", place_things)


@lru_cache(maxsize=1 << 15)
def local(place: tuple, turn_deg: tuple, size: tuple, pivot: tuple = (0.0, 0.0, 0.0)) -> np.ndarray:
    """Return the (4, 4) matrix of a thing in its group, whose pivot stands at its place; not to be written to."""
    # Not kept on the thing itself: equality of models compares all they hold, and arrays have no truth value.
    matrix = transform(place, turn_deg, size)
    if any(pivot):
        matrix[:3, 3] -= matrix[:3, :3] @ np.array(pivot)
    matrix.flags.writeable = False
    return matrix


def place_things(things: tuple[Thing, ...], before: tuple[Thing, ...], known: Placements | None) -> Placements:
    """Return the placements; things that stand where they did before keep theirs."""
    which = differing(before, things) if known is not None else None
    moved = [i for i in which or () if _stance(before[i]) != _stance(things[i])]
    if which is not None and not moved:
        return known
    number, found = numbers(things, "things"), {}
    if which is not None and all(_place_in_tree(before[i]) == _place_in_tree(things[i]) for i in moved):
        # The tree is as it was: what is in none of those that moved stands as it stood.
        found = dict(known)
        for id in with_members(things, [things[i].id for i in moved]):
            del found[id]
        known, before = None, ()
    stood = {thing.id: thing for thing in before}
    for thing in things:
        if thing.id not in found:
            _place(thing, things, number, found, stood, known)
    return found


def _place(
    thing: Thing,
    things: tuple[Thing, ...],
    number: dict[str, int],
    found: Placements,
    stood: dict[str, Thing],
    known: Placements | None,
) -> None:
    """Place a thing, and the groups it is in; stood, known: which things there were, and where."""
    # Up to the first group that is placed or to the top, then down again: groups may be in groups a thousand deep.
    chain: list[Thing] = []
    in_chain: set[str] = set()
    at: Thing | None = thing
    while at is not None and at.id not in found and at.id not in in_chain:
        chain.append(at)
        in_chain.add(at.id)
        at = things[number[at.parent]] if at.parent in number else None
    # Groups that are in each other (a damaged file) must not hang: the last one stands as if it were in none.
    above = found.get(at.id) if at is not None and at.id not in in_chain else None
    for item in reversed(chain):
        has_parent = above is not None
        stands = stood.get(item.id) is item and (item.parent in stood) == has_parent
        if stands and above is (known.get(item.parent) if has_parent else None):
            found[item.id] = known[item.id]
        else:
            matrix, shown = local(item.place, item.turn_deg, item.size, item.pivot), item.visible
            found[item.id] = (matrix, shown) if above is None else (above[0] @ matrix, above[1] and shown)
        above = found[item.id]


# ---- what decides the film -----------------------------------------------------------------------------------------


def unnamed(part: tuple[Model, ...], name: str) -> tuple[Model, ...]:
    """Return the items without their names and locks; name: of the part."""
    return of_part(part, f"unnamed {name}", _unnamed)


def _unnamed(part: tuple, before: tuple, known: tuple | None) -> tuple:
    if known is not None and _as_before(part, before, _without_name):
        return known  # the very same tuple, by which it is known to be equal
    return _each(part, before, known, _without_name)


def _without_name(item: Model) -> Model:
    # Whether it can be chosen decides nothing that is rendered, either.
    free = {"locked": False} if getattr(item, "locked", False) else {}
    return item.model_copy(update={"name": "", **free})


def digest(part: tuple[Model, ...], name: str) -> bytes:
    """Return a hash of a part; name: of it."""
    return of_part(part, f"digest of {name}", _digest)[1]


def _digest(part: tuple, before: tuple, known: tuple[tuple[bytes, ...], bytes] | None) -> tuple:
    each = _each(part, before, known[0] if known is not None else None, _hash)
    return each, hashlib.sha256(b"".join(each)).digest()


def _hash(item: Model) -> bytes:
    return hashlib.sha256(item.model_dump_json().encode()).digest()

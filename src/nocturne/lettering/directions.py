"""Directions of writing: levels of a line's characters, and the order in which runs stand.

Unicode Standard Annex 9, by python-bidi; that library's last step turns characters round, which shaping must not get,
so its steps are called one by one up to the levels.
"""

from collections.abc import Sequence
from typing import Any

_ISOLATES = ("LRI", "RLI", "FSI", "PDI")
_SPACES = ("WS", "S", "B", *_ISOLATES)


def levels(line: str, *, right_to_left: bool | None = None) -> list[int]:
    """Return the embedding level of each character: even ones run to the right, odd ones to the left.

    right_to_left: of the line as a whole; None: as its first letter does (rules P2 and P3).
    """
    from bidi import algorithm

    base = algorithm.get_base_level(line) if right_to_left is None else int(right_to_left)
    storage: dict[str, Any] = algorithm.get_empty_storage()
    storage["base_level"], storage["base_dir"] = base, "LR"[base]
    algorithm.get_embedding_levels(line, storage)
    for k, character in enumerate(storage["chars"]):
        character["index"] = k
        # Isolates, which the library does not know, count for nothing; what has no direction runs to the right.
        if character["type"] in _ISOLATES:
            character["type"] = "BN"
        character["type"] = character["type"] or "L"
    original = [character["orig"] for character in storage["chars"]]
    algorithm.explicit_embed_and_overrides(storage)
    algorithm.resolve_weak_types(storage)
    algorithm.resolve_neutral_types(storage, False)
    algorithm.resolve_implicit_levels(storage, False)
    found: list[int | None] = [None] * len(line)
    for character in storage["chars"]:
        found[character["index"]] = character["level"]
    # Marks of direction and joiners were taken out (rule X9): they go along with what they follow.
    last = base
    for k, level in enumerate(found):
        found[k] = last = last if level is None else level
    for k in reversed(range(len(line))):  # rule L1: spaces at the end lie as the line does
        if original[k] not in _SPACES:
            break
        found[k] = base
    return found


def in_order(levels: Sequence[int]) -> list[int]:
    """Return in which order runs of levels stand from left to right (rule L2)."""
    order = list(range(len(levels)))
    odd = [level for level in levels if level % 2]
    for level in range(max(levels, default=0), min(odd, default=1) - 1, -1):
        k = 0
        while k < len(order):
            if levels[order[k]] < level:
                k += 1
                continue
            end = k
            while end < len(order) and levels[order[end]] >= level:
                end += 1
            order[k:end] = order[k:end][::-1]
            k = end
    return order

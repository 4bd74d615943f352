"""Names of which no two are the same."""

from collections.abc import Callable, Iterable
from itertools import count


def distinct(names: Iterable[str], *, fold: Callable[[str], str] = str) -> list[str]:
    """Return names of which none is there twice; later ones get a number.

    fold: what is compared, for example `str.casefold` for files.
    """
    taken: set[str] = set()
    out = []
    for name in names:
        candidate, number = name, count(2)
        while fold(candidate) in taken:
            candidate = f"{name}-{next(number)}"
        taken.add(fold(candidate))
        out.append(candidate)
    return out

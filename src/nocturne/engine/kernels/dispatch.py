"""Dispatchers made from tables before anything is compiled, so that every call in a kernel is a static one.

A table maps a kind's number to its function. Numba compiles comparisons with a direct call behind them, which the
compiler may inline: a new kind is one entry more.
"""

from collections.abc import Callable, Mapping, Sequence

from nocturne.engine.kernels.jit import inlined


def by_kind(table: Mapping[int, Callable]) -> Callable:
    """Return a compiled function (kind, *arguments) that calls the table's entry for that kind; there is no other kind.

    Halves are told apart by their numbers, so that of forty kinds each is six comparisons away.

    Raises
    ------
    ValueError
        If the table is empty.
    """
    if not table:
        raise ValueError("a table of kinds needs an entry")
    return _from_halves(sorted(table.items()))


def _from_halves(entries: list[tuple[int, Callable]]) -> Callable:
    if len(entries) == 1:
        ((_, function),) = entries

        @inlined
        def only(kind, *arguments):
            return function(*arguments)

        return only
    middle = len(entries) // 2
    number = entries[middle][0]
    low, high = _from_halves(entries[:middle]), _from_halves(entries[middle:])

    @inlined
    def choose(kind, *arguments):
        if kind < number:
            return low(kind, *arguments)
        return high(kind, *arguments)

    return choose


def summed(functions: Sequence[Callable]) -> Callable:
    """Return a compiled function that calls all functions in order and returns the sum of their results, from the left.

    Raises
    ------
    ValueError
        If there is no function.
    """
    if not functions:
        raise ValueError("there is nothing to sum")
    *before, last = functions
    if not before:
        return last
    first = summed(before)

    @inlined
    def together(*arguments):
        return first(*arguments) + last(*arguments)

    return together


def by_share(shares: Sequence[Callable], functions: Sequence[Callable]) -> Callable:
    """Return a compiled function (u, W, *arguments) that calls one function, each with the chance that its share tells.

    The shares are functions of the work row W that add up to 1; u is a number in [0, 1). The last entry takes what
    rounding leaves over.

    Raises
    ------
    ValueError
        If there is no function, or not as many of both.
    """
    if not functions or len(shares) != len(functions):
        raise ValueError("each function needs a share")
    return _from_share(tuple(zip(shares, functions)))


def _from_share(pairs: tuple) -> Callable:
    (share, function), *others = pairs
    if not others:

        @inlined
        def take_last(u, before, W, *arguments):
            return function(W, *arguments)

        return take_last
    rest = _from_share(tuple(others))

    @inlined
    def take(u, before, W, *arguments):
        p = before + share(W)
        if u < p:
            return function(W, *arguments)
        return rest(u, p, W, *arguments)

    return take

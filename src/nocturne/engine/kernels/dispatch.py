"""Dispatchers made from tables before anything is compiled, so that every call in a kernel is a static one.

A table maps a kind's number to its function. Numba compiles comparisons with a direct call behind them, which the
compiler may inline: a new kind is one entry more. The source of each is written from its table: as functions that hold
each other, one for each comparison, they were a tenth of what there was to compile.
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
    numbers, functions = zip(*sorted(table.items()))
    return _written("kind, *arguments", _halves(numbers, 0, len(numbers)), functions)


def _halves(numbers: tuple[int, ...], low: int, high: int) -> list[str]:
    """Return lines that tell the kinds from the place `low` on, up to `high`, apart."""
    if high - low == 1:
        return [f"return f{low}(*arguments)"]
    middle = (low + high) // 2
    below = [f"    {line}" for line in _halves(numbers, low, middle)]
    return [f"if kind < {numbers[middle]}:", *below, *_halves(numbers, middle, high)]


def summed(functions: Sequence[Callable]) -> Callable:
    """Return a compiled function that calls all functions in order and returns the sum of their results, from the left.

    Raises
    ------
    ValueError
        If there is no function.
    """
    if not functions:
        raise ValueError("there is nothing to sum")
    calls = " + ".join(f"f{i}(*arguments)" for i in range(len(functions)))
    return _written("*arguments", [f"return {calls}"], functions)


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
    last, lines, before = len(functions) - 1, [], ""
    for i in range(last):
        share = f"f{len(functions) + i}(W)"
        lines += [f"p{i} = {before}{share}", f"if u < p{i}:", f"    return f{i}(W, *arguments)"]
        before = f"p{i} + "
    return _written("u, W, *arguments", [*lines, f"return f{last}(W, *arguments)"], (*functions, *shares))


def _written(takes: str, lines: list[str], functions: Sequence[Callable]) -> Callable:
    """Return a compiled function of lines that call functions, the first f0, the next f1."""
    made = {"__name__": __name__, **{f"f{i}": function for i, function in enumerate(functions)}}
    source = "\n    ".join([f"def dispatched({takes}):", *lines])
    exec(compile(source, __file__, "exec"), made)
    return inlined(made["dispatched"])

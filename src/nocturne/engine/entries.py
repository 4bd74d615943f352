"""The functions that are compiled each on its own, and how Python calls them.

Nothing here needs the compiler: code that is made once is loaded from the cache (see `objects`).
"""

import ctypes
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from nocturne.engine import objects

# Leaves tests for NaN and infinity intact, and sums in the order that they are written: a picture does not change with
# what a compiler finds to join (measured: no slower).
SAFE_MATH = frozenset({"nsz", "arcp", "contract", "afn"})
ANY_ORDER = SAFE_MATH | {"reassoc"}
_NUMBERS = {
    "intp": ctypes.c_int64,
    "int64": ctypes.c_int64,
    "float32": ctypes.c_float,
    "float64": ctypes.c_double,
    "boolean": ctypes.c_bool,
    "void": None,
}


def _dimensions(kind: str) -> int:
    """Return how many lengths an array of a kind has, 0 if it is a number."""
    return kind.count(",") + 1 if "[" in kind else 0


@dataclass(frozen=True)
class Entry:
    """A function that is compiled on its own.

    Parameters
    ----------
    name : str
        By which other compiled code calls it, and by which the cache keeps it.
    module, function : str
        Where its source is.
    shape : str
        What it returns and takes, in Numba's words. An array is `float32[:,::1]`: whole, its last axis in one piece.
    math : frozenset of str
        How far the compiler may go.
    source : function
        None if it is found by its module and name.
    """

    name: str
    module: str
    function: str
    shape: str
    math: frozenset[str] = SAFE_MATH
    source: Callable | None = field(default=None, compare=False, repr=False)

    @property
    def symbol(self) -> str:
        """Return the name of its code."""
        return f"nocturne_{self.name}"

    @cached_property
    def takes(self) -> tuple[str, ...]:
        """Return the types of its arguments."""
        # A comma within brackets parts no arguments.
        words = self.shape[self.shape.index("(") + 1 : -1].replace(":,", ":;").split(",")
        return tuple(word.strip().replace(":;", ":,") for word in words)

    @cached_property
    def _call(self) -> Callable:
        kinds = []
        for kind in self.takes:
            dimensions = _dimensions(kind)
            kinds += [ctypes.c_void_p, *[ctypes.c_int64] * dimensions] if dimensions else [_NUMBERS[kind]]
        returned = _NUMBERS[self.shape[: self.shape.index("(")]]
        return ctypes.CFUNCTYPE(returned, *kinds)(self.address)

    def load(self) -> None:
        """Make it ready to be called, which may take a moment."""
        _ = self._call

    @cached_property
    def address(self) -> int:
        """Return the address of its code; loads it, or compiles it here if the cache does not hold it."""
        return objects.address_of(self)

    def __call__(self, *values: Any) -> Any:
        """Call it, without holding the interpreter.

        Raises
        ------
        TypeError
            If there are too few or too many values, or an array is not as it takes it: it would read anything.
        """
        if len(values) != len(self.takes):
            raise TypeError(f"{self.name} takes {len(self.takes)} values, not {len(values)}.")
        given: list = []
        for kind, value in zip(self.takes, values):
            if "[" not in kind:
                given.append(value)
                continue
            if (
                value.dtype != kind[: kind.index("[")]
                or value.ndim != _dimensions(kind)
                or not value.flags.c_contiguous
            ):
                raise TypeError(f"{self.name} takes {kind}, not {value.dtype} of shape {value.shape}.")
            given += [value.ctypes.data, *value.shape]
        return self._call(*given)


def compiled(shape: str, *, math: frozenset[str] = ANY_ORDER) -> Callable[[Callable], Entry]:
    """Return a decorator that makes an `Entry` of a function; its source is looked at by the compiler alone."""

    def make(function: Callable) -> Entry:
        return Entry(function.__name__.strip("_"), function.__module__, function.__name__, shape, math, function)

    return make


def _kernels(**named: tuple[str, str, str]) -> dict[str, Entry]:
    room = "nocturne.engine.kernels"
    return {name: Entry(name, f"{room}.{file}", function, shape) for name, (file, function, shape) in named.items()}


def _takes(*kinds: tuple[str, int]) -> str:
    return f"({', '.join(kind for kind, count in kinds for _ in range(count))})"


_UNIT = "void(intp, intp)"  # addresses of scene table and work row
_STEP = "void" + _takes(("intp", 2), ("int64", 3), ("intp", 1), ("float32", 4))
_TILES = "int64" + _takes(("intp", 6), ("int64", 6))
# What works out patterns: noise, families of steps and the machine that calls them. Name: file, function, shape.
PATTERNS = _kernels(
    # So many steps call it that it is compiled once.
    noise=("patterns.noise", "noise", "float32(float32, float32, float32)"),
    closer=("patterns.nearest", "closer", "boolean(intp)"),
    **{
        name: (f"patterns.{name}", "step", _STEP)
        for name in ("noises", "marks", "laid", "grown", "signs", "where", "wear", "adjust")
    },
    drive=("patterns.units", "drive", _UNIT),
    heights_at=("patterns.heights", "heights_at", "void(intp, intp, intp, intp, int64, int64, int64)"),
)
SURFACES = _kernels(
    # What a thin film on a base reflects: several lobes ask, and few materials have one.
    film=("lobes.film", "film", "void" + _takes(("intp", 2), ("int64", 1), ("float32", 4))),
    read_material=("lobes.units", "read", _UNIT),
    read_sheet=("lobes.units", "read_sheet", _UNIT),
    derive_material=("lobes.units", "derive_hit", _UNIT),
    evaluate_material=("lobes.units", "evaluate_lamp", _UNIT),
    sample_material=("lobes.units", "sample_direction", _UNIT),
    sample_lamp=("lights.units", "sample_lamp", _UNIT),
    lamp_hit=("lights.units", "lamp_hit", _UNIT),
    infinite_hit=("lights.units", "infinite_hit", _UNIT),
)
PATHS = _kernels(
    render_tiles=("path.tiles", "render_tiles", _TILES),
    look_at_tiles=("path.sight", "look_at_tiles", _TILES),
)
# They call each other, and so are loaded together.
KERNELS = {**PATTERNS, **SURFACES, **PATHS}

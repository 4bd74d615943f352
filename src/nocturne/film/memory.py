"""How much memory a picture takes, told before it is rendered."""

import math
from dataclasses import dataclass
from pathlib import Path

from nocturne.errors import OutOfMemory
from nocturne.film.film import BYTES_OF_A_GROUP, BYTES_OF_A_PIXEL

# Beside the film: denoised groups, the mixed and the graded picture, the bytes on the screen.
_DEVELOPING = 3 * 12 + 8
_OTHERS = 1.1  # what the set itself and the system take meanwhile
_SPARE = 0.9  # of what is free may be taken


@dataclass(frozen=True)
class Forecast:
    """What a picture needs and what there is, bytes; `free` None where the system does not say."""

    width: int
    height: int
    groups: int
    needed: int
    free: int | None

    @property
    def fits(self) -> bool:
        """Return True if there is enough."""
        return self.free is None or self.needed <= _SPARE * self.free

    @property
    def largest(self) -> tuple[int, int]:
        """Return the largest size of the same proportion that fits, pixels."""
        share = math.sqrt(min(_SPARE * (self.free or self.needed) / self.needed, 1.0))
        return max(int(self.width * share), 16), max(int(self.height * share), 16)

    def words(self) -> str:
        """Return a sentence about it."""
        groups = f"{self.groups} light group{'' if self.groups == 1 else 's'}"
        return f"{self.width} × {self.height} with {groups} needs about {size(self.needed)}"

    def check(self) -> None:
        """Refuse what does not fit.

        Raises
        ------
        OutOfMemory
            With the size that would.
        """
        if not self.fits:
            width, height = self.largest
            raise OutOfMemory(
                f"{self.words()} of memory, and {size(self.free or 0)} are free.",
                hint=f"Make it {width} × {height} or smaller, or put lights into fewer groups.",
            )


def size(n: int) -> str:
    """Return a number of bytes for people."""
    return f"{n / 2**30:.1f} GiB" if n >= 2**30 else f"{n / 2**20:.0f} MiB"


def forecast(width: int, height: int, groups: int) -> Forecast:
    """Return what a picture of a size with so many light groups needs."""
    pixel = BYTES_OF_A_PIXEL + groups * 2 * BYTES_OF_A_GROUP + _DEVELOPING
    return Forecast(width, height, groups, int(width * height * pixel * _OTHERS), available())


def available() -> int | None:
    """Return how much memory can still be taken without swapping, bytes; None if it is not known."""
    try:
        for line in Path("/proc/meminfo").read_text().splitlines():
            if line.startswith("MemAvailable:"):
                return int(line.split()[1]) * 1024
    except (OSError, ValueError, IndexError):
        return None
    return None

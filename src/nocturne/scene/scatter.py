"""A scatter: copies of things over a grid, a surface or points, from numbers that stay editable."""

from typing import Literal

from nocturne.scene.fields import Model, Vector, described

MOST_COPIES = 2_000_000


class Source(Model):
    """What is copied, and how often it is taken compared to the others."""

    thing: str
    weight: float = described(1.0, "Weight", "How often it is taken, compared to the others.", low=0, high=1e6)


class Scatter(Model):
    """How copies are spread; lengths in the scatter's own space, metres."""

    sources: tuple[Source, ...] = ()
    over: Literal["grid", "surface", "points"] = described(
        "grid",
        "Over",
        "A grid, the surface of a thing, or points.",
        kind="choice",
        choices=(("grid", "A grid"), ("surface", "A surface"), ("points", "Points")),
    )
    counts: Vector = described((10.0, 10.0, 1.0), "Copies", "Along x, y and z.", kind="vector", low=1, high=100_000)
    spacing: Vector = described((1.0, 1.0, 1.0), "Spacing", "From copy to copy.", kind="lengths", unit="m")
    on: str = described("", "On", "The thing whose surface or corners the copies stand on.", kind="thing")
    points: tuple[tuple[float, float, float], ...] = ()
    number: int = described(
        1000,
        "Copies",
        "How many are tried for; spacing and limits may leave fewer.",
        kind="whole",
        low=0,
        high=MOST_COPIES,
    )
    apart: float = described(
        0.0, "Keep apart", "No two copies stand nearer to each other.", unit="m", low=0, high=1e6, soft_high=5
    )
    upright: bool = described(
        True, "Upright", "On: copies stand up whatever the slope. Off: they turn with the surface.", kind="switch"
    )
    jitter: float = described(0.0, "Jitter", "Random shift of each copy.", unit="m", low=0, high=1e6, soft_high=2)
    turn_deg: Vector = described(
        (0.0, 0.0, 0.0),
        "Turn ±",
        "Random turn, so far to either side, about x, y and z.",
        kind="angles",
        unit="°",
    )
    step_deg: float = described(0.0, "In steps of", "Random turns go in such steps; 0: any.", unit="°", low=0, high=180)
    smallest: float = described(1.0, "Smallest", "Random size, as a factor.", unit="×", low=1e-4, high=1e4, soft_high=4)
    largest: float = described(1.0, "Largest", "Random size, as a factor.", unit="×", low=1e-4, high=1e4, soft_high=4)
    steepest_deg: float = described(
        180.0, "Steepest", "Where the surface is steeper there are none.", unit="°", low=0, high=180
    )
    lowest: float = described(-1e4, "Not below", "Height in the set.", unit="m", low=-1e6, high=1e6)
    highest: float = described(1e4, "Not above", "Height in the set.", unit="m", low=-1e6, high=1e6)
    keep_out: tuple[str, ...] = ()
    margin: float = described(0.0, "Margin", "How far from what is kept clear.", unit="m", low=0, high=1e6, soft_high=5)
    density: str = described(
        "", "Density", "A picture over the surface's UVs: none where it is black.", kind="file", holds="picture"
    )
    look_at: str = described("", "Look at", "Copies turn their front to this thing.", kind="thing")
    seed: int = described(1, "Seed", "Another number: another arrangement.", kind="whole", low=0, high=2**31 - 1)

    @property
    def named(self) -> tuple[str, ...]:
        """Return the ids of all things that it names."""
        return (*(s.thing for s in self.sources), self.on, *self.keep_out, self.look_at)

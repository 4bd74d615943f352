"""The light desk: one strip for each light group, and cues that store its state."""

import math

import numpy as np

from nocturne.scene.fields import Colour, Model, described


class Strip(Model):
    """The fader of one light group."""

    group: str
    stops: float = described(
        0.0, "Fader", "Each stop doubles or halves the group's light.", unit="stop", low=-12, high=12
    )
    on: bool = described(True, "Power", "Whether the group is in the picture.", kind="switch")
    solo: bool = described(False, "Solo", "Show only groups that are soloed.", kind="switch")
    tint: Colour = described((1.0, 1.0, 1.0), "Tint", "Colours the group's light.", kind="colour", high=100)


class Cue(Model):
    """A stored state of the desk."""

    id: str
    name: str = described("Cue", "Name", kind="text")
    strips: tuple[Strip, ...] = ()


def gains(groups: tuple[str, ...], strips: tuple[Strip, ...]) -> np.ndarray:
    """Return the (n, 3) float32 factors with which groups enter the picture; those without a strip stay as they are."""
    by_group = {strip.group: strip for strip in strips}
    is_solo = any(strip.solo for strip in strips if strip.group in groups)
    out = np.ones((len(groups), 3), np.float32)
    for i, group in enumerate(groups):
        strip = by_group.get(group, Strip(group=group))
        heard = strip.on and (strip.solo or not is_solo)
        out[i] = np.array(strip.tint) * 2.0**strip.stops if heard else 0.0
    return out


def blended(before: tuple[Strip, ...], after: tuple[Strip, ...], share: float) -> tuple[Strip, ...]:
    """Return the desk on the way from one state to another: light itself is mixed, so that it fades as lamps do.

    share: 0 gives what `before` lets through, 1 exactly `after`.
    """
    if share >= 1:
        return after
    groups = tuple(dict.fromkeys(strip.group for strip in (*before, *after)))
    light = gains(groups, before) * (1 - share) + gains(groups, after) * share
    out = []
    for group, gain in zip(groups, light.astype(float)):
        top = float(gain.max())
        if top <= 0:
            out.append(Strip(group=group, on=False))
            continue
        stops = min(max(math.log2(top), -12.0), 12.0)
        out.append(Strip(group=group, stops=stops, tint=tuple(float(v) for v in gain / top)))
    return tuple(out)

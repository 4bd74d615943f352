"""What each kind of step reads from its own row: made from the fields of its class, so that they are listed once.

`Steps.CHECKERBOARD_FIRST` is where the field `first` of the kind `checkerboard` begins.
"""

from nocturne.engine.layout import pattern
from nocturne.scene.patterns import KINDS

NUMBERS = {kind: number for number, kind in enumerate(KINDS)}


def _offsets() -> dict[str, int]:
    found = {}
    for kind, model in KINDS.items():
        at = pattern.OWN
        for name, width in model.own_fields().items():
            found[f"{kind}_{name}".upper()] = at
            at += width
        if at > pattern.OWN + pattern.OWN_WIDTH:
            raise ValueError(f"a row has no room for the fields of {kind}")
        found[kind.upper()] = NUMBERS[kind]
    return found


OFFSETS = _offsets()
globals().update(OFFSETS)

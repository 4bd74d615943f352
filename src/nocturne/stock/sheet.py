"""The pictures of what ships: one sheet of swatches, and which of them are still what the materials are."""

import hashlib
import json
from collections.abc import Mapping
from pathlib import Path

from nocturne.stock.ready import Ready

PICTURE = Path(__file__).with_name("sheet.jpg")
ABOUT = Path(__file__).with_name("sheet.json")
ACROSS, PIXELS = 12, 164  # swatches in a row, and how large each is


def digest(one: Ready) -> str:
    """Return a short hash of all that decides a swatch."""
    about = [m.model_dump_json() for m in one.materials]
    return hashlib.sha256(repr((about, one.stand, one.size_m)).encode()).hexdigest()[:16]


def places() -> dict[str, tuple[int, int, int]]:
    """Return where on the sheet the swatches are, by id: left, top and size, pixels."""
    return {id: (PIXELS * (i % ACROSS), PIXELS * (i // ACROSS), PIXELS) for i, id in enumerate(_known())}


def old(ready: Mapping[str, Ready]) -> list[str]:
    """Return the ids of materials whose swatches are missing, or of what they were before."""
    known = _known()
    return [id for id, one in ready.items() if known.get(id) != digest(one)]


def _known() -> dict[str, str]:
    try:
        return json.loads(ABOUT.read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return {}

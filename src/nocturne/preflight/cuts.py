"""Glass and liquid that a cutaway leaves open: without a cut face they have no inside."""

from collections.abc import Iterator
from pathlib import Path

from nocturne.preflight.findings import Finding, Mend
from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.faces import materials_of


def open_glass(document: Document, assets: Assets, folder: Path) -> Iterator[Finding]:
    """Yield cutaways without cut faces that cut a closed thing of glass or liquid."""
    media = {m.id for m in document.materials if m.is_medium}
    for thing in document.things:
        cut = thing.cutaway
        if cut is None or cut.closed or not document.placements[thing.id][1]:
            continue
        inside = document.with_members(cut.of)
        glass = next((t for t in document.things if t.id in inside and media & set(materials_of(t))), None)
        if glass is not None:
            words = (
                f"“{thing.name}” leaves “{glass.name}” open: glass without a cut face has no inside, so "
                "light that enters never leaves it, and it is too bright."
            )
            mend = Mend("Give it cut faces", lambda d, t=thing: _closed(d, t.id))
            yield Finding("open glass", words, "things", thing.id, (mend,))


def _closed(document: Document, id: str) -> Document:
    cut = document.find("things", id).cutaway
    return edit.alter(document, "things", id, cutaway=edit.changed(cut, closed=True))

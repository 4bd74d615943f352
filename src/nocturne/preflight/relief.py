"""Relief as real geometry: what would have become too large."""

from collections.abc import Iterator
from pathlib import Path

from nocturne.engine.relief import Look, Reliefs
from nocturne.engine.things import drawn_things
from nocturne.preflight.findings import Finding, Mend
from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.faces import materials_of


def too_large(document: Document, assets: Assets, folder: Path) -> Iterator[Finding]:
    """Yield things whose relief is left coarser than its material asks, for what it would take."""
    if not any(material.heights for material in document.materials):
        return
    reliefs = Reliefs()
    drawn = drawn_things(document, assets, Look.of(document.view, document.view.width), reliefs)
    for moved in drawn.moved:
        thing = document.find("things", moved.thing)
        if not moved.is_cut or thing is None:
            continue
        materials = [document.find("materials", id) for id in materials_of(thing)]
        worn = [m for m in materials if m is not None and m.heights]
        words = (
            f"The relief of “{thing.name}” stops at {moved.triangles:,} triangles, as many as it may have; "
            "what is finer is shaded."
        )
        mends = [
            Mend(
                f"Make its triangles larger: {2 * material.relief_pixels:g} px",
                lambda d, m=material: edit.alter(d, "materials", m.id, relief_pixels=min(2 * m.relief_pixels, 64.0)),
            )
            for material in worn
        ]
        yield Finding("relief", words, "things", thing.id, tuple(mends), is_wrong=False)

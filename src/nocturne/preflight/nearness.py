"""Patterns that ask for the distance to a thing, where there is none to ask."""

from collections.abc import Iterator
from pathlib import Path

from nocturne.preflight.files import with_step
from nocturne.preflight.findings import Finding, Mend
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.patterns import every


def nothing_to_ask(document: Document, assets: Assets, folder: Path) -> Iterator[Finding]:
    """Yield steps whose thing is not in the set, or none was chosen: everything is far from it."""
    for material in document.materials:
        for step in every(material.steps):
            if step.kind != "nearness" or document.find("things", step.thing) is not None:
                continue
            why = "a thing that is not in the set any more" if step.thing else "no thing yet"
            words = f"A step of “{material.name}” asks for the distance to {why}; everything is far from it."
            mend = Mend("Leave the step out", lambda d, m=material, s=step: with_step(d, m, s, None))
            yield Finding("distances", words, "materials", material.id, (mend,), is_wrong=False)

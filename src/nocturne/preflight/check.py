"""All checks, one after another."""

from collections.abc import Iterator
from pathlib import Path

from nocturne.jobs import Update
from nocturne.preflight import cuts, files, glass, holes, lights, nearness, relief, shapes
from nocturne.preflight.findings import Finding
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document

CHECKS = (
    ("files", files.missing_files),
    ("faces", files.missing_faces),
    ("pictures", files.misread_pictures),
    ("environments", lights.doubled_environments),
    ("powers", lights.odd_powers),
    ("light", lights.no_light),
    ("lamps", lights.points_behind_glass),
    ("lamps in glass", glass.light_behind_glass),
    ("negative light", lights.negative_pixels),
    ("materials", shapes.no_material),
    ("sizes", shapes.odd_sizes),
    ("cameras", shapes.cameras_inside),
    ("glass and liquid", shapes.coplanar_walls),
    ("overlapping glass and liquid", glass.unsettled_media),
    ("open shapes", holes.open_insides),
    ("cutaways", cuts.open_glass),
    ("relief", relief.too_large),
    ("distances", nearness.nothing_to_ask),
)


def check(document: Document, assets: Assets, folder: Path) -> Iterator[Update]:
    """Run every check; the last update's `result` is the list of findings, what is wrong first."""
    found: list[Finding] = []
    for i, (name, look) in enumerate(CHECKS):
        yield Update(i, len(CHECKS), f"Checking {name}")
        found += look(document, assets, folder)
    found.sort(key=lambda finding: not finding.is_wrong)
    yield Update(len(CHECKS), len(CHECKS), "Checked", result=found)

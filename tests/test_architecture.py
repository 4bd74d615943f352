"""The page on the architecture names files that are there, and registries that hold what it says."""

import re
from pathlib import Path

import pytest

import nocturne

PACKAGE = Path(nocturne.__file__).parent
PAGE = (PACKAGE.parents[1] / "docs" / "architecture.md").read_text()
NAMED = sorted(set(re.findall(r"`([a-z_/]+\.(?:py|npz|md))`", PAGE)))


@pytest.mark.parametrize("name", NAMED)
def test_files_that_are_named_are_there(name):
    roots = (PACKAGE, PACKAGE / "engine", PACKAGE / "ui", PACKAGE.parents[1])
    assert any((root / name).is_file() for root in roots), name


def _registered(path: str) -> set[str]:
    """Return the last parts of the modules that a registry imports from the folder it stands for."""
    text = (PACKAGE / path).read_text()
    return {
        name
        for line in re.findall(r"^(?:from|import) .*?$(?:\n    .*?,$|\n\)$)*", text, re.M)
        for name in re.findall(r"\w+", line)
    }


@pytest.mark.parametrize(
    ("folder", "registry", "helpers"),
    [
        ("scene/lights", "scene/lights/__init__.py", {"light", "sunlike"}),
        ("engine/kernels/lights", "engine/kernels/lights/units.py", {"choose", "cone", "units"}),
        (
            "engine/kernels/lobes",
            "engine/kernels/lobes/surface.py",
            {"dielectric", "facets", "film", "metal", "onward", "sheet", "surface", "undercoat", "units"},
        ),
        (
            "scene/patterns",
            "scene/patterns/__init__.py",
            {"emblems", "evaluate", "hashing", "outline", "step", "tiles", "tiling"},
        ),
        ("scene/forms", "scene/forms/__init__.py", set()),
        (
            "engine/kernels/patterns",
            "engine/kernels/patterns/steps.py",
            {
                "blend",
                "drive",
                "emblems",
                "handing",
                "heights",
                "nearest",
                "normals",
                "hashing",
                "machine",
                "noise",
                "outlines",
                "places",
                "layers",
                "relief",
                "steps",
                "units",
            },
        ),
        ("preflight", "preflight/check.py", {"check", "findings"}),
        ("ui/panels/sheets", "ui/pages.py", {"sheet"}),
    ],
)
def test_what_has_a_file_is_entered(folder, registry, helpers):
    files = {path.stem for path in (PACKAGE / folder).glob("*.py")} - {"__init__"} - helpers
    assert files, folder
    assert files <= _registered(registry), f"{sorted(files - _registered(registry))} are not entered in {registry}"
    assert f"`{registry}`" in PAGE

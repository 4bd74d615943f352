"""Which package may import which: the table is the documentation."""

import ast
from pathlib import Path

import pytest

import nocturne

PACKAGE = Path(nocturne.__file__).parent
CORE = "errors rows jobs kept colour lettering scene film engine finish io rendering demo warm preflight swatch deliver"
CORE += " pieces stock ownprocess"
MAY_IMPORT = {
    "errors": "",
    "jobs": "errors",
    "kept": "",
    "ownprocess": "",
    "colour": "errors",
    "lettering": "errors jobs kept",
    "scene": "errors kept colour lettering",
    "rows": "",
    "film": "errors colour rows",
    "engine": "errors rows jobs kept colour scene film",
    "finish": "errors jobs kept colour scene film engine",
    "io": "errors rows jobs ownprocess colour scene film",
    "demo": "errors jobs colour scene io pieces",
    "preflight": "errors jobs lettering scene engine io",
    "rendering": "errors jobs scene film engine finish io",
    "swatch": "errors jobs scene engine finish rendering demo",
    "deliver": "errors jobs colour scene film finish io rendering",
    "pieces": "errors jobs colour scene io deliver",
    "stock": "errors jobs colour scene io deliver",
    "warm": "errors jobs ownprocess engine finish",
    "cli": CORE + " ui",
    "ui": CORE,
    "__main__": "cli ui ownprocess",
}
ONLY_IN = {"PySide6": "ui", "numba": "engine", "argparse": "cli"}


def imported(path: Path) -> list[str]:
    """Return every module a file imports, also inside functions; refuse relative imports."""
    names = []
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            names += [alias.name for alias in node.names]
        elif isinstance(node, ast.ImportFrom):
            assert node.level == 0, f"{path} has a relative import"
            names += [node.module] + [
                f"{node.module}.{alias.name}" for alias in node.names if node.module == "nocturne"
            ]
    return names


@pytest.mark.parametrize("path", sorted(PACKAGE.rglob("*.py")), ids=lambda p: str(p.relative_to(PACKAGE)))
def test_imports_follow_the_table(path):
    here = path.relative_to(PACKAGE).with_suffix("").parts[0]
    for name in imported(path):
        root, *rest = name.split(".")
        if root == "nocturne" and here != "__init__" and rest and rest[0] != "__version__":
            assert rest[0] in [here, *MAY_IMPORT[here].split()], f"{here} imports {name}"
        assert here in ONLY_IN.get(root, here).split(), f"{here} imports {root}"

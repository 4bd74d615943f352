"""Rows: offsets made from descriptions, nothing over anything else, and no number of a column anywhere but there."""

import ast
import importlib
import pkgutil
from pathlib import Path

import numpy as np
import pytest

import nocturne
from nocturne.engine import layout
from nocturne.engine.layout import scratch
from nocturne.engine.types import SCENE, offsets
from nocturne.film import layout as film_layout
from nocturne.rows import Field, Part, Row, constants

MODULES = [
    film_layout,
    *(importlib.import_module(f"{layout.__name__}.{m.name}") for m in pkgutil.iter_modules(layout.__path__)),
]
ROWS = {f"{m.__name__}.{name}": row for m in MODULES for name, row in vars(m).items() if isinstance(row, Row)}
KERNELS = Path(nocturne.__file__).parent / "engine" / "kernels"


@pytest.mark.parametrize("name", ROWS)
def test_no_part_of_a_row_lies_over_another(name):
    row = ROWS[name]
    taken = np.zeros(row.width, int)
    for part in row.parts:
        taken[row.span(part.name)] += 1
        assert row.offsets[part.name] % part.align == 0
        assert part.meaning
    assert taken.max() == 1
    assert sum(taken) == sum(p.width.width if isinstance(p.width, Row) else p.width for p in row.parts)


@pytest.mark.parametrize("module", MODULES[1:], ids=lambda m: m.__name__.rpartition(".")[2])
def test_a_module_holds_the_offsets_of_its_rows(module):
    own = [row for name, row in vars(module).items() if isinstance(row, Row) and name not in vars(film_layout)]
    for row in own:
        for name, at in row.offsets.items():
            assert getattr(module, name) == at


def test_embree_s_records_are_aligned_in_the_work_row():
    assert scratch.RAY % 16 == scratch.SHADOW % 16 == 0
    assert scratch.length(3) == scratch.ROW.width + 9


def test_what_cannot_be_a_row_is_refused():
    with pytest.raises(ValueError, match="twice"):
        Row(Part("A", 1, "one"), Part("A", 1, "other"))
    with pytest.raises(ValueError, match="no width"):
        Row(Part("A", 0, "nothing"))
    with pytest.raises(ValueError, match="two rows"):
        constants(Row(Part("A", 1, "one")), Row(Part("A", 1, "other")))
    with pytest.raises(KeyError):
        Row(Part("A", 1, "one")).filled(np.float32, B=1)


def test_a_row_is_filled_by_name():
    row = Row(Part("A", 2, "pair"), Part("B", 1, "one", align=4), Part("C", Row(Part("D", 3, "three")), "row"))
    assert row.filled(np.float32, A=(1, 2), C=(3, 4, 5)).tolist() == [1, 2, 0, 0, 0, 3, 4, 5]
    assert Field("x", "f4", (None, row), "").shape == (None, 8)


def test_arrays_of_a_table_follow_each_other():
    where = offsets(SCENE)
    for field, after in zip(SCENE, SCENE[1:]):
        assert where[after.name] == where[field.name] + 1 + len(field.shape)


def _column_numbers(path: Path) -> list[str]:
    """Return subscripts of rows and tables by a bare number, and numbers from 3 on that are added to a row's offset."""
    found = []
    for node in ast.walk(ast.parse(path.read_text())):
        if not isinstance(node, ast.Subscript):
            continue
        text = ast.unparse(node)
        is_table = isinstance(node.value, ast.Call) and ast.unparse(node.value.func).startswith(("T.", "FT."))
        is_row = isinstance(node.value, ast.Name) and node.value.id in ("W", "I", "C", "F", "L", "M")
        if is_table:
            last = node.slice.elts[-1] if isinstance(node.slice, ast.Tuple) else None
            # Plain vectors, texels and the two halves of a table entry are counted; rows are named.
            plain = ("tris", "texels", "env_px", "inst_xf", "inst_nm", "tab_")
            if isinstance(last, ast.Constant) and not any(f".{name}" in text for name in plain):
                found.append(text)
        elif is_row:
            index = node.slice.elts[-1] if isinstance(node.slice, ast.Tuple) else node.slice
            is_bare = isinstance(index, ast.Constant)
            sums = [n for n in ast.walk(index) if isinstance(n, ast.BinOp) and isinstance(n.op, ast.Add)]
            ends = [end.value for n in sums for end in (n.left, n.right) if isinstance(end, ast.Constant)]
            # A vector's components are 0 to 2, a matrix's follow its own name.
            if is_bare or (any(n > 2 for n in ends) and "TURN" not in text and "RANDOM" not in text):
                found.append(text)
    return found


@pytest.mark.parametrize("path", sorted(KERNELS.rglob("*.py")), ids=lambda p: str(p.relative_to(KERNELS)))
def test_kernels_name_the_columns_they_read(path):
    if path.name == "vectors.py":  # affine maps of plain 3x4 matrices
        return
    assert _column_numbers(path) == []


def test_a_bare_column_number_is_found(tmp_path):
    (tmp_path / "a.py").write_text("x = W[5] + T.light_i(S)[l, 4] + W[Scratch.LAMP + 7] + W[Scratch.P + 1] + I[k]\n")
    assert set(_column_numbers(tmp_path / "a.py")) == {"W[5]", "T.light_i(S)[l, 4]", "W[Scratch.LAMP + 7]"}

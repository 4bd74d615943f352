"""Own patterns: kept and read back equal, names of their own, and what is damaged is told and left out."""

import json

from nocturne.io import ownpatterns
from nocturne.scene.patterns import KINDS, Constant, Fractal, Picture


def test_each_kind_is_kept_and_read_back(tmp_path):
    for kind, model in KINDS.items():
        values = {"path": "wood.png"} if kind == "image" else {}
        step = model(parameter="specular_roughness", amount=0.4, steps=(Fractal(parameter="amount"),), **values)
        ownpatterns.keep(step, f"Mine, {kind}", tmp_path / "project", tmp_path / "shelf")
    found, refused = ownpatterns.own(tmp_path / "shelf")
    assert refused == []
    assert [p.step.kind for p in found] == sorted(KINDS, key=str.casefold)
    image = next(p.step for p in found if p.step.kind == "image")
    assert image.path == (tmp_path / "project" / "wood.png").as_posix(), "found from any project"
    assert all(p.step.steps == (Fractal(parameter="amount"),) for p in found)


def test_names_are_their_own_and_what_is_off_the_shelf_is_gone(tmp_path):
    for _ in range(3):
        ownpatterns.keep(Constant(), "A/b: c", tmp_path, tmp_path)
    found, _ = ownpatterns.own(tmp_path)
    assert len({p.name for p in found}) == len({p.path for p in found}) == 3
    ownpatterns.remove(found[0])
    ownpatterns.remove(found[0])
    assert len(ownpatterns.own(tmp_path)[0]) == 2
    assert ownpatterns.own(tmp_path / "nowhere") == ((), [])


def test_what_is_damaged_is_told_and_the_others_are_there(tmp_path):
    kept = ownpatterns.keep(Picture(path="p.png"), "Good", tmp_path, tmp_path)
    raw = json.loads(kept.path.read_text())
    deep = raw["step"]
    for _ in range(50):
        deep = {**raw["step"], "steps": [deep]}
    odd = {
        "half": kept.path.read_text()[:40],
        "list": "[]",
        "kind": json.dumps({**raw, "step": {"kind": "nobody"}}),
        "deep": json.dumps({**raw, "step": deep}),
        "none": json.dumps({"name": "x"}),
        "nested": "[" * 100_000,
    }
    for name, text in odd.items():
        (tmp_path / f"{name}{ownpatterns.SUFFIX}").write_text(text)
    (tmp_path / f"bytes{ownpatterns.SUFFIX}").write_bytes(b"\xff\xfe\x00")
    (tmp_path / f"folder{ownpatterns.SUFFIX}").mkdir()
    found, refused = ownpatterns.own(tmp_path)
    assert [p.name for p in found] == ["Good"]
    assert len(refused) == len(odd) + 1
    assert all("no pattern" in str(error) for error in refused)
    (tmp_path / f"new{ownpatterns.SUFFIX}").write_text(json.dumps({**raw, "nocturne_pattern": 2}))
    found, refused = ownpatterns.own(tmp_path)
    assert [p.name for p in found] == ["Good"]
    assert sum("newer Nocturne" in str(error) for error in refused) == 1

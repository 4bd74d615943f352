"""A pack takes along what an OpenUSD layer leads to."""

import numpy as np

from nocturne.deliver import pack
from nocturne.io import picture, project
from nocturne.io.models import usdout
from nocturne.io.models.outgoing import Outgoing
from nocturne.jobs import run
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.forms.box import Box
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Picture
from nocturne.scene.thing import Thing


def test_layers_and_pictures_of_a_stage_come_along(tmp_path):
    picture.write(tmp_path / "wood.png", np.full((4, 4, 3), 0.5))
    material = Material(id="m", name="Wood", steps=(Picture(path="wood.png"),))
    document = Document(things=(Thing(id="t", name="Box", form=Box(), material="m"),), materials=(material,))
    home = tmp_path / "home"
    home.mkdir()
    usdout.write(home / "inner.usda", Outgoing.of(document, Assets(), tmp_path))
    (home / "outer.usda").write_text('#usda 1.0\ndef "In" (\n    references = @inner.usda@\n)\n{\n}\n')
    named = Document(things=(Thing(id="t", name="Box", mesh="outer.usda#Box"),))
    target, missing = run(pack.pack(named, home, tmp_path / "packed"))
    assert not missing
    assert [p.name for p in (tmp_path / "packed").rglob("*.png")] == ["wood.png"]
    opened = run(project.load(target))
    assert not opened.assets.problems
    assert len(opened.assets.meshes) == 1

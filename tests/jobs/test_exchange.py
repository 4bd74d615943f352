"""J15 through the real window: materials from MaterialX, what has no equal listed, and out again."""

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from nocturne.io import picture
from nocturne.io.models import read as models
from nocturne.scene import edit
from nocturne.scene.forms import KINDS as FORMS
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Picture
from nocturne.scene.thing import Thing
from tests.io.test_mtlx import HEAD, linked, number, surface
from tests.ui.test_window import wait_for_picture


@pytest.fixture
def window(qtbot, make_window):
    """Return a window that looks at a box."""
    window = make_window()
    window.start_page.hide()
    session = window.session
    box = Thing(id="a", name="A", form=FORMS["box"](), material="m")
    dome = make_light(id="dome", kind="dome", unit="nit", power=100)
    document = edit.changed(
        session.document, things=(box,), materials=(Material(id="m", name="Plain"),), lights=(dome,)
    )
    session.push(document, "Set")
    return window


def test_materials_come_in_from_another_program_and_go_out(qtbot, window, tmp_path):
    session = window.session
    picture.write(tmp_path / "oak.png", np.full((8, 8, 3), (0.6, 0.4, 0.2)))
    graph = (
        '<image name="i" type="color3"><input name="file" type="filename" value="oak.png"'
        ' colorspace="srgb_texture"/></image>'
        '<ramp4 name="r" type="float">'
        + "".join(
            number(name, value)
            for name, value in zip(("valuetl", "valuetr", "valuebl", "valuebr"), (0.1, 0.9, 0.3, 0.5))
        )
        + '</ramp4><viewdirection name="v" type="vector3"/><extract name="e" type="float">'
        + linked("in", "v", "vector3")
        + number("index", 2, "integer")
        + "</extract>"
    )
    inputs = linked("base_color", "i", "color3") + linked("specular_roughness", "r") + linked("fuzz_weight", "e")
    path = tmp_path / "wood.mtlx"
    path.write_text(HEAD + surface("open_pbr_surface", inputs, graph).replace("Thing", "Imported_oak") + "</materialx>")
    with qtbot.waitSignal(window.bring.arrived, timeout=60000):
        window.bring.look_at([path])
    card = window.bring_sheet
    assert card.isVisibleTo(window)
    words = " ".join(label.text() for label in card.findChildren(type(card.blocks[0].size)))
    assert "1 material" in words
    assert "viewdirection" in words
    assert "baked to a picture" in words
    assert not card.blocks[0].unit.isVisibleTo(window), "materials have no unit"
    QTest.mouseClick(card.go, Qt.MouseButton.LeftButton)
    oak = session.document.find("materials", session.chosen["materials"])
    assert (oak.name, session.stage) == ("Imported oak", "materials")
    assert [thing.name for thing in session.document.things] == ["A"], "no empty group comes along"
    steps = {step.parameter: step for step in oak.steps}
    assert isinstance(steps["base_color"], Picture)
    assert steps["specular_roughness"].path.endswith("wood.mtlx#Imported_oak:specular_roughness")
    window.choice.give_to(oak.id, ("a",))
    qtbot.waitUntil(lambda: all(step.picture in session.assets.images for step in oak.steps), timeout=60000)
    baked = session.assets.images[steps["specular_roughness"].picture]
    # The top row of the picture is v = 1.
    assert baked[0, 0, 0] == pytest.approx(0.1, abs=0.01)
    assert baked[-1, -1, 0] == pytest.approx(0.5, abs=0.01)
    wait_for_picture(qtbot, window)
    # Out again, with the pictures beside it.
    out = tmp_path / "set" / "out.mtlx"
    out.parent.mkdir()
    with qtbot.waitSignal(
        window.runner.finished, timeout=60000, check_params_cb=lambda kind, _: kind == "Export the set"
    ):
        window.bring.export(out)
    back = {m.name: m for m in models.read(out).materials}
    assert set(back) == {"Plain", "Imported oak"}
    assert not models.read(out).missing
    assert {step.parameter for step in back["Imported oak"].steps} == {"base_color", "specular_roughness"}

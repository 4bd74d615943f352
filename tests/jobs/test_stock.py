"""J5 and J11 to J13 through the real window: ready materials, the order of glass and liquid, wax, a glowing tube."""

import weakref

import pytest
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from nocturne.colour.clears import clears
from nocturne.engine.overlaps import Found
from nocturne.scene import edit, glowing, mediaorder
from nocturne.scene.forms import KINDS as FORMS
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Facing, Ramp
from nocturne.scene.thing import Thing
from nocturne.ui.panels.mediacard import MediaCard
from nocturne.ui.view.hands.dropping import STOCK_MIME
from tests.jobs.test_metals import choose
from tests.jobs.test_tools import at, run
from tests.ui.test_widgets import type_into
from tests.ui.test_window import wait_for_picture

NONE, SHIFT = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier
CLEAR = {"transmission_weight": 1.0, "specular_roughness": 0.0}


@pytest.fixture
def window(qtbot, make_window):
    """Return a window that looks at two boxes of one material, and liquid in which there is a bubble."""
    window = make_window()
    window.start_page.hide()
    session = window.session
    box, ball = FORMS["box"](), FORMS["ball"](diameter=1.0)
    things = (
        Thing(id="a", name="A", form=box, material="m"),
        Thing(id="b", name="B", form=box, material="m", place=(2.0, 0.0, 0.0)),
        Thing(id="drop", name="Drop", form=ball, material="water", place=(-2.0, 0.0, 0.0)),
        Thing(id="bubble", name="Bubble", form=FORMS["ball"](diameter=0.2), material="air", place=(-2.0, 0.0, 0.4)),
    )
    materials = (
        Material(id="m", name="Plain"),
        Material(id="water", name="Water", specular_ior=1.333, precedence=2, **CLEAR),
        Material(id="air", name="Bubble", specular_ior=1.0, precedence=1, **CLEAR),
    )
    dome = make_light(id="dome", kind="dome", unit="nit", power=100)
    document = edit.changed(session.document, things=things, materials=materials, lights=(dome,))
    view = edit.changed(document.view, eye=(0.0, -7.0, 2.5), target=(0.0, 0.0, 0.4), focal_mm=35)
    session.push(edit.put(document, "views", view), "Set")
    session.go_to("materials")
    session.choose("materials", "m")
    wait_for_picture(qtbot, window)
    return window


def thing(window, id: str) -> Thing:
    return window.session.document.find("things", id)


def material(window, id: str) -> Material:
    return window.session.document.find("materials", id)


def drop(window, card, point, modifiers=NONE) -> None:
    data = window.feet["stock"].view.mimeData([card])
    assert data.hasFormat(STOCK_MIME)
    there, copy = QPointF(at(window, point)), Qt.DropAction.CopyAction
    event = QDropEvent(there, copy, data, Qt.MouseButton.LeftButton, modifiers, QEvent.Type.Drop)
    window.picture.dropEvent(event)


def card_of(window, qtbot, words: str):
    strip = window.feet["stock"]
    qtbot.waitUntil(lambda: bool(window.stock.ready), timeout=30000)
    strip.words.setText(words)
    assert strip.view.count() >= 1, words
    return strip.view.item(0)


def test_a_ready_material_is_found_and_dropped(qtbot, window):
    strip, session = window.feet["stock"], window.session
    assert window.foot.currentWidget() is strip, "they lie below the picture where materials are worked on"
    gold = card_of(window, qtbot, "polished gold")
    assert not gold.icon().isNull()
    n = len(session.history.steps)
    drop(window, gold, (0.0, 0.0, 1.0))
    given = material(window, thing(window, "a").material)
    assert given.name == "Polished gold"
    assert thing(window, "b").material == "m"
    assert len(session.history.steps) == n + 1, "one step back undoes all of it"
    assert session.chosen["materials"] == given.id
    assert window.sheets["materials"].title.text() == "Polished gold"
    # With Shift all that wear the same get it; the same one is not put in twice.
    session.undo()
    drop(window, card_of(window, qtbot, "polished gold"), (2.0, 0.0, 1.0), SHIFT)
    assert thing(window, "a").material == thing(window, "b").material != "m"
    drop(window, card_of(window, qtbot, "oiled oak"), (0.0, 0.0, 1.0))
    drop(window, card_of(window, qtbot, "oiled oak"), (2.0, 0.0, 1.0))
    assert thing(window, "a").material == thing(window, "b").material
    assert [m.name for m in session.document.materials].count("Oiled oak") == 1
    # By kind, and by a double click onto the choice.
    strip.words.setText("")
    choose(strip.kind, "Wood")
    assert 5 <= strip.view.count() < 30
    session.choose("things", "b")
    strip.view.itemActivated.emit(strip.view.item(1))
    assert thing(window, "b").material != thing(window, "a").material


def test_a_layered_one_comes_whole_and_chosen_faces_get_it(qtbot, window):
    session = window.session
    session.choose("things", "a")
    run(window, "things.faces")
    QTest.mouseClick(window.picture, Qt.MouseButton.LeftButton, NONE, at(window, (0.0, 0.0, 1.0)))
    assert window.setwork.faces is not None
    drop(window, card_of(window, qtbot, "old brass"), (0.0, 0.0, 1.0))
    new = session.document.find("materials", session.chosen["materials"])
    assert new.name == "Old brass"
    assert [face.material for face in thing(window, "a").faces] == [new.id]
    assert thing(window, "a").material == "m"
    assert material(window, new.layer_over).name == "Polished brass"


def test_own_materials_are_kept_across_projects(qtbot, window):
    session, strip = window.session, window.feet["stock"]
    card_of(window, qtbot, "")
    session.edit(edit.alter, "materials", "m", name="House red", base_color=(0.4, 0.02, 0.02), label="Red")
    session.choose("materials", "m")
    QTest.mouseClick(strip.keep, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: any(one.is_own for one in window.stock.ready.values()), timeout=30000)
    card = card_of(window, qtbot, "house red")
    strip.view.setCurrentItem(card)
    card.setText("House crimson")
    qtbot.waitUntil(lambda: any(one.name == "House crimson" for one in window.stock.ready.values()), timeout=30000)
    own = next(one for one in window.stock.ready.values() if one.is_own)
    qtbot.waitUntil(lambda: window.thumbs.known(f"stock {own.id}") is not None, timeout=120000)
    session.history.mark_saved(session.document)
    window.projects.new()
    window.session.go_to("materials")
    window.stock.give_to_choice(own.id)
    qtbot.waitUntil(lambda: [m.name for m in window.session.document.materials] == ["House crimson"], timeout=30000)
    strip.removed.emit(own.id)
    qtbot.waitUntil(lambda: not any(one.is_own for one in window.stock.ready.values()), timeout=30000)


def test_the_order_of_glass_and_liquid_is_seen_and_dragged(qtbot, window):
    session = window.session
    session.choose("materials", "water")
    sheet = window.sheets["materials"]
    assert sheet.substance.isVisibleTo(sheet)
    choose(sheet.substance.box, "water")
    water = material(window, "water")
    assert (water.specular_ior, water.transmission_dispersion_scale) == (clears()["water"].index, 1.0)
    assert "Daimon" in sheet.substance.source.text()
    type_into(qtbot, sheet.form.editors["specular_ior"].entry, "1.4")
    assert sheet.substance.box.currentData() == "", "own numbers are nobody's"
    QTest.mouseClick(sheet.order, Qt.MouseButton.LeftButton)
    card = next(w for w in QApplication.topLevelWidgets() if isinstance(w, MediaCard))
    qtbot.waitUntil(lambda: card.found is not None, timeout=30000)
    assert card.ids() == ["water", "air"]
    assert "“Bubble” lies in “Drop”" in card.hint.text()
    QTest.mouseClick(card.suggest, Qt.MouseButton.LeftButton)
    assert [m.id for m in mediaorder.media(session.document)] == ["air", "water"]
    assert not card.suggest.isEnabled()
    walls = [card.walls.item(i).text() for i in range(card.walls.count())]
    assert walls == ["Air → Water    × 1.4", "Water → Bubble    × 0.7143"]
    card.walls.setCurrentRow(1)
    assert "all beyond 46°" in card.words.text()
    # Of equal precedence they are not settled, though the list has them as the shapes suggest.
    for id in ("air", "water"):
        session.edit(edit.alter, "materials", id, precedence=0, label="Level")
    listed = {m.id: m for m in session.document.materials}
    session.push(edit.changed(session.document, materials=(listed.pop("air"), *listed.values())), "Air first")
    assert card.ids()[:2] == ["air", "water"]
    assert "the same precedence" in card.hint.text()
    QTest.mouseClick(card.suggest, Qt.MouseButton.LeftButton)
    assert session.document.find("materials", "air").precedence > session.document.find("materials", "water").precedence
    assert not card.suggest.isEnabled()
    # By hand: the list is dragged as Qt drags it, and by buttons.
    model = card.order.model()
    assert model.moveRow(model.index(0, 0).parent(), 0, model.index(0, 0).parent(), 2)
    assert [m.id for m in mediaorder.media(session.document)] == ["water", "air"]
    card.order.setCurrentRow(1)
    QTest.mouseClick(card.up, Qt.MouseButton.LeftButton)
    assert [m.id for m in mediaorder.media(session.document)] == ["air", "water"]
    card.counts.click()
    assert not session.document.quality.overlaps
    session.undo()
    assert card.counts.isChecked()
    # What was found before an edit may name what is no medium any more; what is one now is looked at.
    told = mediaorder.Meeting("water", "gone", ("Drop", "Pane")), mediaorder.Meeting("water", "air", ("Drop", "Bubble"))
    card.show_found(Found(told, ()))
    assert "“Drop” lies in “Bubble”" in card.hint.text()
    with qtbot.waitSignal(card.look_wanted):
        session.edit(edit.alter, "materials", "air", transmission_weight=0.0, label="Clay")
    assert card.ids() == ["water"]
    card.close()


def test_a_large_glow_is_measured_behind_the_window(qtbot, window, monkeypatch):
    monkeypatch.setattr(glowing, "_LARGE", 0)
    session, sheet = window.session, window.sheets["materials"]
    session.choose("materials", "m")
    if not sheet.form.headings["Glow"][0].isChecked():
        QTest.mouseClick(sheet.form.headings["Glow"][0], Qt.MouseButton.LeftButton)
    monkeypatch.setattr(glowing, "_areas", weakref.WeakKeyDictionary())
    type_into(qtbot, sheet.form.editors["emission_luminance"].entry, "500")
    qtbot.waitUntil(lambda: "lm from 5.99 m²" in sheet.glow.text())
    monkeypatch.setattr(glowing, "_areas", weakref.WeakKeyDictionary())
    choose(sheet.form.editors["emission_unit"], "lm")
    qtbot.waitUntil(lambda: material(window, "m").emission_unit == "lm")
    assert material(window, "m").emission_power == pytest.approx(3.14159 * 500 * 5.99, rel=1e-3)


def test_a_gas_tube_glows_with_a_hot_core(qtbot, window):
    session, sheet = window.session, window.sheets["materials"]
    session.choose("materials", "m")
    if not sheet.form.headings["Glow"][0].isChecked():
        QTest.mouseClick(sheet.form.headings["Glow"][0], Qt.MouseButton.LeftButton)
    type_into(qtbot, sheet.form.editors["emission_luminance"].entry, "500")
    assert material(window, "m").emission_group == "Plain", "a light group of its own"
    assert "Plain" in session.document.lit_groups
    assert "lm from 5.99 m²" in sheet.glow.text()
    choose(sheet.form.editors["emission_unit"], "W")
    glow = material(window, "m")
    # What it gave in nits, in watts: pi * 500 nit * 6 m2, its edges rounded, over 60 lm/W.
    assert glow.emission_power == pytest.approx(3.14159 * 500 * 5.99 / 60, rel=1e-3)
    type_into(qtbot, sheet.form.editors["emission_power"].entry, "1200 lm")
    assert (material(window, "m").emission_unit, material(window, "m").emission_power) == ("lm", 1200.0)
    choose(sheet.form.editors["emission_color_from"], "kelvin")
    type_into(qtbot, sheet.form.editors["emission_kelvin"].entry, "2200K")
    assert material(window, "m").glow_color[0] > 2 * material(window, "m").glow_color[2]
    QTest.mouseClick(sheet.hot_core, Qt.MouseButton.LeftButton)
    steps = material(window, "m").steps
    assert [type(step) for step in steps] == [Facing, Ramp]
    assert not sheet.hot_core.isVisibleTo(sheet)
    assert "1,200 lm" in sheet.glow.text(), "the power stays, whatever the ramp makes of the colour"
    type_into(qtbot, sheet.form.editors["emission_look_stops"].entry, "-2")
    assert material(window, "m").emission_look_stops == -2


def test_wax_and_a_leaf_are_made_by_hand(qtbot, window):
    session, sheet = window.session, window.sheets["materials"]
    session.choose("materials", "m")

    def opened(title: str) -> None:
        if not sheet.form.headings[title][0].isChecked():
            QTest.mouseClick(sheet.form.headings[title][0], Qt.MouseButton.LeftButton)

    opened("Below the surface")
    type_into(qtbot, sheet.form.editors["subsurface_weight"].entry, "1")
    type_into(qtbot, sheet.form.editors["subsurface_radius_mm"].entry, "0.8 cm")
    for field, share in zip(sheet.form.editors["subsurface_radius_scale"].fields, ("1", "0.6", "0.3")):
        type_into(qtbot, field.entry, share)
    opened("Coat")
    type_into(qtbot, sheet.form.editors["coat_weight"].entry, "0.5")
    wax = material(window, "m")
    assert (wax.subsurface_weight, wax.subsurface_radius_mm, wax.coat_weight) == (1.0, pytest.approx(8.0), 0.5)
    assert wax.subsurface_radius_scale == (1.0, 0.6, 0.3)
    assert sheet.form.rows["geometry_thin_walled"].isVisibleTo(sheet.form)
    # As a sheet it has no radius, but says how much goes to its other side.
    sheet.form.editors["geometry_thin_walled"].click()
    assert material(window, "m").geometry_thin_walled
    assert not sheet.form.rows["subsurface_radius_mm"].isVisibleTo(sheet.form)
    type_into(qtbot, sheet.form.editors["subsurface_scatter_anisotropy"].entry, "0.5")
    assert material(window, "m").subsurface_scatter_anisotropy == 0.5
    # A thing is rounded by itself, whatever its material says.
    session.go_to("set")
    session.choose("things", "a")
    thing_sheet = window.sheets["set"]
    type_into(qtbot, thing_sheet.form.editors["rounding_mm"].entry, "2")
    assert thing_sheet.form.rows["rounding_angle_deg"].isVisibleTo(thing_sheet.form)
    assert thing(window, "a").rounding_mm == 2.0
    wait_for_picture(qtbot, window)

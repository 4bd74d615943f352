"""Screenshots of every main view, made from the demo project, for docs/screenshots.

    PYTHONPATH=src .venv/bin/python tools/shoot.py [--seconds 40] [NAME...]

Runs without a screen; each view is shot when the picture has settled for the given time.
"""

import argparse
import os
import sys
import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"
os.environ["QT_SCALE_FACTOR"] = "1"
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp(prefix="nocturne-shoot-")
os.environ["XDG_DATA_HOME"] = tempfile.mkdtemp(prefix="nocturne-shoot-data-")

import numpy as np
from PySide6.QtCore import QEventLoop, QPoint, QTimer

from nocturne.deliver.convert import export_set
from nocturne.demo import workshop
from nocturne.jobs import run
from nocturne.scene import edit
from nocturne.scene.faces import materials_of
from nocturne.scene.lights import make_light
from nocturne.ui.app import application
from nocturne.ui.window import Window

TARGET = Path(__file__).resolve().parents[1] / "docs" / "screenshots"


@dataclass(frozen=True)
class Shot:
    """One screenshot: the stage, what is chosen, the view, the pass, and what else is done before it."""

    name: str
    stage: str
    chosen: tuple[str, str] = ("", "")
    view: str = "wide"
    shown: str = "beauty"
    prepare: Callable[[Window], None] = lambda window: None
    after: Callable[[Window], None] = lambda window: None


def _compare(window: Window) -> None:
    """Keep a proof, change the light, compare both."""
    wait(16)
    window.proofs.keep()
    wait(5)
    window.session.edit(edit.alter, "lights", "bulb", power=3200.0, kelvin=4600.0, label="Lamp")
    window.session.edit(edit.set_strip, "tube", stops=-1.5, label="Fader")
    wait(22)
    window.proofs.toggle_compare()


def _uncompare(window: Window) -> None:
    window.showing.show_live()
    for _ in range(2):
        window.session.undo()


def _focus(window: Window) -> None:
    """Focus on the middle planet with a wide opening."""
    view = window.session.document.view
    window.session.edit(
        edit.alter, "views", view.id, depth_of_field=True, f_number=2.0, focus_m=1.05, blades=7, label="Focus"
    )


def _patterns(window: Window) -> None:
    """Open what wears a board's edges, with the outline at the top of the sheet."""
    sheet = window.sheets["materials"]
    edges = next(row for row in sheet.rows if row.step.kind == "edges")
    edges.picture.setChecked(True)
    wait(0.5)
    sheet.verticalScrollBar().setValue(sheet.outline.mapTo(sheet.widget(), QPoint(0, 0)).y() - 8)


def _sign(window: Window) -> None:
    """Stand before the sign, with the numbers of its letters open."""
    session = window.session
    near = {"eye": (0.80, 0.28, 0.98), "target": (0.94, 1.33, 0.91), "focal_mm": 40.0}
    session.edit(edit.alter, "views", session.document.view.id, **near, label="Before the sign")
    sheet = window.sheets["materials"]
    letters = next(row for row in sheet.rows if row.step.kind == "lettering" and row.step.face == "round")
    letters.picture.setChecked(True)
    wait(0.5)
    sheet.verticalScrollBar().setValue(letters.mapTo(sheet.widget(), QPoint(0, 0)).y() - 8)


def _bring(window: Window) -> None:
    """Show what is in a model that was made from the demo."""
    folder = Path(tempfile.mkdtemp(prefix="nocturne-shoot-model-"))
    session = window.session
    document = session.document
    kept = tuple(thing for thing in document.things if thing.id in document.with_members(("orrery",)))
    lamp = make_light(id="lamp", kind="point", name="Bulb over it", unit="cd", power=40.0, parent="orrery")
    worn = {id for thing in kept for id in materials_of(thing)}
    materials = tuple(m for m in document.materials if m.id in worn)
    part = edit.changed(document, things=kept, lights=(lamp,), materials=materials)
    run(export_set(part, session.assets, window.files.folder(), folder / "orrery.glb"))
    window.bring.look_at([folder / "orrery.glb"])
    wait(4)


def _thing(window: Window, name: str) -> str:
    return next(thing.id for thing in window.session.document.things if thing.name == name)


def _build(window: Window) -> None:
    """Put three shapes onto the bench and choose two of them."""
    session = window.session
    window.start = session.history.at
    for kind, values in (("turned", {}), ("box", {"width": 0.12, "depth": 0.12, "height": 0.16, "edge": 0.004}),
                         ("ball", {"diameter": 0.11})):  # fmt: skip
        window.choice.add_form(kind)
        id = session.chosen["things"]
        form = edit.changed(session.document.find("things", id).form, **values)
        session.edit(edit.alter, "things", id, form=form, label="Shape")
    for name, place, material in (
        ("Turned shape", (-0.35, -0.12, 0.8), "blue-enamel"),
        ("Box", (-0.08, -0.16, 0.8), "brass"),
        ("Ball", (0.12, -0.2, 0.8), "liquid"),
    ):
        material = material if session.document.find("materials", material) is not None else ""
        session.edit(edit.alter, "things", _thing(window, name), place=place, material=material, label="Place")
    session.choose_many("things", (_thing(window, "Turned shape"), _thing(window, "Ball"), _thing(window, "Box")))


def _back(window: Window) -> None:
    window.session.go_to_step(window.start)


def _scatter(window: Window) -> None:
    """Scatter beads over the bench."""
    session = window.session
    window.start = session.history.at
    window.choice.add_form("ball")
    ball = session.chosen["things"]
    form = edit.changed(session.document.find("things", ball).form, diameter=0.016, sides=32)
    session.edit(edit.alter, "things", ball, form=form, material="brass", visible=False, name="Bead", label="Bead")
    boards = [t.id for t in session.document.things if t.name.startswith("Board")]
    session.choose_many("things", (ball, boards[1]))
    window.choice.scatter(on_last=True)
    numbers = {"number": 900, "apart": 0.02, "smallest": 0.6, "steepest_deg": 10.0}
    window.sheets["set"]._rescatter(numbers, None)


def _measure(window: Window) -> None:
    """Measure the orrery's height, as two clicks would."""
    window.setwork.points = [np.array((0.0, 0.05, 0.8)), np.array((0.0, 0.05, 1.45))]
    window.setwork.length = 0.65
    window.setwork._draw()
    window.session.choose("things", _thing(window, "Orrery"))


def _unmeasure(window: Window) -> None:
    window.setwork.forget_measure()


def _cut(window: Window) -> None:
    """Cut the sun open, and leave what carries it whole."""
    window.start = window.session.history.at
    window.session.choose("things", _thing(window, "Sun"))
    window.choice.cut_away("box")


def _pieces(window: Window) -> None:
    """Show the pieces that the ones on the bench come from."""
    window.session.choose("things", _thing(window, "Colour chart"))
    window.show_foot("pieces")
    strip = window.feet["pieces"].view
    wait(25)
    strip.setCurrentRow(next(i for i in range(strip.count()) if strip.item(i).text() == "Mirror ball"))
    strip.scrollToItem(strip.currentItem(), strip.ScrollHint.PositionAtCenter)


SHOTS = (
    Shot("start", "set", prepare=lambda w: w.show_start(), after=lambda w: w.start_page.hide()),
    Shot("set", "set", ("things", "orrery-planet-5")),
    Shot("materials", "materials", ("materials", "liquid"), view="flask"),
    Shot("patterns", "materials", ("materials", "bench-board-1"), prepare=_patterns),
    Shot("sign", "materials", ("materials", "signboard"), prepare=_sign, after=lambda w: w.session.undo()),
    Shot("light", "light", ("lights", "bulb")),
    Shot("focus", "camera", view="orrery", prepare=_focus, after=lambda w: w.session.undo()),
    Shot(
        "camera",
        "camera",
        view="orrery",
        prepare=lambda w: w.picture_bar.scopes.setChecked(True),
        after=lambda w: w.picture_bar.scopes.setChecked(False),
    ),
    Shot(
        "stops",
        "camera",
        prepare=lambda w: w.picture_bar.stops.setChecked(True),
        after=lambda w: w.picture_bar.stops.setChecked(False),
    ),
    Shot("compare", "render", prepare=_compare, after=_uncompare),
    Shot("render", "render", shown="direct_diffuse"),
    Shot("finish", "finish", prepare=lambda w: w.lists["finish"].s_curve(), after=lambda w: w.session.undo()),
    Shot("bring", "set", prepare=_bring, after=lambda w: w.show_sheet(None)),
    Shot("build", "set", prepare=_build, after=_back),
    Shot("scatter", "set", prepare=_scatter, after=_back),
    Shot("measure", "set", prepare=_measure, after=_unmeasure),
    Shot("pieces", "set", prepare=_pieces, after=lambda w: w.show_foot("proofs")),
    Shot("cutaway", "set", view="orrery", prepare=_cut, after=_back),
    Shot("export", "render", prepare=lambda w: w.delivery.ask_export(), after=lambda w: w.show_sheet(None)),
)


def wait(seconds: float) -> None:
    """Run the event loop for a time."""
    loop = QEventLoop()
    QTimer.singleShot(round(seconds * 1000), loop.quit)
    loop.exec()


def shoot(window: Window, shot: Shot, seconds: float) -> None:
    """Bring the window into the state of a shot, wait, and write it."""
    window.session.choose("views", shot.view)
    window.session.go_to(shot.stage)
    if shot.chosen[0]:
        window.session.choose(*shot.chosen)
    shot.prepare(window)
    bar = window.picture_bar
    bar.passes.setCurrentIndex(bar.passes.findData(shot.shown))
    window.darkroom.set_shown(shot.shown)
    wait(seconds)
    TARGET.mkdir(parents=True, exist_ok=True)
    window.grab().save(str(TARGET / f"{shot.name}.png"))
    print(TARGET / f"{shot.name}.png")
    shot.after(window)


def main() -> int:
    """Make the screenshots that were asked for, all if none was named."""
    given = argparse.ArgumentParser(description=__doc__)
    given.add_argument("names", nargs="*")
    given.add_argument("--seconds", type=float, default=40)
    words = given.parse_args()
    application(["nocturne"])
    path = workshop.user_path()
    if not path.is_file():
        run(workshop.save(path.parent))
    window = Window()
    window.resize(1280, 800)
    window.show()
    window.open_path(path)
    wait(4)
    for shot in SHOTS:
        if not words.names or shot.name in words.names:
            shoot(window, shot, words.seconds)
    window.session.history.mark_saved(window.session.document)
    window.close()
    return 0


if __name__ == "__main__":
    sys.exit(main())

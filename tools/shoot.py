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

from PySide6.QtCore import QEventLoop, QTimer

from nocturne.demo import workshop
from nocturne.jobs import run
from nocturne.scene import edit
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
    """Open the placement of the wood's colour."""
    sheet = window.sheets["materials"]
    sheet.rows[-1].picture.setChecked(True)
    wait(0.3)
    sheet.verticalScrollBar().setValue(sheet.verticalScrollBar().maximum())


SHOTS = (
    Shot("start", "set", prepare=lambda w: w.show_start(), after=lambda w: w.start_page.hide()),
    Shot("set", "set", ("things", "orrery-planet-5")),
    Shot("materials", "materials", ("materials", "liquid"), view="flask"),
    Shot("patterns", "materials", ("materials", "bench-board-1"), prepare=_patterns),
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

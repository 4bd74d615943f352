"""Screenshots of every main view, made from the demo project, for docs/screenshots.

    PYTHONPATH=src .venv/bin/python tools/shoot.py [--seconds 40] [NAME...]

Runs without a screen; each view is shot when the picture has settled for the given time.
"""

import argparse
import os
import sys
import tempfile
from dataclasses import dataclass
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"
os.environ["QT_SCALE_FACTOR"] = "1"
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp(prefix="nocturne-shoot-")

from PySide6.QtCore import QEventLoop, QTimer

from nocturne.demo import workshop
from nocturne.jobs import run
from nocturne.ui.app import application
from nocturne.ui.window import Window

TARGET = Path(__file__).resolve().parents[1] / "docs" / "screenshots"


@dataclass(frozen=True)
class Shot:
    """One screenshot: the stage, what is chosen, the view, the pass."""

    name: str
    stage: str
    chosen: tuple[str, str] = ("", "")
    view: str = "wide"
    shown: str = "beauty"


SHOTS = (
    Shot("set", "set", ("things", "orrery-planet-5")),
    Shot("materials", "materials", ("materials", "liquid"), view="flask"),
    Shot("light", "light", ("lights", "bulb")),
    Shot("camera", "camera", view="orrery"),
    Shot("render", "render", shown="direct_diffuse"),
    Shot("finish", "finish", ("steps", "tone-1")),
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
    bar = window.picture_bar
    bar.passes.setCurrentIndex(bar.passes.findData(shot.shown))
    window.darkroom.set_shown(shot.shown)
    wait(seconds)
    TARGET.mkdir(parents=True, exist_ok=True)
    window.grab().save(str(TARGET / f"{shot.name}.png"))
    print(TARGET / f"{shot.name}.png")


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

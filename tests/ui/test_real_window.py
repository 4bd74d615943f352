"""A window of its own process on a virtual screen, as its user sees it."""

import shutil
import signal
import subprocess
import sys
import textwrap
import time
from pathlib import Path

import numpy as np
import pytest

from tests.ui.screens import virtual_screen

REAL_WINDOW = """
    import signal
    import sys
    from pathlib import Path
    from PySide6.QtCore import QTimer
    from nocturne.ui.app import application
    from nocturne.ui.window import Window

    app = application(["nocturne"])
    window = Window()
    window.show()
    window.open_path(Path(sys.argv[1]))
    signal.signal(signal.SIGINT, lambda *_: window.close())

    def look():
        shown = window.picture.print
        is_open = window.session.document.name.startswith("The Orrery")
        if is_open and shown is not None and shown.frame.progress.samples >= 2:
            Path(sys.argv[2]).write_text(window.state_line.state.text())

    timer = QTimer()
    timer.timeout.connect(look)
    timer.start(200)
    sys.exit(app.exec())
"""


@pytest.mark.skipif(shutil.which("Xvfb") is None, reason="./nocturne test installs Xvfb")
def test_a_real_window_on_a_virtual_screen(engine, demo_file, tmp_path):
    with virtual_screen("-fbdir", str(tmp_path)) as env:
        said = tmp_path / "said.txt"
        words = [sys.executable, "-c", textwrap.dedent(REAL_WINDOW), str(demo_file), str(said)]
        window = subprocess.Popen(words, env=env, stderr=subprocess.PIPE, text=True)
        deadline = time.monotonic() + 120
        while not said.exists() and window.poll() is None and time.monotonic() < deadline:
            time.sleep(0.2)
        # What was painted reaches the screen a little later than the window says so.
        seen = screen(tmp_path / "Xvfb_screen0")
        while seen[300:500, 400:900].std() < 10 and window.poll() is None and time.monotonic() < deadline:
            time.sleep(0.2)
            seen = screen(tmp_path / "Xvfb_screen0")
        window.send_signal(signal.SIGINT)
        errors = window.communicate(timeout=300)[1]
    assert window.returncode == 0, errors
    assert "samples" in said.read_text()
    assert seen.shape == (800, 1280, 3)
    assert seen[300:500, 400:900].std() > 10, "the picture is on the screen"
    assert np.abs(seen[20:60, 500:700].astype(int) - 0x1F).min() == 0, "and the window's ground is round it"


def screen(path: Path) -> np.ndarray:
    """Return (h, w, 3) bytes of a virtual screen's memory, a file in the X window dump format."""
    data = path.read_bytes()
    header = np.frombuffer(data[:100], ">u4")
    width, height, stride, colours = header[4], header[5], header[12], header[19]
    start = int(header[0] + 12 * colours)
    rows = np.frombuffer(data[start : start + int(stride * height)], np.uint8).reshape(height, stride)
    return rows[:, : 4 * width].reshape(height, width, 4)[..., 2::-1].copy()

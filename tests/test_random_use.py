"""A short run of the tool that uses the window at random; the long one is run by hand."""

import subprocess
import sys
from pathlib import Path

import pytest

TOOL = Path(__file__).resolve().parents[1] / "tools" / "random_use.py"


@pytest.mark.slow
def test_random_use_raises_nothing(engine, demo_file):
    words = [
        sys.executable,
        str(TOOL),
        "--project",
        str(demo_file),
        "--seconds",
        "12",
        "--seed",
        "3",
        "--pause",
        "0.04",
    ]
    done = subprocess.run(words, capture_output=True, text=True, timeout=240, check=False)
    assert done.returncode == 0, done.stdout + done.stderr[-3000:]
    assert int(done.stdout.rsplit(" actions", 1)[0].rsplit("\n", 1)[-1]) > 100

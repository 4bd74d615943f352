"""A screen of its own for a test: an X server without a monitor."""

import os
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager


@contextmanager
def virtual_screen(*options: str) -> Iterator[dict[str, str]]:
    """Run an X server of 1280 x 800 and yield the environment of programs that show windows on it."""
    read, write = os.pipe()
    words = ["Xvfb", "-displayfd", str(write), *options, "-screen", "0", "1280x800x24"]
    server = subprocess.Popen(words, pass_fds=[write], stderr=subprocess.DEVNULL)
    os.close(write)
    try:
        display = os.read(read, 32).decode().strip()
        yield {**os.environ, "DISPLAY": f":{display}", "QT_QPA_PLATFORM": "xcb"}
    finally:
        os.close(read)
        server.terminate()
        server.wait()

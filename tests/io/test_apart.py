"""Reading in a process of its own: what never ends is ended, and told as damaged."""

import os
import signal
import subprocess
import sys

import pytest

from nocturne.io.models import apart

_SPINS = """
def read_here(border):
    {does}
"""


def test_a_file_may_take_as_much_as_it_is_large(tmp_path):
    path = tmp_path / "a.usda"
    path.write_bytes(bytes(1000))
    space, seconds = apart.limits(path)
    assert space >= 8 << 30
    assert seconds == 60
    (tmp_path / "below").mkdir()
    os.truncate(os.open(tmp_path / "below" / "b.usdc", os.O_CREAT | os.O_RDWR), 10_000_000)
    wider, longer = apart.limits(path)
    assert wider == space + 200 * 10_000_000, "what it may draw in counts"
    assert longer == 360
    os.truncate(os.open(tmp_path / "c.usdc", os.O_CREAT | os.O_RDWR), 10**12)
    assert apart.limits(path) == (space - 200 * 1000 - (8 << 30) + (24 << 30), 900)


def test_a_folder_of_too_much_to_look_at_counts_as_all_there_may_be(tmp_path, monkeypatch):
    path = tmp_path / "a.usda"
    path.write_bytes(b"")
    for i in range(5):
        (tmp_path / f"{i}").mkdir()
    least = apart.limits(path)
    monkeypatch.setattr(apart, "_MOST_FILES", 5)
    assert apart.limits(path)[0] - least[0] == (24 - 8) << 30
    assert apart.limits(path)[1] == 900


@pytest.mark.parametrize(
    ("does", "ends"),
    [("while True: pass", {-signal.SIGXCPU, -signal.SIGKILL}), ("return bytearray(1 << 42)", {apart._REFUSED})],
)
def test_what_takes_more_is_ended(tmp_path, does, ends):
    (tmp_path / "spins.py").write_text(_SPINS.format(does=does))
    (tmp_path / "a.usda").write_bytes(b"")
    code = f"""
import sys
from nocturne.io.models import apart
apart._LEAST_CPU_S = 1
sys.exit(apart._main("spins", {str(tmp_path / "a.usda")!r}, "", {str(tmp_path / "result")!r}))
"""
    env = {**os.environ, "PYTHONPATH": f"{tmp_path}{os.pathsep}{os.environ['PYTHONPATH']}"}
    assert subprocess.run([sys.executable, "-c", code], env=env, check=False).returncode in ends

"""What is kept on disk between runs: found again for the same, made anew for anything else."""

import os
import threading

import numpy as np
import pytest

from nocturne import kept as module
from nocturne.kept import folder, kept, settle


@pytest.fixture
def maker(tmp_path, monkeypatch):
    """Return a function that counts how often it makes its arrays."""
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))

    def make():
        make.times += 1
        return np.arange(6.0).reshape(2, 3), np.array([], np.int32)

    make.times = 0
    return make


def files():
    settle()
    return sorted(folder().glob("*.npz"))


def test_the_same_is_made_once_and_comes_back_as_it_was(maker):
    on = ("word", np.ones((2, 2)), b"x")
    first = kept("a", on, (__file__,), maker)
    settle()
    again = kept("a", on, (__file__,), maker)
    assert maker.times == 1
    for one, other in zip(first, again):
        assert one.dtype == other.dtype
        np.testing.assert_array_equal(one, other)
    assert [file.suffix for file in folder().iterdir()] == [".npz"], "no temporary files"


def test_whatever_differs_makes_it_anew(maker, tmp_path):
    source = tmp_path / "source.py"
    source.write_text("1")
    other = tmp_path / "other.py"
    other.write_text("2")
    ways = [
        ("a", ("ab", "c"), source),
        ("a", ("a", "bc"), source),
        ("a", (b"ab", "c"), source),
        ("a", (np.zeros(4),), source),
        ("a", (np.zeros((2, 2)),), source),
        ("a", (np.zeros(4, np.int64),), source),
        ("a", (np.zeros((4, 2))[:, 0] + 1,), source),
        ("a", (np.zeros((0, 3, 2)),), source),
        ("a", (np.zeros((0, 2)),), source),
        ("b", ("ab", "c"), source),
        ("a", ("ab", "c"), other),
    ]
    for name, on, file in ways:
        kept(name, on, (str(file),), maker)
    assert maker.times == len(ways) == len(files())


@pytest.mark.parametrize("damage", [b"", b"PK\x03\x04 not one", None])
def test_a_damaged_file_is_made_anew(maker, damage):
    kept("a", ("x",), (__file__,), maker)
    (file,) = files()
    whole = file.read_bytes()
    file.write_bytes(whole[: len(whole) // 2] if damage is None else damage)
    out = kept("a", ("x",), (__file__,), maker)
    settle()
    assert maker.times == 2
    assert out[0][1, 2] == 5
    kept("a", ("x",), (__file__,), maker)
    assert maker.times == 2, "and is sound again"


def test_flipped_bits_are_found(maker):
    kept("a", ("x",), (__file__,), maker)
    (file,) = files()
    data = bytearray(file.read_bytes())
    at = data.index(np.float64(5).tobytes())
    data[at + 7] ^= 1
    file.write_bytes(data)
    assert kept("a", ("x",), (__file__,), maker)[0][1, 2] == 5


def test_where_nothing_can_be_written_it_is_made_each_time(maker, tmp_path, monkeypatch):
    (tmp_path / "file").write_text("")
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "file"))
    for times in (1, 2):
        assert kept("a", ("x",), (__file__,), maker)[0][0, 1] == 1
        assert maker.times == times


def test_what_cannot_be_marked_as_used_is_used_all_the_same(maker, monkeypatch):
    kept("a", ("x",), (__file__,), maker)
    settle()

    def refuse(*_, **__):
        raise PermissionError("somebody else's")

    monkeypatch.setattr(module.os, "utime", refuse)
    kept("a", ("x",), (__file__,), maker)
    assert maker.times == 1


def test_what_killed_processes_left_goes(maker, monkeypatch):
    monkeypatch.setattr(module, "_MOST_BYTES", 4000)  # so that each file is enough to be cleared up after
    kept("a", ("x",), (__file__,), maker)
    settle()
    old, new = folder() / "old.part", folder() / "new.part"
    for file in (old, new):
        file.write_bytes(b"half")
    os.utime(old, (1, 1))
    kept("b", ("x",), (__file__,), maker)
    settle()
    assert new.exists(), "another one is writing it"
    assert not old.exists()


def test_what_was_asked_for_longest_ago_goes_first(maker, monkeypatch):
    for i in range(4):
        kept(f"n{i}", ("x",), (__file__,), maker)
        settle()
        os.utime(next(folder().glob(f"n{i}-*")), ns=(i, i))
    size = files()[0].stat().st_size
    monkeypatch.setattr(module, "_MOST_BYTES", 3 * size)
    kept("n0", ("x",), (__file__,), maker)  # asked for again
    kept("n4", ("x",), (__file__,), maker)
    assert {file.name[:2] for file in files()} == {"n0", "n3", "n4"}
    monkeypatch.setattr(module, "_LARGEST", 10)
    kept("n5", ("x",), (__file__,), maker)
    assert "n5" not in {file.name[:2] for file in files()}, "too large to be kept"


def test_what_is_altered_meanwhile_is_kept_as_it_was(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    begun, go_on = threading.Event(), threading.Event()
    module._writer.submit(lambda: (begun.set(), go_on.wait(60)))
    begun.wait(60)
    (mine,) = kept("a", ("x",), (__file__,), lambda: (np.zeros(1000),))
    assert not folder().exists(), "who asked does not wait for the file"
    mine[:] = 1
    go_on.set()
    settle()
    (again,) = kept("a", ("x",), (__file__,), lambda: 1 / 0)
    assert again.max() == 0


def test_it_is_not_looked_through_after_each_file(maker, monkeypatch):
    looked = []
    monkeypatch.setattr(module, "_clear_up", looked.append)
    monkeypatch.setattr(module, "_written", module._MOST_BYTES)
    for i in range(20):
        kept(f"n{i}", ("x",), (__file__,), maker)
    settle()
    assert len(looked) == 1

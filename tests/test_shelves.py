"""Two windows that keep something of one name at the same time: both are whole."""

import threading

from nocturne.deliver import shelf as shelves
from nocturne.io import ownpatterns
from nocturne.jobs import run
from nocturne.scene.document import Document
from nocturne.scene.patterns import Levels


def at_once(n, what):
    """Do something in n threads that begin together; return what each of them gave or raised."""
    start, out = threading.Barrier(n), [None] * n

    def one(i):
        start.wait()
        try:
            out[i] = what(i)
        except Exception as error:  # noqa: BLE001 - it is what is asked for
            out[i] = error

    threads = [threading.Thread(target=one, args=(i,)) for i in range(n)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return out


def test_kept_folders_of_one_name_are_both_whole(tmp_path):
    def keep(i):
        return run(shelves.keep(Document(name="Lamp"), tmp_path, tmp_path / "shelf"))

    kept = at_once(6, keep)
    assert not [one for one in kept if isinstance(one, Exception)]
    homes = {home.name for home, _ in kept}
    assert homes == {"Lamp", *(f"Lamp {n}" for n in range(2, 7))}
    found, refused = shelves.kept(tmp_path / "shelf")
    assert len(found) == 6
    assert not refused
    assert not list((tmp_path / "shelf").glob(".*")), "nothing is left behind"


def test_one_that_keeps_is_not_swept_away_by_another(tmp_path):
    first = shelves.keep(Document(name="Lamp"), tmp_path, tmp_path / "shelf")
    next(first)
    run(shelves.keep(Document(name="Lamp"), tmp_path, tmp_path / "shelf"))
    home, _ = run(first)
    assert home.name == "Lamp 2"
    assert len(shelves.kept(tmp_path / "shelf")[0]) == 2


def test_kept_patterns_of_one_name_are_both_whole(tmp_path):
    steps = [Levels(inlow=i / 10) for i in range(6)]
    kept = at_once(6, lambda i: ownpatterns.keep(steps[i], "Rust", tmp_path, tmp_path / "shelf"))
    assert not [one for one in kept if isinstance(one, Exception)]
    found, refused = ownpatterns.own(tmp_path / "shelf")
    assert not refused
    assert {pattern.name for pattern in found} == {"Rust", *(f"Rust {n}" for n in range(2, 7))}
    assert {pattern.step.inlow for pattern in found} == {step.inlow for step in steps}

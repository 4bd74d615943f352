"""The one worker behind the window, and what the darkroom spares itself."""

import threading

import numpy as np
import pytest

from nocturne.engine.render import Progress
from nocturne.errors import NocturneError
from nocturne.film.film import Film
from nocturne.io import project
from nocturne.io.models import read as models
from nocturne.io.models.glb import write_glb
from nocturne.jobs import run
from nocturne.scene import edit
from nocturne.scene.document import Document
from nocturne.scene.thing import Thing
from nocturne.ui.darkroom.darkroom import Darkroom
from nocturne.ui.darkroom.denoiser import Denoiser
from nocturne.ui.frame import Frame
from nocturne.ui.worker import Worker
from tests import sets


class Shop:
    """A worker with a list of tasks: functions that it calls."""

    def __init__(self, **options) -> None:
        self.left, self.done, self.failed = [], [], []
        self.worker = Worker(
            "test",
            lambda: bool(self.left),
            lambda: self.left.pop(0),
            lambda task: self.done.append(task()),
            fail=self.failed.append,
            trouble=lambda task: f"{task.__name__} went wrong",
            **options,
        )

    def order(self, *tasks) -> None:
        with self.worker.changed:
            self.left += tasks
            self.worker.wake()


def test_no_error_ends_a_worker_and_each_is_told(qtbot):
    shop = Shop()

    def known():
        raise NocturneError("It is broken.")

    def unexpected():
        raise ZeroDivisionError("by nought")

    shop.order(known, unexpected, lambda: 3)
    shop.worker.start()
    try:
        qtbot.waitUntil(lambda: shop.done == [3], timeout=120000)
        qtbot.waitUntil(lambda: shop.worker.is_idle, timeout=120000)
        assert [str(error) for error in shop.failed] == ["It is broken.", "unexpected went wrong (by nought)."]
    finally:
        shop.worker.close()


@pytest.mark.parametrize("drain", [False, True])
def test_closing_drops_what_waits_or_lets_it_be_done(drain):
    began, go_on = threading.Event(), threading.Event()

    def long():
        began.set()
        return go_on.wait(60)

    shop = Shop(interrupt=go_on.set)
    shop.worker.start()
    shop.order(long, lambda: 2)
    assert began.wait(60)
    assert not shop.worker.is_idle
    if drain:
        threading.Timer(0.05, go_on.set).start()  # a drained worker is not interrupted
    shop.worker.close(drain=drain)
    assert shop.done == ([True, 2] if drain else [True])


def test_an_edit_develops_only_what_it_changed(qtbot, engine, monkeypatch):
    film = Film.blank(24, 16, ("light",))
    film.samples[:], film.groups[:] = 1, np.random.default_rng(1).random(film.groups.shape) * 20
    document = Document(things=(Thing(id="t", name="T"),))
    frame = Frame(film, None, Progress(1.0, 0.1, 1.0, 0.0, 1, 0), document, True, kind="kept")
    room, developed, shown = Darkroom(), [], []
    develop = room._print
    monkeypatch.setattr(room, "_print", lambda *given: developed.append(given) or develop(*given))
    room.developed.connect(shown.append)
    try:
        room.set_denoise(False)
        room.set_document(document, {})
        room.hand_in(frame)
        qtbot.waitUntil(lambda: bool(shown) and room.is_idle, timeout=120000)
        first, n = shown[-1], len(developed)
        moved = edit.alter(document, "things", "t", place=(1.0, 0.0, 0.0))
        room.set_document(moved, {})
        qtbot.waitUntil(lambda: shown[-1].document is moved, timeout=120000)
        assert len(developed) == n, "nothing of it is seen before it is rendered"
        assert shown[-1].image is first.image
        for k, other in enumerate(
            (edit.alter(moved, "views", moved.view.id, iso=800.0), edit.set_finish(moved, view="plain"))
        ):
            room.set_document(other, {})
            qtbot.waitUntil(lambda other=other: shown[-1].document is other, timeout=120000)
            assert len(developed) == n + 1 + k
            assert shown[-1].image != first.image
    finally:
        room.close()


def test_groups_that_were_handed_in_count_until_there_are_far_more_samples():
    film = Film.blank(8, 8, ("light",))
    film.samples[:] = 4
    film.groups[:] = 2

    def frame(samples: float, *, is_done: bool) -> Frame:
        return Frame(film, None, Progress(samples, 0.1, 1.0, 0.0, 1, 0), Document(), is_done, kind="final")

    made = []
    room = Denoiser(threading.Condition(), lambda: made.append(room.groups(film)), made.append)
    clean = film.groups.copy()
    room.set_document(Document())
    room.hand_in(frame(4.0, is_done=False), None)
    task = room.worker._take()
    room.hand_in(frame(4.0, is_done=True), clean)
    room._do(task)
    assert room.groups(film) is clean, "made in haste of as many samples, it is no better"
    assert room.light(film).groups is clean
    assert not room._has_work()
    film.samples[:], film.groups[:] = 12, 24  # the final goes on
    room.hand_in(frame(12.0, is_done=False), None)
    assert room._has_work()
    room._do(room.worker._take())
    assert room.groups(film) is None
    assert 1 < room.light(film).mix.mean() < 3
    assert not room._has_work(), "nobody wants groups apart"
    room.want_groups(True)
    room._do(room.worker._take())
    assert np.allclose(room.light(film).groups.sum(0), room.light(film).mix, rtol=1e-4)
    assert room.groups(film) is None, "of half the size"
    room.hand_in(frame(12.0, is_done=True), None)
    room._do(room.worker._take())
    assert room.groups(film) is not None
    assert not room._has_work()


def test_a_models_file_is_read_once_however_many_name_it(tmp_path, monkeypatch):
    write_glb(tmp_path / "set.glb", {"ball": sets.BALL, "box": sets.BOX})
    meshes = ("set.glb#ball", "set.glb#box", "set.glb", "set.glb#ball")
    document = Document(things=tuple(Thing(id=f"t{k}", name="T", mesh=mesh) for k, mesh in enumerate(meshes)))
    reads, read = [], models.read
    monkeypatch.setattr(models, "read", lambda path: reads.append(path) or read(path))
    assets = run(project.load_assets(document, tmp_path))
    assert not assets.problems
    assert set(assets.meshes) == set(meshes)
    assert len(reads) == 1
    again = run(project.load_assets(edit.alter(document, "things", "t0", name="Other"), tmp_path, known=assets))
    assert again.meshes is assets.meshes
    assert len(reads) == 1


def test_no_exception_whatever_ends_a_worker():
    class Strange(Exception):
        """No kind that anybody foresaw."""

    tasks, failed, done = [1, 2], [], threading.Event()

    def do(task):
        if task == 1:
            raise Strange("odd")
        done.set()

    worker = Worker(
        "t", lambda: bool(tasks), lambda: tasks.pop(0), do, fail=failed.append, trouble=lambda _: "It failed"
    )
    worker.start()
    assert done.wait(60), "the next task is done all the same"
    worker.close()
    assert str(failed[0]) == "It failed (odd)."

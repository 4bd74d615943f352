"""The session, the runner and the darkroom without a window."""

import numpy as np
import pytest

from nocturne.errors import BadFile
from nocturne.film.film import Film
from nocturne.jobs import Update
from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.materials import Material
from nocturne.ui.darkroom.data import data_picture
from nocturne.ui.darkroom.prints import DATA_PASSES, to_image
from nocturne.ui.runner import Runner
from nocturne.ui.session import Session


def test_every_change_is_told_once(qtbot):
    session = Session()
    told = []
    session.document_changed.connect(lambda change: told.append((change.before, change.after)))
    document = edit.put(session.document, "materials", Material(id="m"))
    session.push(document, "Add")
    session.push(document, "Add again")
    assert len(told) == 1
    session.undo()
    session.redo()
    session.redo()
    assert [after is document for _, after in told] == [True, False, True]


def test_a_refused_edit_is_said_and_changes_nothing(qtbot):
    session = Session()
    with qtbot.waitSignal(session.said) as said:
        session.edit(edit.alter, "materials", "nothing", name="x", label="Rename")
    assert said.args[1]
    assert not session.history.is_dirty


def test_opening_tells_what_is_missing_and_forgets_the_choice(qtbot):
    session = Session()
    session.choose("materials", "m")
    said = []
    session.said.connect(lambda text, wrong: said.append((text, wrong)))
    session.open(Document(name="Other"), Assets(problems=("a.glb: gone.",)), None)
    assert said == [("a.glb: gone.", True)]
    assert session.chosen == {}
    assert not session.history.undo_label


@pytest.fixture
def runner(qtbot):
    made = Runner()
    yield made
    made.shutdown()


def test_a_job_reports_in_the_interface_thread(qtbot, runner):
    import threading

    here, results = threading.current_thread(), []

    def work():
        yield Update(0, 1, "half")
        yield Update(1, 1, result="done")

    with qtbot.waitSignal(runner.finished):
        runner.submit("Job", work(), lambda value: results.append((value, threading.current_thread() is here)))
    assert results == [("done", True)]


def test_a_failed_job_is_a_signal_and_a_newer_one_replaces_an_older(qtbot, runner):
    def broken():
        yield Update(0, 1)
        raise BadFile("x.glb", "it is damaged.", hint="Export it again.")

    with qtbot.waitSignal(runner.failed) as failed:
        runner.submit("Open", broken())
    assert "x.glb" in str(failed.args[1])

    def endless():
        while True:
            yield Update(0, 1)

    def short():
        yield Update(1, 1, result="newer")

    results = []
    runner.submit("Open", endless(), results.append)
    runner.submit("Open", short(), results.append)
    qtbot.waitUntil(lambda: results == ["newer"], timeout=120000)


@pytest.mark.parametrize("name", DATA_PASSES)
def test_data_passes_are_shown_raw_and_in_range(name):
    film = Film.blank(16, 8, ("a",))
    assert np.isfinite(data_picture(film, name)).all()
    rng = np.random.default_rng(0)
    film.samples[:] = 4
    film.guides[:] = rng.normal(size=film.guides.shape)
    film.guides[..., 9] = rng.uniform(1, 5, (8, 16))
    film.variance[..., 0], film.variance[..., 1] = 4.0, 9.0
    shown = data_picture(film, name)
    assert shown.shape == (8, 16, 3)
    assert shown.min() >= -1.5
    assert np.isfinite(shown).all()
    if name == "depth":
        near, far = film.depth.argmin(), film.depth.argmax()
        assert shown.reshape(-1, 3)[near, 0] > shown.reshape(-1, 3)[far, 0]


def test_an_image_owns_its_pixels(qtbot):
    pixels = np.full((4, 6, 4), 200, np.uint8)
    image = to_image(pixels)
    pixels[:] = 0
    assert image.pixelColor(3, 2).red() == 200

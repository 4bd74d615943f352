"""Final renders go on to their end whatever the screen shows, one after another, and over the end of a window."""

import numpy as np
import pytest

from nocturne.engine.prepare import Preparer
from nocturne.io import project, proofs
from nocturne.jobs import run
from nocturne.rendering import unfinished
from nocturne.rendering.render import render_request
from nocturne.rendering.request import RenderRequest
from nocturne.scene import edit
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.ui.finals import Final, Finals
from tests import sets
from tests.ui.test_widgets import LEFT
from tests.ui.waiting import rest, stand_still

ENDLESS = 60_000


@pytest.fixture
def small(tmp_path):
    """Return a project of a ball under a dome, quick to render to its end."""
    quality = sets.deep(4).model_copy(update={"denoise": "fast", "noise": 0.0})
    clay = Material(id="m", name="Clay")
    document, assets = sets.one_thing(
        sets.BALL, clay, sets.white_dome(200), camera=sets.view(size=(64, 48)), quality=quality
    )
    return project.Project(document, project.save_document(tmp_path / "a.nocturne", document), assets)


@pytest.fixture
def window(make_window, small, tmp_path):
    window = make_window(small)
    window.room.folder = tmp_path / "a.proofs"
    return window


def kept(qtbot, window, n: int):
    qtbot.waitUntil(lambda: len(window.room.proofs) == n, timeout=120000)
    return window.room.proofs[-1]


def begin(qtbot, window, **quality):
    """Start a final with another quality and wait for its first samples."""
    if quality:
        window.session.edit(edit.alter, "qualities", "q", label="Quality", **quality)
    window.renders.start_final()
    final = window.showing.final
    qtbot.waitUntil(lambda: final.progress is not None and final.film.samples.any(), timeout=120000)
    return final


def test_a_final_goes_on_behind_an_edit_and_is_kept_as_it_was_asked_for(qtbot, window):
    final = begin(qtbot, window, samples=ENDLESS)
    assert window.picture.print is None or window.live.is_idle, "the processors are the final's"
    asked = window.session.document
    window.session.edit(edit.alter, "lights", "dome", label="Brighter", power=300.0)
    assert window.showing.final is None
    qtbot.waitUntil(
        lambda: (
            window.picture.print is not None and window.picture.print.frame.document.find("lights", "dome").power == 300
        ),
        timeout=120000,
    )
    before = final.film.mean_samples
    qtbot.waitUntil(lambda: final.film.mean_samples > before + 2, timeout=120000)
    assert "Final" in window.state_line.final.text()
    qtbot.mouseClick(window.state_line.final, LEFT)
    assert window.showing.final is final
    qtbot.waitUntil(lambda: window.picture.print.frame.film is final.film, timeout=120000)
    assert window.picture.print.document is asked, "a picture of other light is not developed as the new one"
    # Fewer samples are wanted of it: it is done with those it has.
    window.session.undo()
    window.session.edit(edit.alter, "qualities", "q", label="Quality", samples=4)
    window.renders.start_final()
    assert window.showing.final is final
    proof = kept(qtbot, window, 1)
    assert proof.denoised
    assert not window.finals.queue
    assert not unfinished.found(window.session.document, window.session.path), "nothing is left of what is done"


def test_a_final_reaches_its_proof_though_nothing_is_developed(qtbot, window, monkeypatch):
    monkeypatch.setattr(window.darkroom, "hand_in", lambda *_: None)
    window.renders.start_final()
    proof = kept(qtbot, window, 1)
    assert proof.denoised
    assert proof.samples == 4
    shown = window.picture.print
    assert shown is None or shown.frame.film is not window.showing.final.film


def test_a_final_of_a_region_leaves_no_hole_around_it(qtbot, window):
    window.renders.set_region((0.25, 0.25, 0.75, 0.75))
    window.renders.start_final()
    kept(qtbot, window, 1)
    samples = window.showing.final.result.film.samples
    assert (samples[12:36, 16:48] == 4).all()
    assert (samples[0] == 1).all()
    assert (samples[:, 0] == 1).all()


@pytest.mark.parametrize("region", [None, [0.1, 0.2, 0.5, 0.9], [0.5, 0.2, 0.1, 0.9], [0.0, 0.0, 1e400, 1.0], "half"])
def test_what_was_left_is_found_with_its_region_unless_that_is_damaged(small, tmp_path, monkeypatch, region):
    monkeypatch.setattr(unfinished, "is_running", lambda *_, **__: False)
    place = unfinished.begin(small.document, small.path, tmp_path, region)
    unfinished.write(place)
    try:
        found = unfinished.found(small.document, small.path)
        sound = region is None or (isinstance(region, list) and region[0] < region[2] <= 1)
        assert [one.region for one in found] == ([tuple(region) if region else None] if sound else [])
        assert all(one.document == small.document and one.files == tmp_path for one in found)
    finally:
        unfinished.remove(place)


def test_more_is_rendered_of_a_final_that_is_done(qtbot, window):
    window.renders.start_final()
    kept(qtbot, window, 1)
    film = window.showing.final.film
    window.session.edit(edit.alter, "qualities", "q", label="More", samples=6)
    window.renders.start_final()
    assert kept(qtbot, window, 2).samples == 6
    assert window.showing.final.film is film


def test_a_final_that_is_done_as_the_window_closes_is_kept_all_the_same(qtbot, window, tmp_path):
    window.finals.blockSignals(True)  # the window has not heard of it yet
    window.renders.start_final()
    qtbot.waitUntil(lambda: bool(window.finals._done), timeout=120000)
    window.session.history.mark_saved(window.session.document)
    window.close()
    (proof,) = proofs.listed(tmp_path / "a.proofs")[0]
    assert proof.denoised
    assert not list(unfinished.folder().glob("*"))


def test_what_is_dropped_as_it_is_taken_up_is_not_rendered(engine, small, tmp_path):
    finals = Finals(Preparer())
    request = RenderRequest.final(small.document, small.assets)
    final = Final(request, unfinished.begin(small.document, small.path, tmp_path), tmp_path)
    finals._do(final)  # it is in no queue any more
    assert not final.film.samples.any()
    assert not list(unfinished.folder().glob("*"))


def test_what_is_dropped_while_it_is_rendered_leaves_nothing(engine, small, tmp_path):
    finals, failed = Finals(Preparer()), []
    finals.failed.connect(failed.append)
    request = RenderRequest.final(small.document, small.assets)
    final = finals.start(Final(request, unfinished.begin(small.document, small.path, tmp_path), tmp_path))
    finals.framed.connect(finals.drop)
    finals._do(final)
    assert not failed
    assert not finals.queue
    assert not finals.take_done()
    assert not list(unfinished.folder().glob("*"))


def test_a_final_is_gone_on_with_under_the_names_of_now(qtbot, window):
    final = begin(qtbot, window, samples=ENDLESS)
    window.renders.stop()
    rest(qtbot, window)
    window.session.edit(edit.alter, "things", "thing-0", label="Rename", name="Egg")
    window.session.edit(edit.alter, "qualities", "q", label="Quality", samples=4)
    window.renders.start_final()
    assert window.showing.final is final
    kept(qtbot, window, 1)
    assert "Egg" in final.result.film.objects
    assert window.contact.live.isEnabled()
    qtbot.mouseClick(window.contact.live, LEFT)
    assert window.showing.final is None


def test_finals_wait_for_each_other_and_can_be_stopped_and_dropped(qtbot, window):
    first = begin(qtbot, window, samples=ENDLESS)
    second = window.session.document
    window.session.edit(edit.alter, "lights", "dome", label="Brighter", power=300.0)
    assert second is not window.session.document
    window.renders.start_final()
    waiting = window.showing.final
    rows = window.sheets["render"].finals.rows
    assert [row.final for row in rows] == [first, waiting] == list(window.finals.queue)
    assert rows[1].state.text() == "waiting"
    qtbot.mouseClick(rows[0].stop, LEFT)
    qtbot.waitUntil(lambda: waiting.film is not None, timeout=120000)
    held = int(first.film.samples.sum())
    assert first.words().startswith("stopped at")
    assert rows[0].on.isVisible()
    qtbot.mouseClick(rows[1].drop, LEFT)
    stand_still(qtbot, window)
    assert window.finals.queue == (first,)
    assert window.showing.final is None
    assert int(first.film.samples.sum()) == held
    qtbot.mouseClick(window.sheets["render"].finals.rows[0].drop, LEFT)
    assert not window.finals.queue
    assert not list(unfinished.folder().glob("*"))
    assert not window.room.proofs


def test_a_final_that_its_window_left_goes_on_in_the_next_to_the_same_bits(qtbot, make_window, small, tmp_path):
    one = make_window(small)
    final = begin(qtbot, one, samples=24)
    one.finals.stop(final)
    rest(qtbot, one)
    document, taken = one.session.document, int(final.film.samples.sum())
    assert 0 < taken
    assert not unfinished.found(document, small.path), "a window is at it"
    # Another one is begun, and one more waits for it.
    for power in (300.0, 400.0):
        one.session.edit(edit.alter, "lights", "dome", label="Brighter", power=power)
        one.session.edit(edit.alter, "qualities", "q", label="Quality", samples=ENDLESS)
        one.renders.start_final()
    one.session.history.mark_saved(one.session.document)
    one.close()
    assert len(list(unfinished.folder().glob("*.json"))) == 3
    for about in unfinished.folder().glob("*.json"):
        about.write_text(about.read_text().replace('"pid": ', '"pid": 9'))  # as that window's process would be gone

    other = make_window()
    other.projects._begin(document, small.assets, small.path)
    other.room.folder = tmp_path / "b.proofs"
    qtbot.waitUntil(lambda: len(other.renders.left) == 3, timeout=120000)
    assert "was not finished" in other.state_line.message.words()
    other.session.go_to("render")
    rows = {row.final.document.find("lights", "dome").power: row for row in other.sheets["render"].finals.rows}
    for power in (300.0, 400.0):
        qtbot.mouseClick(rows[power].drop, LEFT)
    (row,) = other.sheets["render"].finals.rows
    qtbot.mouseClick(row.on, LEFT)
    again = other.showing.final
    kept(qtbot, other, 1)
    whole = run(render_request(RenderRequest.final(document, small.assets))).film
    for name, array in whole.arrays.items():
        assert np.array_equal(array, again.film.arrays[name]), name
    assert not list(unfinished.folder().glob("*"))


def test_the_time_left_is_that_of_the_whole_picture(qtbot, make_window, tmp_path):
    """Also in the first samples after an edit, which go by what was learned before it, and end before learning anew."""
    lights = (sets.white_dome(200), make_light(id="lamp", kind="rect", unit="nit", power=300, place=(0, -1, 3)))
    quality = sets.deep(2000)
    camera = sets.view(size=(64, 48))
    document, assets = sets.one_thing(sets.BALL, Material(id="m"), *lights, camera=camera, quality=quality)
    path = project.save_document(tmp_path / "a.nocturne", document)
    window, seen = make_window(project.Project(document, path, assets)), []
    qtbot.waitUntil(lambda: window.live._learned is not None, timeout=120000)
    window.live.framed.connect(seen.append)
    window.session.edit(edit.alter, "lights", "lamp", label="Brighter", power=400.0)
    wanted = window.session.document

    def early() -> list:
        return [f.progress for f in list(seen) if f.document is wanted and 2 <= f.progress.samples <= 8]

    qtbot.waitUntil(lambda: len(early()) >= 3, timeout=120000)
    assert all(now.left_s > 100 * now.seconds for now in early())

"""Faults that were found in the window: keys, undo, proofs, exports, failing denoisers, files on disk."""

import os
import threading
from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import Qt

from nocturne.deliver.export import Order
from nocturne.demo import workshop
from nocturne.engine.render import Progress
from nocturne.errors import NocturneError, RenderError
from nocturne.io import project
from nocturne.io.models import read as models
from nocturne.io.models.glb import write_glb
from nocturne.jobs import Update
from nocturne.scene import edit
from nocturne.scene.document import Document, render_key
from nocturne.scene.materials import Material
from nocturne.ui import files, live
from nocturne.ui.bringwork import Guest
from nocturne.ui.darkroom import denoiser
from nocturne.ui.darkroom.prints import Sheet
from nocturne.ui.live import LiveRender, Request
from nocturne.ui.runner import Runner
from tests import sets
from tests.ui.waiting import rest

CLAY = Material(id="m", name="Clay")


@pytest.fixture
def small(tmp_path):
    """Return a project of a ball under a dome, quick to render to its end."""
    quality = sets.deep(4).model_copy(update={"denoise": "fast", "noise": 0.0})
    document, assets = sets.one_thing(
        sets.BALL, CLAY, sets.white_dome(200), camera=sets.view(size=(64, 48)), quality=quality
    )
    return project.Project(document, tmp_path / "a.nocturne", assets)


@pytest.fixture
def window(make_window, small, tmp_path):
    window = make_window(small)
    window.room.folder = tmp_path / "a.proofs"
    return window


def wait_for_print(qtbot, window):
    qtbot.waitUntil(lambda: window.picture.print is not None and window.picture.print.frame.is_done, timeout=120000)


# ---- rendering -----------------------------------------------------------------------------------------------------


def test_a_finished_final_is_kept_while_something_else_is_shown(qtbot, window):
    wait_for_print(qtbot, window)
    window.picture_bar.shown_changed.emit("depth")
    window.renders.start_final()
    qtbot.waitUntil(lambda: len(window.room.proofs) == 1, timeout=120000)
    assert window.room.proofs[0].denoised
    # Also while a proof is looked at when it ends.
    window.session.edit(edit.alter, "lights", "dome", label="Brighter", power=300.0)
    window.renders.start_final()
    window.showing.show(window.room.proofs[0].id)
    qtbot.waitUntil(lambda: len(window.room.proofs) == 2, timeout=120000)


def test_a_denoiser_that_fails_is_not_asked_again_until_wanted(qtbot, make_window, small, monkeypatch):
    asked = []

    def failing(self, frame, *_):
        asked.append(frame.film)
        raise RenderError("It is broken.")

    monkeypatch.setattr(denoiser.Denoiser, "_mixed", failing)
    window = make_window(small)
    with qtbot.waitSignal(window.darkroom.failed, timeout=120000):
        wait_for_print(qtbot, window)
    rest(qtbot, window)
    assert len({id(film) for film in asked}) == len(asked), "each film was tried once"
    n = len(asked)
    assert not window.picture.print.is_denoised, "then it is shown as it is"
    with qtbot.waitSignal(window.darkroom.failed, timeout=120000):
        window.darkroom.set_denoise(True)
    assert len(asked) == n + 1


def test_an_edit_ends_the_whole_pass_that_comes_before_a_region(qtbot, monkeypatch, engine):
    document, assets = sets.one_thing(sets.BALL, CLAY, sets.white_dome())
    began = threading.Event()

    def endless(prepared, film, *, stop, samples=None, **_):
        while samples == 1 and not stop.is_set:
            began.set()
            yield Update(0, 1, "render", Progress(0.1, 1.0, 0.1, None, 1, 0))
        yield Update(1, 1, "done", Progress(1.0, 1.0, 0.1, 0.0, 1, 0), film)

    monkeypatch.setattr(live, "render", endless)
    shown = []
    picture = LiveRender()
    picture.framed.connect(lambda frame: shown.append(frame.request.region))
    picture.start()
    try:
        picture.show(Request(document, assets, 64, 48, region=(0.2, 0.2, 0.5, 0.5)))
        assert began.wait(300)
        other = edit.alter(document, "lights", "dome", power=3.0)
        picture.show(Request(other, assets, 64, 48))
        qtbot.waitUntil(lambda: None in shown, timeout=120000)
    finally:
        picture.close()


def test_a_render_with_a_time_limit_is_done_and_kept(qtbot, window):
    wait_for_print(qtbot, window)
    window.session.edit(edit.alter, "qualities", "q", label="Limit", samples=60_000, minutes=0.4 / 60)
    window.renders.start_final()
    qtbot.waitUntil(lambda: len(window.room.proofs) == 1, timeout=120000)
    assert window.showing.final.result.ended == "time"
    assert window.showing.final.film.mean_samples < 60_000


def test_an_empty_set_is_not_rendered_and_called_done(qtbot, make_window):
    window = make_window()
    qtbot.waitUntil(lambda: not window._is_compiling, timeout=120000)
    assert window.live._wanted is None
    assert window.renders.last_frame is None


def test_a_set_that_is_emptied_is_seen_to_be_empty(qtbot, window):
    wait_for_print(qtbot, window)
    window.session.push(edit.changed(window.session.document, things=(), lights=()), "Empty")
    qtbot.waitUntil(lambda: not window.renders.last_frame.request.document.things, timeout=120000)
    qtbot.waitUntil(lambda: window.renders.last_frame.is_done, timeout=120000)
    assert window.renders.last_frame.film.beauty().max() == 0


def test_a_new_name_restarts_nothing_and_stands_in_what_is_put_out(qtbot, window):
    wait_for_print(qtbot, window)
    film = window.renders.last_frame.film
    before = window.session.document
    window.session.edit(edit.alter, "things", "thing-0", label="Rename", name="Egg")
    window.session.edit(edit.alter, "materials", "m", label="Rename", name="Shell")
    assert render_key(before) == render_key(window.session.document)
    assert "Egg" in film.objects
    assert "Shell" in film.materials
    assert window.live._wanted.work() == window.renders.last_frame.request.work()
    assert window.picture.hit_at(window.picture.frame_rect().center()).name == "Egg"


# ---- proofs, exports -----------------------------------------------------------------------------------------------


def test_two_proofs_kept_quickly_have_names_of_their_own(qtbot, window):
    wait_for_print(qtbot, window)
    for _ in range(3):
        window.proofs.keep()
    qtbot.waitUntil(lambda: len(window.room.proofs) == 3, timeout=120000)
    assert len({proof.name for proof in window.room.proofs}) == 3


def test_what_is_clicked_first_stays_first_though_it_is_read_last(qtbot, window, monkeypatch):
    wait_for_print(qtbot, window)
    for _ in range(2):
        window.proofs.keep()
    qtbot.waitUntil(lambda: len(window.room.proofs) == 2, timeout=120000)
    asked = []
    monkeypatch.setattr(window.room, "fetch", asked.append)
    one, two = (proof.id for proof in window.room.proofs)
    window.showing.show(one)
    window.showing.compare_with(two)
    assert asked == [one, two]
    monkeypatch.undo()
    for id in (two, one):  # read in the other order
        with qtbot.waitSignal(window.room.ready, timeout=120000):
            window.room.fetch(id)
    assert window.showing.first[0] == one
    assert window.showing.second[0] == two


def test_export_takes_what_is_shown_with_its_own_tables(qtbot, window, monkeypatch, tmp_path):
    wait_for_print(qtbot, window)
    qtbot.waitUntil(lambda: window.picture.print.clean is not None, timeout=120000)
    rest(qtbot, window)
    got = {}

    def exported(order, result, document, *, luts):
        got.update(film=result.film, clean=result.clean, luts=luts)
        yield Update(1, 1, "Written", result=[])

    monkeypatch.setattr("nocturne.ui.deliverwork.export", exported)
    # More samples than the denoised picture was made of, as after Stop.
    window.renders.last_frame.film.samples[0, 0] += 1
    shown = window.picture.print
    assert window.darkroom.clean_groups(shown.frame.film) is None
    with qtbot.waitSignal(window.runner.finished, timeout=120000, check_params_cb=lambda kind, _: kind == "Export"):
        window.delivery.export(Order(tmp_path))
    assert got["clean"] is shown.clean
    assert got["film"] is not shown.frame.film, "of a film that may go on, a copy"
    assert np.array_equal(got["film"].samples, shown.frame.film.samples)
    table = object()
    sheet = Sheet(shown.frame, shown.document, None, "Old", {"old.cube": table})
    window.showing.first = ("x", sheet)
    with qtbot.waitSignal(window.runner.finished, timeout=120000, check_params_cb=lambda kind, _: kind == "Export"):
        window.delivery.export(Order(tmp_path))
    assert got["luts"] == {"old.cube": table}
    window.showing.first = None


# ---- choosing, lights, models --------------------------------------------------------------------------------------


def test_views_and_levels_can_be_chosen_again_after_undo(window):
    session = window.session
    document, view = edit.duplicate(session.document, "views", "v")
    document, level = edit.duplicate(document, "qualities", "q")
    session.push(document, "Copies")
    session.choose("qualities", level)
    assert session.document.active_quality == level
    session.undo()
    assert session.document.active_quality != level
    session.choose("qualities", level)
    assert session.document.active_quality == level
    session.choose("views", view)
    session.undo()
    session.undo()
    assert session.document.find("views", view) is None
    assert session.document.active_view == "v"
    session.redo()
    session.choose("views", view)
    assert session.document.active_view == view
    assert level == "quality-1"


def test_looking_through_a_view_is_no_edit(window):
    session = window.session
    document, view = edit.duplicate(session.document, "views", "v")
    session.push(document, "A view")
    session.push(edit.alter(session.document, "views", "v", focal_mm=70.0), "Longer")
    session.history.mark_saved(session.document)
    steps = len(session.history.steps)
    session.choose("views", view)
    assert session.document.active_view == view
    assert len(session.history.steps) == steps
    assert not session.history.is_dirty
    session.undo()
    assert session.document.active_view == view, "the eye stays where it is"
    assert session.document.find("views", "v").focal_mm != 70
    session.redo()
    assert not session.history.is_dirty, "what is on disk still counts as saved"


def test_a_new_light_has_a_group_of_its_own(window):
    window.choice.add_light("rect")
    window.choice.add_light("rect")
    first, second = window.session.document.lights[-2:]
    assert len({first.group, second.group, "light"}) == 3
    assert first.group == first.name.lower()


def test_a_sun_and_its_sky_move_together_until_they_are_parted(window):
    s = window.session
    window.choice.add_light("sun")
    s.edit(edit.alter_light, s.document.lights[-1].id, label="Turn", azimuth_deg=70.0, elevation_deg=12.0)
    window.choice.add_light("sky")
    sun, sky = s.document.lights[-2:]
    assert (sky.azimuth_deg, sky.elevation_deg) == (70.0, 12.0)
    s.edit(edit.alter_light, sky.id, label="Turn", elevation_deg=40.0)
    assert s.document.find("lights", sun.id).elevation_deg == 40.0
    s.edit(edit.alter_light, sky.id, label="Part", together=False)
    s.edit(edit.alter_light, sky.id, label="Turn", elevation_deg=20.0)
    assert s.document.find("lights", sun.id).elevation_deg == 40.0


def test_what_is_brought_in_stands_under_the_middle_and_is_read_once(qtbot, window, tmp_path, monkeypatch):
    wait_for_print(qtbot, window)
    write_glb(tmp_path / "box.glb", {"box": sets.BOX})
    reads = []
    read = models.read
    monkeypatch.setattr(models, "read", lambda path: reads.append(path) or read(path))
    at = window.picture.middle_point()
    seen = []
    window.live.framed.connect(lambda frame: seen.append(frame.request))
    window.bring.bring_in(tmp_path / "box.glb")
    qtbot.waitUntil(lambda: len(window.session.document.things) == 3, timeout=120000)
    group = next(thing for thing in window.session.document.things if not thing.mesh)
    low = sets.BOX.bounds[0][2]
    assert np.array(group.place) + (0, 0, low) == pytest.approx(at, abs=1e-3)
    qtbot.waitUntil(lambda: any(len(r.document.things) == 3 for r in seen), timeout=120000)
    with_it = [r for r in seen if len(r.document.things) == 3]
    assert all({t.mesh for t in r.document.things if t.mesh} <= set(r.assets.meshes) for r in with_it)
    assert len(reads) == 1


def test_what_cannot_be_kept_of_a_model_is_said(qtbot, window, tmp_path):
    said = []
    window.session.said.connect(lambda text, is_bad: said.append(text))
    before = window.session.document
    odd = tmp_path / "odd-\udcff"
    odd.mkdir()
    write_glb(odd / "box.glb", {"box": sets.BOX})
    window.bring.bring_in(odd / "box.glb")
    assert "odd-�" in said[-1]
    assert "UTF-8" in said[-1]
    assert window.session.document is before
    write_glb(tmp_path / "box.glb", {"box": sets.BOX})
    arrival = replace(models.read(tmp_path / "box.glb"), lost=("“lid”, which is squeezed flat", "“foil”, too"))
    window.bring.place([Guest(tmp_path / "box.glb", arrival)])
    assert "Left out: “lid”, which is squeezed flat; “foil”, too" in said[-1]


# ---- keys ----------------------------------------------------------------------------------------------------------


def test_words_typed_into_the_window_alter_and_keep_nothing(qtbot, window):
    wait_for_print(qtbot, window)
    window.session.choose("things", "thing-0")
    before, proofs = window.session.document, window.room.proofs
    window.picture.setFocus()
    for key in (*range(Qt.Key.Key_A, Qt.Key.Key_Z + 1), Qt.Key.Key_Comma, Qt.Key.Key_Period, Qt.Key.Key_Slash):
        for keys in (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier):
            qtbot.keyClick(window, Qt.Key(key), keys)
            window.picture.set_mode("choose")
    assert window.session.document is before
    assert window.room.proofs == proofs
    assert not window.runner.is_busy("Keep")


def test_what_a_key_did_is_said_with_its_undo(qtbot, window):
    wait_for_print(qtbot, window)
    window.session.choose("things", "thing-0")
    said = []
    window.session.said.connect(lambda words, _: said.append(words))
    qtbot.keyClick(window, Qt.Key.Key_Y, Qt.KeyboardModifier.AltModifier)
    assert not window.session.document.find("things", "thing-0").visible
    assert any("Hide" in words and "Ctrl+Z" in words for words in said)


def test_handles_belong_to_the_stages_in_which_things_are_placed(qtbot, window):
    wait_for_print(qtbot, window)
    window.session.choose("things", "thing-0")
    there = {}
    for stage in ("set", "materials", "light", "camera", "render", "finish"):
        window.session.go_to(stage)
        if stage == "light":
            window.session.choose("lights", "dome")
        there[stage] = window.picture.star() is not None
    assert there["set"]
    assert not any(there[stage] for stage in ("materials", "camera", "render", "finish"))


# ---- files on disk -------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("answer", ["reload", "elsewhere", "over", "stay"])
def test_a_project_that_was_saved_elsewhere_meanwhile_is_not_written_over_unasked(
    qtbot, make_window, small, tmp_path, monkeypatch, answer
):
    project.save_document(small.path, small.document)
    window = make_window(small)
    theirs = edit.changed(small.document, name="Theirs")
    project.save_document(small.path, theirs)
    window.session.edit(edit.alter, "lights", "dome", label="Dim", power=9.0)
    asked = []

    def ask(parent, name, differences):
        asked.append(differences)
        return answer

    monkeypatch.setattr(files, "ask_changed", ask)
    monkeypatch.setattr(files, "ask_save_file", lambda *_: str(tmp_path / "mine.nocturne"))
    window.projects.save()
    assert len(asked) == 1
    assert "9" in asked[0], "it says what differs"
    qtbot.waitUntil(lambda: not (window.runner.is_busy("Save") or window.runner.is_busy("Open")), timeout=120000)
    there = project.read_document(small.path)
    assert (there.name == "Theirs") == (answer != "over")
    if answer == "elsewhere":
        assert project.read_document(tmp_path / "mine.nocturne").lights[0].power == 9.0
    if answer == "reload":
        qtbot.waitUntil(lambda: window.session.document.name == "Theirs", timeout=120000)


def test_a_change_on_disk_is_noticed_while_open(qtbot, make_window, small, monkeypatch):
    project.save_document(small.path, small.document)
    window = make_window(small)
    monkeypatch.setattr(files, "ask_changed", lambda *_: "stay")
    said = []
    window.session.said.connect(lambda words, _: said.append(words))
    window.projects.notice_disk()
    assert not said
    project.save_document(small.path, edit.changed(small.document, name="Theirs"))
    for _ in range(3):
        window.projects.notice_disk()
    assert len([words for words in said if "changed on disk" in words]) == 1


def test_the_demo_is_shown_before_its_files_are_there(qtbot, make_window, monkeypatch, tmp_path, demo):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    written = []

    def write(made):
        written.append(made)
        yield Update(1, 1, "Written", result=made.project.path)

    monkeypatch.setattr(workshop, "write", write)
    window = make_window()
    window.open_demo()
    assert not window.start_page.isVisible()
    qtbot.waitUntil(lambda: bool(window.session.document.things), timeout=120000)
    assert not window.start_page.isVisible()
    qtbot.waitUntil(lambda: bool(written), timeout=120000)
    assert window.session.document == demo.document
    in_memory = window.session.assets
    assert written[0].project.assets is in_memory
    assert not in_memory.problems
    # What is shown from memory is what is read from the files later.
    assert in_memory.meshes.keys() == demo.assets.meshes.keys()
    assert in_memory.images.keys() == demo.assets.images.keys()
    for key in list(demo.assets.images)[::3]:
        assert np.allclose(in_memory.images[key], demo.assets.images[key], atol=1e-6)


# ---- threads -------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "error", [OSError("no"), ZeroDivisionError("no"), UnicodeDecodeError("utf-8", b"", 0, 1, "no")]
)
def test_a_job_that_raises_whatever_is_told(qtbot, error):
    runner = Runner()

    def work():
        yield Update(0, 1)
        raise error

    with qtbot.waitSignal(runner.failed, timeout=120000) as told:
        runner.submit("Test", work())
    assert isinstance(told.args[1], NocturneError)
    with qtbot.waitSignal(runner.failed, timeout=120000) as told:
        threading.Thread(target=lambda: runner.report(NocturneError("From afar."))).start()
    assert str(told.args[1]) == "From afar."
    runner.shutdown()


def test_a_mad_or_reused_number_of_a_process_keeps_nothing_from_being_recovered(tmp_path, monkeypatch):
    import json

    from nocturne.io.atomic import started
    from nocturne.ui import rescue

    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    folder = rescue.folder()
    folder.mkdir(parents=True)
    raw = json.loads(Document(name="Left behind").model_dump_json())
    cases = {
        "mad": (10**30, ""),
        "reused": (os.getpid(), "an earlier boot 5"),
        "alive": (os.getpid(), started(os.getpid())),
    }
    for name, (pid, since) in cases.items():
        (folder / f"{name}.json").write_text(json.dumps({"pid": pid, "started": since, "document": raw}))
    os.mkfifo(folder / "pipe.json")
    assert {found.copy.stem for found in rescue.found()} == {"mad", "reused"}


def test_a_window_is_let_go_when_it_is_closed(qtbot, make_window, small):
    import gc
    import weakref

    from PySide6.QtCore import QCoreApplication, QEvent

    window = make_window(replace(small))
    wait_for_print(qtbot, window)
    ref, film = weakref.ref(window), weakref.ref(window.renders.last_frame.film)
    make_window.made.clear()
    window.close()
    window.deleteLater()
    del window
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    gc.collect()
    assert ref() is None
    assert film() is None


def test_what_waits_for_the_first_picture_does_not_wait_for_one_that_never_comes(make_window, monkeypatch):
    window = make_window()
    asked = []
    monkeypatch.setattr(window._readier, "_has_begun", False)
    monkeypatch.setattr(window.runner, "submit", lambda kind, *_, **__: asked.append(kind))
    window.live.failed.emit(NocturneError("no memory"))
    window.live.failed.emit(NocturneError("no memory"))
    assert asked.count("Read fonts") == 1

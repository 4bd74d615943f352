"""A result of a film that goes on being rendered, brought to one moment."""

import threading
import time

import numpy as np
import pytest

from nocturne.errors import RenderError
from nocturne.film.film import Film
from nocturne.jobs import run
from nocturne.rendering import render
from nocturne.rendering.render import settled
from nocturne.rendering.request import Result


def begun() -> Film:
    """Return a film of which a quarter of the pixels have a sample."""
    film = Film.blank(32, 24, ("a", "b"))
    film.samples[::2, ::2] = 1
    film.groups[0, ::2, ::2] = 2
    return film


def test_what_was_shown_denoised_waits_for_its_first_whole_sample(monkeypatch):
    film, notes = begun(), []

    def go_on() -> None:
        time.sleep(0.2)
        film.groups[0], film.samples[:] = 2, 1

    rendering = threading.Thread(target=go_on)
    rendering.start()
    try:
        still = run(settled(Result(film, is_denoised=True)), lambda update: notes.append(update.note))
    finally:
        rendering.join()
    assert "Waiting for the first whole sample" in notes
    assert still.film is not film
    assert still.film.samples.all()
    assert still.clean.shape == film.groups.shape
    assert still.clean[0].mean() == pytest.approx(2, rel=0.3)
    assert not still.clean[1].any()
    # One that nobody goes on with is refused, with a reason.
    monkeypatch.setattr(render, "_PATIENCE_S", 0.1)
    with pytest.raises(RenderError, match="changed or stopped"):
        run(settled(Result(begun(), is_denoised=True)))


def test_what_was_shown_as_it_is_waits_for_nothing():
    film = begun()
    still = run(settled(Result(film)))
    assert still.clean is None
    assert np.array_equal(still.film.samples, film.samples)
    groups = np.ones((2, 24, 32, 3), np.float32)
    assert run(settled(Result(film, clean=groups, is_denoised=True))).clean is groups

"""How pictures lie on a thing: its own size, turn and shift; fitted, given, and by no other thing of the material."""

import threading

import numpy as np
import pytest

from nocturne.scene import edit, texturing
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.forms.ground import Ground
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Picture
from nocturne.scene.solids import ball
from nocturne.scene.thing import Thing
from nocturne.scene.uvs import placed_uvs

NONE = Assets()
PLATE = Thing(id="a", form=Ground(width=2, depth=1))


def uvs(document: Document, id: str) -> np.ndarray:
    """Return a thing's texture coordinates."""
    return NONE.shape(document.find("things", id)).uvs


def test_a_picture_is_larger_turned_and_shifted_on_one_thing_only():
    other = PLATE.model_copy(update={"id": "b", "uv_size": 2.0, "uv_turn_deg": 90.0, "uv_shift": (0.5, 0.0)})
    document = Document(things=(PLATE, other))
    plain = uvs(document, "a")
    assert np.ptp(plain, axis=0) == pytest.approx((2, 1))
    want = np.stack([-plain[:, 1], plain[:, 0]], axis=1) / 2 + (0.5, 0)
    assert uvs(document, "b") == pytest.approx(want, abs=1e-6)
    assert NONE.shape(other) is NONE.shape(other), "the same object, so that it is built once"
    assert NONE.shape(other).triangles is not None


def test_fitted_turned_and_given():
    document = Document(things=(PLATE, PLATE.model_copy(update={"id": "b"}), Thing(id="g")))
    turned = texturing.turned(document, ("a",), 90.0)
    assert turned.find("things", "a").uv_turn_deg == 90
    assert texturing.turned(turned, ("a",), 180.0).find("things", "a").uv_turn_deg == -90
    for start in (document, turned):
        fit = uvs(texturing.fitted(start, NONE, ("a",)), "a")
        assert fit.min(0) == pytest.approx((0, 0), abs=1e-6)
        assert np.ptp(fit, axis=0).max() == pytest.approx(1)
        assert np.ptp(fit, axis=0).min() == pytest.approx(0.5), "its proportion stays"
    given = texturing.given(texturing.fitted(turned, NONE, ("a",)), "a", ("b",))
    assert uvs(given, "b") == pytest.approx(uvs(given, "a"))


def test_a_picture_is_as_wide_as_it_is_typed():
    step = Picture(parameter="base_color", path="p.png", repeat=(5.0, 4.0))
    board = Material(id="m", steps=(step,))
    larger = PLATE.model_copy(update={"id": "b", "size": (2.0, 2.0, 2.0), "material": "m"})
    plate = PLATE.model_copy(update={"material": "m"})
    document = Document(things=(plate, larger, Thing(id="c", form=Ground())), materials=(board,))
    width = texturing.picture_width
    assert [width(document, NONE, id) for id in "abc"] == [pytest.approx(0.2), pytest.approx(0.4), None]
    turned = edit.put(document, "materials", edit.changed(board, steps=(edit.changed(step, turn_deg=90.0),)))
    assert width(turned, NONE, "a") == pytest.approx(0.25)
    typed = texturing.with_picture_width(document, NONE, ("a", "b", "c"), 0.3)
    assert [width(typed, NONE, id) for id in "ab"] == pytest.approx([0.3, 0.3])
    # A board of 30 cm: over the 2 m of the plate it repeats six times and two thirds.
    assert np.ptp(uvs(typed, "a")[:, 0]) * 5 == pytest.approx(2 / 0.3, rel=1e-5)
    assert typed.find("things", "c") is document.find("things", "c")


def test_many_threads_place_one_mesh_in_many_ways():
    mesh, faults = ball(1.0, segments=16), []

    def place(seed: int) -> None:
        random = np.random.default_rng(seed)
        for _ in range(800):
            size = float(random.integers(1, 9))
            try:
                assert np.allclose(placed_uvs(mesh, (size, 0.0, (0.0, 0.0))).uvs, mesh.uvs / size, atol=1e-5)
            except (KeyError, RuntimeError, AssertionError) as error:
                faults.append(error)

    threads = [threading.Thread(target=place, args=(k,)) for k in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert not faults

"""Shapes made here: exact sizes, closed surfaces that face outwards, volumes as solid geometry has them, real UVs."""

import math

import numpy as np
import pytest

from nocturne.errors import SceneError
from nocturne.lettering.setting import set_text
from nocturne.scene import edit
from nocturne.scene.document import Document
from nocturne.scene.forms import KINDS, Opening, form_mesh
from nocturne.scene.forms.backdrop import Backdrop
from nocturne.scene.forms.ball import Ball
from nocturne.scene.forms.box import Box
from nocturne.scene.forms.cone import Cone
from nocturne.scene.forms.cylinder import Cylinder
from nocturne.scene.forms.ring import Ring
from nocturne.scene.forms.room import Room
from nocturne.scene.forms.text import Text
from nocturne.scene.forms.turned import Turned
from nocturne.scene.shapes import Mesh
from nocturne.scene.smoothing import creased
from nocturne.scene.thing import Thing
from tests import sets
from tests.near import assert_near


def volume(mesh: Mesh) -> float:
    """Return what a closed surface holds (divergence theorem)."""
    p = mesh.vertices[mesh.triangles].astype(float)
    return float((p[:, 0] * np.cross(p[:, 1], p[:, 2])).sum() / 6)


def polygon(sides: int) -> float:
    """Return the area of a regular polygon over that of its circle."""
    return sides * math.sin(2 * math.pi / sides) / (2 * math.pi)


@pytest.mark.parametrize(
    ("form", "size", "holds"),
    [
        (Box(width=2, depth=3, height=0.5, edge=0), (2, 3, 0.5), 3.0),
        (Cylinder(diameter=2, height=3, edge=0, sides=96), (2, 2, 3), 3 * math.pi * polygon(96)),
        (Cone(diameter=2, top=1, height=3, sides=96), (2, 2, 3), math.pi * (1 + 0.5 + 0.25) * polygon(96)),
        (Cone(diameter=2, top=0, height=3, sides=64), (2, 2, 3), math.pi * polygon(64)),
        (Ball(diameter=2, sides=256), (2, 2, 2), 4 / 3 * math.pi),
        (Ring(diameter=2, thickness=0.2, sides=256), (2.2, 2.2, 0.2), 2 * math.pi**2 * 0.01),
        (Turned(profile=((0, 0), (1, 0), (1, 2), (0, 2)), round=0, sides=96), (2, 2, 2), 2 * math.pi * polygon(96)),
    ],
    ids=lambda value: getattr(value, "title", ""),
)
def test_solids_have_their_size_and_hold_what_they_should(form, size, holds):
    mesh = form_mesh(form)
    assert np.ptp(mesh.bounds, axis=0) == pytest.approx(size, rel=2e-3)
    assert mesh.bounds[0][2] == pytest.approx(0, abs=1e-6), "it stands on the ground"
    assert volume(mesh) == pytest.approx(holds, rel=0.012)


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_every_form_is_sound_and_shared(kind):
    mesh = form_mesh(KINDS[kind]())
    assert form_mesh(KINDS[kind]()) is mesh
    p = mesh.vertices[mesh.triangles].astype(float)
    face = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    lean = (face * mesh.normals[mesh.triangles].sum(1)).sum(1)
    area = np.linalg.norm(face, axis=1)
    assert (lean > 0)[area > 1e-7].all(), "normals and corners agree on the outside"
    assert np.linalg.norm(mesh.normals, axis=1) == pytest.approx(1, abs=1e-4)
    assert np.isfinite(mesh.uvs).all()


def test_uvs_are_metres_of_the_surface():
    for form in (Box(width=2, depth=3, height=0.5, edge=0), Cylinder(diameter=2, height=3, edge=0), Backdrop()):
        mesh = form_mesh(form)
        p, t = mesh.vertices[mesh.triangles].astype(float), mesh.uvs[mesh.triangles].astype(float)
        of_surface = np.linalg.norm(np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]), axis=1)
        e, f = t[:, 1] - t[:, 0], t[:, 2] - t[:, 0]
        flat = (np.abs(mesh.normals[mesh.triangles][..., 2]).max(1) < 0.5) if isinstance(form, Cylinder) else True
        large = (of_surface > 1e-6) & flat
        assert np.abs(e[:, 0] * f[:, 1] - e[:, 1] * f[:, 0])[large] == pytest.approx(of_surface[large], rel=5e-3)


def test_a_room_is_as_thick_as_it_says_and_open_where_it_should_be():
    openings = (
        Opening(wall="back", along=1, sill=0.9, width=1.2, height=1.0),
        Opening(wall="left", along=0.5, sill=0, width=0.9, height=2.0),
        Opening(wall="left", along=9, sill=0, width=0.9, height=2.0),
    )
    room = Room(width=5, depth=4, height=2.5, wall=0.3, openings=openings)
    mesh = form_mesh(room)
    outer, inner = 5.6 * 4.6 * 3.1, 5 * 4 * 2.5
    assert volume(mesh) == pytest.approx(outer - inner - 0.3 * (1.2 + 1.8), rel=1e-5), "what lies beyond is none"
    assert set(mesh.set_names) == {"Floor", "Outside", "Ceiling", "Walls"}
    floor = mesh.triangles[mesh.sets == mesh.set_names.index("Floor")]
    assert mesh.vertices[floor][..., 2] == pytest.approx(0)
    # Seen from inside, along grows to the right: the back wall's left end is at minus x.
    back = mesh.vertices[mesh.triangles[mesh.sets == mesh.set_names.index("Walls")]].mean(1)
    sill = back[(np.abs(back[:, 1] - 2.15) < 0.1) & (np.abs(back[:, 2] - 0.9) < 1e-3)]
    assert sill[:, 0].mean() == pytest.approx(-2.5 + 1 + 0.6, abs=0.3)
    open_room = form_mesh(edit.changed(room, ceiling=False, openings=()))
    assert volume(open_room) == pytest.approx(5.6 * 4.6 * 2.8 - inner, rel=1e-5)


def test_letters_are_as_tall_and_deep_as_they_say():
    mesh = form_mesh(Text(words="HIT", height=0.5, depth=0.1))
    low, high = mesh.bounds
    assert high[2] - low[2] == pytest.approx(0.5, rel=0.02)
    assert (low[1], high[1]) == (pytest.approx(0), pytest.approx(0.1))
    assert abs(low[0] + high[0]) < 0.05, "centred"
    front = mesh.normals[mesh.triangles].mean(1)[:, 1] < -0.99
    p = mesh.vertices[mesh.triangles[front]].astype(float)
    ink = np.linalg.norm(np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]), axis=1).sum() / 2
    assert volume(mesh) == pytest.approx(0.1 * ink, rel=1e-3), "closed, holes and all"
    assert len(form_mesh(Text(words=" ")).triangles) == 0
    assert volume(form_mesh(Text(words="8B@é"))) > 0


def test_what_makes_no_shape_is_refused_in_words():
    thing = Thing(id="t", form=Turned())
    document = Document(things=(thing,))
    for values, words in (
        ({"profile": ((0.0, 0.0),)}, "2 to 512"),
        ({"profile": ((-1.0, 0.0), (1.0, 1.0))}, "distances"),
    ):
        with pytest.raises(SceneError, match=words):
            edit.changed(document.find("things", "t").form, **values)
    with pytest.raises(SceneError):
        edit.changed(Box(), width=0.0)


# ---- smoothing -----------------------------------------------------------------------------------------------------


def test_an_edge_angle_parts_what_is_hard_from_what_is_smooth():
    box = form_mesh(Box(width=1, depth=1, height=1, edge=0))
    flat, smooth, hard = creased(box, 0), creased(box, 180), creased(box, 30)
    p = flat.vertices[flat.triangles].astype(float)
    face = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    face /= np.linalg.norm(face, axis=1, keepdims=True)
    for faceted in (flat, hard):  # 90 degrees stay
        assert_near(faceted.normals[faceted.triangles], np.repeat(face[:, None], 3, 1), within=1e-5)
    corners = smooth.vertices - (0, 0, 0.5)
    assert_near(smooth.normals, corners / np.linalg.norm(corners, axis=1, keepdims=True), within=1e-4)
    ball = creased(sets.BALL, 30)
    outwards = ball.vertices / np.linalg.norm(ball.vertices, axis=1, keepdims=True)
    assert_near(ball.normals, outwards, within=0.02)
    for mesh in (flat, smooth, hard):
        assert volume(mesh) == pytest.approx(volume(box))


def test_split_vertices_are_welded_within_a_reach():
    # Two squares side by side, a tenth of a millimetre apart and slightly turned to each other.
    v = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0], [1.0001, 0, 0], [2, 0, 0.2], [2, 1, 0.2], [1.0001, 1, 0]])
    t = np.array([[0, 1, 2], [0, 2, 3], [4, 5, 6], [4, 6, 7]])
    mesh = Mesh(v, t, np.zeros((8, 3)) + (0, 0, 1), np.zeros((8, 2)))
    apart, together = creased(mesh, 60), creased(mesh, 60, weld_m=0.001)

    def at_seam(m: Mesh) -> np.ndarray:
        return m.normals[np.abs(m.vertices[:, 0] - 1) < 0.01]

    assert np.ptp(at_seam(apart), axis=0).max() > 0.1
    assert np.ptp(at_seam(together), axis=0).max() < 1e-4


@pytest.mark.parametrize("words", ["Bogen 8", "قمر لا", "空 ◎", "क्षत्रिय\nשמש"])
def test_letters_of_any_script_fill_what_their_outlines_go_around(words):
    mesh = Text(words=words, height=0.2, depth=0.05, face="round").build()
    a, b, c = (set_text(words, "round").pieces[:, k] for k in range(3))
    # Of quadratic pieces, in closed form: Green's theorem.
    turns = (p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0] for p, q in ((a, b), (a, b), (b, c), (b, c), (a, c)))
    area = float(sum(turns).sum()) / 6 * 0.2**2
    assert volume(mesh) == pytest.approx(area * 0.05, rel=0.01)

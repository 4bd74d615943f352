"""What cutaways leave: volumes and areas by closed forms, closed or open, in any place; and what is cut by what."""

from dataclasses import replace

import numpy as np
import pytest

from nocturne.scene import edit
from nocturne.scene import solids as forms
from nocturne.scene.cutaway import Cutaway
from nocturne.scene.cutting import CUT_FACE, Cutter, clear_of, cut_by, cutters, may_touch
from nocturne.scene.document import Document
from nocturne.scene.shapes import Mesh, joined, transform
from nocturne.scene.thing import Thing

BALL = forms.ball(1.0, segments=128)
HERE = np.eye(4)


def corners(mesh: Mesh) -> np.ndarray:
    return mesh.vertices[mesh.triangles].astype(float)


def volume(mesh: Mesh) -> float:
    p = corners(mesh)
    return float(np.einsum("ij,ij->", p[:, 0], np.cross(p[:, 1], p[:, 2])) / 6)


def areas(mesh: Mesh) -> np.ndarray:
    p = corners(mesh)
    return np.linalg.norm(np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]), axis=1) / 2


def cut(mesh: Mesh, matrix=HERE, place=(0.0, 0.0, 0.0), turn=(0.0, 0.0, 0.0), size=(1.0, 1.0, 1.0), **values):
    return cut_by(mesh, matrix, (Cutter(Cutaway(**values), transform(place, turn, size)),))


@pytest.mark.parametrize("closed", [True, False])
def test_half_a_ball(closed):
    left, was = cut(BALL, kind="plane", closed=closed)
    assert left.vertices[:, 2].max() == pytest.approx(0.0, abs=1e-6)
    is_face = was == CUT_FACE
    assert areas(left)[~is_face].sum() == pytest.approx(areas(BALL).sum() / 2, rel=1e-3)
    assert is_face.any() == closed
    if closed:
        assert volume(left) == pytest.approx(volume(BALL) / 2, rel=1e-3)
        assert areas(left)[is_face].sum() == pytest.approx(np.pi, rel=2e-3)
        normals = left.normals[left.triangles[is_face]].reshape(-1, 3)
        assert normals == pytest.approx(np.tile((0, 0, 1), (len(normals), 1)), abs=1e-6)
        face_uvs = left.uvs[left.triangles[is_face]]
        a, b = face_uvs[:, 1] - face_uvs[:, 0], face_uvs[:, 2] - face_uvs[:, 0]
        assert np.abs(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum() / 2 == pytest.approx(np.pi, rel=2e-3), "in metres"
    # Each piece lies in the triangle whose number it has.
    old = corners(BALL)[was[~is_face]]
    n = np.cross(old[:, 1] - old[:, 0], old[:, 2] - old[:, 0])
    n /= np.linalg.norm(n, axis=1, keepdims=True)
    away = np.abs(np.einsum("tij,tj->ti", corners(left)[~is_face] - old[:, :1], n))
    assert away.max() < 1e-5


@pytest.mark.parametrize("closed", [True, False])
def test_a_ball_out_of_a_ball_is_a_lens_less(closed):
    d, r = 0.9, 0.7
    left, was = cut(BALL, place=(0, 0, d), kind="ball", radius=r, closed=closed)
    # Volume of the lens and height of the cap of two balls (Weisstein, "Sphere-Sphere Intersection").
    lens = np.pi * (1 + r - d) ** 2 * (d**2 + 2 * d * (1 + r) - 3 * (1 - r) ** 2) / (12 * d)
    high = 1 - (d**2 - r**2 + 1) / (2 * d)
    is_face = was == CUT_FACE
    assert areas(left)[~is_face].sum() == pytest.approx(4 * np.pi - 2 * np.pi * high, rel=2e-3)
    distance = np.linalg.norm(left.vertices - (0, 0, d), axis=1)
    assert distance.min() > r * (1 - 2e-3)
    if closed:
        assert volume(left) == pytest.approx(4 / 3 * np.pi - lens, rel=3e-3)
        caps = left.vertices[left.triangles[is_face]].reshape(-1, 3) - (0, 0, d)
        normals = left.normals[left.triangles[is_face]].reshape(-1, 3)
        expected = -caps / np.linalg.norm(caps, axis=1, keepdims=True)
        assert normals == pytest.approx(expected, abs=0.03), "hollow, and smooth"


@pytest.mark.parametrize("kind", ["box", "ball", "plane"])
def test_an_open_cut_meets_what_has_no_vertex_in_it(kind):
    sheet = forms.panel([(-5, -5, 0), (5, -5, 0), (5, 5, 0), (-5, 5, 0)])
    left, was = cut(sheet, place=(1.0, 0.5, 0.0), turn=(90.0, 0, 0) if kind == "plane" else (0, 0, 0), kind=kind)
    gone = {"box": 1.0, "ball": np.pi / 4, "plane": 10 * 5.5}[kind]
    assert areas(left).sum() == pytest.approx(100 - gone, rel=1e-4)
    assert (was >= 0).all(), "a sheet is no solid: it has no cut face"
    assert left.uvs[:, 0] == pytest.approx(left.vertices[:, 0] + sheet.uvs[0, 0] + 5, abs=1e-5)


@pytest.mark.parametrize("seed", range(6))
@pytest.mark.parametrize("kind", ["box", "ball", "plane"])
def test_any_place_of_thing_and_cutaway(kind, seed):
    """What is left, and whether closed or not, agrees with points tested one by one."""
    rng = np.random.default_rng(seed)
    size = rng.uniform(0.5, 2, 3) * rng.choice((-1, 1), 3)
    matrix = transform(tuple(rng.normal(0, 0.3, 3)), tuple(rng.uniform(-180, 180, 3)), tuple(size))
    cutter = Cutter(
        Cutaway(kind=kind, width=1.3, depth=0.9, height=1.1, radius=0.8),
        transform(tuple(rng.normal(0, 0.2, 3)), tuple(rng.uniform(-180, 180, 3)), tuple(rng.uniform(0.6, 1.5, 3))),
    )
    closed, was = cut_by(BALL, matrix, (cutter,))
    opened, _ = cut_by(BALL, matrix, (Cutter(edit.changed(cutter.cutaway, closed=False), cutter.matrix),))
    points = rng.uniform(-1, 1, (40_000, 3))
    in_cutter = points @ (np.linalg.inv(cutter.matrix) @ matrix)[:3, :3].T
    in_cutter += (np.linalg.inv(cutter.matrix) @ matrix)[:3, 3]
    gone = {
        "box": (np.abs(in_cutter) < cutter.cutaway.half_size).all(1),
        "ball": np.linalg.norm(in_cutter, axis=1) < 0.8,
        "plane": in_cutter[:, 2] > 0,
    }[kind]
    share = ((np.linalg.norm(points, axis=1) < 1) & ~gone).mean() * 8
    assert volume(closed) == pytest.approx(share, abs=0.08)
    assert areas(closed)[was != CUT_FACE].sum() == pytest.approx(areas(opened).sum(), rel=3e-3)


def test_several_cuts_and_what_vertices_carry():
    sets = (BALL.vertices[BALL.triangles[:, 0], 0] > 0).astype(int)
    mesh = replace(BALL, colours=(BALL.vertices + 1) / 2, sets=sets, set_names=("left", "right"))
    by = [
        Cutter(Cutaway(kind="plane"), HERE),
        Cutter(Cutaway(kind="plane", closed=False), transform((0, 0, 0), (0, 90, 0))),
        Cutter(Cutaway(kind="box", width=9, depth=0.5, height=9), HERE),
    ]
    left, was = cut_by(mesh, HERE, by)
    assert left.vertices.max(0) == pytest.approx((0, 1, 0), abs=1e-5)
    own = np.unique(left.triangles[was >= 0])
    assert left.colours[own] == pytest.approx((left.vertices[own] + 1) / 2, abs=1e-4)
    assert (left.sets[was >= 0] == mesh.sets[was[was >= 0]]).all()
    assert cut_by(mesh, HERE, by)[0] is left, "the same cut is made once"
    assert cut_by(mesh, transform((0, 0, -9), (0, 0, 0)), by[:1])[0] is mesh, "what is clear of it stays itself"
    assert cut_by(mesh, transform((0, 0, 9), (0, 0, 0)), by[:1])[0] is None


def test_a_solid_of_two_shells_keeps_both():
    shells = joined(BALL, forms.moved(BALL, transform((3, 0, 0), (0, 0, 0))))
    left, _ = cut(shells, kind="plane")
    assert volume(left) == pytest.approx(4 / 3 * np.pi, rel=2e-3)


def test_chosen_things_are_cut_and_those_in_their_groups():
    things = (
        Thing(id="g", name="Group"),
        Thing(id="a", name="In it", parent="g", mesh="m"),
        Thing(id="b", name="Beside", mesh="m"),
        Thing(id="c", name="Cut", cutaway=Cutaway(of=("g",)), place=(1, 2, 3)),
        Thing(id="d", name="Hidden cut", cutaway=Cutaway(of=("b",)), visible=False),
    )
    document = Document(things=things)
    found = cutters(document)
    assert set(found) == {"g", "a"}
    assert found["a"][0].matrix[:3, 3] == pytest.approx((1, 2, 3))
    assert not document.find("things", "c").is_group
    left = edit.remove(document, "things", "g")
    assert left.find("things", "c").cutaway.of == ()
    both, _ = edit.copied(document, "things", ("g", "c"))
    assert len(both.things) == 8


def test_copies_clear_of_a_cutaway_are_found():
    rng = np.random.default_rng(4)
    stands = np.stack([transform(tuple(rng.uniform(-7, 7, 3)), tuple(rng.uniform(0, 360, 3))) for _ in range(200)])
    for kind in ("box", "ball", "plane"):
        sizes = {"width": 5, "depth": 6, "height": 7, "radius": 3.5}
        cutter = Cutter(Cutaway(kind=kind, **sizes), transform((0, 0, 1), (20, 30, 40)))
        near = may_touch(BALL, stands, cutter)
        assert 0 < near.sum() < 200
        whole, met = clear_of(BALL, stands, (cutter,))
        assert np.array_equal(whole, ~near)
        for stand in stands[whole][:20]:
            assert cut_by(BALL, stand, (cutter,))[0] is BALL
        for stand in stands[~whole & ~met][:5]:
            assert cut_by(BALL, stand, (cutter,))[0] is None
            local = BALL.vertices @ (np.linalg.inv(cutter.matrix) @ stand)[:3, :3].T
            local += (np.linalg.inv(cutter.matrix) @ stand)[:3, 3]
            gone = {
                "box": (np.abs(local) < cutter.cutaway.half_size).all(1),
                "ball": np.linalg.norm(local, axis=1) < cutter.cutaway.radius,
                "plane": local[:, 2] > 0,
            }[kind]
            assert gone.all()

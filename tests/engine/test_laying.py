"""Patterns that ask for more than one square of coordinates: tiles, cameras, three sides, parts, other things."""

import math

import numpy as np
import pytest
from scipy.spatial import cKDTree

from nocturne.engine.prepare import Preparer
from nocturne.engine.render import Stop, blank_film, render
from nocturne.jobs import run
from nocturne.scene import edit, faces
from nocturne.scene import solids as forms
from nocturne.scene.assets import Assets
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Nearness, Picture, Random
from nocturne.scene.patterns.image import WRAPS
from nocturne.scene.projection import camera_axes, project
from nocturne.scene.shapes import joined, transform
from nocturne.scene.throwing import thrown
from tests import sets
from tests.engine.test_steps import agree


@pytest.fixture(scope="module")
def tiles():
    """Return 2 x 3 tiles of smooth pictures that go on from one to the next: red grows across, green upwards."""
    across, up, side = 3, 2, 8
    x = (np.arange(across * side) + 0.5) / (across * side)
    y = (np.arange(up * side) + 0.5) / (up * side)
    whole = np.stack([*np.meshgrid(x, y), np.full((up * side, across * side), 0.5)], axis=-1).astype(np.float32)
    rows = whole.reshape(up, side, across, side, 3).swapaxes(1, 2)
    return np.ascontiguousarray(rows[:, :, ::-1])  # the top row of each tile first


@pytest.mark.parametrize("wrap", [name for name, _ in WRAPS])
def test_tiles_are_the_same_in_the_kernel_and_in_numpy(tiles, wrap, engine):
    agree((Picture(path="<UDIM>.png", wrap=wrap, offset=(1.5, 0.7)),), {("<UDIM>.png", "colour"): tiles})


def test_a_tile_lies_where_its_number_says(tiles, engine):
    """The square from (2, 1) to (3, 2) shows the tile 1013, also beside its neighbours."""
    step = Picture(path="<UDIM>.png", where="flat")
    seen = flat_picture(step, tiles, middle=(1.5, 1.0), width=4.0)
    x, y = 1.5 + (np.arange(64) + 0.5) / 64 * 4 - 2, 1.0 + (np.arange(16)[::-1] + 0.5) / 64 * 4 - 0.5
    inside = (x > 0.1) & (x < 2.9)
    assert seen[:, inside, 0] == pytest.approx(np.broadcast_to(x[inside] / 3, (16, inside.sum())), abs=0.01)
    assert seen[:, inside, 1] == pytest.approx(np.broadcast_to((y / 2)[:, None], (16, inside.sum())), abs=0.01)


def flat_picture(step, image, *, middle, width, mesh=sets.PLANE):
    """Return (16, 64, 3) colours of a mesh seen from above."""
    material = Material(id="m", specular_weight=0, specular_ior=1, steps=(step,))
    eye = (*middle, 5.0)
    camera = sets.view(eye=eye, target=(*middle, 0.0), size=(64, 16), projection="orthographic", span_m=width)
    document, assets = sets.one_thing(mesh, material, sets.white_dome(), camera=camera, quality=sets.deep(32))
    images = {step.picture: image} if step.picture is not None else {}
    return sets.picture(document, Assets(assets.meshes, images)).albedo


def gradient(side: int = 64) -> np.ndarray:
    """Return a picture whose red grows across and whose green grows upwards."""
    at = (np.arange(side) + 0.5) / side
    red, green = np.meshgrid(at, at[::-1])
    return np.stack([red, green, np.full_like(red, 0.5)], axis=-1).astype(np.float32)


@pytest.mark.parametrize("projection", ["perspective", "orthographic"])
def test_a_camera_throws_a_picture_where_it_sees_it(projection, engine):
    """What is thrown from a view and seen from it lies straight in its frame, whatever it falls on."""
    camera = sets.view(
        eye=(2.0, -4.0, 3.0), target=(0.1, 0.2, 0.0), size=(48, 32), projection=projection, span_m=4.0, roll_deg=12.0,
        focal_mm=35.0, shift_x=0.1, shift_y=-0.15,
    )  # fmt: skip
    step = thrown(Picture(path="p.png"), camera)
    ground = forms.panel([(-50, -50, 0), (50, -50, 0), (50, 50, 0), (-50, 50, 0)])
    material = Material(id="m", specular_weight=0, specular_ior=1, steps=(step,))
    document, assets = sets.many(
        [(ground, material, {}), (sets.BALL, material, {"place": (0.2, 0.1, 0.8)})],
        sets.white_dome(),
        camera=camera,
        quality=sets.deep(32),
    )
    seen = sets.picture(document, Assets(assets.meshes, {step.picture: gradient()})).albedo[4:-4, 4:-4]
    x, y = (np.arange(48) + 0.5) / 48, 1 - (np.arange(32) + 0.5) / 32
    assert seen[..., 0] == pytest.approx(np.broadcast_to(x[4:-4], seen.shape[:2]), abs=0.015)
    assert seen[..., 1] == pytest.approx(np.broadcast_to(y[4:-4, None], seen.shape[:2]), abs=0.015)
    place, _ = project(camera, np.array([0.1, 0.2, 0.0]))
    assert place == pytest.approx((0.5 - 0.05, 0.5 - 0.075), abs=1e-6), "the shift moved the aim out of the middle"


def test_what_is_behind_the_camera_or_beyond_its_frame_keeps_what_is_under(engine):
    camera = sets.view(eye=(0, 0, 2.0), target=(4.0, 0, 2.0), size=(32, 32), focal_mm=50)
    step = thrown(Picture(path="p.png"), camera)
    seen = flat_picture(step, np.zeros((4, 4, 3), np.float32), middle=(0.0, 0.0), width=8.0)
    assert seen[:, :30].min() == pytest.approx(0.6, abs=1e-3), "behind it the base colour is as it was"
    assert thrown(step, camera.model_copy(update={"projection": "panorama"})) is None


BUMP = (0.62, 0.41, 0.95)  # a normal that leans to where u grows and away from where v does


def bent(mesh, step, *, eye) -> np.ndarray:
    """Return (3,) the normal that a picture of one normal gives in the middle of what is seen."""
    image = np.broadcast_to(np.array(BUMP, np.float32), (4, 4, 3)).copy()
    material = Material(id="m", specular_weight=0, specular_ior=1, steps=(step,))
    camera = sets.view(eye=eye, target=(0, 0, 0), size=(16, 16), projection="orthographic", span_m=0.2)
    document, assets = sets.one_thing(mesh, material, sets.white_dome(), camera=camera, quality=sets.deep(4))
    film = sets.picture(document, Assets(assets.meshes, {step.picture: image}))
    return film.normal[6:10, 6:10].mean((0, 1))


def normal_map(**values) -> Picture:
    return Picture(parameter="geometry_normal", path="n.png", space="data", **values)


# From where it is looked at a box, and which ways u and v grow there, seen from three sides.
SIDES = [
    ((5, 0, 0), (0, 1, 0), (0, 0, 1)),
    ((-5, 0, 0), (0, -1, 0), (0, 0, 1)),
    ((0, 5, 0), (-1, 0, 0), (0, 0, 1)),
    ((0, -5, 0), (1, 0, 0), (0, 0, 1)),
    ((0, 0, 5), (1, 0, 0), (0, 1, 0)),
]


@pytest.mark.parametrize("without_uvs", [False, True])
@pytest.mark.parametrize(("eye", "u", "v"), SIDES)
@pytest.mark.parametrize("turn", [0.0, 30.0])
def test_a_normal_map_from_three_sides_leans_as_its_picture_lies(eye, u, v, turn, without_uvs, engine):
    box = sets.shifted(forms.rounded_box((1.0, 1.0, 1.0), 1e-4), (0, 0, -0.5))
    if without_uvs:
        box = box.__class__(box.vertices, box.triangles, box.normals, np.zeros_like(box.uvs))
    x, y, z = (2 * c - 1 for c in BUMP)
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    u, v = np.array(u, float), np.array(v, float)
    # Coordinates turned by an angle grow along what is turned back by it.
    along_u, along_v = c * u - s * v, s * u + c * v
    expected = x * along_u + y * along_v + z * np.array(eye) / 5
    found = bent(box, normal_map(where="sides", turn_deg=turn), eye=eye)
    assert found == pytest.approx(expected / np.linalg.norm(expected), abs=0.01)


@pytest.mark.parametrize(
    ("where", "eye", "u", "v"),
    [
        ("flat", (0, 0, 5), (1, 0, 0), (0, 1, 0)),
        ("cylinder", (0, -5, 0), (1, 0, 0), (0, 0, 1)),
        ("ball", (5, 0, 0), (0, 1, 0), (0, 0, 1)),
    ],
)
def test_a_normal_map_laid_around_leans_along_it(where, eye, u, v, engine):
    x, y, z = (2 * c - 1 for c in BUMP)
    expected = x * np.array(u) + y * np.array(v) + z * np.array(eye) / 5
    found = bent(forms.ball(1.0, segments=192), normal_map(where=where), eye=eye)
    assert found == pytest.approx(expected / np.linalg.norm(expected), abs=0.03)


def test_a_normal_map_from_above_is_as_by_its_coordinates(engine):
    """The panel's coordinates run along x and y, so that both ways say the same."""
    by_uv = bent(sets.PLANE, normal_map(), eye=(0, 0, 5))
    assert bent(sets.PLANE, normal_map(where="flat", anchor="set"), eye=(0, 0, 5)) == pytest.approx(by_uv, abs=1e-3)


def test_each_connected_part_has_its_own_number(engine):
    tile = forms.rounded_box((0.4, 0.4, 0.1), 0.01)
    row = joined(*(sets.shifted(tile, (x, 0, 0)) for x in (-1.2, -0.4, 0.4, 1.2)))
    parts = faces.parts_of(row)
    assert sorted(set(parts)) == [0, 1, 2, 3]
    assert len(set(parts[: len(tile.triangles)])) == 1, "hard edges and seams do not part it"
    seen = flat_picture(Random(of="part"), None, middle=(0.0, 0.0), width=3.2, mesh=row)[6:10]
    middles = [seen[:, 8 + 16 * k, 0] for k in range(4)]
    assert all(np.ptp(part) < 1e-3 for part in middles)
    assert len({round(float(part[0]), 3) for part in middles}) == 4
    by_copy = flat_picture(Random(of="copy"), None, middle=(0.0, 0.0), width=3.2, mesh=row)[6:10]
    assert np.ptp(by_copy[:, [8, 24, 40, 56], 0]) < 1e-3


def test_the_distance_to_a_thing_is_that_of_its_nearest_triangle(engine):
    """Against the nearest of many places on it: a turned and stretched box over a floor that asks for it."""
    rng = np.random.default_rng(7)
    stand = {"place": (0.3, -0.2, 0.4), "turn_deg": (20.0, 30.0, 40.0), "size": (0.8, 0.3, 0.5)}
    step = Nearness(thing="thing-1", low=0.1, high=1.2)
    material = Material(id="m", specular_weight=0, specular_ior=1, steps=(step,))
    plain = Material(id="p", base_color=(0, 0, 0))
    camera = sets.view(eye=(0, 0, 9.0), target=(0, 0, 0), size=(48, 48), projection="orthographic", span_m=4.0)
    document, assets = sets.many(
        [(sets.PLANE, material, {}), (sets.BOX, plain, stand)],
        sets.white_dome(), camera=camera, quality=sets.deep(32),
    )  # fmt: skip
    film = sets.picture(document, assets)
    t = sets.BOX.vertices[sets.BOX.triangles].astype(float)
    area = np.linalg.norm(np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0]), axis=1)
    of = t[rng.choice(len(t), 60_000, p=area / area.sum())]
    u, v = rng.uniform(size=(2, 60_000, 1))
    u, v = np.where(u + v > 1, 1 - u, u), np.where(u + v > 1, 1 - v, v)
    points = of[:, 0] + u * (of[:, 1] - of[:, 0]) + v * (of[:, 2] - of[:, 0])
    matrix = transform(**stand)
    tree = cKDTree(points @ matrix[:3, :3].T + matrix[:3, 3])
    place = film.position
    on_floor = np.abs(place[..., 2]) < 1e-4
    inside = np.all([np.roll(on_floor, by, axis) for axis in (0, 1) for by in (-2, 0, 2)], axis=0)
    away, _ = tree.query(place[inside])
    expected = np.clip((away - 0.1) / 1.1, 0, 1)
    assert film.albedo[inside][:, 0] == pytest.approx(expected, abs=0.02)
    assert expected.min() < 0.3
    assert (expected == 1).any()


def test_a_moved_thing_is_asked_where_it_stands_now_and_a_missing_one_is_far(engine):
    step = Nearness(thing="thing-1", high=1.0)
    material = Material(id="m", specular_weight=0, specular_ior=1, steps=(step,))
    camera = sets.view(eye=(0, 0, 9.0), target=(0, 0, 0), size=(16, 16), projection="orthographic", span_m=0.1)
    document, assets = sets.many(
        [(sets.PLANE, material, {}), (sets.BALL, Material(id="p"), {"place": (1.5, 0, 0)})],
        sets.white_dome(), camera=camera, quality=sets.deep(4),
    )  # fmt: skip
    preparer = Preparer()

    def near(document):
        prepared = preparer.prepare(document, assets)
        return run(render(prepared, blank_film(prepared), threads=2, stop=Stop(), noise=0.0)).albedo[8, 8, 0]

    assert near(document) == pytest.approx(0.5, abs=0.01)
    assert near(edit.alter(document, "things", "thing-1", place=(1.2, 0, 0))) == pytest.approx(0.2, abs=0.01)
    assert near(edit.alter(document, "things", "thing-1", visible=False)) == 1.0
    assert near(edit.changed(document, things=document.things[:1])) == 1.0


@pytest.mark.parametrize("parameter", ["base_color", "geometry_normal", "geometry_height"])
def test_what_has_no_coordinates_is_seen_from_three_sides(parameter, engine):
    """As the step would lie if that were chosen; relief that is real geometry, too."""
    box = sets.shifted(forms.rounded_box((1.0, 1.0, 1.0), 1e-4), (0, 0, -0.5))
    bare = box.__class__(box.vertices, box.triangles, box.normals, np.zeros_like(box.uvs))
    relief = {"relief_style": "surface", "relief_depth": 0.1} if parameter == "geometry_height" else {}
    space = "colour" if parameter == "base_color" else "data"
    picture = Picture(parameter=parameter, path="p.png", space=space, repeat=(3.0, 3.0))
    camera = sets.view(eye=(3.0, -4.0, 2.0), target=(0, 0, 0), size=(32, 32), focal_mm=60)

    def seen(mesh, where):
        step = edit.changed(picture, where=where)
        material = Material(id="m", specular_weight=0, specular_ior=1, steps=(step,), **relief)
        document, assets = sets.one_thing(mesh, material, sets.white_dome(), camera=camera, quality=sets.deep(16))
        film = sets.picture(document, Assets(assets.meshes, {step.picture: gradient()}))
        return np.concatenate([film.albedo, film.normal, film.position], axis=-1)

    assert np.array_equal(seen(bare, "uv"), seen(bare, "sides"))
    assert not np.array_equal(seen(box, "uv"), seen(bare, "uv"))


def test_a_mesh_is_bare_where_no_set_of_coordinates_differs():
    box = forms.rounded_box((1.0, 1.0, 1.0), 0.1)
    bare = box.__class__(box.vertices, box.triangles, box.normals, np.full_like(box.uvs, 0.3))
    second = box.__class__(box.vertices, box.triangles, box.normals, np.zeros_like(box.uvs), more_uvs=box.uvs)
    assert (box.is_bare, bare.is_bare, second.is_bare) == (False, True, False)


@pytest.mark.parametrize("roll", [0.0, 90.0, -90.0, 33.0])
@pytest.mark.parametrize("target", [(0.0, 0.0, 0.0), (3.0, 0.5, 5.0)])
def test_a_thrown_picture_turns_as_the_camera_does(roll, target):
    """Also straight down and on its side, where turns about axes are ambiguous."""
    camera = sets.view(eye=(0.0, 0.0, 5.0), target=target, roll_deg=roll)
    frame = thrown(Picture(path="p.png"), camera).frame()[:, :3]
    frame /= np.linalg.norm(frame, axis=1, keepdims=True)
    right, up, ahead = camera_axes(camera)
    assert frame == pytest.approx(np.stack([right, up, -ahead]), abs=1e-6)

"""Hard edges shaded as if rounded: against fillets and balls in closed form, over meshes that are awkward."""

import math
from dataclasses import replace

import numpy as np
import pytest

from nocturne.engine import rounding
from nocturne.engine.layout import instance as inst
from nocturne.engine.layout import mesh as mesh_row
from nocturne.engine.prepare import Preparer
from nocturne.scene import edit
from nocturne.scene import solids as forms
from nocturne.scene.layering import by_id, chain
from nocturne.scene.materials import Material
from nocturne.scene.ownrounding import with_own_rounding
from nocturne.scene.patterns import Constant
from nocturne.scene.shapes import Mesh
from nocturne.scene.thing import FaceMaterial
from tests import sets

SIZE = 64


def box() -> Mesh:
    """Return a box of 2 m with twelve triangles and hard edges, its middle in the origin."""
    faces, vertices, normals = [], [], []
    for axis in range(3):
        for sign in (-1.0, 1.0):
            n = np.zeros(3)
            n[axis] = sign
            a, b = np.eye(3)[(axis + 1) % 3], np.eye(3)[(axis + 2) % 3]
            a, b = (a, b) if np.dot(np.cross(a, b), n) > 0 else (b, a)
            first = len(vertices)
            for u, v in ((-1, -1), (1, -1), (1, 1), (-1, 1)):
                vertices.append(n + u * a + v * b)
                normals.append(n)
            faces += [(first, first + 1, first + 2), (first, first + 2, first + 3)]
    vertices, normals = np.array(vertices), np.array(normals)
    return Mesh(vertices, np.array(faces), normals, np.zeros((len(vertices), 2)))


def seen_normals(mesh: Mesh, material: Material, **fields) -> np.ndarray:
    """Return the (64, 64, 3) shading normals of a thing that is looked at from above."""
    camera = sets.view(eye=(0, 0, 8), size=(SIZE, SIZE), projection="orthographic", span_m=2.0)
    document, assets = sets.many([(mesh, material, fields)], sets.white_dome(), camera=camera, quality=sets.deep(4))
    return sets.picture(document, assets).normal


def expected(radius: float) -> np.ndarray:
    """Return the normals of a box of 2 m whose edges are rounded, as seen on its flat face from above."""
    at = (np.arange(SIZE) + 0.5) / SIZE * 2 - 1
    x, y = np.meshgrid(at, -at)
    far = [np.sign(v) * np.maximum(np.abs(v) - (1 - radius), 0) / radius for v in (x, y)]
    n = np.stack([*far, np.ones_like(x)], axis=-1)
    return n / np.linalg.norm(n, axis=-1, keepdims=True)


@pytest.mark.parametrize("radius", [0.15, 0.5])
def test_a_box_is_shaded_as_a_rounded_one(engine, radius):
    metal = Material(id="m", base_metalness=1, specular_roughness=0.5, rounding_mm=1000 * radius)
    found = seen_normals(box(), metal)
    assert found == pytest.approx(expected(radius), abs=0.03)


def test_a_radius_is_in_metres_whatever_the_size_of_the_thing(engine):
    metal = Material(id="m", specular_roughness=0.5, rounding_mm=300)
    small = replace(box(), vertices=box().vertices * 0.1)
    assert seen_normals(small, metal, size=(10.0, 10.0, 10.0)) == pytest.approx(expected(0.3), abs=0.03)


def test_a_thing_may_be_rounded_by_itself(engine):
    plain, rounded = Material(id="m"), Material(id="m", rounding_mm=300.0)
    by_material = seen_normals(box(), rounded)
    by_thing = seen_normals(box(), plain, rounding_mm=300.0)
    assert np.array_equal(by_thing, by_material)
    assert not np.array_equal(by_thing, seen_normals(box(), plain))
    # Over what its material says, and only there.
    assert np.array_equal(seen_normals(box(), Material(id="m", rounding_mm=50.0), rounding_mm=300.0), by_material)
    document, assets = sets.many([(box(), plain, {"rounding_mm": 300.0}), (box(), plain, {"place": (5, 0, 0)})])
    prepared = Preparer().prepare(document, assets)
    assert prepared.document is document
    assert len(prepared.arrays["mat_f"]) == 3, "none, the material, and it with the thing's rounding"


def test_layers_go_along_with_a_thing_of_its_own_rounding():
    top = Material(id="top", name="Top", layer_over="low")
    document, _ = sets.many([(box(), top, {"rounding_mm": 2.0, "rounding_angle_deg": 40.0})])
    document = edit.changed(document, materials=(top, Material(id="low", name="Low")))
    made = with_own_rounding(document)
    worn = chain(by_id(made.materials), made.things[0].material)
    assert [(m.name, m.rounding_mm, m.rounding_angle_deg) for m in worn] == [("Top", 2.0, 40.0), ("Low", 2.0, 40.0)]
    again = with_own_rounding(document)
    assert again.things is made.things, "nothing is made anew while nothing has changed"
    assert again.materials is made.materials


def test_edges_below_the_angle_stay_hard(engine):
    metal = Material(id="m", specular_roughness=0.5, rounding_mm=300, rounding_angle_deg=100)
    assert seen_normals(box(), metal)[..., 2].min() == pytest.approx(1, abs=1e-3)


def test_what_is_smooth_already_has_no_edges():
    assert not len(rounding.rounds(forms.ball(1.0, segments=48), reach=0.2, angle_deg=20).rows)


def test_a_thin_plate_is_not_rounded_by_its_other_side(engine):
    plate = replace(box(), vertices=box().vertices * (1, 1, 0.02))
    found = seen_normals(plate, Material(id="m", specular_roughness=0.5, rounding_mm=150))
    assert found == pytest.approx(expected(0.15), abs=0.03)


def raised(material: Material, height: float = 0.08) -> Material:
    """Return the material with all of its surface moved outwards."""
    up = Constant(parameter="geometry_height", value=(1.0, 1.0, 1.0))
    relief = {"relief_style": "surface", "relief_depth": height, "relief_pixels": 2.0}
    return edit.changed(material, steps=(*material.steps, up), **relief)


def test_what_relief_moves_is_rounded_at_the_edges_it_had(engine):
    metal = Material(id="m", base_metalness=1, specular_roughness=0.5, rounding_mm=300)
    found = seen_normals(box(), raised(metal))
    # But for the outermost triangles, which go outwards at the edge.
    inner = slice(4, -4), slice(4, -4)
    assert found[inner] == pytest.approx(expected(0.3)[inner], abs=0.05)
    flat = seen_normals(box(), raised(edit.changed(metal, rounding_mm=0.0)))
    assert flat[inner][..., 2].min() > 0.99


def test_a_moved_mesh_without_the_one_before_is_left_as_it_is(engine):
    metal = Material(id="m", base_metalness=1, specular_roughness=0.5, rounding_mm=150)
    assert seen_normals(replace(box(), rest=box().vertices), metal)[..., 2].min() == pytest.approx(1, abs=1e-3)


def test_each_part_of_a_moved_mesh_is_rounded_as_its_material_wants(engine):
    whole = box()
    names = ("top", "rest")
    is_top = (whole.normals[whole.triangles[:, 0]] @ (0, 0, 1) > 0.5).astype(np.uint16)
    mesh = replace(whole, sets=1 - is_top, set_names=names)
    metal = raised(Material(id="m", base_metalness=1, specular_roughness=0.5, rounding_mm=300))
    other = edit.changed(metal, id="other", rounding_mm=0.0)
    document, assets = sets.many([(mesh, metal, {})], sets.white_dome())
    document = edit.changed(document, materials=(*document.materials, other))
    document = edit.alter(document, "things", "thing-0", faces=(FaceMaterial(set="rest", material="other"),))
    prepared = Preparer().prepare(document, assets)
    drawn = prepared.arrays["inst_i"][:2]
    counts = []
    for row in drawn:
        first = prepared.arrays["mesh_i"][row[inst.MESH]][mesh_row.FIRST_TRIANGLE]
        n = len(prepared.pieces[len(counts)])
        counts.append(prepared.arrays["round_i"][first : first + n, 1])
    assert counts[0].min() > 0, "whatever it was divided to, each triangle of the top has the edges of the top"
    assert not counts[1].any()


def test_a_moved_thing_makes_no_edges_anew(engine):
    metal = Material(id="m", rounding_mm=150)
    document, assets = sets.many([(box(), metal, {})], sets.white_dome())
    preparer = Preparer()
    first = preparer.prepare(document, assets)
    moved = edit.alter(document, "things", "thing-0", place=(1.0, 0.0, 0.0), size=(1.05, 1.05, 1.05))
    assert preparer.prepare(moved, assets).arrays["round_f"] is first.arrays["round_f"]


def test_every_edge_within_reach_is_listed_and_no_others():
    mesh, reach = forms.faceted(forms.gear(0.5, 12, 0.1)), 0.03
    made = rounding.rounds(mesh, reach=reach, angle_deg=30)
    p = mesh.vertices[mesh.triangles].astype(float)
    rng = np.random.default_rng(3)
    ends, triangles, normals, patch = rounding._edges(mesh, math.cos(math.radians(30)))
    cosine = (normals[:, 0] * normals[:, 1]).sum(2).mean(1)
    far = reach * np.minimum(np.sqrt((1 - cosine) / (1 + cosine)), rounding.MOST_TANGENT)
    u = np.sort(rng.random((800, 2)), axis=1)
    u[:300, 0] = 0  # much of what is near lies near the border
    u[300:600, 1] = 1
    wrong = 0
    for triangle in rng.integers(0, len(p), 40):
        begin, count = made.first[triangle]
        listed = {tuple(np.round(row[:6], 6)) for row in made.rows[begin : begin + count]}
        places = p[triangle, 0] * u[:, :1] + p[triangle, 1] * (u[:, 1:] - u[:, :1]) + p[triangle, 2] * (1 - u[:, 1:])
        for (a, b), pair, most in zip(ends, triangles, far):
            if patch[triangle] not in patch[pair]:
                continue  # it bounds another face
            s = np.clip(((places - a) @ (b - a)) / max((b - a) @ (b - a), 1e-12), 0, 1)
            near = np.linalg.norm(places - a - s[:, None] * (b - a), axis=1).min()
            is_listed = tuple(np.round(np.concatenate([a, b]).astype(np.float32), 6)) in listed
            if abs(near - most) > 0.1 * reach:
                wrong += is_listed != (near < most)
    assert wrong == 0
    assert len(made.rows) > 500

"""Relief as real geometry in a picture: as a modelled bump, in outline and in shading."""

import numpy as np
import pytest

from nocturne.engine.heights import Heights
from nocturne.engine.pictures import Pictures
from nocturne.engine.prepare import Preparer
from nocturne.scene import edit, solids
from nocturne.scene.assets import Assets
from nocturne.scene.displacing import blind
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.patterns import KINDS, Distance, Edges, Fractal, Mix, Occlusion, Spot, driven_by
from nocturne.scene.shapes import Mesh, smooth_normals, transform
from tests import sets
from tests.engine.test_steps import LARGE

R, HEIGHT = 1.5, 0.9
PLANE = solids.panel([(-4, -4, 0), (4, -4, 0), (4, 4, 0), (-4, 4, 0)])
# 1 in the middle, 0 from R on, a straight way between.
CONE = Distance(parameter="geometry_height", where="solid", high=R, invert=True)
BUMP = Material(
    id="m",
    base_color=(0.5, 0.5, 0.5),
    specular_weight=0,
    relief_style="surface",
    relief_depth=HEIGHT,
    relief_pixels=1.5,
    steps=(CONE,),
)
SUN = make_light(id="sun", kind="distant", unit="lx", power=3.0, turn_deg=(0.0, 55.0, 20.0))


def modelled() -> Mesh:
    """Return the same bump as a mesh: a cone on a plane, rings of it where its edges are."""
    n = 257
    at = np.linspace(-4, 4, n)
    x, y = np.meshgrid(at, at)
    z = HEIGHT * np.clip(1 - np.hypot(x, y) / R, 0, 1)
    vertices = np.stack([x, y, z], axis=-1).reshape(-1, 3)
    k = np.arange(n * n).reshape(n, n)
    a, b, c, d = k[:-1, :-1], k[:-1, 1:], k[1:, 1:], k[1:, :-1]
    triangles = np.concatenate([np.stack(v, -1).reshape(-1, 3) for v in ((a, b, c), (a, c, d))])
    return Mesh(vertices, triangles, smooth_normals(vertices, triangles), vertices[:, :2])


def pictures(material: Material, mesh: Mesh, camera, samples: int = 32):
    document, assets = sets.one_thing(
        mesh, material, SUN, sets.white_dome(0.3), camera=camera, quality=sets.deep(samples)
    )
    return sets.picture(document, assets)


@pytest.mark.parametrize("eye", [(0.0, -9.0, 5.0), (0.5, -9.0, 0.5)])
def test_it_looks_as_a_modelled_bump_does(eye, engine):
    camera = sets.view(eye=eye, target=(0, 0, 0.3), size=(64, 48), focal_mm=60)
    plain = edit.changed(BUMP, relief_style="shading", steps=())
    made, true = pictures(BUMP, PLANE, camera), pictures(plain, modelled(), camera)
    shaded = pictures(edit.changed(BUMP, relief_style="shading"), PLANE, camera)
    grey, expected = (film.beauty().mean(-1) for film in (made, true))
    off = np.abs(grey - expected)
    assert off.mean() < 0.035 * expected.mean()
    assert np.abs(shaded.beauty().mean(-1) - expected).mean() > 2 * off.mean(), "shading alone has no outline"
    assert np.abs(made.normal - true.normal).mean() < 0.03


def test_what_is_finer_than_its_triangles_is_shaded(engine):
    """Of triangles as large as lumps the normals are still those of the lumps, as with fine ones."""
    lumps = Fractal(parameter="geometry_height", where="solid", scale=0.5, octaves=3)
    material = edit.changed(BUMP, steps=(lumps,), relief_depth=0.08)
    camera = sets.view(eye=(0, -3.0, 7.0), target=(0, 0, 0), size=(48, 48), focal_mm=60)
    fine, coarse = (pictures(edit.changed(material, relief_pixels=pixels), PLANE, camera, 24) for pixels in (1.0, 24.0))
    flat = pictures(edit.changed(material, steps=()), PLANE, camera, 8)
    spread = np.abs(fine.normal - flat.normal).mean()
    assert spread > 0.02
    assert np.abs(fine.normal - coarse.normal).mean() < 0.35 * spread


def test_only_what_changed_is_divided_anew(engine):
    preparer = Preparer()
    camera = sets.view(eye=(0, -9, 5), target=(0, 0, 0), size=(64, 48))
    document, assets = sets.many(
        [(PLANE, BUMP, {}), (solids.ball(0.05, segments=24), Material(id="b"), {"place": (0.0, 0.0, 3.0)})],
        sets.white_dome(),
        camera=camera,
    )
    first = preparer.prepare(document, assets)
    assert [m.thing for m in first.moved] == ["thing-0"]
    assert not first.moved[0].is_cut
    rest = first.arrays["rest"]
    assert first.moved[0].triangles > 1000
    red = edit.alter(document, "materials", "b", base_color=(1.0, 0.0, 0.0))
    assert preparer.prepare(red, assets).arrays["rest"] is rest, "another colour"
    aside = edit.put(red, "views", edit.changed(camera, eye=(0.01, -9.0, 5.0)))
    assert preparer.prepare(aside, assets).arrays["rest"] is rest, "a small step"
    near = preparer.prepare(edit.put(red, "views", edit.changed(camera, eye=(0.0, -3.0, 1.5))), assets)
    assert near.moved[0].triangles > 1.5 * first.moved[0].triangles
    deeper = preparer.prepare(edit.alter(document, "materials", "m", relief_depth=0.2), assets)
    corners = deeper.arrays["corners"][:, 2]
    assert corners.max() == pytest.approx(0.2, rel=0.05)
    none = preparer.prepare(edit.alter(document, "materials", "m", relief_style="shading"), Assets(assets.meshes))
    assert none.moved == ()
    assert len(none.arrays["rest"]) == 1


@pytest.mark.parametrize("kind", [kind for kind, model in KINDS.items() if not model.needs_under])
def test_heights_are_the_same_as_numpy_has_them(kind, engine):
    """Of every kind; where a step asks for near shapes it is far from all of them."""
    rng = np.random.default_rng(8)
    values = {**LARGE.get(kind, {}), **({"where": "solid"} if KINDS[kind].is_placed else {})}
    step = KINDS[kind](parameter="mix", **values)
    steps = blind((Mix(parameter="geometry_height", bg=(0.2,) * 3, fg=(0.9,) * 3, steps=(step,)),))
    images = {("p.png", "colour"): rng.random((16, 16, 3)).astype(np.float32)}
    pictures = Pictures().tables(list(images.values()))
    matrix = transform((1.0, 2.0, 3.0), (20.0, 0.0, 50.0), (2.0, 2.0, 2.0))
    n = 300
    own = rng.uniform(-1, 1, (n, 3))
    normal = np.broadcast_to([0.6, 0.0, 0.8], (n, 3))
    axes = matrix[:3, :3] / 2
    uv = rng.uniform(-2, 2, (n, 2))
    # Vertices of the thing in its own lengths; places along its axes in metres.
    spot = Spot(
        uv, uv[::-1], np.ones((n, 3)), 2 * own, own @ matrix[:3, :3].T + matrix[:3, 3], normal @ axes, normal, normal,
        (77, 0, 0),
    )  # fmt: skip
    found = Heights(tuple(images), {}, pictures).of(steps, matrix, 77)(spot)
    expected = driven_by(steps, np.zeros(3), spot, images)[..., 0]
    off = np.abs(found - expected) > 2e-3
    assert off.mean() <= 0.02, (found[off][:4], expected[off][:4])


def test_what_asks_for_near_shapes_moves_nothing_and_masks_nothing():
    noise = Fractal(parameter="geometry_height", steps=(Edges(parameter="amount", invert=True),))
    (left,) = blind((Edges(parameter="geometry_height"), noise))
    assert (left.steps[0].kind, left.steps[0].value, left.steps[0].invert) == ("constant", (0.0,) * 3, True)
    assert blind((Occlusion(),)) == ()

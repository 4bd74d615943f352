"""Small sets for tests, and a render of them."""

from dataclasses import replace

import numpy as np

from nocturne.engine.layout import settings as st
from nocturne.engine.prepare import Preparer
from nocturne.engine.render import Stop, blank_film, render
from nocturne.film.film import Film
from nocturne.jobs import run
from nocturne.scene import solids as forms
from nocturne.scene.assets import Assets
from nocturne.scene.camera import View
from nocturne.scene.document import Document
from nocturne.scene.lights import Light, make_light
from nocturne.scene.materials import Material
from nocturne.scene.outputs import Quality
from nocturne.scene.shapes import Mesh, rotation
from nocturne.scene.thing import Thing

MODES = {"mis": st.MODE_MIS, "light": st.MODE_LIGHT, "material": st.MODE_MATERIAL}
PLANE = forms.panel([(-5, -5, 0), (5, -5, 0), (5, 5, 0), (-5, 5, 0)])
BALL = forms.ball(1.0, segments=192)
BOX = forms.rounded_box((2, 2, 2), 0.05)


def deep(samples: int = 64, **changes) -> Quality:
    """Return a quality level that follows light as far as it goes."""
    values = {"diffuse_bounces": 60, "reflections": 60, "transmissions": 60, "bounces": 90, **changes}
    return Quality(id="q", name="Test", samples=samples, least_samples=2, denoise="off", **values)


def view(eye=(0, -6, 0), target=(0, 0, 0), size=(32, 32), **changes) -> View:
    """Return a camera of a small picture."""
    return View(
        id="v", name="View", eye=eye, target=target, width=size[0], height=size[1], **{"focal_mm": 85, **changes}
    )


def one_thing(
    mesh: Mesh, material: Material, *lights: Light, camera: View | None = None, quality: Quality | None = None
):
    """Return (document, assets) of one thing under some lights."""
    return many([(mesh, material, {})], *lights, camera=camera, quality=quality)


def many(parts: list, *lights: Light, camera: View | None = None, quality: Quality | None = None):
    """Return (document, assets) of (mesh, material, thing fields) parts under some lights."""
    meshes = {f"mesh-{i}": mesh for i, (mesh, _, _) in enumerate(parts)}
    materials = {m.id: m for _, m, _ in parts}
    things = tuple(
        Thing(id=f"thing-{i}", name=f"Thing {i}", mesh=f"mesh-{i}", material=m.id, **fields)
        for i, (_, m, fields) in enumerate(parts)
    )
    document = Document(
        things=things,
        materials=tuple(materials.values()),
        lights=lights,
        views=(camera or view(),),
        active_view="v",
        qualities=(quality or deep(),),
        active_quality="q",
        groups=tuple(dict.fromkeys(li.group for li in lights)) or ("light",),
    )
    return document, Assets(meshes)


def picture(
    document: Document, assets: Assets, *, mode: str = "mis", threads: int = 2, seed: int = 0, **options
) -> Film:
    """Render a document to its quality level's samples."""
    prepared = Preparer().prepare(document, assets, sampling=MODES[mode])
    film = blank_film(prepared)
    return run(render(prepared, film, threads=threads, seed=seed, stop=Stop(), **{"noise": 0.0, **options}))


def shifted(mesh: Mesh, by: tuple[float, float, float]) -> Mesh:
    """Return a mesh moved by metres."""
    return replace(mesh, vertices=mesh.vertices + np.asarray(by, np.float32))


def white_dome(power: float = 1.0) -> Light:
    """Return a dome of neutral light, in nits."""
    return make_light(id="dome", kind="dome", unit="nit", power=power, colour_from="colour", colour=(1, 1, 1))


def middle(film: Film, reach: int = 4) -> np.ndarray:
    """Return the mean RGB of the picture's middle."""
    width, height = film.size
    y, x = height // 2, width // 2
    return film.beauty()[y - reach : y + reach, x - reach : x + reach].mean((0, 1))


def turned(turn_deg: tuple, vector: tuple) -> np.ndarray:
    """Return a vector turned as a thing or light is."""
    return rotation(turn_deg) @ np.array(vector, float)

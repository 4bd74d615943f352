"""The stand that a material is shown on: a shape of a real size in a small studio."""

from functools import cache

import numpy as np

from nocturne.scene import solids as forms
from nocturne.scene.assets import Assets
from nocturne.scene.camera import View
from nocturne.scene.document import Document
from nocturne.scene.glowing import brightest, settled_materials
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.outputs import Quality
from nocturne.scene.shapes import Mesh, joined, transform
from nocturne.scene.thing import Thing

STANDS = (("ball", "Ball"), ("cube", "Cube"), ("slab", "Slab"), ("cloth", "Cloth"))
SIZES_M = (0.02, 0.1, 0.5, 2.0)


@cache
def _shape(stand: str) -> Mesh:
    """Return a stand's mesh one metre large, standing on z = 0."""
    if stand == "ball":
        return forms.moved(forms.ball(0.5, segments=96), _up(0.5))
    if stand == "cube":
        return forms.rounded_box((0.8, 0.8, 0.8), 0.03)
    if stand == "slab":
        return forms.rounded_box((1.3, 1.0, 0.12), 0.02)
    return forms.moved(forms.sheet(1.2, 1.0, curl=0.25, n=48), _up(0.05))


def _up(height: float) -> np.ndarray:
    return transform((0.0, 0.0, height), (0.0, 0.0, 0.0))


@cache
def _floor() -> Mesh:
    n = 16
    tiles = [
        forms.panel([(x, y, 0), (x + 0.25, y, 0), (x + 0.25, y + 0.25, 0), (x, y + 0.25, 0)])
        for i in range(n)
        for j in range(n)
        if (i + j) % 2
        for x, y in [(-2 + i * 0.25, -2 + j * 0.25)]
    ]
    return joined(*tiles)


def _sized(mesh: Mesh, size: float) -> Mesh:
    # UVs are metres along the surface in Nocturne's own forms, so they grow with the shape.
    return Mesh(mesh.vertices * size, mesh.triangles, mesh.normals, mesh.uvs * size)


def document_of(
    material: Material,
    images: dict,
    *,
    below: tuple[Material, ...] = (),
    stand: str = "ball",
    size_m: float = 0.1,
    pixels: int = 80,
    samples: int = 20,
) -> tuple[Document, Assets]:
    """Return a document of one material on a stand, and its files; `images` are those the material refers to.

    below: the materials that it lies over.
    """
    s = size_m
    meshes = {
        "stand": _sized(_shape(stand), s),
        "floor": _sized(forms.panel([(-2, -2, -0.002), (2, -2, -0.002), (2, 2, -0.002), (-2, 2, -0.002)]), s),
        "tiles": _sized(_floor(), s),
    }
    paper = Material(id="swatch-floor", name="Floor", base_color=(0.3, 0.3, 0.3), specular_roughness=0.6)
    dark = Material(id="swatch-tiles", name="Tiles", base_color=(0.12, 0.12, 0.12), specular_roughness=0.6)
    things = (
        Thing(id="stand", name="Stand", mesh="stand", material=material.id),
        Thing(id="floor", name="Floor", mesh="floor", material="swatch-floor"),
        Thing(id="tiles", name="Tiles", mesh="tiles", material="swatch-tiles"),
    )
    lights = (
        make_light(
            id="key",
            kind="rect",
            unit="nit",
            power=1150.0,
            kelvin=5600,
            place=(-1.1 * s, -1.0 * s, 1.9 * s),
            turn_deg=(35, -30, 0),
            width=1.1 * s,
            height=1.1 * s,
            visible=False,
        ),
        make_light(
            id="rim",
            kind="rect",
            unit="nit",
            power=1700.0,
            kelvin=7000,
            place=(1.4 * s, 1.0 * s, 1.2 * s),
            turn_deg=(-55, 45, 0),
            width=0.4 * s,
            height=1.2 * s,
            visible=False,
        ),
        make_light(id="dome", kind="dome", unit="nit", power=11.0, kelvin=5600),
    )
    lights = tuple(light.model_copy(update={"id": f"swatch-{light.id}", "group": "light"}) for light in lights)
    view = View(
        id="v",
        eye=(0.0, -3.4 * s, 1.35 * s),
        target=(0.0, 0.0, 0.42 * s if stand in ("ball", "cube") else 0.08 * s),
        focal_mm=85,
        width=pixels,
        height=pixels,
        iso=100,
        f_number=2.8,
        shutter_s=1 / 4,
    )
    quality = Quality(
        id="q", name="Swatch", samples=samples, least_samples=4, clamp=8, regularise=0.2, diffuse_bounces=3
    )
    shown = tuple(m.model_copy(update={"emission_group": ""}) for m in (material, *below))
    document = Document(
        things=things,
        materials=(*shown, paper, dark),
        lights=lights,
        groups=("light",),
        views=(view,),
        active_view="v",
        qualities=(quality,),
        active_quality="q",
    )
    assets = Assets(meshes, images)
    looks = brightest(settled_materials(document, assets)) * 2.0**material.emission_look_stops
    if looks > 0:
        seen = view.model_copy(update={"shutter_s": max(min(1 / 4, 30 / max(looks, 1.0)), 1e-6)})
        document = document.model_copy(update={"views": (seen,)})
    return document, assets

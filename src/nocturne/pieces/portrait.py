"""A piece as it is shown in a list: on a light floor, seen from the front and above."""

import numpy as np

from nocturne.scene import edit, navigate
from nocturne.scene.assets import Assets
from nocturne.scene.camera import View
from nocturne.scene.document import Document
from nocturne.scene.exposing import exposed_for
from nocturne.scene.forms.ground import Ground
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.outputs import Quality
from nocturne.scene.thing import Thing

_NITS = 1000.0
_WHITE = {"colour_from": "colour", "colour": (1.0, 1.0, 1.0)}
_FLOOR = Material(id="portrait-floor", name="Floor", base_color=(0.36, 0.36, 0.38), specular_weight=0.0)


def portrait(piece: Document, assets: Assets, *, width: int, height: int, samples: int = 24) -> Document:
    """Return a document in which a piece has its picture taken."""
    top = next(thing for thing in piece.things if not thing.parent)
    box = navigate.bounds_of(piece, assets, top.id)
    low, high = box if box is not None else (np.full(3, -0.5), np.full(3, 0.5))
    size = max(float(np.linalg.norm(high - low)), 1e-3)
    middle = (low + high) / 2
    view = View(id="portrait", name="Portrait", focal_mm=70, width=width, height=height)
    view = edit.changed(view, eye=tuple(middle + np.array((-1.0, -2.2, 0.9)) * size), target=tuple(middle))
    view = exposed_for(navigate.bring_into_view(view, low, high), 0.17 * _NITS)
    floor = Ground(width=60 * size, depth=60 * size)
    ground = Thing(id="portrait-ground", form=floor, material=_FLOOR.id, place=(0.0, 0.0, float(low[2])))
    key = make_light(
        id="portrait-key",
        kind="rect",
        unit="nit",
        power=9 * _NITS,
        place=tuple(middle + np.array((-1.4, -1.0, 1.8)) * size),
        width=size,
        height=size,
        visible=False,
        **_WHITE,
    )
    key = edit.changed(key, turn_deg=(-38.0, -38.0, 0.0))
    dome = make_light(id="portrait-dome", kind="dome", unit="nit", power=0.5 * _NITS, **_WHITE)
    quality = Quality(id="portrait", name="Portrait", samples=samples, least_samples=samples, denoise="fast", noise=0.0)
    return edit.changed(
        piece,
        things=(*piece.things, ground),
        materials=(*piece.materials, _FLOOR),
        lights=(*piece.lights, key, dome),
        views=(view,),
        active_view=view.id,
        qualities=(quality,),
        active_quality=quality.id,
    )

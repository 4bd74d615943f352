"""Each kind of step: what the kernel works out at a hit is what NumPy does, however it lies and is driven."""

from dataclasses import replace

import numpy as np
import pytest

from nocturne.engine.layout import instance as inst
from nocturne.engine.layout import mat
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import spot as layout
from nocturne.engine.layout.steps import OFFSETS
from nocturne.engine.prepare import Preparer
from nocturne.engine.types import scratch_row
from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.materials import DRIVEN, GLOWING, Material
from nocturne.scene.patterns import KINDS, Constant, Fractal, Noise, Ramp, Spot, driven_by
from nocturne.scene.patterns.step import BLENDS, PLACES
from tests import sets
from tests.engine import units

N = 400
BASE = (0.2, 0.5, 0.7)


@pytest.fixture(scope="module")
def image():
    """Return a small, smooth picture."""
    x, y = np.meshgrid(np.arange(16) / 16, np.arange(16) / 16)
    return np.stack([0.5 + 0.4 * np.sin(2 * np.pi * (x + k * y) + k) for k in range(3)], axis=-1).astype(np.float32)


def spot_at(rng) -> Spot:
    """Return random places about a thing at (1, 2, 3) that is turned by 90 degrees about z, and twice as large."""
    own = rng.uniform(-1.5, 1.5, (N, 3))
    turned = np.stack([-own[:, 1], own[:, 0], own[:, 2]], axis=-1)
    own_normal = rng.normal(size=(N, 3))
    own_normal /= np.linalg.norm(own_normal, axis=-1, keepdims=True)
    normal = np.stack([-own_normal[:, 1], own_normal[:, 0], own_normal[:, 2]], axis=-1)
    viewer = rng.normal(size=(N, 3))
    viewer /= np.linalg.norm(viewer, axis=-1, keepdims=True)
    uv, uv_2 = rng.uniform(-3, 3, (2, N, 2))
    place = turned + (1.0, 2.0, 3.0)
    return Spot(uv, uv_2, rng.uniform(0, 1, (N, 3)), own, place, own_normal, normal, viewer, (0, 0, 0))


def by_kernel(
    material: Material, spot: Spot, images: dict, target: int, *, reach: float = 0.0
) -> tuple[np.ndarray, Spot]:
    """Return (N, 3) of the material's row as the patterns' unit leaves it, and the spot with its seeds."""
    document, assets = sets.one_thing(sets.PLANE, material, sets.white_dome())
    stood = {"place": (1.0, 2.0, 3.0), "turn_deg": (0.0, 0.0, 90.0), "size": (2.0, 2.0, 2.0)}
    document = edit.alter(document, "things", document.things[0].id, **stood)
    prepared = Preparer().prepare(document, Assets(assets.meshes, images))
    row = scratch_row()
    whole = row.view(np.uint32)
    at = (prepared.table.ctypes.data, row.ctypes.data)
    first, count = prepared.arrays["mat_i"][1][[mat.FIRST_BINDING, mat.BINDINGS]]
    whole[Scratch.ROW.span("PROGRAM")] = first, count, Scratch.MAT, Scratch.SPOT
    parts = {"UV": spot.uv, "UV_2": spot.uv_2, "COLOUR": spot.colour, "P": spot.place, "N": spot.normal}
    parts["REST"] = spot.place
    parts["WO"] = spot.viewer
    out = np.zeros((N, 3))
    seeds = prepared.arrays["inst_i"][0][[inst.THING_SEED, inst.COPY_SEED]]
    for k in range(N):
        row[Scratch.MAT : Scratch.MAT + mat.COUNT] = prepared.arrays["mat_f"][1]
        for name, values in parts.items():
            span = layout.ROW.span(name)
            row[Scratch.SPOT + span.start : Scratch.SPOT + span.stop] = values[k]
        row[Scratch.SPOT + layout.MOST] = 1e30
        row[Scratch.SPOT + layout.REACH] = reach
        units.call("drive", at)
        out[k] = row[Scratch.MAT + target : Scratch.MAT + target + 3]
    return out, replace(spot, seeds=(*map(int, seeds), 0))


def agree(steps: tuple, images: dict, *, most: float = 0.01, seed: int = 1) -> None:
    """Check that kernel and NumPy agree but for a share of places, at edges, where rounding decides."""
    spot = spot_at(np.random.default_rng(seed))
    material = Material(id="m", base_color=BASE, steps=steps)
    found, spot = by_kernel(material, spot, images, mat.BASE)
    expected = driven_by(steps, np.array(BASE), spot, images, low=0, high=1)
    off = np.abs(found - expected).max(-1) > 2e-3
    assert off.mean() <= most, (np.flatnonzero(off)[:5], found[off][:3], expected[off][:3])
    assert np.isfinite(found).all()


def model_default(kind: str, name: str):
    return KINDS[kind].model_fields[name].default


# What a few hundred places over some metres hit, with all that it has.
OUTLINES = {f"outline_{k}_{part}": 0.1 * k for k in (1, 2, 3) for part in ("width", "gap")}
INK = {**OUTLINES, "edge_width": 0.1, "softness": 0.02, "bevel": 0.3}
LARGE = {
    "image": {"path": "p.png"},
    "lettering": {"words": "Orrery &\nشمس 空", "height": 1.2, **INK},
    "emblem": {"width": 2.0, "height": 1.3, "thickness": 0.2, "count": 3, **INK},
}


def some(kind: str, **values):
    path = LARGE.get(kind, {})
    return KINDS[kind](**{"repeat": (1.3, 0.7), "offset": (0.2, -0.4), "turn_deg": 25.0, **path, **values})


@pytest.mark.parametrize("kind", [kind for kind, model in KINDS.items() if not model.asks_shape])
def test_a_step_is_the_same_in_the_kernel_and_in_numpy(kind, image, engine):
    images = {("p.png", "colour"): image}
    wheres = [name for name, _ in PLACES] if KINDS[kind].is_placed else ["uv"]
    under = Fractal(scale=0.7, where="solid")
    for k, where in enumerate(wheres):
        anchor = ("thing", "set")[k % 2]
        origin = (0.1, 0.2, 8.0 if where == "camera" else 0.3)
        step = some(kind, where=where, anchor=anchor, tilt=(20.0, 0.0, 40.0), origin=origin, size=(0.9, 1.2, 1.1))
        agree((under, step), images, seed=k)
    for name, info in KINDS[kind].model_fields.items():
        extra = info.json_schema_extra
        if name in KINDS[kind].own_fields() and extra["kind"] == "choice":
            for choice, _ in extra["choices"]:
                agree((under, some(kind, **{name: choice})), images)
        if name in KINDS[kind].own_fields() and extra["kind"] == "switch":
            agree((under, some(kind, **{name: not model_default(kind, name)})), images)


@pytest.mark.parametrize("kind", [kind for kind, model in KINDS.items() if not model.asks_shape])
def test_every_number_inside_a_step_can_be_driven(kind, image, engine):
    images = {("p.png", "colour"): image}
    model = KINDS[kind]
    inner = []
    for k, name in enumerate(model.drivable()):
        low = model.model_fields[name].json_schema_extra["low"]
        high = model.model_fields[name].json_schema_extra["high"]
        inner.append(Noise(parameter=name, scale=0.9 + 0.1 * k, amount=0.3, where="solid", blend="multiply"))
        assert low is None or high is None or low < high
    step = some(kind, steps=tuple(inner), where="solid", amount=0.8)
    agree((Fractal(scale=0.7), step), images, most=0.03)


@pytest.mark.parametrize("blend", [name for name, _ in BLENDS])
def test_ways_of_going_together(blend, engine):
    agree((Noise(scale=0.4), Fractal(scale=0.8, blend=blend, amount=0.7, invert=True)), {})


def test_steps_inside_of_steps_and_several_over_each_other(engine):
    deep = Constant(
        parameter="value",
        steps=(
            Noise(parameter="value", scale=0.5),
            Ramp(
                parameter="value",
                stops=((0.2, 0.9, 0.1, 0.1), (0.7, 0.1, 0.2, 0.8)),
                steps=(Noise(parameter="amount", scale=0.3),),
            ),
        ),
    )
    agree(
        (
            Constant(steps=(deep, Noise(parameter="value", scale=0.2, blend="multiply"))),
            Fractal(scale=0.3, blend="screen"),
        ),
        {},
    )


def test_every_parameter_of_a_material_can_be_driven(engine):
    spot = spot_at(np.random.default_rng(5))
    offsets = {"emission_color": mat.EMISSION_COLOR, "geometry_normal": mat.NORMAL, "specular_ior": mat.IOR}
    for name, width in DRIVEN.items():
        step = Constant(parameter=name, value=(0.25, 0.5, 0.75))
        material = Material(id="m", steps=(step,), emission_luminance=1.0)
        document, assets = sets.one_thing(sets.PLANE, material, sets.white_dome())
        prepared = Preparer().prepare(document, assets)
        whole = prepared.arrays["mat_i"][1]
        assert whole[mat.BINDINGS] == 1
        # A coat dims what glows under it.
        assert whole[mat.GLOWS] == (name in {*GLOWING, "coat_weight", "coat_color", "coat_ior"})
        assert whole[mat.HEIGHTS] == (name == "geometry_height")
        if name in offsets:
            found, _ = by_kernel(material, spot, {}, offsets[name])
            expected = 1.0 if name == "specular_ior" else (0.25, 0.5, 0.75)[:width]
            assert found[:, :width] == pytest.approx(np.broadcast_to(expected, (N, width)), abs=1e-6), name


@pytest.mark.parametrize("style", ["fractal", "turbulence", "ridges"])
def test_lumps_that_a_wide_ray_cannot_tell_apart_are_their_mean(style, engine):
    """Against supersampling: a ray wider than all lumps finds what many narrow ones find on average."""
    step = Fractal(scale=0.05, style=style)
    material = Material(id="m", base_color=BASE, steps=(step,))
    rng = np.random.default_rng(2)
    narrow = [by_kernel(material, spot_at(rng), {}, mat.BASE)[0][:, 0] for _ in range(10)]
    wide, _ = by_kernel(material, spot_at(rng), {}, mat.BASE, reach=1.0)
    assert np.ptp(wide[:, 0]) < 1e-6
    assert wide[0, 0] == pytest.approx(np.mean(narrow), abs=0.006)


LAID, STROKES = ("brick", "tile", "plank"), ("scratches", "fibres")
WORN = ("edges", "hollows", "curvature", "ambientocclusion")


@pytest.mark.parametrize("kinds", [LAID, STROKES, WORN])
def test_kinds_that_share_a_kernel_have_the_same_rows(kinds):
    first, *others = kinds
    for name in KINDS[first].own_fields():
        assert {OFFSETS[f"{kind}_{name}".upper()] for kind in others} == {OFFSETS[f"{first}_{name}".upper()]}

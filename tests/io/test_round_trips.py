"""Random materials and lights through every format and back: what each parameter comes to is equal, or it is told."""

import numpy as np
import pytest
from PIL import Image

from nocturne.colour.spaces import rec709_to_working
from nocturne.io.models import glb, read, usdout
from nocturne.io.models.mtlx import write as mtlx
from nocturne.io.models.outgoing import Outgoing
from nocturne.io.project import load_assets
from nocturne.jobs import run
from nocturne.scene.assets import Assets
from nocturne.scene.bringing import Wanted, brought
from nocturne.scene.document import Document
from nocturne.scene.forms import KINDS as FORMS
from nocturne.scene.lights import KINDS, chroma, make_light
from nocturne.scene.materials import DRIVEN, Material
from nocturne.scene.patterns import Picture, Spot
from nocturne.scene.patterns.evaluate import driven_by
from nocturne.scene.shapes import rotation
from nocturne.scene.thing import Thing

WRITERS = {".glb": glb.write, ".usda": usdout.write, ".usdz": usdout.write, ".mtlx": mtlx.write}
N = 24  # materials at once
# A parameter, and what has to be there for it to count.
COUNTS = {
    "base_color": "",
    "base_metalness": "",
    "specular_roughness": "",
    "specular_weight": "",
    "specular_color": "",
    "specular_ior": "",
    "coat_weight": "",
    "coat_roughness": "coat_weight",
    "transmission_weight": "",
    "geometry_opacity": "",
    "emission_color": "emission_luminance",
    "geometry_normal": "",
}
PICTURED = (
    "base_color",
    "base_metalness",
    "specular_roughness",
    "coat_roughness",
    "geometry_opacity",
    "emission_color",
)


def pictures(folder) -> None:
    random = np.random.default_rng(0)
    for i in range(4):
        Image.fromarray(random.integers(0, 256, (8, 8, 4), np.uint8), "RGBA").save(folder / f"p{i}.png")


def a_material(random, i: int) -> Material:
    """Return a material with some numbers and up to two pictures, any of which any format may not have."""
    pick = random.uniform

    def colour():
        within = rec709_to_working() @ pick(0.05, 0.95, 3)
        return tuple(float(v) for v in (within if random.random() < 0.95 else pick(0.05, 0.95, 3)))

    values: dict = {"base_color": colour(), "specular_roughness": float(pick(0.05, 1))}
    chances = {
        "base_weight": lambda: float(pick(0.2, 1)),
        "base_metalness": lambda: float(pick(0, 1)),
        "specular_color": colour,
        "specular_weight": lambda: float(pick(0.1, 1)),
        "specular_ior": lambda: float(pick(1.1, 2.5)),
        "geometry_opacity": lambda: float(pick(0.1, 0.9)),
        "transmission_weight": lambda: float(pick(0.1, 1)),
        "coat_weight": lambda: float(pick(0.1, 1)),
        "coat_roughness": lambda: float(pick(0, 1)),
        "emission_luminance": lambda: float(pick(1, 500)),
        "emission_color": colour,
    }
    values |= {name: made() for name, made in chances.items() if random.random() < 0.25}
    if values.get("coat_weight"):
        values |= {"coat_ior": 1.5, "coat_darkening": 0.0}
    steps = []
    for parameter in random.permutation(PICTURED)[: random.integers(0, 3)]:
        is_colour = parameter.endswith("_color")
        steps.append(
            Picture(
                parameter=str(parameter),
                path=f"p{random.integers(4)}.png",
                space="colour" if is_colour else str(random.choice(["red", "green", "blue", "alpha"])),
                blend=str(random.choice(["replace", "replace", "replace", "multiply", "multiply", "plus"])),
                wrap=str(random.choice(["periodic", "periodic", "clamp", "mirror"])),
                repeat=(float(pick(0.5, 3)), float(pick(0.5, 3))) if random.random() < 0.3 else (1.0, 1.0),
                turn_deg=float(pick(-170, 170)) if random.random() < 0.2 else 0.0,
                offset=(float(pick(0, 1)), float(pick(0, 1))) if random.random() < 0.3 else (0.0, 0.0),
            )
        )
    if random.random() < 0.3:
        path, down = f"p{random.integers(4)}.png", bool(random.random() < 0.5)
        steps.append(Picture(parameter="geometry_normal", path=path, space="data", green_down=down))
    return Material(id=f"m{i}", name=f"Stuff {i}", steps=tuple(steps), **values)


def comes_to(material: Material, name: str, images) -> np.ndarray:
    """Return what a parameter is over a patch, (n, n, 3), with the weight or luminance that it is multiplied with."""
    steps = [step for step in material.steps if step.parameter == name]
    base = np.ones(3) * np.asarray(getattr(material, name), float) if name != "geometry_normal" else np.full(3, 0.5)
    high = 100.0 if name == "emission_color" else None if name in ("geometry_normal", "specular_ior") else 1.0
    value = driven_by(steps, base, Spot.of_patch(12, 1.0), images, low=0.0 if high else None, high=high)
    if DRIVEN.get(name) == 1 or not name.endswith("_color"):
        value = value[..., :1]
    more = {"base_color": material.base_weight, "emission_color": material.emission_luminance}
    return value * more.get(name, 1.0)


def differing(before: Material, after: Material, images, again) -> list[str]:
    found = []
    for name, needs in COUNTS.items():
        if needs and getattr(before, needs) <= 0 and not any(s.parameter == needs for s in before.steps):
            continue
        a, b = comes_to(before, name, images), comes_to(after, name, again)
        scale = max(float(np.abs(a).max()), 1e-6) if name == "emission_color" else 1.0
        if np.abs(a - b).max() / scale > 0.012:  # 8 bits of a picture written anew
            found.append(name)
    return found


@pytest.mark.parametrize("seed", range(3))
@pytest.mark.parametrize("ending", WRITERS)
def test_materials_are_equal_or_told(tmp_path, ending, seed):
    random = np.random.default_rng(seed)
    pictures(tmp_path)
    materials = tuple(a_material(random, i) for i in range(N))
    things = tuple(Thing(id=f"t{i}", name=f"T{i}", form=FORMS["box"](), material=f"m{i}") for i in range(N))
    document = Document(things=things, materials=materials)
    assets = run(load_assets(document, tmp_path))
    path = tmp_path / f"out{ending}"
    told = WRITERS[ending](path, Outgoing.of(document, assets, tmp_path))
    arrival = read.read(path)

    def named(picture: str) -> str:
        return path.name + picture if picture.startswith("#") else picture

    back, _ = brought(Document(), arrival, Wanted.all_of(arrival), base=path.name, name="x", named=named)
    again = run(load_assets(back, tmp_path))
    assert not again.problems
    by_name = {m.name: m for m in back.materials}
    silent, faults = 0, []
    for before in materials:
        if any(f"“{before.name}”" in words for words in (*told, *arrival.lost)):
            continue
        silent += 1
        wrong = differing(before, by_name[before.name], assets.images, again.images)
        if wrong:
            faults.append((before.name, wrong, before.steps, by_name[before.name].steps))
    assert not faults, faults[:3]
    assert silent >= N // 4, "most is told, so nothing is tested"


@pytest.mark.parametrize("ending", [".glb", ".usda"])
@pytest.mark.parametrize("kind", [kind for kind, about in KINDS.items() if about.gives_light])
def test_lights_are_equal_or_told(tmp_path, ending, kind):
    random = np.random.default_rng(len(kind))
    pictures(tmp_path)
    fields = KINDS[kind].model_fields
    values: dict = {"place": tuple(random.uniform(-3, 3, 3)), "turn_deg": tuple(random.uniform(-80, 80, 3))}
    values |= {"radius": 0.3, "bulb_radius": 0.04, "width": 0.7, "height": 0.4, "length": 1.5, "image": "p0.png"}
    values |= {"azimuth_deg": 50.0, "angle_deg": 3.0, "outer_deg": 40.0, "inner_deg": 25.0}
    values = {name: value for name, value in values.items() if name in fields}
    power, unit = KINDS[kind].usual
    light = make_light(
        kind=kind, id="l", name="Lamp", power=power, unit=unit, colour_from="kelvin", kelvin=4000, **values
    )
    thing = Thing(id="t", name="T", form=FORMS["box"]())
    document = Document(things=(thing,), lights=(light,))
    path = tmp_path / f"out{ending}"
    told = WRITERS[ending](path, Outgoing.of(document, Assets(), tmp_path))
    arrival = read.read(path)
    back, _ = brought(Document(), arrival, Wanted.all_of(arrival), base=path.name, name="x", named=str)
    if any("Lamp" in words for words in (*told, *arrival.lost)):
        return
    (found,) = back.lights
    if (kind, found.kind) == ("point", "sphere"):  # a bulb of a size shines as a ball does
        assert found.radius == pytest.approx(light.bulb_radius, rel=1e-4)
        assert found.strength() * np.pi * found.radius**2 == pytest.approx(light.strength(), rel=1e-3)
        return
    assert found.kind == kind
    assert found.strength() == pytest.approx(light.strength(), rel=1e-3)
    assert chroma(found) * found.strength() == pytest.approx(chroma(light) * light.strength(), rel=0.02, abs=1e-3)
    stood = back.standing(found)
    for name in values:
        if name == "turn_deg":
            assert np.allclose(rotation(stood.turn_deg)[:, 2], rotation(light.turn_deg)[:, 2], atol=1e-4)
        elif name != "image":
            assert getattr(stood, name) == pytest.approx(values[name], abs=1e-4), name


STAGE = """#usda 1.0
(
    metersPerUnit = {unit}
    upAxis = "Z"
)
def SphereLight "Lamp" (
    prepend apiSchemas = ["ShapingAPI"]
)
{{
    float inputs:radius = {radius}
    float inputs:intensity = 4000
    bool inputs:normalize = {normal}
    bool treatAsPoint = {point}
    float inputs:shaping:cone:angle = {cone}
}}
"""


@pytest.mark.parametrize(("point", "cone"), [("true", 90), ("false", 30)])
def test_candela_do_not_hang_on_the_unit_of_a_stage(tmp_path, point, cone):
    found = []
    for unit, radius in ((1.0, 0.05), (0.01, 5.0)):
        path = tmp_path / f"{unit}.usda"
        path.write_text(STAGE.format(unit=unit, radius=radius, normal="false", point=point, cone=cone))
        arrival = read.read(path)
        back, _ = brought(Document(), arrival, Wanted.all_of(arrival), base=path.name, name="x", named=str)
        found.append(back.lights[0].strength())
    assert found[0] == pytest.approx(4000 * np.pi * 0.05**2, rel=1e-4)
    assert found[1] == pytest.approx(found[0], rel=1e-4)

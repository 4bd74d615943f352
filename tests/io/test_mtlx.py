"""MaterialX in and out: every surface, graphs folded, made steps of, or baked; what has no equal is told."""

import io
import random

import MaterialX as mx
import numpy as np
import pytest
from PIL import Image

from nocturne.colour.spaces import decode_srgb, from_srgb, rec709_to_working
from nocturne.deliver.convert import convert, export_set
from nocturne.errors import BadFile, FileError
from nocturne.io import image, picture, project, registry
from nocturne.io.models import read as models
from nocturne.io.models.mtlx import library
from nocturne.io.models.surfaces import OPENPBR
from nocturne.jobs import run
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.files import renamed
from nocturne.scene.materials import Material
from nocturne.scene.patterns import (
    Cells,
    Checker,
    Clamp,
    Constant,
    Contrast,
    Fractal,
    Levels,
    Maths,
    MeshColours,
    Mix,
    Noise,
    Picture,
    Ramp,
    Spot,
    Step,
    driven_by,
    every,
)
from nocturne.stock.library import shipped

pytestmark = pytest.mark.usefixtures("usd_here")

HEAD = '<?xml version="1.0"?>\n<materialx version="1.39">'


def brought(tmp_path, body: str, head: str = HEAD):
    path = tmp_path / "m.mtlx"
    path.write_text(f"{head}{body}</materialx>")
    return models.read(path)


def surface(category: str, inputs: str, graph: str = "") -> str:
    return (
        f'{graph}<{category} name="s" type="surfaceshader">{inputs}</{category}>'
        '<surfacematerial name="Thing" type="material">'
        '<input name="surfaceshader" type="surfaceshader" nodename="s"/></surfacematerial>'
    )


def number(name: str, value: object, kind: str = "float") -> str:
    return f'<input name="{name}" type="{kind}" value="{value}"/>'


def linked(name: str, node: str, kind: str = "float") -> str:
    return f'<input name="{name}" type="{kind}" nodename="{node}"/>'


def written(tmp_path, *materials: Material, assets: Assets | None = None):
    """Return (arrival, what was lost) of materials that were written and read back; the library finds them valid."""
    path = tmp_path / "out.mtlx"
    _, lost = run(export_set(Document(materials=materials), assets or Assets(), tmp_path, path))
    document = library.opened(path)
    assert document.validate()[0]
    return models.read(path), lost


def random_material(seed: int) -> Material:
    rng = random.Random(seed)
    values = {}
    for about in OPENPBR.values():
        info = Material.model_fields[about.parameter].json_schema_extra if about.kind != "normal" else None
        if about.kind in ("colour",):
            values[about.parameter] = tuple(round(rng.random(), 4) for _ in range(3))
        elif about.kind == "switch":
            values[about.parameter] = rng.random() < 0.5
        elif about.kind == "number":
            low, high = info["low"] or 0.0, info["soft_high"] or info["high"] or 1.0
            values[about.parameter] = round(low + (high - low) * rng.random(), 4)
    return Material(id="m", name=f"Random {seed}", **values)


@pytest.mark.parametrize("seed", range(6))
def test_every_parameter_comes_back_equal(tmp_path, seed):
    before = random_material(seed)
    arrival, lost = written(tmp_path, before)
    after = arrival.materials[0]
    assert not lost
    assert not arrival.lost
    assert after.name == before.name
    for about in OPENPBR.values():
        if about.kind != "normal":
            old, new = getattr(before, about.parameter), getattr(after, about.parameter)
            assert new == pytest.approx(old, rel=1e-4, abs=1e-6), about.parameter


def test_names_come_back_whatever_they_are(tmp_path):
    names = ["Bronze, cast", "天球儀", "a_b", "a b", "100 %"]
    arrival, _ = written(tmp_path, *(Material(id=f"m{i}", name=name) for i, name in enumerate(names)))
    assert [m.name for m in arrival.materials] == names


def test_lengths_that_patterns_drive_keep_their_size(tmp_path):
    graph = NOISE + '<multiply name="k" type="float">' + linked("in1", "n") + number("in2", 0.002) + "</multiply>"
    inputs = number("subsurface_weight", 1.0) + linked("subsurface_radius", "k")
    found = brought(tmp_path, surface("open_pbr_surface", inputs, graph)).materials[0]
    steps = [step for step in found.steps if step.parameter == "subsurface_radius_mm"]
    base = np.full(3, found.subsurface_radius_mm)
    millimetres = driven_by(steps, base, Spot.of_patch(32, 0.5), {}, low=0.0, high=1e4)
    assert 0.5 < millimetres.mean() < 1.5, "a noise about 0.5 of 2 mm"
    assert millimetres.max() < 2.1


def test_pictures_come_back_as_they_lie(tmp_path):
    picture.write(tmp_path / "wood.png", np.random.default_rng(1).random((8, 8, 3)))
    laid = {"repeat": (2.0, 3.0), "turn_deg": 30.0, "offset": (0.1, -0.2), "uv_set": 2}
    before = Material(
        id="m",
        steps=(
            Picture(parameter="base_color", path="wood.png", **laid),
            Picture(parameter="specular_roughness", path="wood.png", space="green"),
            Levels(parameter="specular_roughness", outlow=0.2, outhigh=0.6),
            Picture(parameter="geometry_normal", path="wood.png", space="data", amount=0.5),
        ),
    )
    arrival, lost = written(tmp_path, before)
    assert not lost
    steps = sorted(
        arrival.materials[0].steps, key=lambda step: [s.parameter for s in before.steps].index(step.parameter)
    )
    colour, rough, levels, normal = steps
    assert (colour.parameter, colour.space) == ("base_color", "colour")
    for name, value in laid.items():
        assert getattr(colour, name) == pytest.approx(value, abs=1e-4)
    assert (rough.parameter, rough.space) == ("specular_roughness", "green")
    assert (levels.outlow, levels.outhigh) == pytest.approx((0.2, 0.6))
    assert (normal.parameter, normal.amount) == ("geometry_normal", pytest.approx(0.5))
    assert (tmp_path / "out-pictures" / "wood.png").is_file()
    assert not arrival.missing


def test_a_pattern_without_an_equal_is_written_as_a_picture(tmp_path):
    lumps = Noise(parameter="base_color", where="uv", scale=0.2)
    before = Material(id="m", name="Lumps", steps=(lumps,))
    arrival, lost = written(tmp_path, before)
    assert not lost
    step = arrival.materials[0].steps[0]
    assert isinstance(step, Picture)
    # What is in the file is what the pattern puts out.
    from nocturne.io import image
    from nocturne.scene.patterns import Spot, step_value

    found = image.read(tmp_path / step.path)
    wanted = step_value(lumps, Spot.of_patch(1024, 1.0), np.zeros(3), {})
    assert np.abs(found - wanted).max() < 2e-3


def test_all_ready_materials_are_written_valid_and_told(tmp_path, monkeypatch):
    monkeypatch.setattr("nocturne.io.models.mtlx.write.BAKED_PX", 16)
    every = {m.id: m for one in shipped().values() for m in one.materials}
    arrival, lost = written(tmp_path, *every.values())
    assert len(arrival.materials) == len(every)
    assert any("lies over" in words for words in lost)
    assert any("picture of 1 m" in words for words in lost)


def stacked(rng: random.Random, parameter: str, *, is_colour: bool, deep: int = 2) -> tuple[Step, ...]:
    """Return steps that lie by texture coordinates: those that have an equal there, and some that have none."""
    colour = lambda: tuple(round(rng.random(), 3) for _ in range(3))  # noqa: E731

    def one(first: bool) -> Step:
        kinds = ["constant", "checker", "mix"] if deep else ["constant", "checker"]
        kinds += [] if first else ["levels", "clamp", "contrast", "maths", "ramp"]
        kind = rng.choice(kinds)
        about = {"parameter": parameter, "invert": rng.random() < 0.2, "amount": rng.choice([1.0, 1.0, 0.4])}
        blends = ("plus", "minus", "multiply", "screen", "difference", "darken", "lighten", "overlay")
        about["blend"] = "replace" if first else rng.choice(("replace", *blends))
        if kind == "constant":
            inner = stacked(rng, "value", is_colour=is_colour, deep=deep - 1) if deep and rng.random() < 0.4 else ()
            return Constant(value=colour(), steps=inner, **about)
        if kind == "mix":
            name = rng.choice(("bg", "fg", "mix"))
            inner = stacked(rng, name, is_colour=is_colour and name != "mix", deep=deep - 1)
            return Mix(bg=colour(), fg=colour(), mix=rng.random(), steps=inner, **about)
        if kind == "checker":
            # Its edges lie between pixels of what is baked.
            return Checker(where="uv", repeat=(2.0, 2.0), **about)
        about["blend"] = "replace"
        if kind == "levels":
            return Levels(inlow=0.1, inhigh=0.9, outlow=0.2, outhigh=1.2, doclamp=rng.random() < 0.5, **about)
        if kind == "clamp":
            return Clamp(low=0.2, high=0.7, **about)
        if kind == "contrast":
            return Contrast(strength=1.7, pivot=0.4, **about)
        if kind == "maths":
            return Maths(operation=rng.choice(("multiply", "add", "min", "max", "absval")), number=0.6, **about)
        return Ramp(**about)

    return tuple(one(k == 0) for k in range(rng.randint(1, 3)))


@pytest.mark.parametrize("seed", range(40))
def test_what_steps_put_out_comes_back(tmp_path, seed, monkeypatch):
    monkeypatch.setattr("nocturne.io.models.mtlx.write.BAKED_PX", 64)
    rng = random.Random(seed)
    parameter = ("base_color", "specular_roughness")[seed % 2]
    steps = stacked(rng, parameter, is_colour=parameter == "base_color")
    before = Material(id="m", base_color=(0.2, 0.5, 0.7), specular_roughness=0.35, steps=steps)
    arrival, lost = written(tmp_path, before)
    assert not lost
    (after,) = arrival.materials
    # In the middles of what is baked.
    spot = Spot.of_patch(16, 1.0)
    pictures = [step for step in every(after.steps) if isinstance(step, Picture)]
    images = {p.picture: image.read(tmp_path / p.path.replace("#", "out.mtlx#"), space=p.space) for p in pictures}
    values = []
    for material, loaded in ((before, {}), (after, images)):
        base = np.resize(np.asarray(getattr(material, parameter), float), 3)
        value = driven_by(material.steps, base, spot, loaded, low=0.0, high=1.0)
        values.append(value if parameter == "base_color" else value[..., :1])
    assert np.abs(values[0] - values[1]).max() < 0.02, steps


def test_what_has_equals_stays_as_it_was_made(tmp_path):
    mask = Levels(parameter="mix", outlow=0.1, outhigh=0.8)
    paint = Mix(
        parameter="base_color",
        bg=(0.8, 0.1, 0.1),
        fg=(0.9, 0.9, 0.8),
        steps=(Noise(parameter="mix", where="uv", scale=0.1), mask),
    )
    arrival, lost = written(tmp_path, Material(id="m", name="Paint", steps=(paint,)))
    assert not lost
    (step,) = arrival.materials[0].steps
    assert isinstance(step, Mix)
    assert step.bg == pytest.approx(paint.bg, abs=1e-4)
    assert step.fg == pytest.approx(paint.fg, abs=1e-4)
    assert [type(inner) for inner in step.steps] == [Picture, Levels], "only the noise has become a picture"
    assert len(list((tmp_path / "out-pictures").iterdir())) == 1


def test_constants_are_folded(tmp_path):
    graph = (
        '<multiply name="a" type="color3">'
        + number("in1", "0.5, 0.4, 0.2", "color3")
        + number("in2", "0.5, 0.5, 0.5", "color3")
        + "</multiply>"
        '<nodegraph name="g"><input name="k" type="float" value="0.25"/>'
        '<add name="b" type="float"><input name="in1" type="float" interfacename="k"/>'
        + number("in2", 0.125)
        + '</add><output name="out" type="float" nodename="b"/></nodegraph>'
        '<saturate name="c" type="color3">' + linked("in", "a", "color3") + number("amount", 0.0) + "</saturate>"
    )
    inputs = (
        linked("base_color", "c", "color3")
        + '<input name="specular_roughness" type="float" nodegraph="g" output="out"/>'
    )
    found = brought(tmp_path, surface("open_pbr_surface", inputs, graph)).materials[0]
    assert not found.steps
    assert found.specular_roughness == pytest.approx(0.375)
    y = 0.25 * 0.2722287 + 0.2 * 0.6740818 + 0.1 * 0.0536895
    assert found.base_color == pytest.approx((y, y, y), rel=1e-3), "without saturation it is grey"


def test_colours_are_of_the_space_they_say(tmp_path):
    inputs = '<input name="base_color" type="color3" value="0.5, 0.25, 0.1" colorspace="srgb_texture"/>'
    assert brought(tmp_path, surface("open_pbr_surface", inputs)).materials[0].base_color == pytest.approx(
        from_srgb(0.5, 0.25, 0.1), rel=1e-3
    )
    plain = number("base_color", "0.5, 0.25, 0.1", "color3")
    assert brought(tmp_path, surface("open_pbr_surface", plain)).materials[0].base_color == pytest.approx(
        tuple(rec709_to_working() @ np.array((0.5, 0.25, 0.1))), rel=1e-3
    )
    head = '<?xml version="1.0"?>\n<materialx version="1.39" colorspace="acescg">'
    assert brought(tmp_path, surface("open_pbr_surface", plain), head).materials[0].base_color == pytest.approx(
        (0.5, 0.25, 0.1)
    )


def test_standard_surface(tmp_path):
    inputs = (
        number("base", 0.5)
        + number("base_color", "0.2, 0.4, 0.6", "color3")
        + number("metalness", 1)
        + number("specular_rotation", 0.25)
        + number("subsurface_radius", "0.5, 0.25, 0.125", "color3")
        + number("subsurface_scale", 0.01)
        + number("subsurface", 0.3)
        + number("thin_film_thickness", 400)
        + number("opacity", "0.5, 0.5, 0.5", "color3")
    )
    found = brought(tmp_path, surface("standard_surface", inputs)).materials[0]
    assert (found.base_weight, found.base_metalness, found.specular_rotation_deg) == (0.5, 1.0, 90.0)
    assert (found.subsurface_radius_mm, found.subsurface_radius_scale) == (
        pytest.approx(5.0),
        pytest.approx((1, 0.5, 0.25)),
    )
    assert (found.thin_film_weight, found.thin_film_thickness_nm, found.geometry_opacity) == (1.0, 400.0, 0.5)
    assert found.specular_roughness == 0.2


def test_gltf_pbr(tmp_path):
    inputs = (
        number("base_color", "0.2, 0.4, 0.6", "color3")
        + number("metallic", 0.0)
        + number("roughness", 0.3)
        + number("transmission", 1.0)
        + number("thickness", 0.1)
        + number("attenuation_distance", 0.05)
        + number("attenuation_color", "0.5, 0.6, 0.7", "color3")
        + number("sheen_color", "0.3, 0.3, 0.3", "color3")
        + number("emissive", "1, 0.5, 0.25", "color3")
        + number("emissive_strength", 40.0)
        + number("clearcoat", 0.7)
        + number("dispersion", 0.5)
        + number("alpha_mode", 1, "integer")
        + number("alpha", 0.8)
    )
    found = brought(tmp_path, surface("gltf_pbr", inputs)).materials[0]
    assert (found.transmission_weight, found.transmission_depth, found.geometry_thin_walled) == (
        1.0,
        pytest.approx(0.05),
        False,
    )
    assert (found.fuzz_weight, found.coat_weight, found.emission_luminance) == pytest.approx((1.0, 0.7, 40.0))
    assert found.transmission_dispersion_abbe_number == pytest.approx(40.0)
    assert found.specular_roughness == pytest.approx(0.3)
    thin = brought(tmp_path, surface("gltf_pbr", number("transmission", 1.0))).materials[0]
    assert thin.geometry_thin_walled


def test_preview_surface(tmp_path):
    inputs = number("diffuseColor", "0.2, 0.4, 0.6", "color3") + number("opacity", 0.25) + number("clearcoat", 0.5)
    found = brought(tmp_path, surface("UsdPreviewSurface", inputs)).materials[0]
    assert (found.transmission_weight, found.geometry_thin_walled, found.coat_weight) == (0.75, True, 0.5)


NOISE = (
    '<position name="p" type="vector3"/>'
    '<multiply name="ps" type="vector3">'
    + linked("in1", "p", "vector3")
    + number("in2", "20, 20, 20", "vector3")
    + "</multiply>"
    '<noise3d name="n" type="float">'
    + linked("position", "ps", "vector3")
    + number("amplitude", 0.5)
    + number("pivot", 0.5)
    + "</noise3d>"
)


def test_nodes_become_steps_where_there_are_such(tmp_path):
    graph = (
        NOISE
        + '<fractal3d name="f" type="float">'
        + linked("position", "ps", "vector3")
        + number("octaves", 4, "integer")
        + "</fractal3d>"
        + '<worleynoise3d name="w" type="float">'
        + linked("position", "ps", "vector3")
        + "</worleynoise3d>"
        + '<geomcolor name="g" type="color3"/>'
        + '<mix name="m" type="color3">'
        + linked("fg", "g", "color3")
        + number("bg", "0.1, 0.1, 0.1", "color3")
        + linked("mix", "n")
        + "</mix>"
        + '<range name="r" type="float">'
        + linked("in", "w")
        + number("outlow", 0.2)
        + number("outhigh", 0.7)
        + "</range>"
    )
    inputs = linked("base_color", "m", "color3") + linked("specular_roughness", "r") + linked("coat_weight", "f")
    arrival = brought(tmp_path, surface("open_pbr_surface", inputs, graph))
    assert not arrival.lost
    assert not arrival.mended
    by = {}
    for step in arrival.materials[0].steps:
        by.setdefault(step.parameter, []).append(step)
    (mix,) = by["base_color"]
    assert isinstance(mix, Mix)
    assert {type(step) for step in mix.steps} == {Noise, MeshColours}
    noise = next(step for step in mix.steps if isinstance(step, Noise))
    assert noise.scale == pytest.approx(0.05)
    assert [type(step) for step in by["specular_roughness"]] == [Cells, Levels]
    assert isinstance(by["coat_weight"][0], Fractal)
    assert by["coat_weight"][0].octaves == 4


def test_what_is_alike_here_and_there_is_not_taken_for_a_constant(tmp_path):
    split = '<splitlr name="x" type="float">' + number("valuel", 0.2) + number("valuer", 0.8) + number("center", 0.995)
    arrival = brought(tmp_path, surface("open_pbr_surface", linked("coat_weight", "x"), split + "</splitlr>"))
    assert [step.path for step in arrival.materials[0].steps] == ["#Thing:coat_weight"]


def test_an_image_without_a_file_is_its_default(tmp_path):
    image = '<image name="i" type="color3">' + number("default", "0.25, 0.25, 0.25", "color3") + "</image>"
    found = brought(tmp_path, surface("open_pbr_surface", linked("base_color", "i", "color3"), image)).materials[0]
    assert not found.steps
    assert found.base_color == pytest.approx((0.25, 0.25, 0.25), rel=1e-3)


def test_nodes_without_steps_are_baked(tmp_path):
    graph = (
        '<ramp4 name="r" type="color3">'
        + number("valuetl", "1, 0, 0", "color3")
        + number("valuetr", "0, 1, 0", "color3")
        + number("valuebl", "0, 0, 1", "color3")
        + number("valuebr", "1, 1, 1", "color3")
        + "</ramp4>"
    )
    arrival = brought(tmp_path, surface("open_pbr_surface", linked("base_color", "r", "color3"), graph))
    assert not arrival.lost
    assert any("baked" in words for words in arrival.mended)
    (step,) = arrival.materials[0].steps
    assert step.path == "#Thing:base_color"
    pixels = Image.open(io.BytesIO(models.picture_inside(tmp_path / "m.mtlx", step.path[1:])))
    corners = np.asarray(pixels.convert("RGB"), float)[[0, 0, -1, -1], [0, -1, 0, -1]] / 255
    assert decode_srgb(corners) == pytest.approx(np.array([[1, 0, 0], [0, 1, 0], [0, 0, 1], [1, 1, 1]]), abs=0.02)


IN1 = linked("in1", "i", "color3")


@pytest.mark.parametrize(
    ("category", "inputs", "expected"),
    [
        ("multiply", IN1 + number("in2", "2,3,1", "color3"), (1.2, 1.2, 0.2)),
        ("add", IN1 + number("in2", "2,3,1", "color3"), (2.6, 3.4, 1.2)),
        ("add", IN1 + number("in2", "2,2,2", "color3"), (2.6, 2.4, 2.2)),
        ("subtract", IN1 + number("in2", "-2,-2,-2", "color3"), (2.6, 2.4, 2.2)),
        (
            "remap",
            linked("in", "i", "color3")
            + number("outlow", "0.1,0,0.25", "color3")
            + number("outhigh", "2.1,2,1.5", "color3"),
            (1.3, 0.8, 0.5),
        ),
        (
            "mix",
            linked("fg", "i", "color3") + number("bg", "1,1.4,1", "color3") + number("mix", "0.1,0.1,0.5", "color3"),
            (0.96, 1.3, 0.6),
        ),
        ("mix", linked("fg", "i", "color3") + number("bg", "1,3,1", "color3") + number("mix", 0.5), (0.8, 1.7, 0.6)),
    ],
)
def test_numbers_beyond_one_and_other_ones_for_each_colour_count(tmp_path, category, inputs, expected):
    """By steps or by a picture: what drives it comes to what the standard's nodes say."""
    picture.write_float(tmp_path / "i.tif", np.tile(np.float32([0.6, 0.4, 0.2]), (8, 8, 1)), space="ACEScg")
    nodes = (
        '<image name="i" type="color3"><input name="file" type="filename" value="i.tif" colorspace="acescg"/></image>'
        f'<{category} name="g" type="color3">{inputs}</{category}>'
    )
    head = '<?xml version="1.0"?>\n<materialx version="1.39" colorspace="acescg">'
    body = surface("open_pbr_surface", linked("emission_color", "g", "color3"), nodes)
    found = brought(tmp_path, body, head).materials[0]
    found = renamed(found, lambda name: f"m.mtlx{name}" if name.startswith("#") else name)
    document = Document(materials=(found,))
    assets = run(project.load_assets(document, tmp_path))
    assert not assets.problems
    steps = [step for step in found.steps if step.parameter == "emission_color"]
    rgb = driven_by(steps, np.ones(3), Spot.of_patch(8, 1.0), assets.images, low=0.0, high=100.0)
    assert rgb.reshape(-1, 3).mean(0) == pytest.approx(expected, rel=2e-3, abs=1e-3)


@pytest.mark.parametrize(
    ("category", "name", "kind"), [("gltf_pbr", "sheen_color", "color3"), ("UsdPreviewSurface", "opacity", "float")]
)
def test_what_stands_for_several_may_be_driven_by_what_has_no_equal(tmp_path, category, name, kind):
    view = '<viewdirection name="v" type="vector3"/><extract name="e" type="float">' + linked("in", "v", "vector3")
    view += (
        number("index", 2, "integer") + f'</extract><convert name="c" type="{kind}">' + linked("in", "e") + "</convert>"
    )
    arrival = brought(tmp_path, surface(category, linked(name, "c", kind), view))
    assert any("viewdirection" in words for words in arrival.lost)
    assert arrival.materials[0].fuzz_weight == 0
    assert arrival.materials[0].geometry_opacity == 1


def test_a_pattern_brighter_than_white_is_written_as_bright(tmp_path):
    steps = (
        Noise(parameter="emission_color", scale=0.1),
        Levels(parameter="emission_color", outhigh=6.0, doclamp=False),
    )
    glow = Material(id="a", name="Glow", emission_luminance=10.0, steps=steps)
    arrival, _ = written(tmp_path, glow)
    back = arrival.materials[0]
    assets = run(project.load_assets(Document(materials=(back,)), tmp_path))
    spot = Spot.of_patch(32, 1.0)
    before = driven_by(glow.steps, np.ones(3), spot, {}, low=0.0, high=100.0)
    after = driven_by(back.steps, np.ones(3), spot, assets.images, low=0.0, high=100.0)
    assert before.max() > 3
    assert after.mean() == pytest.approx(before.mean(), rel=0.02)
    assert after.max() == pytest.approx(before.max(), rel=0.05)


def test_what_has_no_equal_is_named_never_dropped(tmp_path):
    graph = (
        '<viewdirection name="v" type="vector3"/><normal name="n" type="vector3"/>'
        '<dotproduct name="d" type="float">'
        + linked("in1", "v", "vector3")
        + linked("in2", "n", "vector3")
        + "</dotproduct>"
    )
    inputs = linked("coat_weight", "d") + number("subsurface_radius_scale", "1, 1, 1", "color3")
    arrival = brought(tmp_path, surface("open_pbr_surface", inputs, graph))
    assert any("viewdirection" in words and "coat weight" in words for words in arrival.lost)
    closure = '<dielectric_bsdf name="b" type="BSDF"/>'
    own = brought(tmp_path, surface("surface", '<input name="bsdf" type="BSDF" nodename="b"/>', closure))
    assert any("“surface”; it is grey" in words for words in own.lost)


def test_displacement_is_relief(tmp_path):
    body = surface("open_pbr_surface", "", NOISE).replace(
        'nodename="s"/></surfacematerial>',
        'nodename="s"/><input name="displacementshader" type="displacementshader" nodename="h"/></surfacematerial>'
        '<displacement name="h" type="displacementshader">'
        + linked("displacement", "n")
        + number("scale", 0.003)
        + "</displacement>",
    )
    found = brought(tmp_path, body).materials[0]
    assert (found.relief_depth, found.relief_style) == (pytest.approx(0.003), "surface")
    assert isinstance(found.heights[0], Noise)


def test_no_file_is_opened_that_was_not_asked_for(tmp_path):
    secret = tmp_path / "secret.mtlx"
    secret.write_text(HEAD + surface("open_pbr_surface", number("base_weight", 0.125)) + "</materialx>")
    path = tmp_path / "m.mtlx"
    path.write_text(
        '<?xml version="1.0"?>\n<materialx version="1.39" xmlns:xi="http://www.w3.org/2001/XInclude">'
        '<xi:include href="secret.mtlx"/>'
        + surface("standard_surface", number("base", 1.0)).replace("Thing", "Own").replace('"s"', '"own"')
        + "</materialx>"
    )
    arrival = models.read(path)
    assert [m.name for m in arrival.materials] == ["Own"]
    assert any("secret.mtlx" in words for words in arrival.lost)


@pytest.mark.parametrize("text", ["", "<materialx>", "no xml", HEAD + "</materialx>", "\x00\x01"])
def test_damaged_documents_are_told(tmp_path, text):
    path = tmp_path / "m.mtlx"
    path.write_text(text)
    with pytest.raises(BadFile):
        models.read(path)


def test_mutated_documents_never_end_it(tmp_path):
    picture.write(tmp_path / "wood.png", np.full((4, 4, 3), 0.5))
    material = Material(
        id="m",
        steps=(
            Picture(parameter="base_color", path="wood.png", turn_deg=20.0),
            Picture(parameter="specular_roughness", path="wood.png", space="red"),
            Levels(parameter="specular_roughness", outlow=0.2),
        ),
    )
    written(tmp_path, material)
    good = (tmp_path / "out.mtlx").read_text()
    rng = random.Random(4)
    path = tmp_path / "bad.mtlx"
    words = [
        "nodename",
        "value",
        "type",
        "color3",
        "float",
        "vector2",
        "nan",
        "1e400",
        "interfacename",
        "nodegraph",
        '"',
        "<",
        "-1",
    ]
    for _ in range(150):
        text = good
        for _ in range(rng.randint(1, 4)):
            i = rng.randrange(len(text))
            text = text[:i] + rng.choice(words) + text[i + rng.randint(0, 12) :]
        path.write_text(text)
        try:
            for found in models.read(path).materials:
                Material.model_validate(found.model_dump())
        except FileError:
            pass


def test_convert_and_info_know_it(tmp_path):
    before = Document(name="P", materials=(Material(id="a", name="Brass", base_metalness=1.0),))
    project.save_document(tmp_path / "p.nocturne", before)
    run(convert(tmp_path / "p.nocturne", tmp_path / "p.mtlx"))
    run(convert(tmp_path / "p.mtlx", tmp_path / "back.nocturne"))
    after = project.read_document(tmp_path / "back.nocturne")
    assert "Brass" in [m.name for m in after.materials]
    told = registry.describe(tmp_path / "p.mtlx")
    assert told == {"kind": "materials", "materials": ["Brass"], "pictures": []}
    assert mx.getVersionString().startswith("1.39")


def test_a_packed_project_takes_along_what_is_baked_from(tmp_path):
    home = tmp_path / "work"
    home.mkdir()
    picture.write(home / "wood.png", np.full((4, 4, 3), (0.8, 0.4, 0.2)))
    file = '<input name="file" type="filename" value="wood.png" colorspace="srgb_texture"/>'
    image = f'<image name="i" type="color3">{file}</image>'
    graph = image + '<hsvtorgb name="h" type="color3">' + linked("in", "i", "color3") + "</hsvtorgb>"
    arrival = brought(home, surface("open_pbr_surface", linked("base_color", "h", "color3"), graph))
    (step,) = arrival.materials[0].steps
    assert step.path == "#Thing:base_color"
    named = step.model_copy(update={"path": f"m.mtlx{step.path}"})
    document = Document(materials=(arrival.materials[0].model_copy(update={"steps": (named,)}),))
    from nocturne.deliver.pack import pack

    run(pack(document, home, tmp_path / "packed"))
    packed = project.read_document(tmp_path / "packed")
    assets = run(project.load_assets(packed, tmp_path / "packed"))
    assert not assets.problems
    assert len(assets.images) == 1
    assert next(iter(assets.images.values())).std((0, 1)).max() < 1e-3, "one colour, as the picture is"


def valued(name: str, value: object, unit: str, kind: str = "float", of: str = "distance") -> str:
    return f'<input name="{name}" type="{kind}" value="{value}" unittype="{of}" unit="{unit}"/>'


def in_metres(value: float, unit: str) -> float:
    """Return a length by the library's own converter."""
    converter = mx.LinearUnitConverter.create(library.empty().getUnitTypeDef("distance"))
    return converter.convert(value, unit, "meter")


@pytest.mark.parametrize(
    ("category", "name", "value", "unit", "field", "per_metre"),
    [
        ("open_pbr_surface", "transmission_depth", 4.0, "centimeter", "transmission_depth", 1.0),
        ("open_pbr_surface", "subsurface_radius", 3.0, "millimeter", "subsurface_radius_mm", 1e3),
        ("open_pbr_surface", "thin_film_thickness", 450.0, "nanometer", "thin_film_thickness_nm", 1e9),
        ("open_pbr_surface", "thin_film_thickness", 0.45, "micron", "thin_film_thickness_nm", 1e9),
        ("standard_surface", "thin_film_thickness", 0.45, "micron", "thin_film_thickness_nm", 1e9),
        ("standard_surface", "transmission_depth", 2.0, "inch", "transmission_depth", 1.0),
        ("gltf_pbr", "attenuation_distance", 0.1, "foot", "transmission_depth", 1.0),
    ],
)
def test_what_a_length_is_in_counts(tmp_path, category, name, value, unit, field, per_metre):
    shine = number("transmission_weight" if category.startswith("open") else "transmission", 1)
    (material,) = brought(tmp_path, surface(category, shine + valued(name, value, unit))).materials
    assert getattr(material, field) == pytest.approx(in_metres(value, unit) * per_metre, rel=1e-5)


def test_a_length_of_an_interface_or_a_constant_is_in_its_own_unit(tmp_path):
    graph = (
        '<nodegraph name="g"><constant name="c" type="float">'
        + valued("value", 30, "millimeter")
        + '</constant><output name="out" type="float" nodename="c"/></nodegraph>'
    )
    driven = '<input name="transmission_depth" type="float" nodegraph="g" output="out"/>'
    body = surface("open_pbr_surface", number("transmission_weight", 1) + driven, graph)
    (material,) = brought(tmp_path, body).materials
    assert material.transmission_depth == pytest.approx(0.03)


def test_a_turn_in_radians_turns_as_one_in_degrees(tmp_path):
    def turned(amount: str):
        graph = (
            '<texcoord name="uv" type="vector2"/><rotate2d name="r" type="vector2">'
            + linked("in", "uv", "vector2")
            + amount
            + '</rotate2d><image name="i" type="color3"><input name="file" type="filename" value="a.png"/>'
            + linked("texcoord", "r", "vector2")
            + "</image>"
        )
        body = surface("open_pbr_surface", linked("base_color", "i", "color3"), graph)
        (material,) = brought(tmp_path, body).materials
        return material.steps[0].turn_deg

    plain = turned(number("amount", 30))
    assert abs(plain) == pytest.approx(30, abs=1e-3)
    assert turned(valued("amount", 0.5235988, "radian", of="angle")) == pytest.approx(plain, abs=1e-3)


def test_own_units_count_and_unknown_ones_are_told(tmp_path):
    own = '<unitdef name="UD_x" unittype="distance"><unit name="cubit" scale="0.4572"/></unitdef>'
    shine = number("transmission_weight", 1)
    depth = valued("transmission_depth", 2, "cubit")
    arrival = brought(tmp_path, own + surface("open_pbr_surface", shine + depth))
    assert arrival.materials[0].transmission_depth == pytest.approx(0.9144)
    arrival = brought(tmp_path, surface("open_pbr_surface", shine + depth))
    assert arrival.materials[0].transmission_depth == pytest.approx(2)
    assert any("“cubit”" in words for words in arrival.lost)

"""What a picture's numbers mean: alpha multiplies nothing, primaries are those that the file states."""

import numpy as np
import OpenImageIO as oiio
import pytest

from nocturne.colour import spaces
from nocturne.colour.named import to_working
from nocturne.errors import BadFile
from nocturne.io import exr, image

P3_D65 = ((0.68, 0.32), (0.265, 0.69), (0.15, 0.06), (0.3127, 0.3290))


def write(path, pixels, kind, **attributes):
    spec = oiio.ImageSpec(pixels.shape[1], pixels.shape[0], pixels.shape[2], kind)
    for name, value in attributes.items():
        spec.attribute(name.replace("__", ":"), value)
    out = oiio.ImageOutput.create(str(path))
    assert out.open(str(path), spec)
    assert out.write_image(pixels)
    out.close()


@pytest.mark.parametrize("suffix", [".png", ".tga", ".tif"])
@pytest.mark.parametrize("kind", ["uint8", "uint16"])
def test_alpha_multiplies_nothing(tmp_path, suffix, kind):
    if (suffix, kind) == (".tga", "uint16"):
        pytest.skip("there is none")
    dtype = {"uint8": np.uint8, "uint16": np.uint16}[kind]
    most = np.iinfo(dtype).max
    rng = np.random.default_rng(1)
    pixels = rng.integers(0, most, (5, 7, 4), dtype=dtype)
    pixels[0, 0, 3] = 0
    path = tmp_path / f"p{suffix}"
    write(path, pixels, kind, oiio__UnassociatedAlpha=1)
    shares = pixels / most
    for k, channel in enumerate(("red", "green", "blue", "alpha")):
        assert image.read(path, space=channel)[..., 0] == pytest.approx(shares[..., k], abs=1e-6)
    assert image.read(path, space="data") == pytest.approx(shares[..., :3], abs=1e-6)
    wanted = spaces.decode_srgb(shares[..., :3]) @ spaces.rec709_to_working().T
    assert image.read(path) == pytest.approx(wanted, abs=1e-5)
    named = image.read(path, space="colour:sRGB Encoded Rec.709 (sRGB)")
    assert named == pytest.approx(wanted, abs=2e-3), "the same by its name"


@pytest.mark.parametrize("primaries", [spaces.AP0, spaces.AP1, spaces.REC709, P3_D65])
def test_primaries_are_those_that_the_file_states(tmp_path, primaries):
    colours = np.random.default_rng(2).uniform(0, 4, (3, 5, 3))
    stated = colours @ spaces.rgb_to_rgb(spaces.AP1, primaries).T
    exr.write_layers(tmp_path / "a.exr", {"": stated.astype(np.float32)}, primaries=primaries, half=False)
    assert image.read(tmp_path / "a.exr") == pytest.approx(colours, rel=1e-4, abs=1e-4)
    assert image.read(tmp_path / "a.exr", space="data") == pytest.approx(stated, rel=1e-6)


def test_ours_agree_with_the_names_of_the_configuration(tmp_path):
    colours = np.random.default_rng(3).uniform(0, 4, (3, 5, 3)).astype(np.float32)
    for name, primaries in (("ACES2065-1", spaces.AP0), ("ACEScg", spaces.AP1)):
        exr.write_layers(tmp_path / "a.exr", {"": colours}, primaries=primaries, half=False)
        assert image.read(tmp_path / "a.exr") == pytest.approx(to_working(colours, name), rel=1e-3, abs=1e-3)


@pytest.mark.parametrize("stated", [(0.3,) * 8, (0.0,) * 8, (float("nan"),) * 8])
def test_primaries_that_span_no_colours_are_told(tmp_path, stated):
    write(tmp_path / "a.exr", np.ones((2, 2, 3), np.float32), "float")
    spec_path = tmp_path / "b.exr"
    spec = oiio.ImageSpec(2, 2, 3, "float")
    spec.attribute("chromaticities", oiio.TypeDesc("float[8]"), stated)
    out = oiio.ImageOutput.create(str(spec_path))
    assert out.open(str(spec_path), spec)
    out.write_image(np.ones((2, 2, 3), np.float32))
    out.close()
    with pytest.raises(BadFile, match="primaries"):
        image.read(spec_path)
    assert image.read(tmp_path / "a.exr").shape == (2, 2, 3)

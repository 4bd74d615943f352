"""Colour spaces, against an independent implementation."""

import numpy as np
import PyOpenColorIO as ocio
import pytest

from nocturne.colour import blackbody, spaces


def test_rec709_to_working_agrees_with_opencolorio():
    config = ocio.Config.CreateFromBuiltinConfig("cg-config-v4.0.0_aces-v2.0_ocio-v2.5")
    processor = config.getProcessor("Linear Rec.709 (sRGB)", "ACEScg").getDefaultCPUProcessor()
    for rgb in np.eye(3, dtype=np.float32):
        assert spaces.rec709_to_working() @ rgb == pytest.approx(processor.applyRGB(rgb.tolist()), abs=2e-4)


def test_srgb_there_and_back():
    assert spaces.to_srgb(spaces.from_srgb(0.2, 0.5, 0.9)) == pytest.approx([0.2, 0.5, 0.9], abs=1e-6)
    assert spaces.from_srgb(1, 1, 1) == pytest.approx((1, 1, 1), abs=1e-6)
    assert spaces.is_displayable(spaces.from_srgb(1, 0, 0))
    assert not spaces.is_displayable((0.0, 1.0, 0.0))


def test_blackbody_chromaticity():
    # CIE 15: Planckian locus at 2856 K (illuminant A) and 6504 K.
    for kelvin, xy in ((2856, (0.4476, 0.4074)), (6504, (0.3135, 0.3237))):
        xyz = blackbody.blackbody_xyz(kelvin)
        assert xyz[:2] / xyz.sum() == pytest.approx(xy, abs=2.5e-3)
    assert spaces.luminance(blackbody.blackbody(3000)) == pytest.approx(1)


def test_white_balance_makes_its_light_neutral():
    rgb = blackbody.white_balance(3200) @ spaces.xyz_to_working(blackbody.blackbody_xyz(3200))
    assert rgb == pytest.approx(np.full(3, rgb.mean()), rel=1e-6)


@pytest.mark.parametrize("kelvin", [1500.0, 2000.0, 2800.0, 6500.0, 12000.0])
def test_white_balance_makes_the_light_that_is_rendered_neutral(kelvin):
    # Also where the light's blue lies outside the working space and is rendered as none.
    rgb = blackbody.white_balance(kelvin) @ blackbody.blackbody(kelvin)
    assert rgb == pytest.approx(np.full(3, rgb.mean()), rel=1e-6)

"""The desk: gains, blends between cues, and the desk written back to the lights, against a render of both."""

import numpy as np
import pytest

from nocturne.scene import edit
from nocturne.scene.desk import Strip, blended, gains
from nocturne.scene.document import Document
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from tests import sets

GROUPS = ("a", "b", "c")


def test_a_blend_mixes_light_not_stops():
    before = (Strip(group="a"), Strip(group="b", on=False))
    after = (Strip(group="a", stops=-2), Strip(group="b", tint=(1, 0.5, 0.25)))
    for share in (0.0, 0.25, 0.5, 0.9):
        mixed = gains(("a", "b"), blended(before, after, share))
        expected = gains(("a", "b"), before) * (1 - share) + gains(("a", "b"), after) * share
        assert mixed == pytest.approx(expected, rel=1e-5)
    assert blended(before, after, 1.0) == after


def test_solo_counts_in_a_blend():
    before = (Strip(group="a", solo=True), Strip(group="b"))
    after = (Strip(group="a"), Strip(group="b"))
    assert gains(("a", "b"), blended(before, after, 0.5))[1] == pytest.approx(0.5)


def test_the_desk_written_to_the_lights_gives_the_same_picture(engine):
    glow = Material(
        id="glow",
        name="Glow",
        emission_luminance=40,
        emission_color=(1, 0.6, 0.3),
        emission_group="b",
        base_color=(0,) * 3,
    )
    clay = Material(id="clay", name="Clay", base_color=(0.6, 0.6, 0.6))
    lights = (
        make_light(id="p", kind="point", group="a", place=(0, -3, 2), power=900),
        make_light(id="r", kind="rect", group="c", place=(0, 0, 4), power=1500, kelvin=3000),
    )
    camera = sets.view(eye=(0, -8, 2), target=(0, 0, 0.4), size=(24, 24))
    document, assets = sets.many(
        [(sets.PLANE, clay, {}), (sets.BALL, glow, {"place": (1.5, 1, 1)})],
        *lights,
        camera=camera,
        quality=sets.deep(24),
    )
    document = edit.changed(document, groups=GROUPS)
    # What gives no light takes nothing from the desk, and leaves nothing on it.
    portal = make_light(id="portal", kind="portal", group="c")
    document = edit.put(document, "lights", portal)
    for group, values in {
        "a": {"stops": -1.5},
        "b": {"stops": 1.0, "tint": (1.0, 0.4, 0.2)},
        "c": {"tint": (0.3, 0.6, 1.0)},
    }.items():
        document = edit.set_strip(document, group, **values)
    mixed = sets.picture(document, assets).beauty(gains(GROUPS, document.desk))
    after = edit.desk_to_lights(document)
    assert np.allclose(gains(GROUPS, after.desk), 1)
    written = sets.picture(after, assets).beauty()
    assert written.mean((0, 1)) == pytest.approx(mixed.mean((0, 1)), rel=0.02)
    assert after.find("lights", "portal") == portal
    dark = edit.set_strip(document, "c", on=False)
    assert edit.desk_to_lights(dark).find("lights", "portal").on
    assert edit.desk_to_lights(dark).find("lights", "r").on is False


def test_suns_keep_their_tint_on_the_desk():
    sun = make_light(id="s", kind="sun", unit="x", power=1, group="a")
    document = edit.set_strip(Document(lights=(sun,), groups=("a",)), "a", stops=1, tint=(1, 0.5, 0.5))
    after = edit.desk_to_lights(document)
    assert after.lights[0].power == pytest.approx(2)
    assert after.strip("a").tint == pytest.approx((1, 0.5, 0.5))
    assert after.strip("a").stops == 0


def test_cues_are_stored_again_and_moved():
    document = Document(lights=(make_light(id="l", group="a"),), groups=("a",))
    document, one = edit.keep_cue(document, "One")
    document, two = edit.keep_cue(edit.set_strip(document, "a", stops=2), "Two")
    assert [c.name for c in edit.move(document, "cues", two, 0).cues] == ["Two", "One"]
    stored = edit.store_cue(edit.set_strip(document, "a", stops=-3), one)
    assert stored.find("cues", one).strips[0].stops == -3
    assert stored.find("cues", two).strips[0].stops == 2

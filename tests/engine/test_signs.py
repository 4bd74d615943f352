"""Signs in a picture: letters where NumPy has them, crisp however near, the same light by either estimator."""

import numpy as np
import pytest

from nocturne.scene import edit
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Emblem, Lettering, Spot, driven_by
from tests import sets

NITS = 1000.0
SIGN = Lettering(
    parameter="emission_color",
    words="Rg8\nقمر",
    face="round",
    height=0.5,
    color=(1.0, 1.0, 1.0),
    beside="own",
    outline_1_gap=0.03,
    outline_1_width=0.03,
    outline_1_color=(0.2, 0.5, 0.9),
)
GLOWING = Material(id="m", base_color=(0, 0, 0), specular_weight=0, emission_luminance=NITS, steps=(SIGN,))
SIZE = 64


def looked_at(middle: tuple[float, float], span: float) -> np.ndarray:
    """Return (h, w, 3) of a picture straight from above, as wide as span."""
    x, y = middle
    camera = sets.view(
        eye=(x, y - 1e-4, 5.0), target=(x, y, 0.0), projection="orthographic", span_m=span, size=(SIZE, SIZE)
    )
    document, assets = sets.one_thing(sets.PLANE, GLOWING, camera=camera, quality=sets.deep(16))
    return sets.picture(document, assets).beauty() / NITS


def expected(middle: tuple[float, float], span: float, fine: int = 3) -> np.ndarray:
    """Return what NumPy has there, the mean of fine x fine places in each pixel."""
    n = SIZE * fine
    at = (np.arange(n) + 0.5) / n * span - span / 2
    x, y = np.meshgrid(middle[0] + at, middle[1] - at)
    own = np.stack([x, y, np.zeros_like(x)], axis=-1).reshape(-1, 3)
    up = np.broadcast_to([0.0, 0.0, 1.0], own.shape)
    spot = Spot(own[:, :2], own[:, :2], own, own, own, up, up, up, (0, 0, 0))
    value = driven_by((SIGN,), np.ones(3), spot, {}).reshape(SIZE, fine, SIZE, fine, 3)
    return value.mean((1, 3))


def edge_of(step: Lettering) -> tuple[float, float]:
    """Return a place on the outline of the letters."""
    piece = step.artwork.pieces[3]
    return tuple(step.height * (0.25 * piece[0] + 0.5 * piece[1] + 0.25 * piece[2]))


@pytest.mark.parametrize("span", [3.2, 0.1, 0.002])
def test_letters_are_where_they_should_be_and_as_sharp_however_near(span, engine):
    middle = (0.0, 0.0) if span > 1 else edge_of(SIGN)
    seen, true = looked_at(middle, span), expected(middle, span)
    assert seen.mean((0, 1)) == pytest.approx(true.mean((0, 1)), rel=0.02, abs=0.002)
    assert np.abs(seen - true).mean() < (0.2 if span > 1 else 0.05) * true.mean()  # thin lines, a wider filter
    between = ((true[..., 0] > 0.02) & (true[..., 0] < 0.98)).mean()
    soft = ((seen[..., 0] > 0.05) & (seen[..., 0] < 0.95) & (np.abs(seen[..., 0] - 0.2) > 0.02)).mean()
    assert soft < between + 0.06, "edges are about a pixel wide"


@pytest.mark.parametrize(
    "sign",
    [
        edit.changed(SIGN, height=1.6, words="88"),
        Emblem(parameter="emission_color", beside="own", style="bar", width=0.06, height=2.0, count=9, gap=0.2),
    ],
    ids=["letters", "thin bars"],
)
def test_the_light_of_letters_is_the_same_by_sampling_lamps_and_by_chance(sign, engine):
    sign = GLOWING.model_copy(update={"steps": (sign,)})
    grey = Material(id="g", base_color=(0.5, 0.5, 0.5), specular_weight=0)
    wall = {"turn_deg": (90.0, 0.0, 0.0), "place": (0.0, 3.0, 2.0)}
    found = []
    for mode in ("light", "material"):
        camera = sets.view(eye=(0, 0, 5), target=(0, 1.0, 0), size=(16, 16), focal_mm=50)
        document, assets = sets.many(
            [(sets.PLANE, grey, {}), (sets.PLANE, sign, wall)], camera=camera, quality=sets.deep(512)
        )
        # One picture scatters by 4 %: what is thin is seldom found.
        pictures = [sets.picture(document, assets, mode=mode, seed=seed).beauty().mean((0, 1)) for seed in range(5)]
        found.append(np.mean(pictures, axis=0))
    assert found[0].min() > 0
    assert found[0] == pytest.approx(found[1], rel=0.05)

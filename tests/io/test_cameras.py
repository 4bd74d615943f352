"""Cameras through files and back: any roll, straight down, shift, focus and f-number, at random; or it is told."""

import numpy as np
import pytest

from nocturne.io.models import glb, read, usdout
from nocturne.io.models.outgoing import Outgoing
from nocturne.scene.assets import Assets
from nocturne.scene.bringing import Wanted, brought
from nocturne.scene.camera import View
from nocturne.scene.document import Document
from nocturne.scene.forms import KINDS as FORMS
from nocturne.scene.projection import camera_axes
from nocturne.scene.thing import Thing


def views(seed: int) -> tuple[View, ...]:
    random = np.random.default_rng(seed)
    made = []
    for i in range(6):
        eye = random.uniform(-5, 5, 3)
        ahead = random.normal(size=3) if i else np.array((0.0, 0.0, -1.0))  # straight down
        made.append(
            View(
                id=f"v{i}",
                name=f"Cam {i}",
                eye=tuple(eye),
                target=tuple(eye + 3 * ahead / np.linalg.norm(ahead)),
                roll_deg=float(random.uniform(-180, 180)),
                projection="orthographic" if i == 5 else "perspective",
                span_m=float(random.uniform(0.5, 20)),
                focal_mm=float(random.uniform(10, 200)),
                shift_x=float(random.uniform(-1, 1)),
                shift_y=float(random.uniform(-1, 1)),
                depth_of_field=i % 2 == 0,
                focus_m=float(random.uniform(0.2, 20)),
                f_number=float(random.uniform(1, 20)),
                width=640,
                height=int(random.integers(200, 900)),
            )
        )
    return tuple(made)


def there_and_back(tmp_path, ending: str, seed: int):
    """Return the document, its views by name as they come back from a file, and what was told on the way out."""
    document = Document(things=(Thing(id="b", name="Box", form=FORMS["box"]()),), views=views(seed), active_view="v0")
    path = tmp_path / f"a{ending}"
    told = (glb if ending == ".glb" else usdout).write(path, Outgoing.of(document, Assets(), tmp_path))
    arrival = read.read(path)
    back, _ = brought(Document(), arrival, Wanted.all_of(arrival), base=path.name, name="x", named=str)
    return document, {view.name: view for view in back.views}, told


@pytest.mark.parametrize("seed", range(3))
@pytest.mark.parametrize("ending", [".usda", ".glb"])
def test_a_camera_comes_back_as_it_was(tmp_path, ending, seed):
    document, back, told = there_and_back(tmp_path, ending, seed)
    for view in document.views:
        found = back[view.name]
        assert np.allclose(found.eye, view.eye, atol=1e-5)
        for ours, theirs in zip(camera_axes(view), camera_axes(found), strict=True):
            assert np.allclose(ours, theirs, atol=1e-5), view.name
        assert found.width / found.height == pytest.approx(view.width / view.height, rel=0.01)
        if view.projection == "orthographic":
            assert found.span_m == pytest.approx(view.span_m, rel=1e-5)
        else:
            assert found.sensor_mm / found.focal_mm == pytest.approx(view.sensor_mm / view.focal_mm, rel=1e-5)
        if ending == ".usda":
            assert (found.shift_x, found.shift_y) == pytest.approx((view.shift_x, view.shift_y), abs=1e-5)
            assert found.focus_m == pytest.approx(view.focus_m, rel=1e-5)
            assert found.depth_of_field == view.depth_of_field
            if view.depth_of_field:
                assert found.f_number == pytest.approx(view.f_number, rel=1e-5)
        else:
            assert f"“{view.name}”: the shift of its lens" in told
            assert (f"“{view.name}”: its depth of field" in told) == view.depth_of_field

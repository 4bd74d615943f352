"""Cameras of files as views: one record for every kind of file, so that none forgets what a camera has.

References
----------
glTF 2.0, 5.12 to 5.14; OpenUSD 26.11, UsdGeomCamera: apertures and offsets alike in tenths of the stage's unit; a
stop of 0 keeps all in focus.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from nocturne.scene.camera import View
from nocturne.scene.fields import within

_WIDTH = 1280
_SENSOR_MM = 36.0


@dataclass(frozen=True)
class Camera:
    """A camera as a file has it: (4, 4) matrix by which it stands, looking along its minus z, y up, and its lens.

    half_x: half of what its frame is wide, at a distance of 1 or (orthographic) in the matrix' unit; aspect: its width
    over its height; shift: of the frame's middle, in half frames to the right and up; focus: how far away it is sharp,
    in the file's unit, 0 if it says nothing; f_number: 0 if all is sharp.
    """

    name: str
    matrix: np.ndarray
    half_x: float
    aspect: float
    is_orthographic: bool = False
    shift: tuple[float, float] = (0.0, 0.0)
    focus: float = 0.0
    f_number: float = 0.0

    @property
    def up(self) -> np.ndarray:
        """Return the (3,) direction that is up in its picture."""
        return self._axes[:, 1]

    @property
    def _axes(self) -> np.ndarray:
        return self.matrix[:3, :3] / np.maximum(np.linalg.norm(self.matrix[:3, :3], axis=0), 1e-12)

    def view(self, index: int) -> View:
        """Return its view, its aim one unit ahead; how it is rolled is told once it is known what is up in the set."""
        eye = self.matrix[:3, 3]
        width = _WIDTH if self.aspect >= 1 else max(round(_WIDTH * self.aspect), 16)
        half = 0.5 if self.is_orthographic else self.half_x
        focal = within(View, "focal_mm", _SENSOR_MM / (2 * half))
        values: dict = {"projection": "orthographic"} if self.is_orthographic else {}
        if self.is_orthographic:
            across = float(np.linalg.norm(self.matrix[:3, 0]))
            values["span_m"] = within(View, "span_m", 2 * self.half_x * across)
        if self.f_number > 0:
            values |= {"f_number": within(View, "f_number", self.f_number), "depth_of_field": True}
        return View(
            id=f"view-{index}",
            name=self.name,
            eye=tuple(float(v) for v in eye),
            target=tuple(float(v) for v in eye - self._axes[:, 2]),
            focal_mm=focal,
            sensor_mm=min(max(2 * half * focal, 1.0), 200.0),
            shift_x=within(View, "shift_x", self.shift[0]),
            shift_y=within(View, "shift_y", self.shift[1]),
            focus_m=within(View, "focus_m", self.focus or 1.0),
            width=width,
            height=min(max(round(width / self.aspect), 16), 16384),
            **values,
        )


def viewed(cameras: Sequence[Camera]) -> tuple[tuple[View, ...], dict[str, Camera]]:
    """Return views of cameras, and which camera each of them is of, by its id."""
    views = tuple(camera.view(i) for i, camera in enumerate(cameras))
    return views, {view.id: camera for view, camera in zip(views, cameras, strict=True)}

"""Moving, turning and sizing the pictures on a thing where they are seen, by a frame drawn on its surface."""

import math

import numpy as np
from PySide6.QtCore import QPointF, Qt

from nocturne.engine.pick import face_at
from nocturne.scene import laying
from nocturne.scene.camera import half_width
from nocturne.scene.document import Document
from nocturne.scene.projection import pixel_ray, project
from nocturne.ui.view.drawn import Drawn
from nocturne.ui.view.hands.hand import Hand, Touch, drags

_SIDE = 64.0  # pixels of the frame from its middle to its sides, seen face on
_GRAB = 12.0
_WORDS = {"move": "Move pictures", "turn": "Turn pictures", "size": "Size pictures"}


class Laying(Hand):
    """In the mode "texture": a press on a thing lays a frame there; its dots turn and size, all else moves."""

    def __init__(self, view) -> None:
        super().__init__(view)
        self.id, self.spot = "", None
        self._side = 0.0  # metres
        self._drag: tuple[str, Document, laying.Spot, np.ndarray, object] | None = None

    def press(self, touch: Touch) -> bool:
        """Take a dot of the frame, or the surface under the pointer."""
        if not touch.is_left or self.view.mode != "texture":
            return False
        how = self._dot_at(touch.at)
        # Anew for a dot, too: an undo may have laid the picture otherwise since.
        self._lay(touch.at if how == "move" else self._screen(self.spot.point))
        if self.spot is None:
            return True
        start = self._on_plane(self.spot, touch.at)
        if start is not None:
            self._drag = (how, self.view.document, self.spot, start, ("texture", next(drags)))
        return True

    def move(self, touch: Touch) -> None:
        """Move, turn or size; the picture keeps to the pointer."""
        if self._drag is None:
            return
        how, before, spot, start, merge = self._drag
        now = self._on_plane(spot, touch.at)
        if now is None or before.find("things", self.id) is None:
            return
        if how == "move":
            after = laying.moved(before, self.id, spot, now - start)
        elif how == "turn":
            angle = math.atan2(now[1], now[0]) - math.atan2(start[1], start[0])
            if touch.has_ctrl:
                angle = round(angle / math.radians(15)) * math.radians(15)
            after = laying.turned(before, self.id, spot, angle)
        else:
            factor = float(np.linalg.norm(now) / max(np.linalg.norm(start), 1e-9))
            after = laying.sized(before, self.id, spot, max(factor, 1e-3))
        self.view.placed.emit(after, _WORDS[how], merge)

    def release(self, touch: Touch) -> None:
        """Leave it there; the frame follows."""
        if self._drag is not None:
            self.move(touch)
            self._drag = None
            if self.spot is not None:
                self._lay(self._screen(self.spot.point))

    def hover(self, at: QPointF) -> Qt.CursorShape | None:
        """Say that a dot can be taken."""
        is_dot = self.view.mode == "texture" and self.spot is not None and self._dot_at(at) != "move"
        return Qt.CursorShape.PointingHandCursor if is_dot else None

    def let_go(self) -> None:
        """Leave no frame."""
        self._drag, self.spot, self.id = None, None, ""

    def frame(self) -> tuple[Drawn, ...]:
        """Return the frame: its sides, and the dots that turn and size."""
        if self.spot is None:
            return ()
        across, up = self.spot.across * self._side, self.spot.up * self._side
        middle = self.spot.point
        corners = [middle + a * across + b * up for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1))]
        sides = [Drawn(np.stack([a, b])) for a, b in zip(corners, corners[1:] + corners[:1])]
        turn, size = self._dots()
        arm = Drawn(np.stack([middle, turn]))
        return (*sides, arm, *(Drawn(np.stack([p, p]), words) for p, words in ((turn, "turn"), (size, "size"))))

    def _dots(self) -> tuple[np.ndarray, np.ndarray]:
        spot, side = self.spot, self._side
        return spot.point + spot.across * side * 1.5, spot.point + (spot.across + spot.up) * side

    def _dot_at(self, at: QPointF) -> str:
        if self.spot is not None:
            for name, point in zip(("turn", "size"), self._dots()):
                there = self._screen(point)
                if math.hypot(there.x() - at.x(), there.y() - at.y()) <= _GRAB:
                    return name
        return "move"

    def _lay(self, at: QPointF) -> None:
        """Lay the frame on the surface at a point of the widget, if it has texture coordinates there."""
        view = self.view
        place, prepared = view.place_at(at), view.print.frame.prepared if view.print is not None else None
        self.let_go()
        if place is None or prepared is None:
            view.set_drawn(())
            return
        found = face_at(prepared, place[0] * prepared.width, place[1] * prepared.height)
        thing = view.document.find("things", found.id) if found is not None else None
        mesh = view.assets().shape(thing) if thing is not None else None
        if mesh is not None and not thing.locked and 0 <= found.triangle < len(mesh.triangles):
            uvs = mesh.uvs[mesh.triangles[found.triangle]].astype(float)
            self.id, self.spot = thing.id, laying.spot_at(found.corners, uvs, found.point)
            _, distance = project(view.document.view, found.point)
            self._side = _SIDE * 2 * half_width(view.document.view, float(distance)) / view.image_rect().width()
        view.set_drawn(self.frame())

    def _on_plane(self, spot: laying.Spot, at: QPointF) -> np.ndarray | None:
        """Return where the pointer meets the spot's plane, metres along it; None if it looks past it."""
        rect = self.view.image_rect()
        u, v = (at.x() - rect.left()) / rect.width(), (at.y() - rect.top()) / rect.height()
        origin, direction = pixel_ray(self.view.document.view, u, v)
        slope = float(direction @ spot.normal)
        if abs(slope) < 1e-4:
            return None
        way = float((spot.point - origin) @ spot.normal) / slope
        return spot.metres(origin + direction * way) if way > 0 else None

    def _screen(self, point: np.ndarray) -> QPointF:
        rect = self.view.image_rect()
        (u, v), _ = project(self.view.document.view, point)
        return QPointF(rect.left() + u * rect.width(), rect.top() + v * rect.height())

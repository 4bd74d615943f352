"""Moving, turning, sizing and aiming what is chosen by the handles drawn on it."""

import numpy as np
from PySide6.QtCore import QPointF, Qt

from nocturne.errors import SceneError
from nocturne.scene import placing
from nocturne.scene.document import Document
from nocturne.ui.view import handles
from nocturne.ui.view.hands.hand import Hand, Touch, drags

_WORDS = {"free": "Move", "move": "Move", "turn": "Turn", "size": "Size", "aim": "Aim"}


class Gripping(Hand):
    """Holds one handle of the star that is drawn on what is chosen."""

    def __init__(self, view) -> None:
        super().__init__(view)
        self._made: tuple[tuple, handles.Star | None] = ((), None)
        self._grip: tuple[handles.Star, handles.Grip, QPointF, Document] | None = None
        self._over: handles.Grip | None = None
        self._merge: object = None
        self._caught_by: np.ndarray | None = None

    @property
    def held(self) -> handles.Grip | None:
        """Return the handle that is held, or that the mouse is over."""
        return self._grip[1] if self._grip else self._over

    def star(self) -> handles.Star | None:
        """Return the handles that can be dragged now, None if there are none."""
        view, shown = self.view, self.view.overlays
        if not view.ids or not (shown.handles and shown.placing) or view.mode != "choose" or view.compare:
            return None
        if view.print is None or view.print.frame.prepared is None:
            return None
        document, rect = view.document, view.image_rect()
        key = (document.view, getattr(document, view.part, ()), view.part, view.ids, rect)
        if self._made[0] != key:
            self._made = (key, handles.star(document, view.part, view.ids, rect))
        return self._made[1]

    def _grip_at(self, at: QPointF) -> tuple[handles.Star | None, handles.Grip | None]:
        made = self.star()
        return made, made.grip_at(at) if made is not None else None

    def press(self, touch: Touch) -> bool:
        """Take a handle."""
        made, grip = self._grip_at(touch.at) if touch.is_left else (None, None)
        if grip is None:
            return False
        self._grip = (made, grip, touch.at, self.view.document)
        self._merge, self._caught_by = ("handle", next(drags)), None
        return True

    def move(self, touch: Touch) -> None:
        """Place what is chosen by the handle: Shift finely, Ctrl in steps."""
        if self._grip is None:
            return
        made, grip, start, before = self._grip
        at, view = touch.at, self.view
        try:
            if grip.kind == "aim":
                hit = view.hit_at(at)
                point = handles.aim_point(made, at, hit.point if hit is not None and hit.id not in view.ids else None)
                after = placing.aim(before, view.ids[-1], point)
            else:
                anchors = self._anchors(before) if touch.has_ctrl and grip.kind == "free" else None
                keys = {"fine": touch.has_shift, "snap": touch.has_ctrl, "anchors": anchors}
                after = handles.dragged(before, made, grip, start, at, **keys)
        except SceneError:
            return
        if (at - start).manhattanLength() >= 2:
            view.placed.emit(after, _WORDS[grip.kind], self._merge)

    def _anchors(self, document: Document) -> np.ndarray:
        """Return what can catch the pivot of what is dragged, found once for each drag."""
        if self._caught_by is None:
            ids = self.view.ids if self.view.part == "things" else ()
            self._caught_by = placing.anchors(document, self.view.assets(), ids)
        return self._caught_by

    def release(self, touch: Touch) -> None:
        """Leave it there."""
        self.move(touch)
        self._grip = None
        self.view.update()

    def hover(self, at: QPointF) -> Qt.CursorShape | None:
        """Light up the handle under the mouse."""
        over = self._grip_at(at)[1]
        now, before = ((grip.kind, grip.axis) if grip is not None else None for grip in (over, self._over))
        if now != before:
            self.view.update()
        self._over = over
        return Qt.CursorShape.PointingHandCursor if over is not None else None

    def let_go(self) -> None:
        """Hold nothing: what was dragged is no longer chosen, perhaps gone."""
        self._grip = None

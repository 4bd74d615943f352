"""Which sides of surfaces are seen: found behind the picture, drawn as a veil over it."""

from collections.abc import Iterator

from PySide6.QtCore import QObject
from PySide6.QtGui import QImage

from nocturne.engine.pick import facing
from nocturne.engine.prepare import Prepared
from nocturne.jobs import Update
from nocturne.ui.runner import Runner
from nocturne.ui.view.overlay import veil
from nocturne.ui.view.picture import PictureView

KIND = "Facing"
_WIDTH = 480  # of the veil, pixels


class FacingWork(QObject):
    """Keeps the veil over what is seen from behind up to date while it is shown."""

    def __init__(self, runner: Runner, picture: PictureView) -> None:
        super().__init__(picture)
        self.runner, self.picture = runner, picture
        self._known: Prepared | None = None

    def look(self) -> None:
        """Look anew, if it is shown and another set, or another view, is seen than before."""
        shown = self.picture.print
        prepared = shown.frame.prepared if shown is not None else None
        if not self.picture.overlays.facing or prepared is None:
            self.picture.set_behind(None)
            self._known = None
            return
        if prepared is self._known:
            return
        self._known = prepared

        def work() -> Iterator[Update]:
            yield Update(0, 1, "Looking which sides are seen")
            width = min(_WIDTH, prepared.width)
            sides = facing(prepared, width, max(round(width * prepared.height / prepared.width), 1))
            yield Update(1, 1, "Looked", result=(prepared, veil(sides < 0)))

        self.runner.submit(KIND, work(), self._done)

    def _done(self, found: tuple[Prepared, QImage]) -> None:
        if found[0] is self._known:
            self.picture.set_behind(found[1])

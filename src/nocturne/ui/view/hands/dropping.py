"""Materials dragged from their list onto what is to get them."""

from PySide6.QtCore import QPointF

from nocturne.engine.pick import Hit

MATERIAL_MIME = "application/x-nocturne-material"


class Dropping:
    """Outlines what would get a material while it is dragged over the picture."""

    def __init__(self, view) -> None:
        self._view = view
        self._chosen_before: tuple[str, tuple[str, ...]] = ("", ())

    def enter(self, event) -> None:
        """Take materials, nothing else."""
        if event.mimeData().hasFormat(MATERIAL_MIME):
            self._chosen_before = (self._view.part, self._view.ids)
            event.acceptProposedAction()

    def move(self, event) -> None:
        """Outline what would get it."""
        hit = self._thing_at(event.position())
        self._view.set_chosen("things", (hit.id,) if hit is not None else ())
        if hit is not None:
            event.acceptProposedAction()
        else:
            event.ignore()

    def leave(self) -> None:
        """Outline again what is chosen."""
        self._view.set_chosen(*self._chosen_before)

    def drop(self, event) -> None:
        """Give the material to what is under the pointer."""
        hit = self._thing_at(event.position())
        self.leave()
        if hit is not None:
            event.acceptProposedAction()
            self._view.dropped.emit(bytes(event.mimeData().data(MATERIAL_MIME)).decode(), hit)

    def _thing_at(self, at: QPointF) -> Hit | None:
        hit = self._view.hit_at(at)
        return hit if hit is not None and not hit.is_lamp else None

"""What is dragged onto the picture: materials from list and strip, pieces from theirs, files from the desktop."""

from pathlib import Path

from PySide6.QtCore import QMimeData, QPointF, Qt

from nocturne.engine.pick import Hit
from nocturne.io import image
from nocturne.io.models.read import READS
from nocturne.io.project import SUFFIX

MATERIAL_MIME = "application/x-nocturne-material"
STOCK_MIME = "application/x-nocturne-ready-material"
PIECE_MIME = "application/x-nocturne-piece"


def models_in(data: QMimeData) -> list[Path]:
    """Return the files of models among what is dragged."""
    files = [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()]
    return [path for path in files if path.suffix.lower() in READS]


def project_in(data: QMimeData) -> Path | None:
    """Return the first project's file among what is dragged."""
    files = [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()]
    return next((path for path in files if path.suffix.lower() == SUFFIX), None)


def pictures_in(data: QMimeData) -> list[Path]:
    """Return the files of pictures among what is dragged."""
    files = [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()]
    return [path for path in files if path.suffix.lower() in image.READS]


def _stands(data: QMimeData) -> bool:
    """Return True for what counts wherever it is dropped: what comes to stand in the set, and projects."""
    return data.hasFormat(PIECE_MIME) or bool(models_in(data)) or project_in(data) is not None


class Dropping:
    """Outlines what would get a material, or what a piece or model would stand on, while it is dragged."""

    def __init__(self, view) -> None:
        self._view = view
        self._chosen_before: tuple[str, tuple[str, ...]] = ("", ())

    def enter(self, event) -> None:
        """Take materials, pieces and files of models and pictures, nothing else."""
        data = event.mimeData()
        if data.hasFormat(MATERIAL_MIME) or data.hasFormat(STOCK_MIME) or _stands(data) or pictures_in(data):
            self._chosen_before = (self._view.part, self._view.ids)
            event.acceptProposedAction()

    def move(self, event) -> None:
        """Outline what would get it."""
        hit = self._thing_at(event.position())
        self._view.set_chosen("things", (hit.id,) if hit is not None else ())
        if hit is not None or _stands(event.mimeData()) or pictures_in(event.mimeData()):
            event.acceptProposedAction()
        else:
            event.ignore()

    def leave(self) -> None:
        """Outline again what is chosen."""
        self._view.set_chosen(*self._chosen_before)

    def drop(self, event) -> None:
        """Give the material to what is under the pointer, or have the models come to stand there."""
        hit = self._thing_at(event.position())
        self.leave()
        models = models_in(event.mimeData())
        if event.mimeData().hasFormat(PIECE_MIME):
            event.acceptProposedAction()
            id = bytes(event.mimeData().data(PIECE_MIME)).decode()
            self._view.piece_dropped.emit(id, hit.point if hit is not None else None)
        elif project_in(event.mimeData()) is not None:
            event.acceptProposedAction()
            self._view.project_dropped.emit(project_in(event.mimeData()))
        elif models:
            event.acceptProposedAction()
            self._view.files_dropped.emit(models, hit.point if hit is not None else None)
        elif pictures_in(event.mimeData()):
            event.acceptProposedAction()
            self._view.pictures_dropped.emit(pictures_in(event.mimeData()), hit.id if hit is not None else "")
        elif hit is not None:
            event.acceptProposedAction()
            for mime, dropped in ((MATERIAL_MIME, self._view.dropped), (STOCK_MIME, self._view.stock_dropped)):
                if event.mimeData().hasFormat(mime):
                    everywhere = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
                    dropped.emit(bytes(event.mimeData().data(mime)).decode(), hit, everywhere)

    def _thing_at(self, at: QPointF) -> Hit | None:
        hit = self._view.hit_at(at)
        return hit if hit is not None and not hit.is_lamp else None

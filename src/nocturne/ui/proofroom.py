"""The proofs of the open project: kept, listed, shown again, compared, gone back to; files in the background."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QImage

from nocturne.colour.lookup import LookUpTable
from nocturne.engine.render import Progress
from nocturne.errors import NocturneError
from nocturne.io import exr, proofs
from nocturne.io.project import load_tables
from nocturne.io.proofs import Proof
from nocturne.jobs import Update
from nocturne.rendering.render import settled
from nocturne.rendering.request import Result
from nocturne.scene import compare
from nocturne.scene.document import Document, film_digest
from nocturne.ui.darkroom.prints import Sheet, to_image
from nocturne.ui.frame import Frame
from nocturne.ui.runner import Runner
from nocturne.ui.session import Session

THUMB_SIZE = (256, 144)
_READ_AT_ONCE = 3  # proofs whose light stays in memory


@dataclass(frozen=True)
class Listing:
    """What was found on disk: proofs with their thumbnails, and what could not be read."""

    folder: Path
    proofs: tuple[Proof, ...]
    thumbs: dict[str, QImage]
    problems: tuple[str, ...]


def still(saved: exr.Saved, document: Document, *, noise: float = 0.0) -> Frame:
    """Return a frame of a film that is not rendered any further."""
    progress = Progress(saved.samples, noise or float("inf"), saved.seconds, 0.0, 1, 0)
    return Frame(saved.film, None, progress, document, True, kind="kept")


def small(image: QImage) -> np.ndarray:
    """Return (h, w, 3) display values of an image scaled into a thumbnail."""
    fitted = image.scaled(*THUMB_SIZE, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation)
    fitted = fitted.convertToFormat(QImage.Format.Format_RGBX8888)
    rows = np.frombuffer(fitted.constBits(), np.uint8).reshape(fitted.height(), fitted.bytesPerLine())
    return rows[:, : 4 * fitted.width()].reshape(fitted.height(), fitted.width(), 4)[..., :3] / np.float32(255)


class ProofRoom(QObject):
    """Keeps the list of proofs and does what is asked with them."""

    listed = Signal()  # the list or a proof in it changed
    ready = Signal(object, object)  # proof, its `Sheet`, as asked by `fetch`
    said = Signal(str, bool)

    def __init__(self, session: Session, runner: Runner) -> None:
        super().__init__()
        self.session, self.runner = session, runner
        self.proofs: tuple[Proof, ...] = ()
        self.thumbs: dict[str, QImage] = {}
        self.folder = proofs.unsaved_folder()
        self._path: Path | None = None
        self._moved_from: Path | None = None
        self._read: dict[str, Sheet] = {}
        self._being_kept: set[str] = set()
        self._fingerprint: tuple[Document, str] | None = None
        runner.failed.connect(self._on_job_failed)

    # ---- the list --------------------------------------------------------------------------------------------------

    def follow(self, path: Path | None, *, is_new: bool) -> None:
        """Go with the project to a file: `is_new` for another project, else it was saved there."""
        if is_new:
            # Nothing of the other project's sheet may be seen, compared with or brought back here.
            self.proofs, self.thumbs, self._removed = (), {}, None
            self._read.clear()
            self.listed.emit()
        if path is None and is_new:
            self.folder, self._path, self._moved_from = proofs.unsaved_folder(), None, None
            self._take(Listing(self.folder, (), {}, ()))
        elif path is not None and (is_new or path != self._path):
            target = proofs.folder_of(path)
            old = self.folder if not is_new and self._path is None else None
            self._moved_from = old
            self.folder, self._path = target, path
            self._read.clear()
            self.runner.submit("List proofs", _list(target, old), self._take)

    def adopt(self, folder: Path) -> None:
        """Go on with the proofs of a project that has no file yet."""
        self.folder = folder
        self.runner.submit("List proofs", _list(folder, None), self._take)

    def _take(self, found: Listing) -> None:
        if found.folder != self.folder:
            return
        self.proofs, self.thumbs = found.proofs, dict(found.thumbs)
        for problem in found.problems:
            self.said.emit(problem, True)
        self.listed.emit()

    def find(self, id: str) -> Proof | None:
        """Return a proof by id."""
        return next((proof for proof in self.proofs if proof.id == id), None)

    def is_stale(self, proof: Proof) -> bool:
        """Return True if the scene has changed since the proof was made."""
        document = self.session.document
        if self._fingerprint is None or self._fingerprint[0] is not document:
            self._fingerprint = (document, film_digest(document))
        return proof.digest != self._fingerprint[1]

    # ---- keeping ---------------------------------------------------------------------------------------------------

    def keep(
        self,
        result: Result,
        document: Document,
        *,
        luts: Mapping[str, LookUpTable],
        name: str = "",
        folder: Path | None = None,
        then: Callable[[], None] = lambda: None,
    ) -> None:
        """Keep a render as a proof, developed with a document.

        folder: of the contact sheet that it goes to, None for the open one. then: called in a thread once it is there.
        """
        if not result.film.samples.any():
            self.said.emit("There is no picture to keep yet.", True)
            return
        taken = {proof.name for proof in self.proofs} | self._being_kept
        n = len(self.proofs) + len(self._being_kept) + 1
        while not name or name in taken:
            name = f"{document.view.name} {n}"
            n += 1
        self._being_kept.add(name)
        proof = proofs.new(
            document,
            result.film,
            name=name,
            noise=result.noise,
            denoised=result.is_denoised or result.clean is not None,
        )
        folder = folder or self.folder

        def done(made: tuple[Proof, np.ndarray]) -> None:
            self._kept(folder, *made)

        work = _keep(folder, proof, result, document, luts, then)
        self.runner.submit("Keep", work, done, replace=False)

    def _on_job_failed(self, kind: str, _: object) -> None:
        if kind == "Keep":
            self._being_kept.clear()  # whichever it was: its name is free again, and names that are in use are known

    def _kept(self, folder: Path, proof: Proof, thumb: np.ndarray) -> None:
        self._being_kept.discard(proof.name)
        if folder != self.folder:
            if folder != self._moved_from:
                return  # another project is open by now; the proof lies with its own
            proofs.move(folder, self.folder)  # the project was saved to its first file meanwhile
        self.proofs = (*self.proofs, proof)
        pixels = np.ascontiguousarray(np.rint(thumb * 255), np.uint8)
        h, w = pixels.shape[:2]
        self.thumbs[proof.id] = QImage(pixels.data, w, h, 3 * w, QImage.Format.Format_RGB888).copy()
        self.listed.emit()
        self.said.emit(f"Kept as “{proof.name}” on the contact sheet.", False)

    # ---- one proof -------------------------------------------------------------------------------------------------

    def fetch(self, id: str) -> None:
        """Read a proof's light and settings; `ready` tells."""
        proof = self.find(id)
        if proof is None:
            return
        if id in self._read:
            self.ready.emit(proof, self._read[id])
            return

        def done(result) -> None:
            saved, document, luts, problems = result
            for problem in problems:
                self.said.emit(problem, True)
            while len(self._read) >= _READ_AT_ONCE:
                self._read.pop(next(iter(self._read)))
            sheet = Sheet(still(saved, document, noise=proof.noise), document, saved.clean, proof.name, luts)
            self._read[id] = sheet
            self.ready.emit(proof, sheet)

        beside = self.session.path.parent if self.session.path else Path.cwd()
        work = _read(self.folder, id, beside, self.session.assets.luts)
        self.runner.submit(f"Open “{proof.name}”", work, done)

    def alter(self, id: str, **values) -> None:
        """Change a proof's name, note or star."""
        proof = self.find(id)
        if proof is None:
            return
        changed = Proof.model_validate({**proof.model_dump(), **values})
        if changed == proof:
            return
        folder = self.folder
        self.proofs = tuple(changed if p.id == id else p for p in self.proofs)
        self.runner.submit("Change a proof", _alter(folder, changed), replace=False)
        self.listed.emit()

    def remove(self, id: str) -> None:
        """Take a proof off the sheet; it can be brought back until the project is closed."""
        proof = self.find(id)
        if proof is None:
            return
        try:
            proofs.remove(self.folder, id)
        except NocturneError as error:
            self.said.emit(str(error), True)
            return
        self.proofs = tuple(p for p in self.proofs if p.id != id)
        if self._removed is not None:
            self.thumbs.pop(self._removed.id, None)  # it cannot come back any more
        self._removed = proof
        self._read.pop(id, None)
        self.listed.emit()
        self.said.emit(f"“{proof.name}” is off the sheet. “Bring back the proof” undoes it.", False)

    _removed: Proof | None = None

    @property
    def can_bring_back(self) -> bool:
        """Return True if a removed proof can be brought back."""
        return self._removed is not None

    def bring_back(self) -> None:
        """Put the proof that was removed last back on the sheet."""
        proof, self._removed = self._removed, None
        if proof is None:
            return
        try:
            proofs.bring_back(self.folder, proof.id)
        except NocturneError as error:
            self.said.emit(str(error), True)
            return
        self.proofs = tuple(sorted((*self.proofs, proof), key=lambda p: (p.made, p.id)))
        self.listed.emit()

    def go_back(self, sheet: Sheet, parts: tuple[str, ...]) -> None:
        """Take a proof's settings over, in whole or by part, as one undo step."""
        document = compare.taken_over(self.session.document, sheet.document, parts)
        words = "all of it" if len(parts) == len(compare.PARTS) else ", ".join(compare.PARTS[p].lower() for p in parts)
        self.session.push(document, f"Go back to “{sheet.name}”: {words}")
        self.said.emit(f"Gone back to “{sheet.name}”: {words}. Undo takes it back.", False)

    def close(self) -> None:
        """Delete what was removed for good."""
        proofs.clean_up(self.folder)


def _keep(
    folder: Path,
    proof: Proof,
    result: Result,
    document: Document,
    luts: Mapping[str, LookUpTable],
    then: Callable[[], None],
) -> Iterator[Update]:
    # Imported here: the window reads this module before the engine is compiled.
    from nocturne.finish import kernels
    from nocturne.finish.develop import Light, develop

    yield Update(0, 3, f"Keeping “{proof.name}”")
    # The film goes on being rendered into; what is kept is how it is now, all of the same moment.
    for update in settled(result):
        yield replace(update, result=None)
        result = update.result
    still, clean = result.film, result.clean
    proof = proofs.as_of(proof, still, denoised=clean is not None)
    picture = develop(Light.of(still, clean), view=document.view, desk=document.desk, finish=document.finish, luts=luts)
    thumb = small(to_image(kernels.to_bytes(picture)))
    for update in proofs.keep(folder, proof, still, document, clean=clean, thumb=thumb):
        if update.result is None:
            yield update
    then()  # here, not in the window, which may be closed by now
    yield replace(update, result=(update.result, thumb))


def _list(folder: Path, old: Path | None) -> Iterator[Update]:
    yield Update(0, 1, "Reading the contact sheet")
    if old is not None:
        proofs.move(old, folder)
    found, problems = proofs.listed(folder)
    thumbs = {}
    for i, proof in enumerate(found):
        image = QImage(str(folder / proof.id / proofs.THUMB))
        if not image.isNull():
            thumbs[proof.id] = image
        if i % 20 == 19:
            yield Update(i, len(found), "Reading the contact sheet")
    yield Update(1, 1, "Read", result=Listing(folder, tuple(found), thumbs, tuple(problems)))


def _read(folder: Path, id: str, beside: Path, known: Mapping[str, LookUpTable]) -> Iterator[Update]:
    # The tables of a proof's finish may long have left the project's.
    for update in proofs.read(folder, id):
        if update.result is None:
            yield update
        else:
            saved, document = update.result
            tables = load_tables(document, beside, known=known)
            yield replace(update, result=(saved, document, *tables))


def _alter(folder: Path, proof: Proof) -> Iterator[Update]:
    yield Update(0, 1, "Writing")
    proofs.alter(folder, proof)
    yield Update(1, 1, "Written")

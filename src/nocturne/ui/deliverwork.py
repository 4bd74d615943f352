"""What goes out of a project: exported pictures, the printed contact sheet, packs."""

from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from nocturne.deliver import pack, sheetpdf
from nocturne.deliver.export import Order, export
from nocturne.jobs import Update
from nocturne.rendering.render import settled
from nocturne.ui import files
from nocturne.ui.files import Files
from nocturne.ui.panels.contact import ContactSheet
from nocturne.ui.panels.export import ExportSheet
from nocturne.ui.proofroom import ProofRoom
from nocturne.ui.runner import Runner
from nocturne.ui.session import Session
from nocturne.ui.showing import Showing
from nocturne.ui.view.picture import PictureView


class DeliverWork(QObject):
    """Asks what is to be put out and where, and has it written."""

    sheet_wanted = Signal()  # the export sheet is ready to be shown

    def __init__(
        self,
        session: Session,
        runner: Runner,
        *,
        files: Files,
        room: ProofRoom,
        showing: Showing,
        picture: PictureView,
        contact: ContactSheet,
        sheet: ExportSheet,
    ) -> None:
        super().__init__(picture)
        self.session, self.runner, self.files = session, runner, files
        self.room, self.showing = room, showing
        self.picture, self.contact, self.sheet = picture, contact, sheet
        sheet.export_wanted.connect(self.export)

    @property
    def _window(self) -> QWidget:
        return self.picture.window()

    def ask_export(self) -> None:
        """Show the export sheet for the picture as it stands."""
        shown = self.picture.print
        if shown is None:
            self.session.said.emit("There is no picture yet.", True)
            return
        self.sheet.show_for(shown.document, shown.frame.film)
        self.sheet_wanted.emit()

    def follow_picture(self) -> None:
        """Announce the names that the picture has now, while the sheet is open."""
        shown = self.picture.print
        if self.sheet.isVisible() and shown is not None and shown.document is not self.sheet.document:
            self.sheet.show_for(shown.document, shown.frame.film)

    def export(self, order: Order) -> None:
        """Write an order's files from the picture as it is shown."""
        shown = self.picture.print
        if shown is None:
            self.session.said.emit("There is no picture yet.", True)
            return
        if self.sheet.film is not None and shown.document is not self.sheet.document:
            announced = self.sheet.names()
            self.sheet.show_for(shown.document, shown.frame.film)
            if self.sheet.names() != announced:
                words = "The picture has changed, and with it the names. Look at them, and export again."
                self.session.said.emit(words, True)
                return
        result, document, luts = shown.result(), shown.document, self.showing.luts
        goes_on = shown.frame.prepared is not None

        def work():
            yield Update(0, 1, "Exporting")
            # What is still being rendered into goes on changing; what is put out is of one moment, as it is shown.
            still = result
            if goes_on:
                wants_clean = result.is_denoised and order.denoised
                for update in settled(replace(result, is_denoised=wants_clean)):
                    yield replace(update, result=None)
                    still = update.result
            yield from export(order, still, document, luts=luts)

        def done(paths: list[Path]) -> None:
            n = len(paths)
            words = str(paths[0]) if n == 1 else f"{n} files in {order.folder}"
            self.session.said.emit(f"Exported {words}.", False)
            self.sheet.refresh()

        self.runner.submit("Export", work(), done)

    def ask_print(self) -> None:
        """Ask where to print the contact sheet as a PDF."""
        shown = self.contact.model.shown
        if not shown:
            self.session.said.emit("There is no proof on the contact sheet yet.", True)
            return
        name = self.files.ask_target(self._window, "Print the contact sheet", files.SHEETS, ".pdf")
        if name:
            path = Path(name)
            work = sheetpdf.write(path, self.session.document.name, shown, self.room.folder)
            self.runner.submit("Print", work, lambda p: self.session.said.emit(f"Printed {p}.", False))

    def ask_pack(self) -> None:
        """Ask where to pack the project, as an archive."""
        name = self.files.ask_target(self._window, "Pack the project", files.PACKS, ".zip")
        if name:
            self.pack(Path(name))

    def pack(self, target: Path, *, with_proofs: bool = True) -> None:
        """Pack the project with all it needs."""
        folder = self.room.folder if with_proofs else None
        foreign = pack.outside(self.session.document, self.files.folder())
        answer = files.ask_outside(self._window, foreign) if foreign else "leave"
        if answer == "stay":
            return
        work = pack.pack(
            self.session.document, self.files.folder(), target, proofs=folder, with_outside=answer == "bring"
        )

        def done(result) -> None:
            path, missing = result
            if missing:
                n = len(missing)
                words = f"Packed {path}, without {n} file{'' if n == 1 else 's'} that did not come along"
                self.session.said.emit(f"{words}: {missing[0]}…", True)
            else:
                self.session.said.emit(f"Packed {path}.", False)

        self.runner.submit("Pack", work, done)

"""What the picture shows: the live render, a final, a kept proof, an opened file, and what it is compared with."""

from collections.abc import Mapping

from PySide6.QtCore import QObject, Signal

from nocturne.colour.lookup import LookUpTable
from nocturne.io.proofs import Proof
from nocturne.scene.document import Document, render_key
from nocturne.ui.darkroom.darkroom import Darkroom
from nocturne.ui.darkroom.prints import Sheet
from nocturne.ui.finals import Final
from nocturne.ui.frame import Frame
from nocturne.ui.proofroom import ProofRoom
from nocturne.ui.session import Session
from nocturne.ui.view.compare import MODES


class Showing(QObject):
    """Hands films to the darkroom; picture A is the live one, a final or a proof, picture B a proof or the live one."""

    changed = Signal()

    def __init__(self, session: Session, room: ProofRoom, darkroom: Darkroom) -> None:
        super().__init__()
        self.session, self.room, self.darkroom = session, room, darkroom
        self.live: Frame | None = None
        self.fixed: Sheet | None = None  # a render opened without its scene: mixed by the desk, never rendered
        self.final: Final | None = None  # the final render shown in the live picture's place
        self.first: tuple[str, Sheet] | None = None  # the proof shown as A
        self.second: tuple[str, Sheet] | None = None  # the proof compared with, B
        self.mode = "wipe"
        self._wanted: dict[str, str] = {}  # by "first" and "second": the proof that is to be it once it is read
        room.ready.connect(self._on_ready)
        room.listed.connect(self._drop_gone)

    # ---- what is shown ---------------------------------------------------------------------------------------------

    @property
    def is_live(self) -> bool:
        """Return True if A is no proof: the live picture, a final or an opened render."""
        return self.first is None

    @property
    def document(self) -> Document:
        """Return the document A is developed with."""
        if self.first is not None:
            return self.first[1].document
        if self.final is not None and not self._is_of_session(self.final):
            return self.final.document
        return self.session.document

    def _is_of_session(self, final: Final) -> bool:
        return render_key(final.document) == render_key(self.session.document)

    @property
    def luts(self) -> Mapping[str, LookUpTable]:
        """Return the look-up tables of A's finish."""
        if self.first is not None:
            return self.first[1].luts
        if self.final is not None and not self._is_of_session(self.final):
            return self.final.luts
        return self.session.assets.luts

    @property
    def compare(self) -> str:
        """Return the way of comparing, "" if nothing is compared."""
        return self.mode if self.second is not None else ""

    def names(self) -> tuple[str, str]:
        """Return what A and B are called."""
        own = "Final" if self.final is not None else self.fixed.name if self.fixed else "Live"
        first = self.first[1].name if self.first else own
        return first, self.second[1].name if self.second else ""

    def proof(self) -> tuple[Proof, Sheet] | None:
        """Return the proof that the sheet is about: B if there is one, else A."""
        chosen = self.second or self.first
        proof = self.room.find(chosen[0]) if chosen else None
        return (proof, chosen[1]) if proof is not None else None

    # ---- what is asked for -----------------------------------------------------------------------------------------

    def take_frame(self, frame: Frame) -> None:
        """Take a live frame."""
        self.live = frame
        if self.first is None and self.fixed is None and self.final is None:
            self.darkroom.hand_in(frame)

    def take_final(self, final: Final) -> None:
        """Take a final that has come further."""
        if self.final is final and self.first is None:
            self._hand_in_final()

    def _hand_in_final(self) -> None:
        frame = self.final.frame
        if frame is not None:
            self.darkroom.hand_in(frame, self.final.result.clean if self.final.result is not None else None)

    def show_final(self, final: Final) -> None:
        """Show a final render as A, in the live picture's place."""
        self._wanted.clear()
        self.final, self.first, self.second = final, None, None
        self._hand_in()

    def show(self, id: str) -> None:
        """Show a proof as A."""
        self._wanted["first"] = id
        self.room.fetch(id)

    def compare_with(self, id: str) -> None:
        """Compare what is shown with a proof."""
        if self.first is not None and self.first[0] == id:
            return
        self._wanted["second"] = id
        self.room.fetch(id)

    def show_live(self) -> None:
        """Leave finals, proofs and comparing."""
        self._wanted.clear()
        self.final = self.first = self.second = None
        self._hand_in()

    def stop_comparing(self) -> None:
        """Leave comparing, keep what is shown."""
        self._wanted.pop("second", None)
        self.second = None
        self._hand_in()

    def open_fixed(self, sheet: Sheet | None) -> None:
        """Show a render that has no scene; None goes back to rendering."""
        self._wanted.clear()
        self.fixed, self.final, self.first, self.second = sheet, None, None, None
        self._hand_in()

    def set_mode(self, mode: str) -> None:
        """Compare in another way; if nothing is compared yet, with the live picture or the newest proof."""
        if mode in MODES:
            self.mode = mode
        if self.second is None and self.first is not None and self.live is not None:
            # A proof is shown and nothing is beside it: put the live picture on the A side.
            self.second, self.first = self.first, None
        elif self.second is None and self.room.proofs:
            self.compare_with(self.room.proofs[-1].id)
            return
        self._hand_in()

    def _on_ready(self, proof: Proof, sheet: Sheet) -> None:
        roles = [role for role, id in self._wanted.items() if id == proof.id]
        for role in roles:
            del self._wanted[role]
        if "first" in roles:
            self.first = (proof.id, sheet)
        elif "second" in roles:
            self.second = (proof.id, sheet)
        if self.first is not None and self.second is not None and self.first[0] == self.second[0]:
            self.second = None  # nothing is compared with itself
        if roles:
            self._hand_in()

    def _drop_gone(self) -> None:
        there = {proof.id for proof in self.room.proofs}
        gone = [chosen for chosen in (self.first, self.second) if chosen and chosen[0] not in there]
        if gone:
            self.first = None if self.first in gone else self.first
            self.second = None if self.second in gone else self.second
            self._hand_in()

    def _hand_in(self) -> None:
        self.darkroom.set_document(self.document, self.luts)
        sheet = self.first[1] if self.first else self.fixed
        if self.first is None and self.final is not None:
            self._hand_in_final()
        elif sheet is not None:
            self.darkroom.hand_in(sheet.frame, sheet.clean)
        elif self.live is not None:
            self.darkroom.hand_in(self.live)
        self.darkroom.set_second(self.second[1] if self.second else None, self.compare)
        self.changed.emit()

    def take_document(self) -> None:
        """Develop with the document as it is now."""
        self.darkroom.set_document(self.document, self.luts)

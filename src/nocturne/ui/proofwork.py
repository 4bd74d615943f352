"""What is done with proofs by command: keep, compare, flip, go back, star, remove."""

from nocturne.ui.panels.proof import ProofSheet
from nocturne.ui.proofroom import ProofRoom
from nocturne.ui.session import Session
from nocturne.ui.showing import Showing
from nocturne.ui.view.picture import PictureView


class ProofWork:
    """Turns the commands about proofs into what the room and the picture do."""

    def __init__(
        self, session: Session, room: ProofRoom, showing: Showing, picture: PictureView, sheet: ProofSheet
    ) -> None:
        self.session, self.room, self.showing = session, room, showing
        self.picture, self.sheet = picture, sheet

    def keep(self) -> None:
        """Keep the picture as it is."""
        shown = self.picture.print
        if shown is None or shown.frame.prepared is None:
            self._refuse("Go back to the live picture to keep it." if shown else "No picture yet.")
            return
        self.room.keep(shown.result(), shown.document, luts=self.showing.luts)

    def toggle_compare(self) -> None:
        """Compare with the newest proof, or stop comparing."""
        if self.showing.second is not None:
            self.showing.stop_comparing()
        elif self.room.proofs:
            self.showing.set_mode(self.showing.mode)
        else:
            self._refuse("Keep a proof first (Alt+P); then there is something to compare with.")

    def flip(self) -> None:
        """Show the other of two pictures."""
        if self.showing.mode != "flip":
            self.showing.set_mode("flip")
        self.picture.flip()

    def go_back(self, parts: tuple[str, ...]) -> None:
        """Take parts of the shown proof's settings over."""
        about = self.showing.proof()
        if about is not None and parts:
            self.room.go_back(about[1], parts)
        elif about is not None:
            self._refuse("Tick the parts to go back to first.")

    def go_back_to_all(self) -> None:
        """Go back to every setting of the proof that is shown."""
        self.sheet.whole.click()

    def star(self) -> None:
        """Star the proof that is shown, or take its star away."""
        proof, _ = self.showing.proof()
        self.room.alter(proof.id, starred=not proof.starred)

    def remove_shown(self) -> None:
        """Take the proof that is shown off the sheet."""
        self.room.remove(self.showing.proof()[0].id)

    def _refuse(self, words: str) -> None:
        self.session.said.emit(words, True)

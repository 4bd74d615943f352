"""What a piece is."""

from dataclasses import dataclass
from pathlib import Path

from nocturne.scene.document import Document


@dataclass(frozen=True, eq=False, repr=False)
class Piece:
    """Things at hand: one group that stands in the origin, with its materials and lights.

    id: of shipped ones a name, of own ones their folder's; kind: what it is listed under; words: what it is for;
    folder: what its paths are relative to, None for one that names no files.
    """

    id: str
    name: str
    kind: str
    words: str
    document: Document
    folder: Path | None = None

    @property
    def is_own(self) -> bool:
        """Return True if whoever works here kept it."""
        return self.folder is not None

    def matches(self, words: str) -> bool:
        """Return True if all of some words are said of it."""
        told = f"{self.name} {self.kind} {self.words}".casefold()
        return all(word in told for word in words.casefold().split())

"""Undo and redo: a list of documents and the label of the step that led to each."""

import dataclasses
from collections.abc import Callable
from dataclasses import dataclass, field

from nocturne.scene.document import Document


@dataclass(frozen=True, slots=True)
class Step:
    """One state of the document, what led to it, and the drag it belongs to."""

    document: Document
    label: str
    merge: object = None


@dataclass
class History:
    """The states of a document; there are no inverse commands to get wrong."""

    steps: list[Step] = field(default_factory=list)
    at: int = 0
    saved: Document | None = None
    limit: int = 500

    @classmethod
    def of(cls, document: Document) -> "History":
        """Start a history at a saved document."""
        return cls([Step(document, "Open")], 0, document)

    @property
    def document(self) -> Document:
        """Return the current document."""
        return self.steps[self.at].document

    @property
    def is_dirty(self) -> bool:
        """Return True if there is something to save."""
        return self.document is not self.saved

    @property
    def undo_label(self) -> str:
        """Return what undo would take back, "" if nothing."""
        return self.steps[self.at].label if self.at else ""

    @property
    def redo_label(self) -> str:
        """Return what redo would do again, "" if nothing."""
        return self.steps[self.at + 1].label if self.at + 1 < len(self.steps) else ""

    def push(self, document: Document, label: str, merge: object = None) -> bool:
        """Add a state; steps of one drag (the same `merge`) become one. Return False if nothing changed."""
        if document is self.document:
            return False
        del self.steps[self.at + 1 :]
        top = self.steps[self.at]
        step = Step(document, label, merge)
        if merge is not None and top.merge == merge and top.document is not self.saved:
            self.steps[self.at] = step
        else:
            self.steps.append(step)
            if len(self.steps) > self.limit:
                del self.steps[0]
        self.at = len(self.steps) - 1
        return True

    def undo(self) -> bool:
        """Go back one step; return False at the beginning."""
        if self.at == 0:
            return False
        self.at -= 1
        return True

    def redo(self) -> bool:
        """Go forward one step; return False at the end."""
        if self.at + 1 >= len(self.steps):
            return False
        self.at += 1
        return True

    def go_to(self, at: int) -> bool:
        """Go to a step by its number; return False if it is the current one or is not there."""
        if at == self.at or not 0 <= at < len(self.steps):
            return False
        self.at = at
        return True

    def replace(self, made: Callable[[Document], Document]) -> None:
        """Put into the place of each state what a function makes of it, as when files are named from elsewhere.

        What is saved stays saved.
        """
        states = {id(step.document): made(step.document) for step in self.steps}
        if self.saved is not None and id(self.saved) not in states:
            states[id(self.saved)] = made(self.saved)
        self.steps = [dataclasses.replace(step, document=states[id(step.document)]) for step in self.steps]
        self.saved = states[id(self.saved)] if self.saved is not None else None

    def mark_saved(self, document: Document) -> None:
        """Remember which state is on disk."""
        self.saved = document

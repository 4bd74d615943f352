"""What an edit changed: named once, so that whoever follows the document looks at that and nothing else."""

from dataclasses import dataclass
from functools import cached_property

from nocturne.scene.document import Document
from nocturne.scene.fields import Model
from nocturne.scene.parts import differing


@dataclass(frozen=True, eq=False)
class Change:
    """Two states of the document; `is_all` if the second is to be looked at as a whole, whatever the first was."""

    before: Document
    after: Document
    is_all: bool = False

    @cached_property
    def parts(self) -> frozenset[str]:
        """Return the fields of the document that are not the same objects."""
        return frozenset(
            name
            for name in Document.model_fields
            if self.is_all or getattr(self.before, name) is not getattr(self.after, name)
        )

    def touches(self, *parts: str) -> bool:
        """Return True if it changed one of these parts."""
        return not self.parts.isdisjoint(parts)

    def items(self, part: str) -> list[tuple[Model, Model]] | None:
        """Return the items of a part that changed, before and after; None if some came, went or changed places."""
        before, after = getattr(self.before, part), getattr(self.after, part)
        which = None if self.is_all else differing(before, after)
        if which is None or any(before[i].id != after[i].id for i in which):
            return None
        return [(before[i], after[i]) for i in which]

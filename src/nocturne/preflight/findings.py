"""What a check reports: a finding in words, what it is about, and edits that mend it."""

from collections.abc import Callable
from dataclasses import dataclass

from nocturne.scene.document import Document


@dataclass(frozen=True)
class Mend:
    """A way to mend a finding at one press: what it does, as a label, and the edit."""

    label: str
    edit: Callable[[Document], Document]
    loads_files: bool = False  # whether files have to be loaded afterwards


@dataclass(frozen=True)
class Finding:
    """Something that is probably wrong. `part` and `id` name what it is about; `is_wrong` False: only worth a look."""

    check: str
    words: str
    part: str
    id: str
    mends: tuple[Mend, ...]
    is_wrong: bool = True

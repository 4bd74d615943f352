"""A film as the window looks at it."""

from dataclasses import dataclass

from nocturne.engine.prepare import Prepared
from nocturne.engine.render import Progress
from nocturne.film.film import Film
from nocturne.film.sight import Sight
from nocturne.scene.document import Document


@dataclass(frozen=True, eq=False, repr=False)
class Frame:
    """A film in progress, or one that was kept; that has no set it could be picked from.

    document: what the film is of. request: what a live one was asked for. kind: "live", "final" or "kept". sight:
    what its pixels' middles see, as far as that was known then.
    """

    film: Film
    prepared: Prepared | None
    progress: Progress
    document: Document
    is_done: bool
    request: object = None
    kind: str = "live"
    sight: Sight | None = None

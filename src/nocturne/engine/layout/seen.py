"""What a pixel has seen, in the order of the film."""

from nocturne.film.layout import MOST_IDS, SEEN
from nocturne.rows import constants

__all__ = ["MOST_IDS"]
globals().update(constants(SEEN))

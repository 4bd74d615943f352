"""What a pixel's middle sees, in the order of `film.sight`."""

from nocturne.film.layout import SIGHT, SIGHT_IDS
from nocturne.rows import constants

COUNT, IDS = SIGHT.width, SIGHT_IDS.width
globals().update(constants(SIGHT, SIGHT_IDS))

"""Path passes, in the order of the film."""

from nocturne.film.layout import PASSES
from nocturne.rows import constants

COUNT = PASSES.width
globals().update(constants(PASSES))

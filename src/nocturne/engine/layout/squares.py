"""Sums of a pixel's luminance, in the order of the film."""

from nocturne.film.layout import SQUARES
from nocturne.rows import constants

globals().update(constants(SQUARES))

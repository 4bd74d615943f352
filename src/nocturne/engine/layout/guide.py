"""Guides of a pixel, in the order of the film."""

from nocturne.film.layout import GUIDES
from nocturne.rows import constants

COUNT = GUIDES.width
globals().update(constants(GUIDES))

"""Nocturne: build materials, light a set, place cameras, and render photoreal frames."""

__version__ = "0.1.0"

"""Patterns: what drives a parameter at a hit."""

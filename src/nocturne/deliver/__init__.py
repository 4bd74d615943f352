"""Putting pictures out: names from a template, every cue and pass, in the type, depth and space that is wanted."""

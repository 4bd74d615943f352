"""Colour: the working space (linear ACEScg), its white, blackbodies."""

"""Pieces: things that are at hand in every project, some shipped, others kept by whoever works here."""

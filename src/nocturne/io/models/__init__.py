"""Models in and out: one file a format; each is read as parts of a document."""

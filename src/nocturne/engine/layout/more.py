"""What vertices of some meshes carry besides."""

from nocturne.rows import Part, Row, constants

ROW = Row(Part("UV", 2, "second texture coordinates"), Part("COLOUR", 3, "linear, in the working space"))
globals().update(constants(ROW))

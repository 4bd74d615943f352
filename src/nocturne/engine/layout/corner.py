"""A corner of triangles: half a cache line, so that a hit reads three lines and no more."""

from nocturne.rows import Part, Row, constants

ROW = Row(
    Part("POSITION", 3, "in the mesh's space, metres"),
    Part("U", 1, "texture coordinate"),
    Part("NORMAL", 3, "of the smooth surface, unit"),
    Part("V", 1, "texture coordinate"),
)
globals().update(constants(ROW))

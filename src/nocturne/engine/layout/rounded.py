"""A hard edge, as the face on one side of it is rounded towards the other."""

from nocturne.rows import Part, Row, constants

ROW = Row(
    Part("START", 3, "in the mesh's space"),
    Part("END", 3, "in the mesh's space"),
    Part("NORMAL_START", 3, "of the other face, unit"),
    Part("NORMAL_END", 3, "of the other face, unit"),
)
NEAR = Row(Part("FIRST", 1, "row of the edges near a triangle"), Part("COUNT", 1, "how many there are"))
globals().update(constants(ROW, NEAR))

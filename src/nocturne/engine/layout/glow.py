"""A triangle of a glowing mesh, in the world."""

from nocturne.rows import Part, Row, constants

FLOATS = Row(
    Part("CORNER", 3, "metres"),
    Part("EDGE_1", 3, "to the second corner"),
    Part("EDGE_2", 3, "to the third corner"),
    Part("AREA", 1, "m2"),
    Part("SIDE", 1, "1: it shines to where its corners turn left; -1: to the other side, as its mesh stands mirrored"),
    multiple=4,
)
WHOLE = Row(Part("TRIANGLE", 1, "its index among all triangles"), Part("MESH", 1, "which mesh"))
globals().update(constants(FLOATS, WHOLE))

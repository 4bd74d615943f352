"""A triangle of a glowing mesh, in the world."""

from nocturne.rows import Part, Row, constants

FLOATS = Row(
    Part("CORNER", 3, "metres"),
    Part("EDGE_1", 3, "to the second corner"),
    Part("EDGE_2", 3, "to the third corner"),
    Part("AREA", 1, "m2"),
    multiple=4,
)
WHOLE = Row(Part("TRIANGLE", 1, "its index among all triangles"), Part("MESH", 1, "which mesh"))
globals().update(constants(FLOATS, WHOLE))

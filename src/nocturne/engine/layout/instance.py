"""A placed mesh, or a lamp's own shape."""

from nocturne.rows import Part, Row, constants

WHOLE = Row(
    Part("MESH", 1, "-1: a lamp's own shape"),
    Part("MATERIAL", 1, "-1: a lamp's own shape"),
    Part("LIGHT", 1, "-1: it is none"),
    Part("OBJECT", 1, "its id on the film"),
    Part("THING_SEED", 1, "a number of the thing's own"),
    Part("COPY_SEED", 1, "a number of this copy's own"),
)
TO_WORLD = 12  # 3x4, row by row
NORMALS_TO_WORLD = 9  # the inverse transpose, 3x3, row by row
globals().update(constants(WHOLE))

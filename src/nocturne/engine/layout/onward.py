"""A sample of a material: where a path goes on."""

from nocturne.rows import Part, Row, constants

ROW = Row(
    Part("DIRECTION", 3, "unit"),
    Part("WEIGHT", 3, "value times cosine over density"),
    Part("DENSITY", 1, "over solid angle; 0: the path ends"),
    Part("KIND", 1, "0 diffuse, 1 reflection, 2 transmission"),
    Part("IS_DELTA", 1, "1: no other direction was possible"),
)
globals().update(constants(ROW))

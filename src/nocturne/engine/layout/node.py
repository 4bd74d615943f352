"""A node of the tree over the lights near by."""

from nocturne.rows import Part, Row, constants

FLOATS = Row(
    Part("LOW", 3, "lower corner of its box, metres"),
    Part("HIGH", 3, "upper corner of its box"),
    Part("AXIS", 3, "middle of where its lights face"),
    Part("COS_SPREAD", 1, "cosine of how far faces turn from the axis"),
    Part("COS_EMISSION", 1, "cosine of how far from its face a light shines"),
    Part("POWER", 1, "sum"),
)
WHOLE = Row(
    Part("LEFT", 1, "its first child, the second one follows; -1 for a leaf"),
    Part("LIGHT", 1, "the light of a leaf"),
)
globals().update(constants(FLOATS, WHOLE))

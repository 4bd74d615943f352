"""A picture of what lies at infinity."""

from nocturne.rows import Part, Row, constants

ROW = Row(
    Part("FIRST", 1, "first pixel"),
    Part("WIDTH", 1, "pixels"),
    Part("HEIGHT", 1, "pixels"),
    Part("FIRST_CELL", 1, "first cell of its sampling table"),
)
globals().update(constants(ROW))

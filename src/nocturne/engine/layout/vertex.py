"""The last real vertex of a path, from which lights are sampled."""

from nocturne.rows import Part, Row, constants

ROW = Row(
    Part("POSITION", 3, "metres"),
    Part("NORMAL", 3, "unit, to the viewer's side"),
    Part("TWO_SIDED", 1, "1 if light may come through"),
    Part("LEARNED", 1, "row of what was learned here"),
    Part("SHARE", 1, "of the directions sampled here that go to bright things"),
)
globals().update(constants(ROW))

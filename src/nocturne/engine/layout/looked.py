"""What short rays found last."""

from nocturne.rows import Part, Row, constants

ROW = Row(
    Part("FROM", 3, "where they began"),
    Part("RADIUS", 1, "metres"),
    Part("RAYS", 1, "how many"),
    Part("WAY", 1, "1 into the shape, 2 out of it"),
    Part("HITS", 1, "share of them that found something"),
    Part("NEARNESS", 1, "the same by how near it was"),
)
globals().update(constants(ROW))

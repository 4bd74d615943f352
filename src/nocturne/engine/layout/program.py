"""Which steps are to be worked out, and for what."""

from nocturne.rows import Part, Row, constants

ROW = Row(
    Part("FIRST", 1, "step among all"),
    Part("STEPS", 1, "how many"),
    Part("TARGET", 1, "where the row that they drive begins in the work row"),
    Part("PLACE", 1, "where the place that they are asked at begins in it"),
)
globals().update(constants(ROW))

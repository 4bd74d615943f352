"""Where a path went from a vertex, as far as it is learned from."""

from nocturne.rows import Part, Row, constants

ROW = Row(
    Part("BETA", 1, "luminance of the throughput there"),
    Part("SUM", 1, "luminance that the sample had found by then"),
    Part("CELL", 1, "row of the cell"),
    Part("THING", 1, "bright thing that the direction goes to, or how many there are"),
    Part("BY_CONE", 1, "what a squared find counts if the thing's cone were sampled: density times solid angle"),
    Part("BY_OWN", 1, "if the material's own density were: the density over that"),
    Part("REACHED", 1, "instance that was hit, all ones for none"),
)
MOST = 16
globals().update(constants(ROW))

"""What was learned of which lights arrive where: chances by place and side."""

from nocturne.rows import Part, Row, constants

FLOATS = Row(
    Part("PER_METRE", 1, "cells of the grid to a metre"),
    Part("UNIT", 1, "one over the radiance in which contributions are counted, m2/cd"),
)
SLOT = Row(
    Part("NODE", 1, "of the light tree, whose lights share a chance; -1 for a light at infinity"),
    Part("LIGHT", 1, "the light at infinity"),
    Part("PORTAL", 1, "through which it is looked for: one more than the portal's row; 0: as a whole"),
    Part("DEPTH", 1, "steps from the tree's root to the node"),
)
ONE = 1 << 20  # of the sums: one squared unit of contribution
MOST = 1 << 40  # of one sample: a thousand squared units
globals().update(constants(FLOATS, SLOT))

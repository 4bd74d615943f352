"""Things that send back much light: the spheres about them."""

from nocturne.rows import Part, Row, constants

ROW = Row(
    Part("MIDDLE", 3, "metres"),
    Part("RADIUS", 1, "metres"),
)
MOST = 16
ONE = 1 << 16  # of the sums: a squared find, in units of `learned.UNIT`
BRIGHTEST = 2000.0  # find of one path, in those units
MOST_FOUND = 1e8  # of one path, squared
globals().update(constants(ROW))

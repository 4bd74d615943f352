"""A sample of a light, from the last real vertex."""

from nocturne.rows import Part, Row, constants

ROW = Row(
    Part("DIRECTION", 3, "unit, to the light"),
    Part("DISTANCE", 1, "metres"),
    Part("RADIANCE", 3, "that comes from it; for a light without a size, the irradiance on what faces it"),
    Part("DENSITY", 1, "over solid angle; 0: there is no sample"),
    Part("IS_DELTA", 1, "1: no ray can find it"),
    Part("LIGHT", 1, "which light"),
    Part("SLOT", 1, "of what is learned, by which it was chosen"),
    Part("CHANCE", 1, "with which it was chosen"),
)
globals().update(constants(ROW))

"""The camera."""

from nocturne.rows import Part, Row, constants

ROW = Row(
    Part("POS", 3, "the lens' middle, metres"),
    Part("RIGHT", 3, "unit axis"),
    Part("UP", 3, "unit axis"),
    Part("FORWARD", 3, "unit axis"),
    Part("TAN_X", 1, "half the picture's width over its distance"),
    Part("TAN_Y", 1, "half the picture's height over its distance"),
    Part("LENS_RADIUS", 1, "of the opening, metres"),
    Part("FOCUS", 1, "distance of the plane in focus, metres"),
    Part("WIDTH", 1, "pixels"),
    Part("HEIGHT", 1, "pixels"),
    Part("PIXEL", 1, "angle of a pixel in the middle, radians"),
    Part("SHIFT_X", 1, "of the lens, halves of the picture's width"),
    Part("SHIFT_Y", 1, "of the lens, halves of the picture's height"),
    Part("BLADES", 1, "corners of the opening, 0: round"),
    Part("BLADES_TURN", 1, "radians"),
    Part("CUT", 1, "distance along the axis before which nothing is seen, metres"),
    multiple=16,
)
globals().update(constants(ROW))

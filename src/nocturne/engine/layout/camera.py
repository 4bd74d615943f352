"""The camera."""

from nocturne.rows import Part, Row, constants

ROW = Row(
    Part("POS", 3, "the lens' middle, metres"),
    Part("RIGHT", 3, "unit axis"),
    Part("UP", 3, "unit axis"),
    Part("FORWARD", 3, "unit axis"),
    Part("KIND", 1, "one of those below"),
    Part("HALF_X", 1, "half the picture's width: over its distance; metres; radians"),
    Part("HALF_Y", 1, "half the picture's height, likewise"),
    Part("LENS_RADIUS", 1, "of the opening, metres"),
    Part("FOCUS", 1, "distance of the plane in focus, metres"),
    Part("WIDTH", 1, "pixels"),
    Part("HEIGHT", 1, "pixels"),
    Part("PIXEL", 1, "angle of a pixel in the middle, radians"),
    Part("PIXEL_WIDTH", 1, "width of a pixel at the lens, metres"),
    Part("SHIFT_X", 1, "of the lens, halves of the picture's width"),
    Part("SHIFT_Y", 1, "of the lens, halves of the picture's height"),
    Part("BLADES", 1, "corners of the opening, 0: round"),
    Part("BLADES_TURN", 1, "radians"),
    Part("CUT", 1, "distance along the axis before which nothing is seen, metres"),
    Part("FAR", 1, "and beyond which nothing is seen"),
    multiple=16,
)
PERSPECTIVE, PARALLEL, AROUND = 0, 1, 2
globals().update(constants(ROW))

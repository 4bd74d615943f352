"""Steps of patterns: pictures, and what binds a step to a parameter of a material."""

from nocturne.rows import Part, Row, constants

WHOLE = Row(Part("FIRST_LEVEL", 1, "among all"), Part("LEVELS", 1, "how many, each half as large as the one before"))
FLOATS = Row(
    Part("SCALE", 1, "what the largest texel stands for"),
    Part("SIDE", 1, "pixels along a side of the square as large as it"),
)
LEVEL = Row(
    Part("FIRST_TEXEL", 1, "among all"),
    Part("WIDTH", 1, "pixels"),
    Part("HEIGHT", 1, "pixels"),
    Part("TILES", 1, "across"),
)
BINDING = Row(
    Part("PARAMETER", 1, "offset in the material's row"),
    Part("CHANNELS", 1, "1 or 3"),
    Part("KIND", 1, "of the step"),
    Part("TEXTURE", 1, "which picture, for a step that has one"),
    Part("BLEND", 1, "REPLACE or MULTIPLY"),
    Part("SECOND_SET", 1, "1 if it lies by the second texture coordinates"),
)
PLACEMENT = Row(
    Part("TO_U", 3, "from the texture coordinates to the step's u: two factors, and what is added"),
    Part("TO_V", 3, "to its v"),
    Part("STRETCH", 1, "how much longer a way is in the step's coordinates, by area"),
    Part("SHARE", 1, "how much of the parameter it decides"),
    Part("IS_INVERTED", 1, "1 if its negative is taken"),
    Part("FIRST", 3, "of two colours"),
    Part("SECOND", 3, "of two colours"),
)
REPLACE, MULTIPLY = 0, 1
PICTURE, CHECKER, COLOURS = 0, 1, 2
globals().update(constants(WHOLE, FLOATS, LEVEL, BINDING, PLACEMENT))

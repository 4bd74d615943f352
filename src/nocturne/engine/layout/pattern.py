"""Steps of patterns: pictures, and the program of what drives the parameters of a material."""

from nocturne.rows import Part, Row, constants

WHOLE = Row(Part("FIRST_LEVEL", 1, "among all"), Part("LEVELS", 1, "how many, each half as large as the one before"))
FLOATS = Row(
    Part("SCALE", 1, "what the largest texel stands for"),
    Part("SIDE", 1, "pixels along a side of the square as large as it, or as one of its tiles"),
    Part("PER_SQUARE", 2, "one over how many squares of the texture coordinates it covers, across and up"),
)
LEVEL = Row(
    Part("FIRST_TEXEL", 1, "among all"),
    Part("WIDTH", 1, "pixels"),
    Part("HEIGHT", 1, "pixels"),
    Part("TILES", 1, "across"),
)
BINDING = Row(
    Part("TARGET", 1, "offset in the row that the step drives: the material's, or another step's"),
    Part("CHANNELS", 1, "1 or 3"),
    Part("KIND", 1, "of the step; COPY: make a row ready that others will drive"),
    Part("FAMILY", 1, "of the kind, by which it is called"),
    Part("TEXTURE", 1, "which picture, or which thing's distance, for a step that has one; -1: none"),
    Part("BLEND", 1, "how it goes together with what lies under it"),
    Part("WHERE", 1, "by what it lies"),
    Part("IN_SET", 1, "1 if the set holds it, 0 if the thing does"),
    Part("SLOT", 1, "where its own row was made ready; -1: it is as in the table"),
    Part("INTO", 1, "the slot whose row it drives; -1: the material's row"),
    Part("MOVES", 1, "1 if its repeats or turn are driven"),
    Part("IS_NORMAL", 1, "1 if it drives the normal, which depends on how it lies"),
    Part("FIRST_ENTRY", 1, "of its list, among all"),
    Part("ENTRIES", 1, "in its list"),
)
OWN_WIDTH = 47
PLACEMENT = Row(
    Part("TO_U", 2, "from coordinates of the surface to the step's first"),
    Part("TO_V", 2, "to its second"),
    Part("OFFSET", 3, "added to them"),
    Part("STRETCH", 1, "how much longer a way is in the step's coordinates, by area"),
    Part("SHARE", 1, "how much of what lies under it the step replaces"),
    Part("LOW", 1, "no less may come of it"),
    Part("HIGH", 1, "no more may come of it"),
    Part("IS_INVERTED", 1, "1 if its negative is taken"),
    Part("MOST_SHARE", 1, "what SHARE is held to"),
    Part("SPREAD", 1, "softness between three sides"),
    Part("REPEAT", 2, "as in the document"),
    Part("TURN", 1, "degrees"),
    Part("TO_X", 3, "from its space to units about its origin"),
    Part("TO_Y", 3, "second row"),
    Part("TO_Z", 3, "third row"),
    Part("AT_ORIGIN", 3, "added to them"),
    Part("PER_METRE", 1, "how much longer a way is in those units"),
    Part("UNIT", 3, "metres of one unit"),
    Part("OWN", OWN_WIDTH, "the numbers of its kind, see `steps`"),
    multiple=16,
)
ENTRY = 4
REPLACE, MULTIPLY, PLUS, MINUS, SCREEN, OVERLAY, DODGE, BURN, DARKEN, LIGHTEN, DIFFERENCE = range(11)
BY_UV, BY_UV_2, SOLID, FLAT, SIDES, CYLINDER, BALL, CAMERA, NOWHERE = range(9)
COPY = -1
SLOTS = 6  # steps inside of steps
globals().update(constants(WHOLE, FLOATS, LEVEL, BINDING, PLACEMENT))

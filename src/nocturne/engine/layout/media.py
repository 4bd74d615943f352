"""The list of media that a path is inside of."""

from nocturne.rows import Part, Row, constants

MAX_MEDIA = 7
ROW = Row(Part("HOW_MANY", 1, "entries"), Part("ENTRIES", MAX_MEDIA, "materials, in the order they were entered"))
COUNT = ROW.width
globals().update(constants(ROW))

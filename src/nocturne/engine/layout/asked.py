"""A place whose height is asked before there is a picture."""

from nocturne.rows import Part, Row, constants

ROW = Row(
    Part("UV", 2, "texture coordinates"),
    Part("UV_2", 2, "second texture coordinates"),
    Part("COLOUR", 3, "of the mesh"),
    Part("REST", 3, "where it lies in the set"),
    Part("N", 3, "its normal in the set, unit"),
    multiple=16,
)
WIDTH = ROW.width
globals().update(constants(ROW))

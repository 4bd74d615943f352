"""A mesh among all vertices and triangles."""

from nocturne.rows import Part, Row, constants

ROW = Row(
    Part("FIRST_TRIANGLE", 1, "among all"),
    Part("FIRST_VERTEX", 1, "among all"),
    Part("FIRST_MORE", 1, "of what its vertices carry besides, among all; -1: nothing"),
    Part("FIRST_REST", 1, "of where its vertices were before relief moved them, among all; -1: it did not"),
    Part("IS_BARE", 1, "1 if it has no texture coordinates: they are the same all over"),
    Part("HAS_PARTS", 1, "1 if it is known which connected part each triangle is of"),
)
globals().update(constants(ROW))

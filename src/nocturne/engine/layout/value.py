"""What a material does with light from one direction, times the cosine."""

from nocturne.rows import Part, Row, constants

ROW = Row(
    Part("DIFFUSE", 3, "reflected in all directions"),
    Part("REFLECTION", 3, "reflected at an interface"),
    Part("TRANSMISSION", 3, "let through"),
    Part("DENSITY", 1, "over solid angle, of sampling this direction"),
)
COUNT = ROW.width
globals().update(constants(ROW))

"""Embree's record of a ray and its hit (RTCRayHit), 16-byte aligned."""

from nocturne.rows import Part, Row, constants

ROW = Row(
    Part("ORIGIN", 3, "where it starts, metres"),
    Part("NEAR", 1, "distance at which it starts to see"),
    Part("DIRECTION", 3, "unit vector"),
    Part("TIME", 1, "0, there is no motion"),
    Part("FAR", 1, "how far it goes; after a search, the distance of what it found; below 0: blocked"),
    Part("MASK", 1, "see masks"),
    Part("ID", 1, "not used"),
    Part("FLAGS", 1, "0"),
    Part("NORMAL", 3, "of the face that was hit, in its own space, not of unit length"),
    Part("U", 1, "barycentric"),
    Part("V", 1, "barycentric"),
    Part("PRIMITIVE", 1, "which triangle"),
    Part("GEOMETRY", 1, "which geometry; NOTHING if there is no hit"),
    Part("INSTANCE", 1, "which instance of the stage"),
    Part("INSTANCE_PRIMITIVE", 1, "not used"),
    multiple=8,
)
NOTHING = 0xFFFFFFFF
globals().update(constants(ROW))

"""Where a surface is looked at: what patterns may ask of the place."""

from nocturne.rows import Part, Row, constants

ROW = Row(
    Part("P", 3, "position"),
    Part("REST", 3, "where that was before relief moved it: the place that patterns go by"),
    Part("G", 3, "geometric normal, to the viewer's side"),
    Part("N", 3, "shading normal"),
    Part("WO", 3, "to the viewer"),
    Part("UV", 2, "texture coordinates"),
    Part("UV_SIZE", 1, "how far the ray reaches there"),
    Part("BARE", 1, "1 if the mesh has no texture coordinates"),
    Part("UV_2", 2, "second texture coordinates"),
    Part("UV_2_SIZE", 1, "how far the ray reaches there"),
    Part("COLOUR", 3, "of the mesh"),
    Part("REACH", 1, "how far the ray reaches on the surface, metres"),
    Part("MOST", 1, "of a picture that the ray may reach; large for what the camera sees itself"),
    Part("INST", 1, "which instance"),
    Part("PRIM", 1, "which triangle of its mesh"),
    Part("DPDU", 3, "where u grows"),
)
COUNT = ROW.width
globals().update(constants(ROW))

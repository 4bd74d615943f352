"""What holds for a whole render."""

from nocturne.rows import Part, Row, constants

FLOATS = Row(
    Part("CLAMP", 1, "most radiance of an indirect sample, cd/m2; 0: any"),
    Part("REGULARISE", 1, "least alpha after a diffuse event"),
)
WHOLE = Row(
    Part("DIFFUSE", 1, "most diffuse events of a path"),
    Part("REFLECTION", 1, "most reflections"),
    Part("TRANSMISSION", 1, "most transmissions"),
    Part("TOTAL", 1, "most events"),
    Part("MODE", 1, "MODE_MIS, MODE_LIGHT or MODE_MATERIAL"),
    Part("N_MATERIALS", 1, "materials"),
    Part("N_TREE_NODES", 1, "nodes of the light tree, 0: none"),
    Part("N_INFINITE", 1, "lights at infinity"),
    Part("OVERLAPS", 1, "1: of overlapping media one exists; 0: each wall is against air"),
    Part("HAS_CLEAR", 1, "1 if there are thin sheets that let light through"),
)
MODE_MIS, MODE_LIGHT, MODE_MATERIAL = range(3)
globals().update(constants(FLOATS, WHOLE))

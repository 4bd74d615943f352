"""A light."""

from nocturne.rows import Part, Row, constants

FLOATS = Row(
    Part("RGB", 3, "radiance (area, infinite) or intensity (point, spot)"),
    Part("POS", 3, "where it stands, metres"),
    Part(
        "X", 3, "rectangle, portal: half-edge vector; tube: half of its axis; spot: where it shines to; sun: its place"
    ),
    Part("Y", 3, "rectangle, portal: half-edge vector"),
    Part("N", 3, "rectangle, disc, portal: the side that it shines to"),
    Part("AREA", 1, "rectangle, disc: m2"),
    Part("RADIUS", 1, "sphere, disc, tube: metres; sun: sine of its half angle"),
    Part("COS_INNER", 1, "spot: cosine of the half angle of full light"),
    Part("COS_OUTER", 1, "spot, sun: cosine of the half angle of any light"),
    Part("TURN", 9, "environment: from the world to it, 3x3"),
    Part("DENSITY", 1, "environment: density over solid angle where luminance and the ratio of sines are 1"),
    multiple=16,
)
WHOLE = Row(
    Part("KIND", 1, "RECT to PORTAL"),
    Part("GROUP", 1, "light group"),
    Part("FIRST", 1, "mesh: first of its triangles among all; environment: which one"),
    Part("TRIANGLES", 1, "mesh: how many"),
    Part("INSTANCE", 1, "mesh: which instance glows"),
    Part("SEEN", 1, "at infinity: 1 if the camera sees it"),
    Part("TRAIL", 1, "way down the tree, a bit for each step"),
    Part("DEPTH", 1, "steps of that way"),
    Part("IN_TREE", 1, "0: at infinity"),
    Part("SLOT", 1, "of what is learned: lights that share a chance; at infinity: the first of its ways"),
    Part("WAYS", 1, "at infinity: ways to look for it, as a whole and through each portal"),
)
globals().update(constants(FLOATS, WHOLE))
RECT, SPHERE, POINT, SPOT, MESH, ENVIRONMENT, DOME, SUN, DISC, TUBE, OPENING, PORTAL = range(12)
THROUGH_PORTALS = (ENVIRONMENT, DOME)  # what may come from anywhere, and has a density there

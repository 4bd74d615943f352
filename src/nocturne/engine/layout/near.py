"""Things whose distance patterns ask for, and how it is asked."""

from nocturne.rows import Part, Row, constants

TARGET = Row(
    Part("SCENE", 1, "address of a committed RTCScene of the thing's triangles in the set"),
    Part("CLOSER", 1, "address of what Embree calls with each triangle that may be nearer"),
    Part("VERTICES", 1, "address of (n, 3) float32"),
    Part("TRIANGLES", 1, "address of (m, 3) uint32"),
)
# As Embree's RTCPointQuery, RTCPointQueryContext and RTCPointQueryFunctionArguments are laid out, in 4 bytes each.
QUERY = Row(Part("PLACE", 3, "metres"), Part("TIME", 1, "0"), Part("WITHIN", 1, "how far it is looked"), multiple=4)
CONTEXT = Row(
    Part("TO_INSTANCE", 16, "not used: there are no instances"),
    Part("FROM_INSTANCE", 16, "not used"),
    Part("INSTANCE", 1, "none"),
    Part("COPY", 1, "none"),
    Part("DEPTH", 1, "0: no instance was entered"),
    multiple=4,
)
# In 8 bytes each, but for TRIANGLE, which shares its eight with the geometry's id.
ASKED = Row(Part("ASKED_QUERY", 1, "address"), Part("TARGET_ROW", 1, "address"), Part("TRIANGLE", 1, "which"))
globals().update(constants(TARGET, QUERY, CONTEXT, ASKED))
TARGET_WIDTH, CONTEXT_WIDTH = TARGET.width, CONTEXT.width

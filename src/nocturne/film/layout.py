"""The arrays of a film, and what lies where in them."""

from nocturne.rows import Field, Part, Row

GUIDES = Row(
    Part("ALBEDO", 3, "sum of the albedo of the first surface that is not a mirror or clear"),
    Part("NORMAL", 3, "unit normal at the pixel's middle"),
    Part("POSITION", 3, "position at the pixel's middle, metres"),
    Part("DEPTH", 1, "distance from the lens at the pixel's middle, metres; 0 where nothing is"),
    Part("CLEAN_NORMAL", 3, "sum of the normal of the first surface that is not a mirror or clear"),
    Part("ALPHA", 1, "samples that hit something"),
)
PASS_NAMES = (
    "direct_diffuse",
    "indirect_diffuse",
    "direct_reflection",
    "indirect_reflection",
    "direct_transmission",
    "indirect_transmission",
    "emission",
    "background",
)
PASSES = Row(*(Part(name.upper(), 1, f"sum of the radiance of {name}") for name in PASS_NAMES))
SQUARES = Row(Part("SUM", 1, "sum of the luminance"), Part("SUM_OF_SQUARES", 1, "sum of its squares"))
SEEN = Row(Part("OBJECTS", 1, "ids of objects"), Part("MATERIALS", 1, "ids of materials"))
MOST_IDS = 6
SIGHT = Row(
    Part("ALBEDO", 3, "of the first surface that is not a mirror or clear"),
    Part("CLEAN_NORMAL", 3, "its normal"),
    Part("NORMAL", 3, "normal of the first surface"),
    Part("DEPTH", 1, "distance from the lens to the first surface, metres; 0 where nothing is"),
    Part("EMISSION", 3, "light that comes straight from what shines, cd/m2 RGB"),
    Part("POSITION", 3, "of the surface that is not a mirror or clear, metres"),
    Part("ROUGHNESS", 1, "its roughness; negative if it is seen in a mirror or through glass"),
)
SIGHT_IDS = Row(
    Part("FIRST_OBJECT", 1, "which is seen first"),
    Part("OBJECT", 1, "of the surface that is not a mirror or clear"),
    Part("LIGHT_GROUP", 1, "of the emission"),
)

ARRAYS = (
    Field("groups", "f4", (None, None, None, 3), "sum of radiance for each light group: group, row, column"),
    Field("passes", "f4", (PASSES, None, None, 3), "sum of radiance for each path pass"),
    Field("guides", "f4", (None, None, GUIDES), "sums but for depth, position and normal: those at the pixel's middle"),
    Field("variance", "f8", (None, None, SQUARES), "sum and sum of squares of the luminance"),
    Field("ids", "u4", (None, None, SEEN, MOST_IDS), "object and material ids seen, at most so many a pixel"),
    Field("coverage", "f4", (None, None, SEEN, MOST_IDS), "samples of each id"),
    Field("samples", "i4", (None, None), "samples taken"),
)

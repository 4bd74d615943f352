"""A thread's work row: floats; ids and counters are read through an unsigned view of it."""

from nocturne.engine.layout import (
    lamp,
    looked,
    mat,
    media,
    near,
    onward,
    path,
    pattern,
    program,
    ray,
    record,
    spot,
    value,
    vertex,
)
from nocturne.film.layout import GUIDES, PASSES, SEEN
from nocturne.rows import Part, Row, constants

_EMBREE = 16  # floats: its records are aligned to 64 bytes
ROW = Row(
    Part("RAY", ray.ROW, "of the path", _EMBREE),
    Part("SHADOW", ray.ROW, "of shadow rays", _EMBREE),
    Part("PROBE", ray.ROW, "of short rays that patterns send", _EMBREE),
    # The hit.
    *spot.ROW.parts,
    Part("T", 3, "tangent"),
    Part("B", 3, "tangent"),
    Part("INSIDE", 1, "1 if the ray leaves the shape"),
    Part("MATERIAL", 1, "which was hit"),
    Part("LIGHT", 1, "which was hit, or is asked for"),
    Part("OBJECT", 1, "which was hit"),
    Part("MESH", 1, "which was hit"),
    Part("CELL", 1, "row of what was learned about the place"),
    Part("MAT", mat.FLOATS, "the material's row as patterns make it"),
    # What is worked out once for a hit from MAT.
    Part("ALPHA", 1, "GGX width of the base"),
    Part("ETA", 1, "index ratio of the base; handed over, then as the specular weight bends it"),
    Part("COAT_ALPHA", 1, "GGX width of the coat"),
    Part("COAT_ETA", 1, "index ratio of the coat"),
    Part("P_DIFF", 1, "chance to sample the diffuse lobe"),
    Part("P_SPEC", 1, "chance to sample the base's interface"),
    Part("P_COAT", 1, "chance to sample the coat"),
    Part("ATT", 3, "what the coat lets through"),
    Part("GLASS_ALL", 1, "directional albedo of the dielectric boundary"),
    Part("GLASS_REFL", 1, "what of it is reflected"),
    Part("COAT_REFL", 1, "what the coat reflects, by its weight"),
    Part("COAT_ALL", 1, "directional albedo of the coat's boundary"),
    Part("METAL_ADD", 3, "multiple-scattering factor of the metal"),
    Part("METAL_F0", 3, "the metal's reflectance at normal incidence"),
    Part("METAL_OUTSIDE", 1, "index of what lies on the metal: the coat's, if there is one"),
    Part("SPEC_ALL", 1, "directional albedo of a reflecting lobe with F = 1"),
    Part("IS_DELTA", 1, "1 if the base is a mirror"),
    Part("IS_COAT_DELTA", 1, "1 if the coat is a mirror"),
    Part("IS_THIN", 1, "1 for a sheet"),
    Part("IS_SHARP", 1, "1 if every lobe has only one direction for each"),
    Part("GLASS", 1, "weight of the transmitting dielectric"),
    Part("OUTSIDE", 1, "index of the medium on the viewer's side; handed over with a shadow ray, too"),
    Part("STRAIGHT", 3, "what a thin sheet, or a face of clear glass, lets straight through without an event"),
    Part("LEAVES", 1, "1 if the shadow ray leaves the closed shape whose face it met"),
    Part("THROUGH", 1, "1 if the shadow ray went through closed glass"),
    Part("P_EVENT", 1, "chance that a path does not go straight through a thin sheet"),
    Part("LAMP", lamp.ROW, "light sample"),
    Part("SAMPLE", onward.ROW, "material sample"),
    Part("EVAL", value.ROW, "material value"),
    Part("LV", vertex.ROW, "last real vertex"),
    Part("PATH", path.ROW, "where the path stands"),
    Part("RANDOM", 4, "numbers handed to a unit"),
    Part("PAIRS", 16, "eight pairs of random numbers: the first of each, then the second"),
    Part("MEDIA", media.ROW, "what the path is inside of"),
    Part("SPLIT", value.ROW, "shares of the kinds in the path's first event"),
    Part("ONWARD", 3, "part of the last event that may go on under the limits"),
    Part("ALLOWED", 3, "which kinds of the last event are within the limits"),
    Part("COUNTERS", 2, "rays, shadow rays"),
    Part("FOUND", 1, "luminance of all samples since the row was handed over"),
    Part("HELD_BACK", 1, "luminance that the clamp took from them"),
    Part("CLEAR_MAT", mat.FLOATS, "row of the thin sheet that a shadow ray met"),
    Part("GLOW_MAT", mat.FLOATS, "row of the glowing mesh that a light sample lies on"),
    Part("ASIDE", spot.ROW, "a place that patterns are asked at beside the hit"),
    Part("PROGRAM", program.ROW, "of a pattern that is to be worked out"),
    Part("NEAR_QUERY", near.QUERY, "of how far a thing is", _EMBREE),
    Part("NEAR_CONTEXT", near.CONTEXT, "of the same", _EMBREE),
    Part("LOOKED", looked.ROW, "what short rays found last"),
    Part("UNDER", 3, "what lies under a step"),
    Part("PUT_OUT", 3, "what a step puts out"),
    Part("STEPS", pattern.SLOTS * pattern.PLACEMENT.width, "rows of steps whose own numbers are driven"),
    Part("ACC_PASSES", 3 * PASSES.width, "sums of the pixel in hand"),
    Part("ACC_GUIDES", GUIDES, "sums of the pixel in hand"),
    Part("SAMPLE_SUM", 3, "radiance of the sample in hand"),
    Part("RECORDS", record.MOST * record.ROW.width, "where the path in hand went, while it is learned from"),
    Part("N_RECORDS", 1, "how many"),
    Part("FIRST", SEEN, "first hit of the sample"),
    multiple=_EMBREE,
)
COUNT = ROW.width
ACC_GROUPS = COUNT  # last, as there may be any number of groups: 3 for each
SPOT = ROW.offsets["P"]
globals().update(constants(ROW))


def length(groups: int) -> int:
    """Return the floats in a work row of a film with so many light groups."""
    return COUNT + 3 * max(groups, 1)

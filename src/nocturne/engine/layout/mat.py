"""A material (OpenPBR parameter names)."""

from nocturne.rows import Part, Row, constants

FLOATS = Row(
    Part("BASE", 3, "base_color"),
    Part("METALNESS", 1, "base_metalness"),
    Part("ROUGHNESS", 1, "specular_roughness"),
    Part("IOR", 1, "specular_ior"),
    Part("TRANSMISSION", 1, "transmission_weight"),
    Part("TRANS_COLOR", 3, "transmission_color"),
    Part("TRANS_DEPTH", 1, "transmission_depth, metres"),
    Part("COAT", 1, "coat_weight"),
    Part("COAT_COLOR", 3, "coat_color"),
    Part("COAT_ROUGHNESS", 1, "coat_roughness"),
    Part("COAT_IOR", 1, "coat_ior"),
    Part("EMISSION_COLOR", 3, "emission_color"),
    Part("LUMINANCE", 1, "emission_luminance, cd/m2"),
    Part("EMISSION", 3, "both together"),
    Part("HEIGHT", 1, "of the relief, 0..1"),
    Part("RELIEF", 1, "how far 1 lies over 0, metres"),
    Part("N", 3, "of a metal"),
    Part("K", 3, "of a metal"),
    Part("SPECULAR_COLOR", 3, "specular_color"),
    Part("SPECULAR_WEIGHT", 1, "specular_weight"),
    Part("COAT_DARKENING", 1, "coat_darkening"),
    Part("NORMAL", 3, "of a normal map, 0..1"),
    Part("NORMAL_AMOUNT", 1, "how much of it counts"),
    Part("SIGMA_A", 3, "absorption, 1/m"),
    Part("HAS_NK", 1, "1: a metal by N and K, not by colour"),
    multiple=16,
)
WHOLE = Row(
    Part("FIRST_BINDING", 1, "of the steps that drive it, among all"),
    Part("BINDINGS", 1, "how many"),
    Part("GLOWS", 1, "of them: the first so many, which drive what it emits"),
    Part("HEIGHTS", 1, "of them: the last so many, which drive its height"),
    Part("IS_MEDIUM", 1, "1: a closed shape of it is filled"),
    Part("IS_THIN", 1, "1: a sheet without an inside"),
    Part("PASSES", 1, "1: closed glass that light of lamps goes straight through"),
    Part("PRECEDENCE", 1, "rank among what overlaps"),
    Part("GROUP", 1, "light group of what it emits"),
)
COUNT = FLOATS.width
globals().update(constants(FLOATS, WHOLE))

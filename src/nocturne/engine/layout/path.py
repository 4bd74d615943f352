"""Where a path stands."""

from nocturne.rows import Part, Row, constants

ROW = Row(
    Part("ORIGIN", 3, "of the next ray"),
    Part("DIRECTION", 3, "of the next ray"),
    Part("BETA", 3, "throughput"),
    Part("SPREAD", 1, "product of squared index ratios: keeps roulette blind to the squeeze of radiance in glass"),
    Part("LUCK", 1, "by how much roulette has made up for paths that it ended"),
    Part("DENSITY", 1, "of the last direction; negative: camera or mirror, so lights found count in full"),
    Part("THROUGH", 1, "1 behind closed glass that light sampling at the last real vertex has looked through"),
    Part("SINCE_VERTEX", 1, "way from the last real vertex, metres"),
    Part("SIGHT", 1, "how far the camera sees along its ray, metres"),
    Part("WIDTH", 1, "of the ray where it starts, metres: how far its neighbours are"),
    Part("ANGLE", 1, "by which it widens, radians"),
    Part("PIXEL", 1, "what random numbers hang on"),
    Part("SAMPLE", 1, "number of the sample"),
    Part("STEP", 1, "number of the ray"),
    Part("PAIRS_AT", 1, "where the ray's random numbers begin among those that were drawn"),
    Part("EVENTS", 1, "real events so far"),
    Part("SCATTERED", 1, "of them: those that spread light, unlike a mirror or clear glass"),
    Part("DIFFUSE", 1, "of them"),
    Part("REFLECTIONS", 1, "of them"),
    Part("TRANSMISSIONS", 1, "of them"),
    Part("IS_GUIDED", 1, "1 once albedo and clean normal are noted"),
    Part("IS_PENDING", 1, "1 if the last event's limits are still to be applied"),
    Part("IS_LAST", 1, "1 past a depth limit: the ray may still find a light, as light sampling did, but not go on"),
    Part("WAVE", 1, "wavelength that the path has come down to, micrometres; 0: all"),
    Part("BELOW", 1, "1 while it wanders below a surface"),
    Part("OWNER", 1, "object below whose surface that is"),
    Part("BELOW_T", 3, "extinction there, 1/m"),
    Part("BELOW_S", 3, "scattering there, 1/m"),
    Part("BELOW_G", 1, "anisotropy of scattering there"),
    Part("MEDIUM", 1, "material that the ray goes through, -1 for air (as signed)"),
)
COUNT = ROW.width
globals().update(constants(ROW))

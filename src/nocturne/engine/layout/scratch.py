"""Float offsets in a thread's work row; ids and counters are read through an unsigned view of it."""

from nocturne.engine.layout.guide import COUNT as N_GUIDES
from nocturne.engine.layout.mat import COUNT as N_PARAMETERS
from nocturne.engine.layout.passes import COUNT as N_PASSES

RAY = 0  # RTCRayHit, 24 floats
SHADOW = 32  # RTCRayHit of shadow rays
P, G, N, T, B = 64, 67, 70, 73, 76  # hit: position, geometric and shading normal, tangents
UV = 79
WO = 81
INSIDE = 84  # 1 if the ray leaves the shape
MATERIAL, LIGHT, OBJECT, MESH, INST = 85, 86, 87, 88, 89
DPDU = 90
MAT = 96  # 48 floats, a copy of the material's row with textures applied
# What follows is worked out once for a hit from MAT.
ALPHA, ETA, COAT_ALPHA, COAT_ETA = 144, 145, 146, 147
P_DIFF, P_SPEC, P_COAT = 148, 149, 150
ATT = 151  # what the coat lets through, 3
GLASS_ALL, GLASS_REFL, COAT_ALL = 154, 155, 156
METAL_ADD = 157  # multiple-scattering factor of the metal, 3
IS_DELTA, IS_COAT_DELTA, IS_THIN = 160, 161, 162
GLASS = 163  # weight of the transmitting dielectric
METAL_F0 = 165  # the metal's reflectance at normal incidence, 3
OUTSIDE = 164  # index of the medium on the viewer's side; handed over with a shadow ray, too
LAMP = 168  # light sample: direction 3, distance 3, radiance 4..6, density 7, delta 8, light 9
SAMPLE = 180  # material sample: direction 3, weight 3, density, lobe, is delta
EVAL = 192  # material value: diffuse 3, reflection 3, transmission 3, density
LV = 204  # last real vertex: position 3, normal 3, two-sided
RANDOM = 212  # numbers handed to a unit, 4
MEDIA = 216  # count, then material indices
STRAIGHT = 224  # what a thin sheet lets straight through, 3; without an event
P_EVENT = 227  # chance that a path does not go straight through a thin sheet
SPEC_ALL = 228  # directional albedo of a reflecting lobe with F = 1
METAL_OUTSIDE = 229  # index of what lies on the metal: the coat's, if there is one
SPLIT = 230  # shares of diffuse, reflection, transmission in the path's first event, 9
ONWARD = 239  # part of the last event that may go on under the limits, 3
COUNTERS = 244  # rays, shadow rays
ALLOWED = 246  # which kinds of the last event are within the limits, 3
CLEAR_MAT = 256  # a second copy of a material's row: of a thin sheet that a shadow ray meets
ACC_PASSES = CLEAR_MAT + N_PARAMETERS
ACC_GUIDES = ACC_PASSES + 3 * N_PASSES
SAMPLE_SUM = ACC_GUIDES + N_GUIDES  # radiance of the sample in hand
FIRST = SAMPLE_SUM + 3  # first hit: object, material ids, flags
COUNT = 384
ACC_GROUPS = COUNT  # last, as there may be any number of groups: 3 for each


def length(groups: int) -> int:
    """Return the floats in a work row of a film with so many light groups."""
    return COUNT + 3 * max(groups, 1)

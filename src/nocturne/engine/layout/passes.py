"""Path passes, in film order."""

NAMES = (
    "direct_diffuse",
    "indirect_diffuse",
    "direct_reflection",
    "indirect_reflection",
    "direct_transmission",
    "indirect_transmission",
    "emission",
    "background",
)
DIRECT_DIFFUSE, INDIRECT_DIFFUSE, DIRECT_REFLECTION, INDIRECT_REFLECTION = range(4)
DIRECT_TRANSMISSION, INDIRECT_TRANSMISSION, EMISSION, BACKGROUND = range(4, 8)
COUNT = 8

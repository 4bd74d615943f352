"""How many of each a kernel can carry."""

MAX_GROUPS = 32
MAX_MEDIA = 7

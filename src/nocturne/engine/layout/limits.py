"""How many of each a kernel can carry."""

MAX_MEDIA = 7

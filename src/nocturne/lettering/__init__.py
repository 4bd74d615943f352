"""Lettering: from text to exact outlines. Fonts, directions of writing, shaping, setting in lines, and distances."""

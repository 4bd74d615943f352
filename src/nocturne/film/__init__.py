"""Pixel buffers: running sums, passes and their names, noise."""

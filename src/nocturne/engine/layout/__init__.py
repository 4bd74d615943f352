"""Offsets in the rows that kernels read and write, as modules because compiled code takes constants from modules."""
